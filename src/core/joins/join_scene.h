// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <complex>
#include <optional>
#include <span>
#include <vector>

#include "core/signal/fourier.h"
#include "core/time/frames.h"

namespace yewdrift {

/// Pairs of the ear's critical bands: the level of each, and how far both takes agree in it, is what a
/// crossfade is judged by.
inline constexpr std::size_t sceneBands = 24;
using SceneBands = std::array<float, sceneBands>;
inline constexpr float decibelsPerUnit = 3.0103F;  // levels are logarithms to base 2
inline constexpr std::size_t changeSteps = 4;      // 10 ms: over these the change of a sound is told
/// The window through which a scene is seen, squared, at whole steps from its middle.
inline constexpr std::array<double, 4> sceneWindowAt{1.0, 0.757, 0.301, 0.041};

/// Both takes of a join, through one microphone, over the same stretch.
struct JoinSides {
  std::span<const float> outgoing;
  std::span<const float> incoming;
};

/// Where something begins in a take: a stroke, a pluck, a syllable.
struct SceneOnset {
  float step = 0.0F;                  // where, in steps of the scene
  float strength = 0.0F;              // 0 to 1: how far it rises above what was there, and how loud it is
  std::optional<std::size_t> same{};  // the other take's that is the same one
};

/// The spectrum around the middle of a step, by bands, so that the bands of a signal add up to its mean
/// square. One thread at a time.
class StepSpectra {
 public:
  StepSpectra(SampleRate rate, Frames step);

  /// Of the window around the middle of the step that begins at sample `at`, which may lie outside.
  [[nodiscard]] std::span<const std::complex<double>> around(std::span<const float> samples,
                                                             std::ptrdiff_t at);
  [[nodiscard]] SceneBands powers(std::span<const std::complex<double>> spectrum) const;
  /// What two of them have in common: negative where they are opposed.
  [[nodiscard]] SceneBands common(std::span<const std::complex<double>> a,
                                  std::span<const std::complex<double>> b) const;
  /// How far the window reaches to either side of the step's middle.
  [[nodiscard]] std::size_t reach() const { return size_ / 2; }

 private:
  template <typename Term>
  [[nodiscard]] SceneBands sumsOf(Term term) const;

  std::size_t step_;
  std::size_t size_;
  RepeatedTransform transform_;
  std::vector<double> window_;
  std::array<std::size_t, sceneBands + 1> firstBin_{};  // of each band; the last is one past all
};

/// One take, step by step.
struct SceneSide {
  std::vector<float> samples;
  std::vector<SceneBands> power;  // around the middle of each step
  std::vector<SceneBands> level;  // of that, in units of 3 dB; what is 60 dB below the loudest is lifted
  std::vector<float> change;      // in dB against 10 ms before, each band by its share
  std::vector<float> square;      // mean square of the step's own samples
  std::vector<float> bend;        // the largest second difference in it
  std::vector<float> peak;        // the largest sample in it
  std::vector<SceneOnset> onsets;
  float reference = 0.0F;  // mean square of its loudest 10 ms in the scene
};

/// Both takes around a boundary through one microphone, in steps of 2.5 ms: all that the search for the best
/// crossfade asks about, so that it
/// hardly ever touches a sample.
struct MicrophoneScene {
  SceneSide outgoing;
  SceneSide incoming;
  float reference = 0.0F;         // mean square of the loudest 10 ms of either, here or around
  std::vector<SceneBands> cross;  // power in common: negative where both are opposed
  std::vector<float> floor;       // power that what is loudest around each step masks
  std::vector<SceneBands> share;  // what each band counts, 1 for all together where it is loud, 0 in a rest
  std::vector<float> heard;       // all shares of a step together
  std::vector<float> unlikeness;  // of the two, in dB, each band by its share
  // What either take does within 5 ms of a step: who joins them may be a little early, or late.
  std::vector<SceneBands> highest;
  std::vector<SceneBands> lowest;
  std::vector<std::size_t> loudest;  // the band that is highest
  std::vector<float> quickest;       // change
  std::vector<double> outgoingSum;   // sums of squares up to each step: for the correlation over any stretch
  std::vector<double> incomingSum;
  std::vector<double> crossSum;
};

struct JoinScene {
  Frames start;  // of the first step
  Frames step;
  SampleRate rate;
  std::vector<MicrophoneScene> microphones;
  [[nodiscard]] std::size_t steps() const {
    return microphones.empty() ? 0 : microphones.front().unlikeness.size();
  }
  [[nodiscard]] Frames at(double step_) const;
  [[nodiscard]] double stepOf(Frames at) const;
  /// The correlation of both over steps [from, to), through all microphones.
  [[nodiscard]] double correlation(std::size_t from, std::size_t to) const;
};

Frames sceneStep(SampleRate rate);

/// `spectra`: of that rate and its step. `sides`: one for each microphone, all of one length, the first
/// sample at `start`. A stereo microphone counts as two. `references`: how loud either take is farther
/// around, through each microphone, as a mean square over 10 ms; none: as loud as in the scene.
JoinScene makeJoinScene(StepSpectra& spectra, std::span<const JoinSides> sides, SampleRate rate, Frames start,
                        std::span<const float> references = {});
/// The loudest 10 ms of a signal, as a mean square.
float loudestSquare(std::span<const float> samples, SampleRate rate);

}  // namespace yewdrift
