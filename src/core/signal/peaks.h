// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace yewdrift {

/// Lowest and highest sample of a stretch, and its root mean square; of full scale 1.
struct Peak {
  float low = 0.0F;
  float high = 0.0F;
  float rms = 0.0F;
  bool operator==(const Peak&) const = default;
};

/// Peaks of one signal at several scales: level 0 holds one peak for every 256 samples, each further level
/// one for four of the level before. Views paint from the level that fits their zoom, never from samples.
class PeakPyramid {
 public:
  static constexpr std::int64_t baseSpan = 256;
  static constexpr std::int64_t levelFactor = 4;

  /// Adds samples at the end; may be called while the signal grows.
  void append(std::span<const float> samples);
  [[nodiscard]] std::int64_t length() const { return length_; }

  /// The peak of samples [from, to), from the coarsest level that resolves it; edges are widened to whole
  /// base stretches. Silence outside the signal.
  [[nodiscard]] Peak over(std::int64_t from, std::int64_t to) const;

  /// Replaces the base peaks from index `from` on: how a view follows a signal that grows elsewhere.
  void replaceBase(std::size_t from, std::span<const Peak> peaks, std::int64_t length);

  [[nodiscard]] const std::vector<std::vector<Peak>>& levels() const { return levels_; }
  /// A pyramid from level-0 peaks, as read from the cache.
  static PeakPyramid fromBase(std::vector<Peak> base, std::int64_t length);
  bool operator==(const PeakPyramid&) const = default;

 private:
  void refreshAbove(std::size_t firstBase);

  std::int64_t length_ = 0;
  double sumOfSquares_ = 0.0;  // of the stretch being filled
  std::vector<std::vector<Peak>> levels_ = {{}};
};

}  // namespace yewdrift
