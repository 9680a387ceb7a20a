// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <optional>
#include <span>
#include <vector>

#include "core/analysis/take_analysis.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

/// What can be measured of one take in one phrase. Nothing of it judges; what cannot be said is not there.
struct CellMeasures {
  LaneNumber lane;
  std::optional<double> loudness{};     ///< LUFS, integrated over the phrase
  std::optional<double> peak{};         ///< dBFS
  int overs = 0;                        ///< moments at full scale
  int clicks = 0;                       ///< jumps of the wave
  std::optional<double> noise{};        ///< dB of full scale, of the rest just before the phrase
  std::optional<double> pitch{};        ///< cents: median of the distance from the median of the other takes
  std::optional<double> pitchSpread{};  ///< cents: median distance from that
  std::optional<double>
      intonation{};                ///< cents: median of the distance from the nearest semitone (A4 = 440 Hz)
  std::optional<double> drift{};   ///< cents by which that rises from the first to the last third
  std::optional<double> timing{};  ///< ms: median of the onsets' distance from those of the others; late is +
  std::optional<double> timingSpread{};  ///< ms: median distance from that
  std::optional<double> grid{};  ///< ms: median of the onsets' distance from the nearest division of the bar
  Frames sounding{};             ///< how much of it sounds
  bool measured = false;         ///< all of it: nothing of it is still unknown
  bool there = false;            ///< it has something audible in the phrase
  bool operator==(const CellMeasures&) const = default;
};

/// That, and what people said of it.
struct CellEvidence : CellMeasures {
  bool chosen = false;  ///< the composite plays it in most of the phrase
  int rating = 0;
  std::string note{};
  bool chosenBlind = false;  ///< it was picked without knowing which take it was
  int marks = 0;             ///< spots a person marked in it
  bool operator==(const CellEvidence&) const = default;
};

struct PhraseEvidence {
  Phrase phrase;
  bool decided = false;
  std::vector<CellEvidence> takes;  ///< one for each lane that is not set aside, in the order shown
};

/// Of each lane that is not set aside, in the order shown, in phrase `index`. `divisions` of a beat are the
/// grid; 0: there is none. Empty once `cancelled`. Any thread.
std::vector<CellMeasures> measureCells(const Ruler& ruler, const Track& track,
                                       std::span<const Phrase> phrases, std::size_t index,
                                       const FindAnalysis& find, int divisions,
                                       const std::atomic<bool>* cancelled = nullptr);

/// What was measured of a phrase's cells with what is said of them now; of lanes that were not measured only
/// the latter.
PhraseEvidence evidenceWith(const Track& track, const ResolvedComposite& composite, const Phrase& phrase,
                            std::span<const CellMeasures> measures);

/// Of every phrase.
std::vector<PhraseEvidence> evidenceOf(const Session& session, const Track& track,
                                       std::span<const Phrase> phrases, const FindAnalysis& find,
                                       int divisions);

}  // namespace yewdrift
