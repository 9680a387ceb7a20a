// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/analysis_desk.h"

#include <QMetaObject>
#include <QTimer>

#include "core/analysis/track_phrases.h"

namespace yewdrift::app {

AnalysisDesk::AnalysisDesk(SessionDesk& desk, InHand& inHand)
    : desk_(desk),
      inHand_(inHand),
      cells_([this] { return knownFiles(); }),
      jobs_(desk.disk(), desk.session().rate, [this] {
        // However often they tell, it is taken in ten times a second.
        if (told_.exchange(true)) return;
        QMetaObject::invokeMethod(
            this,
            [this] {
              QTimer::singleShot(100, this, [this] {
                told_ = false;
                measure();
                emit changed();
              });
            },
            Qt::QueuedConnection);
      }) {
  connect(&desk, &SessionDesk::changed, this, &AnalysisDesk::follow);
  connect(&inHand, &InHand::changed, this, &AnalysisDesk::follow);
  connect(&cells_, &EvidenceFinder::found, this, &AnalysisDesk::changed);
}

bool AnalysisDesk::wants(Want least) const {
  return std::any_of(wantedBy_.begin(), wantedBy_.end(),
                     [&](const auto& each) { return each.second >= least; });
}

void AnalysisDesk::setWanted(const QObject* by, Want want) {
  const bool files = wants(Want::Files);
  const bool cells = wants(Want::Cells);
  if (want == Want::Nothing)
    wantedBy_.erase(by);
  else
    wantedBy_[by] = want;
  if (files != wants(Want::Files)) {
    followed_.reset();
    follow();
  } else if (cells != wants(Want::Cells)) {
    measure();
  }
}

void AnalysisDesk::follow() {
  const auto& tracks = desk_.session().tracks;
  const auto now = std::find_if(tracks.begin(), tracks.end(),
                                [this](const auto& track) { return track->id == inHand_.trackId(); });
  if (now == tracks.end() || !(wants(Want::Files) || isShown(**now))) {
    if (followed_ || !known_.empty()) jobs_.want({});
    followed_.reset();
    known_.clear();
    cells_.drop();
    return;
  }
  if (!followed_ || !followed_->same(*now)) {
    followed_ = *now;
    known_.clear();
    jobs_.want(filesOfTakes(desk_.session(), **now));
  }
  measure();
  emit changed();
}

void AnalysisDesk::measure() {
  if (!followed_ || !wants(Want::Cells)) return cells_.drop();
  const Session& session = desk_.session();
  const auto& phrases = inHand_.phrases();
  const Phrase* const phrase = inHand_.phrase();
  cells_.want({*followed_, phrases, phrase ? static_cast<std::size_t>(phrase - phrases.data()) : 0,
               session.ruler(), session.recording.grid ? session.recording.divisions : 0, jobs_.share()});
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

EvidenceFinder::KnownFiles AnalysisDesk::knownFiles() {
  const FindAnalysis find = finder();
  for (const auto& lane : (*followed_)->lanes)
    for (const Clip& clip : lane->clips)
      for (const ChannelSource& source : clip.channels) find(source.file);
  return known_;
}

PhraseEvidence AnalysisDesk::evidenceOf(const Phrase& phrase) {
  const Track& track = *inHand_.track();
  return evidenceWith(track, inHand_.composite(track), phrase, cells_.of(phrase));
}

std::optional<PhraseEvidence> AnalysisDesk::evidence() {
  const Phrase* const phrase = inHand_.track() ? inHand_.phrase() : nullptr;
  return phrase ? std::optional(evidenceOf(*phrase)) : std::nullopt;
}

}  // namespace yewdrift::app
