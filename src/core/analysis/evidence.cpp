// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/evidence.h"

#include <cmath>

namespace yewdrift {
namespace {

constexpr double onsetsBelongSeconds = 0.150;  // of two takes, if they are no further apart
constexpr std::size_t leastPitches = 5;
constexpr float pitchesBelong = 600.0F;  // cents: further apart it is another note

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

/// For each take, moment by moment: the distance of its pitch from the median of the others that sing the
/// same note there, in cents.
std::vector<std::vector<float>> pitchAgainstOthers(const std::vector<Heard>& takes) {
  std::vector<std::vector<float>> distances(takes.size());
  std::size_t moments = 0;
  for (const Heard& take : takes) moments = std::max(moments, take.pitches.size());
  std::vector<std::pair<float, std::size_t>> sung;
  for (std::size_t moment = 0; moment < moments; ++moment) {
    sung.clear();
    for (std::size_t take = 0; take < takes.size(); ++take)
      if (moment < takes[take].pitches.size() && !std::isnan(takes[take].pitches[moment]))
        sung.emplace_back(takes[take].pitches[moment], take);
    std::sort(sung.begin(), sung.end());
    // Those that belong to it lie around it; both ends move up as it does.
    std::size_t first = 0;
    std::size_t last = 0;
    for (std::size_t own = 0; own < sung.size(); ++own) {
      while (sung[own].first - sung[first].first > pitchesBelong) ++first;
      while (last < sung.size() && sung[last].first - sung[own].first <= pitchesBelong) ++last;
      const std::size_t others = last - first - 1;
      if (others == 0) continue;
      const auto other = [&](std::size_t i) { return sung[first + i + (first + i >= own ? 1 : 0)].first; };
      const float median =
          others % 2 == 1 ? other(others / 2) : (other(others / 2 - 1) + other(others / 2)) / 2.0F;
      distances[sung[own].second].push_back(sung[own].first - median);
    }
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
  for (const Frames at : onsets)
    distances.push_back(static_cast<float>(
        milliseconds(at - ruler.tempo.nearestDivision(at, divisions, ruler.rate), ruler.rate)));
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

void fillLevels(CellMeasures& cell, const Lane& lane, Span span, Frames restFrom, SampleRate rate,
                const FindAnalysis& find) {
  const std::vector<LevelStep> steps = levelsIn(lane, span, find);
  if (!steps.empty()) {
    const Loudness loudness = loudnessOf(steps);
    cell.loudness = loudness.lufs;
    if (loudness.peak > 0.0F) cell.peak = decibelsOf(loudness.peak).value;
    cell.overs = loudness.overs;
    for (const LevelStep& step : steps) cell.clicks += step.clicks;
    cell.sounding = std::min(soundingOf(steps, levelStepAt(rate)), span.length());
  }
  // The rest before it, but for what belongs to the attack.
  const Span rest{std::max(restFrom, span.start - framesFromSeconds(0.300, rate)),
                  span.start - framesFromSeconds(0.030, rate)};
  if (rest.length() >= framesFromSeconds(0.050, rate)) cell.noise = captureLevelIn(lane, rest, find);
}

}  // namespace

std::vector<CellMeasures> measureCells(const Ruler& ruler, const Track& track,
                                       std::span<const Phrase> phrases, std::size_t index,
                                       const FindAnalysis& find, int divisions,
                                       const std::atomic<bool>* cancelled) {
  const Span span = phrases[index].span;
  const Frames restFrom = index > 0 ? phrases[index - 1].span.end : -maximumPosition;
  const Frames pitchStep = framesFromSeconds(0.010, ruler.rate);
  // A phrase of hours is none; of that only what costs nothing is said.
  const Frames longest = framesFromSeconds(3600.0, ruler.rate);
  const auto given = [&] { return cancelled && *cancelled; };
  std::vector<Heard> takes;
  for (const auto& lane : track.lanes) {
    if (lane->setAside) continue;
    if (given()) return {};
    takes.push_back(
        {&*lane, onsetsIn(*lane, span, find),
         span.length() <= longest ? pitchIn(*lane, span, pitchStep, find) : std::vector<float>{}});
  }
  const auto pitches = pitchAgainstOthers(takes);
  std::vector<CellMeasures> cells;
  for (std::size_t i = 0; i < takes.size(); ++i) {
    if (given()) return {};
    const Lane& lane = *takes[i].lane;
    CellMeasures& cell = cells.emplace_back();
    cell.lane = lane.number;
    cell.there = std::any_of(lane.clips.begin(), lane.clips.end(),
                             [&](const Clip& clip) { return clip.window.overlaps(span); });
    cell.measured = isAnalysed(lane, span, find);
    if (!cell.there) continue;
    fillLevels(cell, lane, span, restFrom, ruler.rate, find);
    const Middle pitch = middleOf(pitches[i], leastPitches);
    cell.pitch = pitch.median;
    cell.pitchSpread = pitch.spread;
    cell.intonation = middleOf(fromSemitones(takes[i].pitches, 0, 3), leastPitches).median;
    const auto first = middleOf(fromSemitones(takes[i].pitches, 0, 1), leastPitches).median;
    const auto last = middleOf(fromSemitones(takes[i].pitches, 2, 3), leastPitches).median;
    if (first && last) cell.drift = *last - *first;
    const Middle timing = middleOf(againstOthers(takes, i, ruler.rate), 1);
    cell.timing = timing.median;
    cell.timingSpread = timing.spread;
    if (divisions > 0) cell.grid = middleOf(againstGrid(takes[i].onsets, ruler, divisions), 1).median;
  }
  return cells;
}

PhraseEvidence evidenceWith(const Track& track, const ResolvedComposite& composite, const Phrase& phrase,
                            std::span<const CellMeasures> measures) {
  PhraseEvidence evidence{phrase, isDecided(track, phrase), {}};
  const auto played = playedIn(composite, phrase);
  for (const auto& lane : track.lanes) {
    if (lane->setAside) continue;
    CellEvidence& cell = evidence.takes.emplace_back();
    const auto measured = std::find_if(measures.begin(), measures.end(),
                                       [&](const CellMeasures& each) { return each.lane == lane->number; });
    if (measured != measures.end()) static_cast<CellMeasures&>(cell) = *measured;
    cell.lane = lane->number;
    cell.chosen = played == lane->number;
    if (const CellNote* note = cellOf(*lane, phrase)) {
      cell.rating = note->rating;
      cell.note = note->note;
      cell.chosenBlind = note->chosenBlind;
    }
    cell.marks =
        static_cast<int>(std::count_if(lane->marks.begin(), lane->marks.end(),
                                       [&](const TakeMark& mark) { return phrase.span.contains(mark.at); }));
  }
  return evidence;
}

std::vector<PhraseEvidence> evidenceOf(const Session& session, const Track& track,
                                       std::span<const Phrase> phrases, const FindAnalysis& find,
                                       int divisions) {
  const ResolvedComposite composite = resolve(track, session.rate);
  std::vector<PhraseEvidence> all;
  for (std::size_t index = 0; index < phrases.size(); ++index)
    all.push_back(evidenceWith(track, composite, phrases[index],
                               measureCells(session.ruler(), track, phrases, index, find, divisions)));
  return all;
}

}  // namespace yewdrift
