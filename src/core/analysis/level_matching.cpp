// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/level_matching.h"

#include <algorithm>

#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

/// What sounds at once: powers add up, and peaks at the worst do.
void addTogether(std::vector<LevelStep>& sum, const std::vector<LevelStep>& with) {
  sum.resize(std::max(sum.size(), with.size()));
  for (std::size_t i = 0; i < with.size(); ++i) {
    sum[i].weighted += with[i].weighted;
    sum[i].peak += with[i].peak;
  }
}

/// What the composite plays there, piece by piece.
std::vector<LevelStep> levelsOfComposite(const Session& session, const Track& track, Span span,
                                         const FindAnalysis& find) {
  std::vector<LevelStep> steps;
  for (const Piece& piece : resolve(track, session.rate).pieces) {
    const Span part = piece.span.intersect(span);
    if (!piece.lane || part.empty()) continue;
    const float gain = factorOf(piece.gain);
    const GainAt turned = [&](Frames inLane) {
      const Frames at = inLane + piece.slip;
      return gain * factorAt(piece.level, at) * factorAt(track.composite.level, at);
    };
    std::vector<LevelStep> sounding;
    const auto add = [&](LaneNumber number) {
      const Lane* const lane = track.lane(number);
      if (lane && !lane->muted)
        addTogether(sounding,
                    mixedLevelsIn(*lane, part.shifted(-piece.slip), find, track.microphones, turned));
    };
    add(*piece.lane);
    for (const LaneNumber with : piece.overdubs) add(with);
    steps.insert(steps.end(), sounding.begin(), sounding.end());
  }
  return steps;
}

}  // namespace

LevelMatching matchLevels(const Session& session, const Track& track, Span span, const FindAnalysis& find,
                          bool compositeStays) {
  return LevelMatcher().match(session, track, span, find, compositeStays);
}

Loudness LevelMatcher::loudnessIn(const Shared<Lane>& lane, const FindAnalysis& find) {
  const auto known =
      std::find_if(known_.begin(), known_.end(), [&](const Known& each) { return each.lane.same(lane); });
  const bool measured = isAnalysed(*lane, span_, find);
  if (known != known_.end() && measured) return known->loudness;
  const GainAt ridden = [this](Frames at) { return factorAt(ridden_, at); };
  const Loudness loudness =
      loudnessOf(mixedLevelsIn(*lane, span_, find, microphones_, ridden_.empty() ? GainAt{} : ridden));
  if (measured) known_.push_back({lane, loudness});
  return loudness;
}

LevelMatching LevelMatcher::match(const Session& session, const Track& track, Span span,
                                  const FindAnalysis& find, bool compositeStays) {
  // In the composite's place a take is heard with the line that rides the composite.
  const LevelLine ridden = compositeStays ? track.composite.level : LevelLine{};
  if (!(span == span_ && ridden == ridden_ && track.microphones == microphones_)) known_.clear();
  span_ = span;
  microphones_ = track.microphones;
  ridden_ = ridden;
  std::erase_if(known_, [&](const Known& each) {
    return std::none_of(track.lanes.begin(), track.lanes.end(),
                        [&](const Shared<Lane>& lane) { return lane.same(each.lane); });
  });

  LevelMatching matching;
  matching.measured = true;
  const float behind = std::max(1.0F, factorOf(track.gain));
  std::vector<LaneNumber> lanes;
  std::vector<Loudness> takes;
  for (const auto& lane : track.lanes) {
    if (!lane->setAside) {
      matching.measured = matching.measured && isAnalysed(*lane, span, find);
      lanes.push_back(lane->number);
      takes.push_back(loudnessIn(lane, find));
    }
  }
  takes.push_back(loudnessOf(levelsOfComposite(session, track, span, find)));
  for (Loudness& take : takes) take.peak *= behind;
  const std::vector<Decibels> gains = levelMatch(takes);
  const double shift = compositeStays ? gains.back().value : 0.0;
  for (std::size_t i = 0; i < lanes.size(); ++i) {
    double gain = takes[i].lufs ? gains[i].value - shift : 0.0;
    if (gain > 0.0) gain = std::min(gain, std::max(0.0, -decibelsOf(takes[i].peak).value));
    matching.lanes[lanes[i]] = {gain};
  }
  matching.composite = {compositeStays ? 0.0 : gains.back().value};
  return matching;
}

}  // namespace yewdrift
