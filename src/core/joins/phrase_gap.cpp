// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/phrase_gap.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yewdrift {
namespace {

constexpr double intoPhraseSeconds = 0.6;  // so much of either phrase is looked at
constexpr double halfGapSeconds = 1.5;     // of a longer rest what lies around its middle, or around a place
constexpr float silent = 1e-12F;           // mean square
constexpr std::size_t floorSteps = 5;      // a rest is told by its quietest 50 ms
constexpr float aboveFloor = 8.0F;         // times that, 9 dB: a take sounds
constexpr float belowLoudest = 3e-5F;      // or 45 dB below its loudest
constexpr float leastContrast = 0.063F;    // what falls by less than 12 dB never rests
// What a listener notices, in units of audibility; common practice weighs them in this order.
constexpr double costOfBoth = 10.0;      // a second of both takes at once
constexpr double unlikeDecibels = 20.0;  // at the place itself, where it is loud
constexpr double otherTone = 40.0;       // of the phrases on either side
constexpr double quietestHeard = 65.0;   // dB below the loudest: there nothing is noticed

struct Row {
  std::vector<float> squares;
  std::vector<BandLevels> spectra;
};

/// In half decibels; what is silent stays so.
BandLevels turned(BandLevels bands, Decibels gain) {
  const auto change = static_cast<int>(std::lround(gain.value * 2.0));
  for (std::uint8_t& band : bands)
    band = band > 0 ? static_cast<std::uint8_t>(std::clamp(band + change, 0, 255)) : std::uint8_t{0};
  return bands;
}

/// The steps of a row, which covers `all`, that begin in a part of a clip.
void addClip(Row& row, const Clip& clip, Span part, Span all, Frames step, Decibels gain,
             const FindAnalysis& find) {
  std::vector<const FileAnalysis*> files;
  for (const ChannelSource& source : clip.channels) files.push_back(find(source.file));
  const FileAnalysis* const first = files.empty() ? nullptr : files.front();
  if (!first || first->levelStep.count <= 0) return;
  const float power = factorOf(gain) * factorOf(gain);
  const auto firstIn = [&](Frames at) {
    return static_cast<std::size_t>((at - all.start).count + step.count - 1) /
           static_cast<std::size_t>(step.count);
  };
  for (std::size_t k = firstIn(part.start); k < std::min(row.squares.size(), firstIn(part.end)); ++k) {
    const Frames at = all.start + step * static_cast<std::int64_t>(k);
    const auto index = static_cast<std::size_t>((at - clip.origin).count / first->levelStep.count);
    float square = silent;
    for (const FileAnalysis* const file : files)
      if (file && index < file->levels.size()) square = std::max(square, file->levels[index].square * power);
    if (index < first->levels.size()) row.squares[k] = square;
    if (index < std::min(first->levels.size(), first->spectra.size()))
      row.spectra[k] = turned(first->spectra[index], gain);
  }
}

/// What is known of a piece's take over `count` steps from `start` on. Handles are not heard and do not
/// count.
Row rowOf(const Track& track, const Piece& piece, Frames start, Frames step, std::size_t count,
          const FindAnalysis& find) {
  Row row{std::vector<float>(count, silent), std::vector<BandLevels>(count)};
  const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  if (!lane) return row;
  const Decibels gain{lane->gain.value + piece.gain.value};
  const Span all = Span{start, start + step * static_cast<std::int64_t>(count)}.shifted(-piece.slip);
  for (const Clip& clip : lane->clips)
    if (const Span part = clip.window.intersect(all); !part.empty())
      addClip(row, clip, part, all, step, gain, find);
  return row;
}

/// On average over what sounds of it.
BandLevels averageOf(const Row& row, float threshold) {
  std::array<int, bandCount> sums{};
  int count = 0;
  for (std::size_t k = 0; k < row.squares.size(); ++k) {
    if (row.squares[k] <= threshold) continue;
    for (std::size_t band = 0; band < bandCount; ++band) sums[band] += row.spectra[k][band];
    ++count;
  }
  BandLevels average{};
  for (std::size_t band = 0; band < bandCount && count > 0; ++band)
    average[band] = static_cast<std::uint8_t>(sums[band] / count);
  return average;
}

/// Above which a take sounds.
float thresholdOf(const std::vector<float>& squares, float loudest) {
  float floor = loudest;
  for (std::size_t k = 0; k + floorSteps <= squares.size(); ++k) {
    float sum = 0.0F;
    for (std::size_t i = k; i < k + floorSteps; ++i) sum += squares[i];
    floor = std::min(floor, sum / floorSteps);
  }
  return std::max(std::min(floor * aboveFloor, loudest * leastContrast), loudest * belowLoudest);
}

/// Steps [first, last) in which it rests longest; the quietest step, of no length, where it never does.
std::pair<std::size_t, std::size_t> longestRest(const std::vector<float>& squares, float threshold) {
  std::pair<std::size_t, std::size_t> longest{0, 0};
  std::size_t from = 0;
  for (std::size_t k = 0; k <= squares.size(); ++k) {
    if (k < squares.size() && squares[k] <= threshold) continue;
    if (k - from > longest.second - longest.first) longest = {from, k};
    from = k + 1;
  }
  if (longest.second > longest.first) return longest;
  const auto quietest =
      static_cast<std::size_t>(std::min_element(squares.begin(), squares.end()) - squares.begin());
  return {quietest, quietest};
}

}  // namespace

PhraseGap gapBetween(const Track& track, SampleRate rate, Span before, Span behind,
                     std::span<const Piece> takes, const FindAnalysis& find, std::optional<Frames> place) {
  PhraseGap gap;
  gap.step = levelStepAt(rate);
  const Frames into = framesFromSeconds(intoPhraseSeconds, rate);
  const Frames half = framesFromSeconds(halfGapSeconds, rate);
  const Frames middle = place.value_or(before.end + Frames{(behind.start - before.end).count / 2});
  const Span tail{std::max(before.start, before.end - into), before.end};
  const Span head{behind.start, std::min(behind.end, behind.start + into)};
  gap.start = std::max(tail.start, middle - half);
  const auto stepsOf = [&](Span span) {
    return static_cast<std::size_t>(std::max<std::int64_t>(1, span.length().count / gap.step.count));
  };
  const std::size_t count = stepsOf({gap.start, std::min(head.end, middle + half)});
  for (const Piece& piece : takes) {
    const Row tailRow = rowOf(track, piece, tail.start, gap.step, stepsOf(tail), find);
    const Row headRow = rowOf(track, piece, head.start, gap.step, stepsOf(head), find);
    Row row = rowOf(track, piece, gap.start, gap.step, count, find);
    float loudest = silent;
    for (const Row* each : std::array<const Row*, 3>{&tailRow, &headRow, &row})
      loudest = std::max(loudest, *std::max_element(each->squares.begin(), each->squares.end()));
    gap.loudest = std::max(gap.loudest, loudest);
    const float threshold = thresholdOf(row.squares, loudest);
    const auto [first, last] = longestRest(row.squares, threshold);
    GapTake& take = gap.takes.emplace_back();
    take.wordEnd = gap.start + gap.step * static_cast<std::int64_t>(first);
    take.nextWord = gap.start + gap.step * static_cast<std::int64_t>(last);
    take.squares = std::move(row.squares);
    take.spectra = std::move(row.spectra);
    take.before = averageOf(tailRow, threshold);
    take.behind = averageOf(headRow, threshold);
  }
  return gap;
}

GapJoin joinIn(const PhraseGap& gap, std::size_t from, std::size_t to) {
  const GapTake& out = gap.takes[from];
  const GapTake& in = gap.takes[to];
  GapJoin join;
  const Frames both = out.wordEnd - in.nextWord;
  join.at = in.nextWord + Frames{both.count / 2};
  if (both.count > 0) {
    // As JoinCost::total(), frames of both weigh by how long they last.
    const double seconds = static_cast<double>(both.count) / static_cast<double>(gap.step.count) * 0.01;
    join.audibility += costOfBoth * seconds;
    if (seconds <= longestBothSeconds) {
      join.at = in.nextWord;
      join.bothUntil = out.wordEnd;
    }
  }
  const auto k = static_cast<std::size_t>((join.at - gap.start).count / gap.step.count);
  const double loud = std::clamp(
      1.0 - 10.0 * std::log10(gap.loudest / std::max(out.squares[k], in.squares[k])) / quietestHeard, 0.0,
      1.0);
  join.audibility += loud * spectralDistance(out.spectra[k], in.spectra[k]) / unlikeDecibels;
  join.audibility +=
      (spectralDistance(out.before, in.before) + spectralDistance(out.behind, in.behind)) / (2.0 * otherTone);
  return join;
}

}  // namespace yewdrift
