// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/evidence.h"

#include <cmath>

namespace yewdrift {
namespace {

constexpr double onsetsBelongSeconds = 0.150;  // of two takes, if they are no further apart
constexpr std::size_t leastPitches = 5;
constexpr double pitchesBelong = 600.0;  // cents: further apart it is another note

double milliseconds(Frames frames, SampleRate rate) {
  return secondsFromFrames(frames, rate) * 1000.0;
}

/// The median, and the median distance from it.
struct Middle {
  std::optional<double> median;
  std::optional<double> spread;
};
Middle middleOf(const std::vector<float>& values, std::size_t least) {
  if (values.size() < least) return {};
  const double median = medianOf(values);
  std::vector<float> away;
  away.reserve(values.size());
  for (const float value : values) away.push_back(std::abs(value - static_cast<float>(median)));
  return {median, medianOf(away)};
}

std::optional<Frames> nearest(const std::vector<Frames>& onsets, Frames at, Frames within) {
  const auto behind = std::lower_bound(onsets.begin(), onsets.end(), at);
  std::optional<Frames> best;
  const auto consider = [&](Frames other) {
    if (std::abs((other - at).count) <= within.count &&
        (!best || std::abs((other - at).count) < std::abs((*best - at).count)))
      best = other;
  };
  if (behind != onsets.end()) consider(*behind);
  if (behind != onsets.begin()) consider(*(behind - 1));
  return best;
}

/// What is looked at of one take in a phrase.
struct Heard {
  const Lane* lane;
  std::vector<Frames> onsets;
  std::vector<float> pitches;
};

/// Each onset's distance from the median of those of the other takes that belong to it, in ms.
std::vector<float> againstOthers(const std::vector<Heard>& takes, std::size_t index, SampleRate rate) {
  const Frames within = framesFromSeconds(onsetsBelongSeconds, rate);
  std::vector<float> distances;
  for (const Frames at : takes[index].onsets) {
    std::vector<float> away;
    for (std::size_t other = 0; other < takes.size(); ++other)
      if (other != index)
        if (const auto theirs = nearest(takes[other].onsets, at, within))
          away.push_back(static_cast<float>(milliseconds(at - *theirs, rate)));
    if (!away.empty()) distances.push_back(static_cast<float>(medianOf(std::move(away))));
  }
  return distances;
}

/// Moment by moment the distance from the median pitch of the others, in cents.
std::vector<float> pitchAgainstOthers(const std::vector<Heard>& takes, std::size_t index) {
  std::vector<float> distances;
  const auto& own = takes[index].pitches;
  for (std::size_t i = 0; i < own.size(); ++i) {
    if (std::isnan(own[i])) continue;
    std::vector<float> theirs;
    for (std::size_t other = 0; other < takes.size(); ++other)
      if (other != index && i < takes[other].pitches.size() && !std::isnan(takes[other].pitches[i]) &&
          std::abs(takes[other].pitches[i] - own[i]) <= pitchesBelong)
        theirs.push_back(takes[other].pitches[i]);
    if (!theirs.empty()) distances.push_back(own[i] - static_cast<float>(medianOf(std::move(theirs))));
  }
  return distances;
}

/// The distance from the nearest semitone, of those between `from` and `to` thirds of the phrase.
std::vector<float> fromSemitones(const std::vector<float>& pitches, std::size_t from, std::size_t to) {
  std::vector<float> distances;
  for (std::size_t i = from * pitches.size() / 3; i < to * pitches.size() / 3; ++i)
    if (!std::isnan(pitches[i])) distances.push_back(pitches[i] - 100.0F * std::round(pitches[i] / 100.0F));
  return distances;
}

std::vector<float> againstGrid(const std::vector<Frames>& onsets, const Ruler& ruler, int divisions) {
  std::vector<float> distances;
  for (const Frames at : onsets) {
    const MusicalPosition position = ruler.tempo.positionOf(at, ruler.rate);
    const double steps = std::round((position.beat - 1.0) * divisions);
    const Frames line = ruler.tempo.frameOf({position.bar, 1.0 + steps / divisions}, ruler.rate);
    distances.push_back(static_cast<float>(milliseconds(at - line, ruler.rate)));
  }
  return distances;
}

/// How much of it is louder than what is 40 dB below its loudest ten milliseconds, and than -60 dB.
Frames soundingOf(const std::vector<LevelStep>& steps, Frames step) {
  float loudest = 0.0F;
  for (const LevelStep& each : steps) loudest = std::max(loudest, each.square);
  const float least = std::max(1e-6F, loudest * 1e-4F);
  std::int64_t count = 0;
  for (const LevelStep& each : steps)
    if (each.square >= least) ++count;
  return Frames{count * step.count};
}

void fillLevels(CellEvidence& cell, const Lane& lane, Span span, Frames restFrom, const Session& session,
                const FindAnalysis& find) {
  const std::vector<LevelStep> steps = levelsIn(lane, span, find);
  if (!steps.empty()) {
    const Loudness loudness = loudnessOf(steps);
    cell.loudness = loudness.lufs;
    if (loudness.peak > 0.0F) cell.peak = decibelsOf(loudness.peak).value;
    cell.overs = loudness.overs;
    for (const LevelStep& step : steps) cell.clicks += step.clicks;
    cell.sounding = std::min(soundingOf(steps, levelStepAt(session.rate)), span.length());
  }
  // The rest before it, but for what belongs to the attack.
  const Span rest{std::max(restFrom, span.start - framesFromSeconds(0.300, session.rate)),
                  span.start - framesFromSeconds(0.030, session.rate)};
  if (rest.length() >= framesFromSeconds(0.050, session.rate)) cell.noise = captureLevelIn(lane, rest, find);
}

}  // namespace

std::vector<PhraseEvidence> evidenceOf(const Session& session, const Track& track,
                                       std::span<const Phrase> phrases, const FindAnalysis& find,
                                       int divisions, std::optional<std::size_t> only) {
  const ResolvedComposite composite = resolve(track, session.rate);
  const Frames pitchStep = framesFromSeconds(0.010, session.rate);
  // A phrase of hours is none; of that only what costs nothing is said.
  const Frames longest = framesFromSeconds(3600.0, session.rate);
  std::vector<PhraseEvidence> all;
  Frames lastEnd = -maximumPosition;
  for (const Phrase& phrase : phrases) {
    if (only && &phrase != &phrases[*only]) {
      lastEnd = phrase.span.end;
      continue;
    }
    PhraseEvidence evidence{phrase, isDecided(track, phrase), {}};
    const auto played = playedIn(composite, phrase);
    std::vector<Heard> takes;
    for (const auto& lane : track.lanes)
      if (!lane->setAside)
        takes.push_back({&*lane, onsetsIn(*lane, phrase.span, find),
                         phrase.span.length() <= longest ? pitchIn(*lane, phrase.span, pitchStep, find)
                                                         : std::vector<float>{}});
    for (std::size_t i = 0; i < takes.size(); ++i) {
      const Lane& lane = *takes[i].lane;
      CellEvidence cell;
      cell.lane = lane.number;
      cell.chosen = played == lane.number;
      if (const CellNote* note = cellOf(lane, phrase)) {
        cell.rating = note->rating;
        cell.note = note->note;
        cell.chosenBlind = note->chosenBlind;
      }
      cell.there = std::any_of(lane.clips.begin(), lane.clips.end(),
                               [&](const Clip& clip) { return clip.window.overlaps(phrase.span); });
      cell.marks =
          static_cast<int>(std::count_if(lane.marks.begin(), lane.marks.end(), [&](const TakeMark& mark) {
            return phrase.span.contains(mark.at);
          }));
      cell.measured = isAnalysed(lane, phrase.span, find);
      if (cell.there) {
        fillLevels(cell, lane, phrase.span, lastEnd, session, find);
        const Middle pitch = middleOf(pitchAgainstOthers(takes, i), leastPitches);
        cell.pitch = pitch.median;
        cell.pitchSpread = pitch.spread;
        cell.intonation = middleOf(fromSemitones(takes[i].pitches, 0, 3), leastPitches).median;
        const auto first = middleOf(fromSemitones(takes[i].pitches, 0, 1), leastPitches).median;
        const auto last = middleOf(fromSemitones(takes[i].pitches, 2, 3), leastPitches).median;
        if (first && last) cell.drift = *last - *first;
        const Middle timing = middleOf(againstOthers(takes, i, session.rate), 1);
        cell.timing = timing.median;
        cell.timingSpread = timing.spread;
        if (divisions > 0)
          cell.grid = middleOf(againstGrid(takes[i].onsets, session.ruler(), divisions), 1).median;
      }
      evidence.takes.push_back(std::move(cell));
    }
    lastEnd = phrase.span.end;
    all.push_back(std::move(evidence));
  }
  return all;
}

}  // namespace yewdrift
