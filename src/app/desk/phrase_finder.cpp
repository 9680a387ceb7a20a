// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/phrase_finder.h"

#include <QMetaObject>

#include "core/analysis/track_phrases.h"

namespace yewdrift::app {
namespace {

/// Minutes of takes that are looked through within a paint.
constexpr double quickSeconds = 300.0;

bool sameTake(const Shared<Lane>& a, const Shared<Lane>& b) {
  return a.same(b) || (a->setAside == b->setAside && a->clips == b->clips);
}

}  // namespace

PhraseFinder::PhraseFinder(PeaksStore& peaks) : peaks_(peaks) {
  pool_.setMaxThreadCount(1);
  connect(&peaks_, &PeaksStore::ready, this, [this] {
    for (auto& [track, found] : found_) found.stale = true;
  });
}

PhraseFinder::~PhraseFinder() {
  closing_ = true;
  pool_.waitForDone();
}

bool PhraseFinder::sameMaterial(const Found& found, const Track& track) {
  return !found.stale && found.rules == track.phraseRules &&
         std::equal(found.lanes.begin(), found.lanes.end(), track.lanes.begin(), track.lanes.end(), sameTake);
}

void PhraseFinder::look(const Session& session, const Track& track, Found& found) {
  found.lanes = track.lanes;
  found.rules = track.phraseRules;
  found.stale = false;
  // Whoever looks holds what it looks at.
  auto known = std::make_shared<std::map<int, std::shared_ptr<const std::vector<PeakPyramid>>>>();
  Frames all;
  for (const auto& lane : track.lanes)
    for (const Clip& clip : lane->clips) {
      all += clip.window.length();
      for (const ChannelSource& source : clip.channels)
        known->try_emplace(source.file,
                           peaks_.shared((*session.pool)[static_cast<std::size_t>(source.file)]));
    }
  const auto search = [this, known, track, rate = session.rate] {
    const auto find = [&](int file) {
      const auto entry = known->find(file);
      return entry == known->end() ? nullptr : entry->second.get();
    };
    return findPhrasesIn(track, rate, find, &closing_);
  };
  if (all < framesFromSeconds(quickSeconds, session.rate)) {
    found.spans = search();
    found.resolvedFrom.reset();
    return;
  }
  // While peaks still come in, one search would chase the other; and one at a time is enough.
  if (peaks_.busy() || std::exchange(found.looking, true)) {
    found.stale = true;
    return;
  }
  pool_.start([this, search, id = track.id] {
    auto spans = std::make_shared<std::vector<Span>>(search());
    QMetaObject::invokeMethod(this, [this, spans, id] {
      Found& now = found_[id];
      now.looking = false;
      now.spans = std::move(*spans);
      now.resolvedFrom.reset();
      emit moreFound();
    });
  });
}

const std::vector<Phrase>& PhraseFinder::phrasesOf(const Session& session, TrackId id) {
  const auto track = std::find_if(session.tracks.begin(), session.tracks.end(),
                                  [id](const auto& each) { return each->id == id; });
  if (track == session.tracks.end()) return none_;
  Found& found = found_[id];
  if (!sameMaterial(found, **track)) look(session, **track, found);
  const bool grid = session.recording.grid;
  if (!found.resolvedFrom || !found.resolvedFrom->same(*track) || found.grid != grid ||
      found.tempo != session.tempo) {
    // Where nothing that it depends on is another, it stays.
    const bool asBefore = found.resolvedFrom && (*found.resolvedFrom)->phrases == (*track)->phrases &&
                          found.grid == grid && found.tempo == session.tempo;
    if (!asBefore) found.phrases = resolvePhrases(**track, found.spans, session.ruler(), grid);
    found.resolvedFrom = *track;
    found.grid = grid;
    found.tempo = session.tempo;
  }
  return found.phrases;
}

}  // namespace yewdrift::app
