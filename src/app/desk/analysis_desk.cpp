// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/analysis_desk.h"

#include <QMetaObject>
#include <QTimer>

#include "core/analysis/track_phrases.h"

namespace yewdrift::app {

AnalysisDesk::AnalysisDesk(SessionDesk& desk, InHand& inHand)
    : desk_(desk), inHand_(inHand), jobs_(desk.disk(), desk.session().rate, [this] {
        // However often they tell, it is taken in ten times a second.
        if (told_.exchange(true)) return;
        QMetaObject::invokeMethod(
            this,
            [this] {
              QTimer::singleShot(100, this, [this] {
                told_ = false;
                emit changed();
              });
            },
            Qt::QueuedConnection);
      }) {
  connect(&desk, &SessionDesk::changed, this, &AnalysisDesk::follow);
  connect(&inHand, &InHand::changed, this, &AnalysisDesk::follow);
}

void AnalysisDesk::setWanted(const QObject* by, bool wanted) {
  const bool before = !wantedBy_.empty();
  if (wanted)
    wantedBy_.insert(by);
  else
    wantedBy_.erase(by);
  if (wantedBy_.empty() == !before) return;
  followed_.reset();
  follow();
}

void AnalysisDesk::follow() {
  const auto& tracks = desk_.session().tracks;
  const auto now = std::find_if(tracks.begin(), tracks.end(),
                                [this](const auto& track) { return track->id == inHand_.trackId(); });
  if (now == tracks.end() || !(!wantedBy_.empty() || isShown(**now))) {
    if (followed_ || !known_.empty()) jobs_.want({});
    followed_.reset();
    known_.clear();
    return;
  }
  if (!followed_ || !followed_->same(*now)) {
    followed_ = *now;
    known_.clear();
    jobs_.want(filesOfTakes(desk_.session(), **now));
  }
  emit changed();
}

bool AnalysisDesk::isShown(const Track& track) {
  return std::any_of(track.lanes.begin(), track.lanes.end(),
                     [](const auto& lane) { return lane->picture != LanePicture::Waveform; });
}

FindAnalysis AnalysisDesk::finder() {
  return [this](int file) -> const FileAnalysis* {
    auto& known = known_[file];
    if (!known) known = jobs_.find((*desk_.session().pool)[static_cast<std::size_t>(file)].path);
    return known.get();
  };
}

std::optional<PhraseEvidence> AnalysisDesk::evidence() {
  const Track* track = inHand_.track();
  const Phrase* phrase = inHand_.phrase();
  if (!track || !phrase) return std::nullopt;
  const Session& session = desk_.session();
  const auto& phrases = inHand_.phrases();
  const auto index = static_cast<std::size_t>(phrase - phrases.data());
  // With the one before it: the rest between the two is what tells of noise.
  const std::size_t from = index > 0 ? index - 1 : 0;
  auto found = evidenceOf(session, *track, std::span(phrases).subspan(from, index + 1 - from), finder(),
                          session.recording.grid ? session.recording.divisions : 0, index - from);
  return found.empty() ? std::nullopt : std::optional(std::move(found.front()));
}

}  // namespace yewdrift::app
