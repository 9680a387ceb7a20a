// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "core/signal/fourier.h"
#include "core/time/frames.h"

namespace yewdrift {

/// The level in each of the ear's critical bands (E. Zwicker, "Subdivision of the audible frequency range
/// into critical bands", JASA 33, 1961; edges from memory), in steps of half a decibel above -120 dB of full
/// scale, mean square. A band that lies beyond half the rate is 0.
inline constexpr std::size_t bandCount = 24;
using BandLevels = std::array<std::uint8_t, bandCount>;

/// Where the bands end, in Hz; the first begins at 0.
inline constexpr std::array<double, bandCount> bandEnds{100,  200,  300,  400,  510,  630,  770,   920,
                                                        1080, 1270, 1480, 1720, 2000, 2320, 2700,  3150,
                                                        3700, 4400, 5300, 6400, 7700, 9500, 12000, 15500};
inline double bandDecibels(std::uint8_t level) {
  return level / 2.0 - 120.0;
}

/// Of a signal: the spectrum around the middle of every `step`, through a window of about 21 ms. Blocks of
/// any length, in order. One thread at a time.
class SpectraFollower {
 public:
  SpectraFollower(SampleRate rate, Frames step);

  void add(std::span<const float> samples);
  /// One for each step, the last one begun too; nothing may be added afterwards.
  [[nodiscard]] std::vector<BandLevels> finish();

 private:
  void measure();

  std::size_t step_;
  RepeatedTransform transform_;
  std::vector<double> window_;
  std::vector<std::size_t> bandOfBin_;
  std::vector<float> recent_;  // from half a window before the middle of the next step on
  std::size_t before_;         // silence in front of the first sample
  std::size_t added_ = 0;
  std::vector<BandLevels> found_;
};

/// How unlike two spectra sound, in dB: the mean distance over bands, each counted by how loud it is against
/// the loudest of either. 0: alike; of silence and silence too.
double spectralDistance(const BandLevels& a, const BandLevels& b);

}  // namespace yewdrift
