// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/file_desk.h"

#include <utility>

#include "app/look/spoken.h"
#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/offline_render.h"
#include "core/store/import_audio.h"
#include "core/store/pool_files.h"

namespace yewdrift::app {

namespace {

// What messages of the same job are about: a newer one takes the place of an older one.
constexpr const char* deliverySubject = "delivery";
constexpr const char* flattenSubject = "flatten";

/// `wanted`, or with a number behind it where a track is called so already.
std::string unusedTrackName(const Session& session, const std::string& wanted) {
  std::string name = wanted;
  for (int n = 2; session.trackNamed(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

}  // namespace

/// A backing file gets a track of its own; so does the first take of a session without any.
Session FileDesk::withFile(Session session, const FileToTake& each, std::optional<TrackId>& into,
                           const ImportTo& to) {
  const std::string name = each.from.stem().string();
  std::optional<TrackId> track = to.backing ? std::nullopt : into;
  if (!track) {
    const std::string unused = unusedTrackName(session, name);
    session = addTrack(std::move(session), unused, microphonesFor(each.file.channels), to.backing);
    track = session.tracks.back()->id;
    if (!to.backing) into = track;
  }
  return addFileAsLane(std::move(session), *track, each.file, to.at, name);
}

FileDesk::FileDesk(SessionDesk& desk, InHand& inHand, Transport& transport, const RollCompanion& companion,
                   Jobs& jobs, Messages& messages)
    : desk_(desk),
      inHand_(inHand),
      transport_(transport),
      companion_(companion),
      jobs_(jobs),
      messages_(messages) {}

void FileDesk::importFiles(const QStringList& files, bool backing) {
  if (!desk_.mayWrite()) return;
  const Track* const track = inHand_.track();
  // The first files of an empty session get a track of their own name.
  import(files, {track ? std::optional(track->id) : std::nullopt,
                 backing ? Frames{} : transport_.state().position, backing});
}

void FileDesk::importTakes(const QStringList& files, TrackId into, Frames at) {
  if (desk_.mayWrite() && desk_.session().track(into)) import(files, {into, at, false});
}

void FileDesk::import(const QStringList& files, const ImportTo& to) {
  const SampleRate rate = desk_.session().rate;
  const Track* const track = to.track && !to.backing ? desk_.session().track(*to.track) : nullptr;
  const ImportWish wish{rate, track ? track->channels() : 0};
  jobs_.start(tr("Importing"), Jobs::Cancel::Possible, [this, files, wish, to](Jobs::Run& job) {
    std::vector<FileToTake> imported;
    QStringList problems;
    for (qsizetype i = 0; i < files.size(); ++i) {
      const auto progress = [&](double share) {
        return job.tell((static_cast<double>(i) + share) / static_cast<double>(files.size()));
      };
      try {
        const std::filesystem::path path = files[i].toStdString();
        const Imported made = importAudio(desk_.disk(), wish, path, progress);
        imported.push_back({path, made.file});
        for (const Sentence& notice : noticesOf(path.filename().string(), made)) problems << spoken(notice);
      } catch (const std::exception& e) {
        problems << spoken(e);
      }
      if (job.cancelled()) break;  // said once, however many were to come
    }
    QMetaObject::invokeMethod(this, [this, imported, problems, to] { bringIn(imported, problems, to); });
  });
}

/// Each that fits; what does not fit is named with its reason, and its file goes again.
void FileDesk::bringIn(const std::vector<FileToTake>& files, QStringList problems, const ImportTo& to) {
  std::vector<PoolFile> left;
  QStringList refused;
  const auto withAll = [&](Session session) {
    left.clear();
    refused.clear();
    std::optional<TrackId> into = to.track;
    for (const FileToTake& each : files) try {
        session = withFile(session, each, into, to);
      } catch (const Error& e) {
        left.push_back(each.file);
        refused << tr("%1 was not taken. %2")
                       .arg(QString::fromStdString(each.from.filename().string()), spoken(e));
      }
    return session;
  };
  withAll(desk_.session());
  // Where none fits there is no step to undo.
  if (left.size() < files.size() && !desk_.bringIn(tr("Import files"), withAll))
    for (const FileToTake& each : files) removeFile(each.file);
  else
    for (const PoolFile& file : left) removeFile(file);
  problems << refused;
  if (!problems.isEmpty()) messages_.warn(problems.join(" "));
}

/// What nobody needs yet may be needed in a moment.
bool FileDesk::filesAreOnTheirWay() {
  if (!companion_.hasFilesOfItsOwn() && !jobs_.busy()) return false;
  messages_.say(tr("Files are still being written: stop, wait until nothing is under way, then try again."));
  return true;
}

void FileDesk::bringInUnneeded() {
  if (!filesAreOnTheirWay()) desk_.bringInUnneeded();
}

void FileDesk::trashUnneeded() {
  if (!filesAreOnTheirWay()) desk_.trashUnneeded();
}

void FileDesk::findMissing(const std::filesystem::path& where) {
  if (!desk_.mayWrite() || !desk_.flushToDisk()) return;
  jobs_.start(tr("Looking for missing files"), Jobs::Cancel::Possible,
              [this, where, session = desk_.folderPath()](Jobs::Run& job) {
                try {
                  const SessionFolder folder = SessionFolder::open(session, SessionFolder::Access::Read);
                  int back = 0;
                  for (const FoundFile& file :
                       yewdrift::findMissing(folder, where, [&job] { return !job.cancelled(); })) {
                    putBack(folder.disk(), file);
                    ++back;
                  }
                  QMetaObject::invokeMethod(this, [this, back] { desk_.filesAreBack(back); });
                } catch (const std::exception& e) {
                  if (job.cancelled()) return;
                  QMetaObject::invokeMethod(this, [this, problem = spoken(e)] { messages_.warn(problem); });
                }
              });
}

void FileDesk::deliver(const DeliveryWish& wish, const std::filesystem::path& folder) {
  jobs_.start(tr("Delivering"), Jobs::Cancel::Possible,
              [this, wish, folder, session = desk_.session(), disk = desk_.disk()](Jobs::Run& job) {
                try {
                  const Delivery delivery = yewdrift::deliver(disk, session, wish, folder,
                                                              [&](double share) { return job.tell(share); });
                  QMetaObject::invokeMethod(this, [this, delivery, folder] {
                    for (const Sentence& notice : delivery.notices) messages_.warn(spoken(notice));
                    messages_.tell(tr("%n files are delivered to %1.|One file is delivered to %1.", nullptr,
                                      static_cast<int>(delivery.files.size()))
                                       .arg(QString::fromStdString(folder.string())),
                                   deliverySubject);
                  });
                } catch (const std::exception& e) {
                  if (job.cancelled()) return;
                  QMetaObject::invokeMethod(
                      this, [this, problem = spoken(e)] { messages_.warn(problem, deliverySubject); });
                }
              });
}

void FileDesk::flatten(TrackId id, const FlattenWish& wish) {
  const Track* track = desk_.session().track(id);
  if (!track || !desk_.mayWrite()) return;
  if (companion_.recording()) return messages_.say(tr("Stop recording first; then it can be flattened."));
  const QString name = QString::fromStdString(track->name);
  const Session before = desk_.session();
  // The folder is only asked for names and paths here; saving stays with the saver.
  jobs_.start(
      tr("Flattening %1").arg(name), Jobs::Cancel::Possible, [this, before, id, wish](Jobs::Run& job) {
        try {
          const FlattenedFile flattened = renderComposite(
              desk_.disk(), before, id, [&job](double share) { return job.tell(share); }, wish.span);
          QMetaObject::invokeMethod(
              this, [this, before, flattened, id, wish] { takeFlattened(before, flattened, id, wish); });
        } catch (const std::exception& e) {
          QMetaObject::invokeMethod(
              this, [this, sentence = spoken(e)] { messages_.warn(sentence, flattenSubject); });
        }
      });
}

/// What was edited, recorded or imported meanwhile stays; only where the composite itself is another by now
/// the file does not take its place.
void FileDesk::takeFlattened(const Session& before, const FlattenedFile& flattened, TrackId id,
                             const FlattenWish& wish) {
  const Track* const track = desk_.session().track(id);
  if (!track) {
    removeFile(flattened.file);
    return messages_.warn(tr("The track is gone, so nothing came of flattening it."));
  }
  const QString name = QString::fromStdString(track->name);
  const bool same = sameComposite(before, desk_.session(), id);
  const bool done = desk_.bringIn(tr("Flatten %1").arg(name), [&](Session session) {
    if (same && wish.span)
      return takePlaceInComposite(std::move(session), id, flattened.file, flattened.origin, flattened.span);
    if (same)
      return takePlaceOfComposite(std::move(session), id, flattened.file, flattened.origin, wish.lanes);
    session = addFileAsLane(std::move(session), id, flattened.file, flattened.origin, "Flattened");
    const LaneNumber made = session.track(id)->lanes.back()->number;
    return setLaneAside(std::move(session), id, made, true);
  });
  if (!done) return removeFile(flattened.file);
  if (same && inHand_.trackId() == id) inHand_.hear(std::nullopt);
  const QString said =
      !same ? tr("The composite of %1 was changed while it was flattened. What was flattened is set "
                 "aside as a lane; flatten again for the composite as it is now.")
      : wish.span
          ? tr("That stretch of %1 is flattened to one file that plays in its place, and the joins at "
               "its edges sound as before; Undo goes back.")
      : wish.lanes == OtherLanes::Archive
          ? tr("%1 is flattened to one file that plays in the composite's place. Its takes are set "
               "aside; Undo goes back to them.")
      : wish.lanes == OtherLanes::Remove
          ? tr("%1 is flattened to one file that plays in the composite's place. Its takes are "
               "gone from the session; Undo brings them back.")
          : tr("%1 is flattened to one file that plays in the composite's place. Its takes are kept; "
               "Undo goes back to them.");
  QStringList told{said.arg(name)};
  for (const Sentence& each : verifiedSentences(flattened)) told += spoken(each);
  const QString all = told.join(QLatin1Char(' '));
  if (flattened.clipped > 0) return messages_.warn(all, flattenSubject);
  messages_.tell(all, flattenSubject);
}

/// What no session refers to.
void FileDesk::removeFile(const PoolFile& file) {
  desk_.disk().remove(file.path);
}

}  // namespace yewdrift::app
