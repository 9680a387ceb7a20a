// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/analysis/take_analysis.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

/// No longer than that are both takes heard where a word outlasts the beginning of the next one.
inline constexpr double longestBothSeconds = 1.0;

/// One take between two phrases: where its own word ends, and where its next one begins. In another take of
/// the same music that may be elsewhere.
struct GapTake {
  Frames wordEnd;
  Frames nextWord;
  std::vector<float> squares;       // mean squares of full scale, step by step
  std::vector<BandLevels> spectra;  // likewise
  BandLevels before{};              // what it sounds like at the end of the phrase before,
  BandLevels behind{};              // and at the beginning of the one behind
};

/// Where the composite may change from one take to another between two phrases, from what was measured of
/// their files. Steps of 10 ms.
struct PhraseGap {
  Frames start;
  Frames step;
  float loudest = 0.0F;  // mean square: of any take around it
  std::vector<GapTake> takes;
};

/// What `takes`, each a piece that could play there, do between two phrases that follow each other. Of a rest
/// that is too long to be looked at whole, what lies around a place of it: its middle where none is given.
PhraseGap gapBetween(const Track& track, SampleRate rate, Span before, Span behind,
                     std::span<const Piece> takes, const FindAnalysis& find,
                     std::optional<Frames> place = std::nullopt);

/// How the composite changes from one take to another in a gap: at `at`, in the rest that both have; or,
/// where the word before is longer than the next one waits, with both heard from `at` to `bothUntil`, so that
/// neither loses anything.
struct GapJoin {
  Frames at;
  std::optional<Frames> bothUntil{};
  double audibility = 0.0;  // about 1 where it is plainly heard; 0: not at all
};
/// From the take of that index to the other one.
GapJoin joinIn(const PhraseGap& gap, std::size_t from, std::size_t to);

}  // namespace yewdrift
