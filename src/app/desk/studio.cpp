// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/studio.h"

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/offline_render.h"
#include "core/store/import_audio.h"

namespace yewdrift::app {

namespace {

/// `wanted`, or with a number behind it where a track is called so already.
std::string unusedTrackName(const Session& session, const std::string& wanted) {
  std::string name = wanted;
  for (int n = 2; session.trackNamed(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

}  // namespace

Studio::Studio(const std::filesystem::path& sessionPath, DeviceMode mode, QObject* parent)
    : QObject(parent),
      path_(std::filesystem::absolute(sessionPath)),
      mode_(mode),
      folder_(
          std::make_unique<SessionFolder>(SessionFolder::open(sessionPath, SessionFolder::Access::Write))),
      history_(folder_->history()),
      notices_(folder_->notices()),
      peaks_(path_),
      meter_(path_),
      compiler_(meter_) {
  saver_ = std::make_unique<Saver>(*folder_, [this](const std::string& sentence) {
    QMetaObject::invokeMethod(this, [this, sentence] { emit said(QString::fromStdString(sentence)); });
  });
  engine_ = std::make_unique<Engine>(
      session().rate, 8192,
      mode == DeviceMode::Normal ? Engine::Service::Background : Engine::Service::ByHand);
  for (const auto& track : session().tracks)
    if (!inHand_.value || (track->armed && !session().track(inHand_)->armed)) inHand_ = track->id;
  refreshPlan();
  updateStandbyTape();
  if (session().loop) engine_->locate(session().loop->start);
  work_.setMaxThreadCount(1);
  opener_.setMaxThreadCount(1);
  connect(&devices_, &DeviceWatcher::changed, this, &Studio::devicesChanged);
  connect(&timer_, &QTimer::timeout, this, &Studio::tick);
  timer_.start(33);
}

Studio::~Studio() {
  blockSignals(true);
  timer_.stop();
  dropStandby();
  engine_->stop();
  // What was recorded until now is kept: the transport stops and its last frames are written.
  waitForDisk(
      [this] { return !recorder_ || recorder_->stream()->closed() || !device_ || !device_->alive(); });
  work_.waitForDone();
  ++openings_;
  opener_.waitForDone();
  closeDevice();
  waitForDisk([this] { return !recorder_ || recorder_->stream()->closed(); });
  if (recorder_) finishRecording();
  waitForDisk([this] {
    return std::all_of(abandoned_.begin(), abandoned_.end(),
                       [](const auto& recorder) { return recorder->stream()->closed(); });
  });
  for (const auto& recorder : abandoned_) recorder->abandon();
}

void Studio::waitForDisk(const std::function<bool()>& done) {
  for (int i = 0; i < 400 && !done(); ++i) {
    if (mode_ == DeviceMode::None) engine_->service();
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
}

bool Studio::apply(const QString& label, const Edit& edit) {
  try {
    Session next = edit(session());
    history_.commit(label.toStdString(), std::move(next));
    persist();
    return true;
  } catch (const std::exception& e) {
    emit said(QString::fromUtf8(e.what()));
    return false;
  }
}

void Studio::persist() {
  keepInHandValid();
  updateStandbyTape();
  refreshPlan();
  saver_->save(history_);
  captureArmedTracks();
  emit sessionChanged();
}

void Studio::setOptions(const RecordingOptions& options) {
  if (options == session().recording) return;
  try {
    history_.replacePresent(setRecordingOptions(session(), options));
    persist();
  } catch (const std::exception& e) {
    emit said(QString::fromUtf8(e.what()));
  }
}

void Studio::preview(const Edit& edit) {
  if (!beforePreview_) beforePreview_ = session();
  try {
    history_.replacePresent(edit(*beforePreview_));
  } catch (const std::exception&) {
    history_.replacePresent(*beforePreview_);  // nothing there to drag to
  }
  keepInHandValid();
  emit sessionChanged();
}

void Studio::previewBoundary(Frames from, Frames to) {
  const TrackId id = inHand_;
  try {
    joinInHand_ = reachableBoundary(beforePreview_ ? *beforePreview_ : session(), id, from, to);
  } catch (const Error&) {
    return;
  }
  preview([=](const Session& s) { return moveBoundary(s, id, from, to); });
}

void Studio::finishPreview(const QString& label) {
  if (!beforePreview_) return;
  Session next = session();
  history_.replacePresent(*beforePreview_);
  beforePreview_.reset();
  apply(label, [&next](const Session&) { return next; });
}

void Studio::cancelPreview() {
  if (!beforePreview_) return;
  history_.replacePresent(*beforePreview_);
  beforePreview_.reset();
  keepInHandValid();
  emit sessionChanged();
}

void Studio::undo() {
  if (recording()) return emit said(tr("Stop recording first; then undo."));
  if (!history_.undoLabel()) return;
  try {
    history_.undo();
    persist();
  } catch (const std::exception& e) {
    emit said(QString::fromUtf8(e.what()));
  }
}

void Studio::redo() {
  if (recording() || !history_.redoLabel()) return;
  try {
    history_.redo();
    persist();
  } catch (const std::exception& e) {
    emit said(QString::fromUtf8(e.what()));
  }
}

void Studio::keepInHandValid() {
  const Track* track = trackInHand();
  if (!track && !session().tracks.empty()) inHand_ = session().tracks.front()->id;
  track = trackInHand();
  if (heard_ && (!track || !track->lane(*heard_))) heard_.reset();
  if (joinInHand_ && (!track || !composite(*track).joinAt(*joinInHand_))) joinInHand_.reset();
}

void Studio::setTrackInHand(TrackId track) {
  if (track == inHand_ || !session().track(track)) return;
  inHand_ = track;
  heard_.reset();
  selection_.reset();
  joinInHand_.reset();
  refreshPlan();
  emit inHandChanged();
}

void Studio::select(std::optional<Span> span) {
  selection_ = span;
  emit inHandChanged();
}

void Studio::takeJoinInHand(std::optional<Frames> at) {
  joinInHand_ = at;
  emit inHandChanged();
}

const ResolvedComposite& Studio::composite(const Track& track) {
  ResolvedTrack& entry = resolved_[track.id];
  for (const auto& shared : session().tracks)
    if (&*shared == &track && !(entry.from && entry.from->same(shared))) {
      entry.from = shared;
      entry.composite = resolve(track, session().rate);
    }
  return entry.composite;
}

FileSampleSource& Studio::closeUpSource() {
  if (!closeUpSource_ || closeUpFiles_ != *session().pool) {
    closeUpFiles_ = *session().pool;
    closeUpSource_.emplace(path_, closeUpFiles_);
  }
  return *closeUpSource_;
}

std::optional<JoinCloseUp> Studio::joinCloseUp(Frames around, std::optional<Frames> centre) {
  const Track* track = trackInHand();
  if (!track || !joinInHand_) return std::nullopt;
  const Frames middle = centre.value_or(*joinInHand_);
  try {
    return closeUp(session(), *track, *joinInHand_, {middle - around, middle + around}, closeUpSource());
  } catch (const Error&) {
    return std::nullopt;
  }
}

void Studio::refreshPlan() {
  meter_.setFiles(*session().pool);
  CompileOptions options;
  if (heard_) options.listening.push_back({inHand_, *heard_});
  if (recorder_ && recorder_->setup().hush)
    for (const Capture& capture : recorder_->captures()) options.gated.push_back(capture.track);
  engine_->setPlan(path_, compiler_.compile(session(), options), trackInHand());
}

void Studio::hear(std::optional<LaneNumber> lane) {
  const Track* track = trackInHand();
  if (lane && (!track || !track->lane(*lane))) return;
  heard_ = lane;
  refreshPlan();
  emit inHandChanged();
}

void Studio::hearNeighbour(int direction) {
  const Track* track = trackInHand();
  if (!track || track->lanes.empty()) return;
  std::vector<LaneNumber> takes;
  for (const auto& lane : track->lanes)
    if (!lane->setAside) takes.push_back(lane->number);
  if (takes.empty()) return;
  const int count = static_cast<int>(takes.size());
  int index = direction > 0 ? -1 : count;
  for (int i = 0; i < count; ++i)
    if (takes[static_cast<std::size_t>(i)] == heard_) index = i;
  hear(takes[static_cast<std::size_t>(std::clamp(index + direction, 0, count - 1))]);
}

void Studio::importFiles(const QStringList& files, bool backing) {
  if (!backing && !trackInHand()) {
    // The first files of an empty session get a track of their own name.
    const std::string name = std::filesystem::path(files.value(0).toStdString()).stem().string();
    apply(tr("Add a track"), [&](const Session& s) { return addTrack(s, name, microphonesFor(1)); });
  }
  const Track* track = trackInHand();
  if (!backing && !track) return;
  const TrackId id = track ? track->id : TrackId{};
  const Frames at = backing ? Frames{} : transport().position;
  const SampleRate rate = session().rate;
  emit progressed(tr("Importing"), 0.0);
  work_.start([this, files, id, at, rate, backing] {
    auto imported = std::make_shared<std::vector<std::pair<std::string, PoolFile>>>();
    QStringList problems;
    for (const QString& file : files) {
      try {
        const std::filesystem::path path = file.toStdString();
        imported->emplace_back(path.stem().string(), importAudio(*folder_, rate, path));
      } catch (const std::exception& e) {
        problems << QString::fromUtf8(e.what());
      }
      QMetaObject::invokeMethod(this, [this, share = static_cast<double>(imported->size()) /
                                                     static_cast<double>(files.size() + 1)] {
        emit progressed(tr("Importing"), share);
      });
    }
    QMetaObject::invokeMethod(this, [this, imported, problems, id, at, backing] {
      emit progressed(tr("Importing"), 1.0);
      if (!imported->empty())
        apply(tr("Import files"), [&](Session session) {
          for (const auto& [name, file] : *imported) {
            TrackId into = id;
            if (backing) {
              session = addTrack(std::move(session), unusedTrackName(session, name),
                                 microphonesFor(file.channels), true);
              into = session.tracks.back()->id;
            }
            session = addFileAsLane(std::move(session), into, file, at, name);
          }
          return session;
        });
      if (!problems.isEmpty()) emit said(problems.join(" "));
    });
  });
}

void Studio::flattenInHand() {
  const Track* track = trackInHand();
  if (!track || recording()) return;
  const QString name = QString::fromStdString(track->name);
  const Session before = session();
  const TrackId id = inHand_;
  emit progressed(tr("Flattening %1").arg(name), 0.0);
  // The folder is only asked for names and paths here; saving stays with the saver.
  work_.start([this, before, id, name] {
    auto tell = [this, name](double share) {
      QMetaObject::invokeMethod(
          this, [this, name, share] { emit progressed(tr("Flattening %1").arg(name), share); });
      return true;
    };
    try {
      auto next = std::make_shared<Session>(flatten(*folder_, before, id, tell));
      QMetaObject::invokeMethod(this, [this, before, next, name] {
        emit progressed(tr("Flattening %1").arg(name), 1.0);
        if (!(session() == before))
          return emit said(tr("The session was changed while it was flattened; flatten again."));
        hear(std::nullopt);
        if (apply(tr("Flatten %1").arg(name), [next](const Session&) { return *next; }))
          emit said(tr("%1 is flattened to one file that plays in the composite's place. Its takes are kept; "
                       "Undo goes back to them.")
                        .arg(name));
      });
    } catch (const std::exception& e) {
      const QString sentence = QString::fromUtf8(e.what());
      QMetaObject::invokeMethod(this, [this, sentence, name] {
        emit progressed(tr("Flattening %1").arg(name), 1.0);
        emit said(sentence);
      });
    }
  });
}

}  // namespace yewdrift::app
