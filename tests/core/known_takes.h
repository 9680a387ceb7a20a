// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_takes.h"
#include "core/joins/rough_composite.h"

namespace yewdrift::test {

inline constexpr SampleRate rate{48000};

inline Frames seconds(double s) {
  return framesFromSeconds(s, rate);
}

/// Takes of which it is known where they sound and what like, without a single sample.
struct Takes {
  explicit Takes(double length) : length_(length) {
    session.rate = rate;
    session = addTrack(std::move(session), "Voice", microphonesFor(1));
  }

  /// A take that is at -70 dB, and sounds at `level` dB in `words`, with `colour` in all bands.
  LaneNumber add(const std::vector<std::pair<double, double>>& words, float level = -20.0F,
                 int colour = 150) {
    FileAnalysis analysis;
    analysis.levelStep = Frames{480};
    const auto count = static_cast<std::size_t>(seconds(length_).count / 480);
    for (std::size_t k = 0; k < count; ++k) {
      const double at = static_cast<double>(k) * 0.01 + 0.005;
      const bool sounds = std::any_of(words.begin(), words.end(), [at](const auto& word) {
        return at >= word.first && at < word.second;
      });
      LevelStep levels;
      levels.square = std::pow(10.0F, (sounds ? level : -70.0F) / 10.0F);
      analysis.levels.push_back(levels);
      BandLevels bands;
      bands.fill(static_cast<std::uint8_t>(sounds ? colour : 60));
      analysis.spectra.push_back(bands);
    }
    analyses.push_back(std::move(analysis));
    const std::string name = "audio/" + std::to_string(analyses.size()) + ".wav";
    session = addFileAsLane(session, id(), {name, 1, seconds(length_)}, {}, {});
    return session.tracks[0]->lanes.back()->number;
  }

  [[nodiscard]] TrackId id() const { return session.tracks[0]->id; }
  [[nodiscard]] const Track& track() const { return *session.tracks[0]; }
  [[nodiscard]] FindAnalysis find() const {
    return [this](int file) { return &analyses[static_cast<std::size_t>(file)]; };
  }
  [[nodiscard]] std::vector<Phrase> phrases(const std::vector<std::pair<double, double>>& spans) const {
    std::vector<Span> found;
    found.reserve(spans.size());
    for (const auto& [from, to] : spans) found.push_back({seconds(from), seconds(to)});
    return resolvePhrases(track(), found, session.ruler(), false);
  }
  void rate_(LaneNumber lane, const Phrase& phrase, int rating) {
    session = changeCell(session, id(), lane, phrase, rating, std::nullopt);
  }
  [[nodiscard]] ResolvedComposite after(const RoughComposite& rough, bool keepChosen = true) const {
    const Session next = playRough(session, id(), rough.pieces, keepChosen);
    checkInvariants(next);
    return resolve(*next.tracks[0], rate);
  }

  Session session;
  std::vector<FileAnalysis> analyses;

 private:
  double length_;
};

inline const std::vector<std::pair<double, double>> words{{1.0, 2.0}, {2.5, 3.5}, {4.0, 5.0}};

inline Piece plain(LaneNumber lane) {
  Piece piece;
  piece.lane = lane;
  return piece;
}

}  // namespace yewdrift::test
