// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/rough_desk.h"

#include <QMetaObject>
#include <chrono>
#include <thread>
#include <utility>

#include "app/look/spoken.h"
#include "core/analysis/track_phrases.h"
#include "core/edit/edit_composites.h"

namespace yewdrift::app {
namespace {

FindAnalysis finderOf(const EvidenceFinder::KnownFiles& known) {
  return [&known](int file) -> const FileAnalysis* {
    const auto there = known.find(file);
    return there == known.end() ? nullptr : there->second.get();
  };
}

/// Waits until all takes of the track are measured; none once the job is cancelled.
std::optional<EvidenceFinder::KnownFiles> measureAll(const Session& session, const SessionDisk& disk,
                                                     const Track& track, Jobs::Run& job) {
  const std::vector<PoolFile> files = filesOfTakes(session, track);
  AnalysisJobs analysis(disk, session.rate);
  analysis.want(files);
  while (analysis.share() < 1.0) {
    if (!job.tell(analysis.share())) return std::nullopt;
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
  }
  analysis.wait();
  EvidenceFinder::KnownFiles known;
  for (std::size_t i = 0; i < session.pool->size(); ++i)
    if (auto found = analysis.find((*session.pool)[i].path)) known[static_cast<int>(i)] = std::move(found);
  return known;
}

}  // namespace

RoughDesk::RoughDesk(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis, Jobs& jobs,
                     Messages& messages)
    : desk_(desk), inHand_(inHand), analysis_(analysis), jobs_(jobs), messages_(messages) {
  pool_.setMaxThreadCount(1);
  connect(&desk, &SessionDesk::changed, this, &RoughDesk::look);
  connect(&inHand, &InHand::changed, this, &RoughDesk::look);
  connect(&analysis, &AnalysisDesk::changed, this, &RoughDesk::look);
}

RoughDesk::~RoughDesk() {
  if (looking_) *looking_ = true;
  pool_.waitForDone();
}

void RoughDesk::setWanted(bool wanted) {
  wanted_ = wanted;
  analysis_.setWanted(this, wanted ? AnalysisDesk::Want::Files : AnalysisDesk::Want::Nothing);
  look();
}

const RoughChoice* RoughDesk::choiceIn(const Phrase& phrase) const {
  const auto there = std::find(roughOf_.begin(), roughOf_.end(), phrase);
  if (!rough_ || there == roughOf_.end()) return nullptr;
  return &rough_->phrases[static_cast<std::size_t>(there - roughOf_.begin())];
}

std::optional<RoughDesk::Sought> RoughDesk::sought() const {
  for (const auto& track : desk_.session().tracks)
    if (track->id == inHand_.trackId()) return Sought{track, inHand_.phrases()};
  return std::nullopt;
}

void RoughDesk::look() {
  // While something is dragged it changes with every movement.
  if (!wanted_ || desk_.holding()) return;
  const auto now = sought();
  if (known_ && (!now || known_->track->id != now->track->id)) {
    // What is still being worked out is of the other track.
    if (looking_) *looking_ = true;
    looking_.reset();
    rough_.reset();
    known_.reset();
    emit found();
  }
  if (!now || now->phrases.empty() || analysis_.share() < 1.0) return;
  if (known_ && known_->track.same(now->track) && known_->phrases == now->phrases) return;
  if (looking_) *looking_ = true;
  known_ = now;
  looking_ = std::make_shared<std::atomic<bool>>(false);
  pool_.start(
      [this, now = *now, givenUp = looking_, session = desk_.session(), files = analysis_.knownFiles()] {
        if (*givenUp) return;
        RoughComposite rough = roughComposite(session, *now.track, now.phrases, finderOf(files));
        QMetaObject::invokeMethod(this,
                                  [this, givenUp, phrases = now.phrases, rough = std::move(rough)]() mutable {
                                    if (*givenUp) return;
                                    looking_.reset();
                                    rough_ = std::move(rough);
                                    roughOf_ = std::move(phrases);
                                    emit found();
                                  });
      });
}

void RoughDesk::make(bool anew) {
  const auto now = sought();
  if (!now) return;
  jobs_.start(
      tr("Choosing takes by their ratings"), Jobs::Cancel::Possible,
      [this, now = *now, anew, session = desk_.session(), disk = desk_.disk()](Jobs::Run& job) {
        try {
          const auto files = measureAll(session, disk, *now.track, job);
          if (!files) return;
          RoughComposite rough = roughComposite(session, *now.track, now.phrases, finderOf(*files), !anew);
          QMetaObject::invokeMethod(
              this, [this, anew, id = now.track->id, rough = std::move(rough)] { take(id, rough, anew); });
        } catch (const std::exception& e) {
          QMetaObject::invokeMethod(this, [this, problem = spoken(e)] { messages_.warn(problem); });
        }
      });
}

void RoughDesk::take(TrackId id, const RoughComposite& rough, bool anew) {
  int stay = 0;
  int chosen = 0;
  int unrated = 0;
  for (const RoughChoice& choice : rough.phrases) {
    if (choice.stays) ++stay;
    if (!choice.stays && choice.lane) ++(choice.rating > 0 ? chosen : unrated);
  }
  if (chosen + unrated == 0 && stay > 0)
    return messages_.say(tr("You picked in every phrase, and that stays: nothing is left to choose."));
  // Into the session as it is by now: what was picked meanwhile stays too.
  if (!desk_.apply(tr("Rough composite"),
                   [&](const Session& present) { return playRough(present, id, rough.pieces, !anew); }))
    return;
  QStringList said;
  if (chosen > 0)
    said << tr("%n phrases are chosen by their ratings.|One phrase is chosen by its ratings.", nullptr,
               chosen);
  if (unrated > 0)
    said << tr(
        "In %n phrases no take is rated: there what joins best plays.|"
        "In one phrase no take is rated: there what joins best plays.",
        nullptr, unrated);
  if (stay > 0) said << tr("What you picked in %n phrase(s) stays.", nullptr, stay);
  messages_.say(said.join(QLatin1Char(' ')));
}

}  // namespace yewdrift::app
