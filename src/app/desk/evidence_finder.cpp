// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/evidence_finder.h"

#include <QMetaObject>
#include <algorithm>
#include <utility>

namespace yewdrift::app {
namespace {

/// While files are still being analysed, what is known of them is not measured more often.
constexpr qint64 restMilliseconds = 1000;

/// Nothing that is measured of them is another.
bool measuresAlike(const Shared<Lane>& a, const Shared<Lane>& b) {
  return a.same(b) || (a->number == b->number && a->setAside == b->setAside && a->clips == b->clips &&
                       a->gain == b->gain && a->pitch == b->pitch && a->level == b->level);
}

}  // namespace

EvidenceFinder::EvidenceFinder(std::function<KnownFiles()> known) : known_(std::move(known)) {
  pool_.setMaxThreadCount(1);
}

EvidenceFinder::~EvidenceFinder() {
  drop();
  pool_.waitForDone();
}

bool EvidenceFinder::sameMaterial(const Wanted& a, const Wanted& b) {
  return a.track->id == b.track->id && a.phrases == b.phrases && a.divisions == b.divisions &&
         a.ruler.tempo == b.ruler.tempo &&
         std::equal(a.track->lanes.begin(), a.track->lanes.end(), b.track->lanes.begin(),
                    b.track->lanes.end(), measuresAlike);
}

void EvidenceFinder::want(Wanted wanted) {
  const bool same = wanted_ && sameMaterial(*wanted_, wanted);
  if (wanted_ && wanted_->track->id != wanted.track->id) measures_.clear();
  if (!same || wanted_->share != wanted.share) stale_ = true;
  if (!same && looking_) *std::exchange(looking_, nullptr) = true;
  const bool resting =
      same && wanted.share < 1.0 && sinceBegun_.isValid() && sinceBegun_.elapsed() < restMilliseconds;
  wanted_ = std::move(wanted);
  if (stale_ && !looking_ && !resting) begin();
}

void EvidenceFinder::drop() {
  if (looking_) *std::exchange(looking_, nullptr) = true;
  wanted_.reset();
  measures_.clear();
  stale_ = false;
}

std::span<const CellMeasures> EvidenceFinder::of(const Phrase& phrase) const {
  const auto found = measures_.find(phrase.span.start);
  return found == measures_.end() ? std::span<const CellMeasures>{} : std::span(found->second);
}

void EvidenceFinder::begin() {
  stale_ = false;
  sinceBegun_.start();
  looking_ = std::make_shared<std::atomic<bool>>(false);
  pool_.start([this, wanted = *wanted_, known = known_(), givenUp = looking_] {
    const FindAnalysis find = [&](int file) -> const FileAnalysis* {
      const auto entry = known.find(file);
      return entry == known.end() ? nullptr : entry->second.get();
    };
    const auto measured = [&](std::size_t index) {
      return measureCells(wanted.ruler, *wanted.track, wanted.phrases, index, find, wanted.divisions,
                          givenUp.get());
    };
    const auto tell = [&](Measures measures, bool all) {
      QMetaObject::invokeMethod(this, [this, measures = std::move(measures), all, givenUp]() mutable {
        if (*givenUp) return;
        if (all) {
          looking_.reset();
          measures_ = std::move(measures);
        } else {
          for (auto& [start, cells] : measures) measures_[start] = std::move(cells);
        }
        emit found();
        if (stale_ && !looking_ && wanted_) begin();
      });
    };
    // The phrase in hand is what somebody looks at.
    Measures measures;
    if (wanted.first < wanted.phrases.size()) {
      auto cells = measured(wanted.first);
      if (*givenUp) return;
      measures[wanted.phrases[wanted.first].span.start] = cells;
      tell(measures, false);
    }
    for (std::size_t index = 0; index < wanted.phrases.size(); ++index) {
      if (index == wanted.first) continue;
      auto cells = measured(index);
      if (*givenUp) return;
      measures[wanted.phrases[index].span.start] = std::move(cells);
    }
    tell(std::move(measures), true);
  });
}

}  // namespace yewdrift::app
