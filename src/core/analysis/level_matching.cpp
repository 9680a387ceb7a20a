// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/level_matching.h"

#include <algorithm>

#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

/// What the composite plays there, piece by piece.
std::vector<LevelStep> levelsOfComposite(const Session& session, const Track& track, Span span,
                                         const FindAnalysis& find) {
  std::vector<LevelStep> steps;
  for (const Piece& piece : resolve(track, session.rate).pieces) {
    const Lane* lane = piece.lane ? track.lane(*piece.lane) : nullptr;
    const Span part = piece.span.intersect(span);
    if (!lane || lane->muted || part.empty()) continue;
    const float gain = factorOf(piece.gain);
    for (LevelStep step : levelsIn(*lane, part.shifted(-piece.slip), find)) {
      step.weighted *= gain * gain;
      step.square *= gain * gain;
      step.peak *= gain;
      steps.push_back(step);
    }
  }
  return steps;
}

}  // namespace

LevelMatching matchLevels(const Session& session, const Track& track, Span span, const FindAnalysis& find,
                          bool compositeStays) {
  LevelMatching matching;
  matching.measured = true;
  const float behind = std::max(1.0F, factorOf(track.gain));
  std::vector<LaneNumber> lanes;
  std::vector<Loudness> takes;
  for (const auto& lane : track.lanes) {
    if (lane->setAside) continue;
    matching.measured = matching.measured && isAnalysed(*lane, span, find);
    lanes.push_back(lane->number);
    takes.push_back(loudnessOf(levelsIn(*lane, span, find)));
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
