// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/join_scene.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/signal/correlation.h"
#include "core/signal/fourier.h"
#include "core/signal/spectra.h"

namespace yewdrift {
namespace {

constexpr double windowSeconds = 0.0213;
constexpr double quietest = 1e-10;       // mean square: -100 dB of full scale
constexpr float belowReference = 1e-7F;  // what is 70 dB below the loudest changes nothing
constexpr float maskedBelow = 1e-4F;     // 40 dB below the loudest band
constexpr std::size_t tolerance = 2;     // steps: who joins two takes may be 5 ms early, or late
constexpr std::size_t stepsBeforeOnset = 8;
constexpr std::size_t stepsOfAttack = 4;

float decibels(double ratio) {
  return static_cast<float>(10.0 * std::log10(std::max(ratio, 1e-20)));
}

float sumOf(const SceneBands& bands) {
  float sum = 0.0F;
  for (const float band : bands) sum += band;
  return sum;
}

/// What the samples of each step say by themselves.
void measureSteps(SceneSide& side, std::span<const float> samples, std::size_t step, std::size_t steps,
                  std::vector<float>& edge) {
  for (std::size_t k = 0; k < steps; ++k) {
    double square = 0.0;
    double steep = 0.0;
    float bend = 0.0F;
    float peak = 0.0F;
    for (std::size_t i = k * step; i < (k + 1) * step; ++i) {
      const float here = samples[i];
      const float before = i > 0 ? samples[i - 1] : here;
      const float behind = i + 1 < samples.size() ? samples[i + 1] : here;
      square += static_cast<double>(here) * here;
      steep += static_cast<double>(here - before) * (here - before);
      bend = std::max(bend, std::abs(behind - 2.0F * here + before));
      peak = std::max(peak, std::abs(here));
    }
    side.square.push_back(static_cast<float>(square / static_cast<double>(step)));
    edge.push_back(static_cast<float>(steep / static_cast<double>(step)));
    side.bend.push_back(bend);
    side.peak.push_back(peak);
  }
}

float loudestOf(const std::vector<float>& squares) {
  float loudest = 0.0F;
  for (std::size_t k = 0; k + changeSteps <= squares.size(); ++k) {
    float sum = 0.0F;
    for (std::size_t i = k; i < k + changeSteps; ++i) sum += squares[i];
    loudest = std::max(loudest, sum / static_cast<float>(changeSteps));
  }
  return loudest;
}

/// How far what follows `k` rises above all that was just before it, in dB.
float riseAt(const std::vector<float>& squares, std::size_t k, float floor) {
  const auto from = squares.begin() + static_cast<std::ptrdiff_t>(k);
  const float before = *std::max_element(from - static_cast<std::ptrdiff_t>(stepsBeforeOnset), from);
  const float behind = *std::max_element(from, from + static_cast<std::ptrdiff_t>(stepsOfAttack));
  return decibels((behind + floor) / (before + floor));
}

/// Places that rise above everything in the 20 ms before them. `edge`: the squares of the signal's slope,
/// in which bright attacks stand out of dark sounds.
void findSceneOnsets(SceneSide& side, const std::vector<float>& edge, float reference) {
  const std::size_t steps = side.square.size();
  const float floor = reference * 1e-5F + 1e-11F;
  const float edgeFloor = loudestOf(edge) * 1e-5F + 1e-12F;
  constexpr float leastRise = 5.0F;
  std::size_t next = stepsBeforeOnset;
  for (std::size_t k = stepsBeforeOnset; k + stepsOfAttack <= steps; ++k) {
    const auto rise = [&](std::size_t at) {
      return std::max(riseAt(side.square, at, floor), riseAt(edge, at, edgeFloor));
    };
    if (k < next || rise(k) < leastRise) continue;
    // The window of the attack sees it before it is there: the place is where it rises most steeply.
    std::size_t best = k;
    float most = 0.0F;
    for (std::size_t at = k; at < std::min(k + stepsOfAttack, steps - stepsOfAttack); ++at) {
      const float jump = std::max(decibels((side.square[at] + floor) / (side.square[at - 1] + floor)),
                                  decibels((edge[at] + edgeFloor) / (edge[at - 1] + edgeFloor)));
      if (jump > most) {
        most = jump;
        best = at;
      }
    }
    const auto from = side.square.begin() + static_cast<std::ptrdiff_t>(best);
    const float loud = *std::max_element(from, from + static_cast<std::ptrdiff_t>(stepsOfAttack));
    const float loudness =
        std::clamp((decibels(loud / std::max(reference, 1e-12F)) + 45.0F) / 40.0F, 0.0F, 1.0F);
    const float strength = std::clamp((rise(k) - 3.0F) / 12.0F, 0.0F, 1.0F) * loudness;
    if (strength > 0.05F) side.onsets.push_back({static_cast<float>(best), strength});
    next = best + stepsBeforeOnset;
  }
}

/// Each attack of one take and the nearest of the other, unless that has a nearer one, or it is too far away.
void pairOnsets(SceneSide& outgoing, SceneSide& incoming) {
  constexpr float farthest = 24.0F;  // 60 ms
  const auto nearest = [](const SceneOnset& onset, const std::vector<SceneOnset>& others) {
    return static_cast<std::size_t>(std::min_element(others.begin(), others.end(),
                                                     [&](const SceneOnset& a, const SceneOnset& b) {
                                                       return std::abs(a.step - onset.step) <
                                                              std::abs(b.step - onset.step);
                                                     }) -
                                    others.begin());
  };
  if (incoming.onsets.empty()) return;
  for (std::size_t i = 0; i < outgoing.onsets.size(); ++i) {
    const std::size_t other = nearest(outgoing.onsets[i], incoming.onsets);
    if (std::abs(incoming.onsets[other].step - outgoing.onsets[i].step) > farthest) continue;
    if (nearest(incoming.onsets[other], outgoing.onsets) != i) continue;
    outgoing.onsets[i].same = other;
    incoming.onsets[other].same = i;
  }
}

/// In each step, what is so far below the loudest band around it that nobody hears it there.
std::vector<float> maskedPowers(const MicrophoneScene& scene, float reference) {
  const std::size_t steps = scene.cross.size();
  std::vector<float> loudest(steps);
  for (std::size_t k = 0; k < steps; ++k)
    for (std::size_t band = 0; band < sceneBands; ++band)
      loudest[k] = std::max({loudest[k], scene.outgoing.power[k][band], scene.incoming.power[k][band]});
  std::vector<float> masked;
  for (std::size_t k = 0; k < steps; ++k) {
    const auto from = loudest.begin() + static_cast<std::ptrdiff_t>(k > tolerance ? k - tolerance : 0);
    const auto to = loudest.begin() + static_cast<std::ptrdiff_t>(std::min(steps, k + tolerance + 1));
    masked.push_back(std::max(reference * belowReference + static_cast<float>(quietest),
                              *std::max_element(from, to) * maskedBelow));
  }
  return masked;
}

void measureLevels(SceneSide& side, const std::vector<float>& masked) {
  for (std::size_t k = 0; k < side.power.size(); ++k) {
    SceneBands level{};
    for (std::size_t band = 0; band < sceneBands; ++band)
      level[band] = std::log2(side.power[k][band] + masked[k]);
    side.level.push_back(level);
  }
}

/// What each band counts in one step: those that are heard alike, the others less; all of them by how loud it
/// is.
SceneBands sharesOf(const SceneBands& a, const SceneBands& b, float masked, float power, float reference) {
  constexpr float least = 0.3F;
  const float floor = std::log2(masked);
  SceneBands share{};
  float sum = 0.0F;
  for (std::size_t band = 0; band < sceneBands; ++band) {
    share[band] = std::clamp((std::max(a[band], b[band]) - floor) / 3.0F, least, 1.0F);
    sum += share[band];
  }
  const float below = decibels(power / std::max(static_cast<double>(reference), quietest));
  const float loudness = 0.1F + 0.9F * std::clamp((below + 55.0F) / 50.0F, 0.0F, 1.0F);
  for (float& one : share) one *= loudness / sum;
  return share;
}

float distance(const SceneBands& a, const SceneBands& b, const SceneBands& share) {
  float sum = 0.0F;
  for (std::size_t band = 0; band < sceneBands; ++band) sum += share[band] * std::abs(a[band] - b[band]);
  return sum * decibelsPerUnit;
}

void measureAround(MicrophoneScene& scene, std::size_t steps) {
  for (std::size_t k = 0; k < steps; ++k) {
    SceneBands highest = scene.outgoing.level[k];
    SceneBands lowest = highest;
    float quickest = 0.0F;
    for (std::size_t i = k > tolerance ? k - tolerance : 0; i < std::min(steps, k + tolerance + 1); ++i) {
      for (std::size_t band = 0; band < sceneBands; ++band) {
        highest[band] =
            std::max({highest[band], scene.outgoing.level[i][band], scene.incoming.level[i][band]});
        lowest[band] = std::min({lowest[band], scene.outgoing.level[i][band], scene.incoming.level[i][band]});
      }
      quickest = std::max({quickest, scene.outgoing.change[i], scene.incoming.change[i]});
    }
    scene.highest.push_back(highest);
    scene.loudest.push_back(
        static_cast<std::size_t>(std::max_element(highest.begin(), highest.end()) - highest.begin()));
    scene.lowest.push_back(lowest);
    scene.quickest.push_back(quickest);
  }
}

MicrophoneScene sceneOf(StepSpectra& spectra, const JoinSides& sides, std::size_t step, std::size_t steps,
                        float around) {
  MicrophoneScene scene;
  scene.outgoing.samples.assign(sides.outgoing.begin(), sides.outgoing.end());
  scene.incoming.samples.assign(sides.incoming.begin(), sides.incoming.end());
  Spectrum outgoing;
  for (std::size_t k = 0; k < steps; ++k) {
    const auto at = static_cast<std::ptrdiff_t>(k * step);
    const auto heard = spectra.around(sides.outgoing, at);
    outgoing.assign(heard.begin(), heard.end());
    const auto incoming = spectra.around(sides.incoming, at);
    scene.outgoing.power.push_back(spectra.powers(outgoing));
    scene.incoming.power.push_back(spectra.powers(incoming));
    scene.cross.push_back(spectra.common(outgoing, incoming));
  }
  std::vector<float> outgoingEdge;
  std::vector<float> incomingEdge;
  measureSteps(scene.outgoing, sides.outgoing, step, steps, outgoingEdge);
  measureSteps(scene.incoming, sides.incoming, step, steps, incomingEdge);
  scene.outgoing.reference = loudestOf(scene.outgoing.square);
  scene.incoming.reference = loudestOf(scene.incoming.square);
  const float reference = std::max({scene.outgoing.reference, scene.incoming.reference, around});
  scene.reference = reference;
  findSceneOnsets(scene.outgoing, outgoingEdge, reference);
  findSceneOnsets(scene.incoming, incomingEdge, reference);
  pairOnsets(scene.outgoing, scene.incoming);
  scene.floor = maskedPowers(scene, reference);
  measureLevels(scene.outgoing, scene.floor);
  measureLevels(scene.incoming, scene.floor);
  double sums[3] = {0.0, 0.0, 0.0};
  for (std::size_t k = 0; k < steps; ++k) {
    const SceneBands& a = scene.outgoing.level[k];
    const SceneBands& b = scene.incoming.level[k];
    const float power = std::max(sumOf(scene.outgoing.power[k]), sumOf(scene.incoming.power[k]));
    scene.share.push_back(sharesOf(a, b, scene.floor[k], power, reference));
    scene.heard.push_back(sumOf(scene.share[k]));
    scene.unlikeness.push_back(distance(a, b, scene.share[k]));
    const std::size_t before = k >= changeSteps ? k - changeSteps : 0;
    scene.outgoing.change.push_back(distance(a, scene.outgoing.level[before], scene.share[k]));
    scene.incoming.change.push_back(distance(b, scene.incoming.level[before], scene.share[k]));
    scene.outgoingSum.push_back(sums[0]);
    scene.incomingSum.push_back(sums[1]);
    scene.crossSum.push_back(sums[2]);
    for (std::size_t i = k * step; i < (k + 1) * step; ++i) {
      const float x = sides.outgoing[i];
      const float y = sides.incoming[i];
      sums[0] += static_cast<double>(x) * x;
      sums[1] += static_cast<double>(y) * y;
      sums[2] += static_cast<double>(x) * y;
    }
  }
  scene.outgoingSum.push_back(sums[0]);
  scene.incomingSum.push_back(sums[1]);
  scene.crossSum.push_back(sums[2]);
  measureAround(scene, steps);
  return scene;
}

}  // namespace

StepSpectra::StepSpectra(SampleRate rate, Frames step)
    : step_(static_cast<std::size_t>(step.count)),
      size_(powerOfTwoFrom(static_cast<std::size_t>(windowSeconds * rate.hertz))),
      transform_(size_) {
  double energy = 0.0;
  for (std::size_t i = 0; i < size_; ++i) {
    const double phase = 2.0 * std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(size_);
    window_.push_back(0.5 - 0.5 * std::cos(phase));
    energy += window_.back() * window_.back();
  }
  for (double& value : window_) value *= std::sqrt(2.0 / (energy * static_cast<double>(size_)));
  // The lowest bin is no sound.
  std::size_t bin = 1;
  for (std::size_t band = 0; band < sceneBands; ++band) {
    firstBin_[band] = bin;
    const auto within = [&] {
      return band + 1 == sceneBands ||
             static_cast<double>(bin) * rate.hertz / static_cast<double>(size_) < bandEnds[band];
    };
    while (bin <= size_ / 2 && within()) ++bin;
  }
  firstBin_[sceneBands] = bin;
}

std::span<const std::complex<double>> StepSpectra::around(std::span<const float> samples, std::ptrdiff_t at) {
  const auto signal = transform_.signal();
  const auto size = static_cast<std::ptrdiff_t>(size_);
  const std::ptrdiff_t first = at + static_cast<std::ptrdiff_t>(step_ / 2) - size / 2;
  const std::ptrdiff_t from = std::clamp<std::ptrdiff_t>(-first, 0, size);
  const std::ptrdiff_t to =
      std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(samples.size()) - first, from, size);
  std::fill(signal.begin(), signal.begin() + from, 0.0);
  double* const into = signal.data();
  const double* const window = window_.data();
  const float* const heard = samples.data();
  for (std::ptrdiff_t i = from; i < to; ++i) into[i] = window[i] * heard[first + i];
  std::fill(signal.begin() + to, signal.end(), 0.0);
  return transform_.run();
}

template <typename Term>
SceneBands StepSpectra::sumsOf(Term term) const {
  SceneBands bands{};
  for (std::size_t band = 0; band < sceneBands; ++band) {
    // Two by two: one sum would wait for the other.
    double even = 0.0;
    double odd = 0.0;
    std::size_t bin = firstBin_[band];
    for (; bin + 1 < firstBin_[band + 1]; bin += 2) {
      even += term(bin);
      odd += term(bin + 1);
    }
    if (bin < firstBin_[band + 1]) even += term(bin);
    bands[band] = static_cast<float>(even + odd);
  }
  return bands;
}

SceneBands StepSpectra::powers(std::span<const std::complex<double>> spectrum) const {
  return sumsOf([spectrum = spectrum.data()](std::size_t bin) {
    const double real = spectrum[bin].real();
    const double imaginary = spectrum[bin].imag();
    return real * real + imaginary * imaginary;
  });
}

SceneBands StepSpectra::common(std::span<const std::complex<double>> a,
                               std::span<const std::complex<double>> b) const {
  return sumsOf([a = a.data(), b = b.data()](std::size_t bin) {
    return a[bin].real() * b[bin].real() + a[bin].imag() * b[bin].imag();
  });
}

Frames JoinScene::at(double step_) const {
  return start + Frames{std::llround(step_ * static_cast<double>(step.count))};
}

double JoinScene::stepOf(Frames at) const {
  return static_cast<double>((at - start).count) / static_cast<double>(step.count);
}

double JoinScene::correlation(std::size_t from, std::size_t to) const {
  CorrelationSums sums;
  for (const MicrophoneScene& microphone : microphones) {
    sums.aa += microphone.outgoingSum[to] - microphone.outgoingSum[from];
    sums.bb += microphone.incomingSum[to] - microphone.incomingSum[from];
    sums.ab += microphone.crossSum[to] - microphone.crossSum[from];
  }
  return sums.correlation();
}

Frames sceneStep(SampleRate rate) {
  return Frames{static_cast<std::int64_t>(std::lround(rate.hertz * 0.0025))};
}

JoinScene makeJoinScene(StepSpectra& spectra, std::span<const JoinSides> sides, SampleRate rate, Frames start,
                        std::span<const float> references) {
  JoinScene scene{start, sceneStep(rate), rate, {}};
  const auto step = static_cast<std::size_t>(scene.step.count);
  for (std::size_t i = 0; i < sides.size(); ++i)
    scene.microphones.push_back(sceneOf(spectra, sides[i], step,
                                        std::min(sides[i].outgoing.size(), sides[i].incoming.size()) / step,
                                        i < references.size() ? references[i] : 0.0F));
  return scene;
}

float loudestSquare(std::span<const float> samples, SampleRate rate) {
  const auto step = static_cast<std::size_t>(sceneStep(rate).count);
  std::vector<float> squares;
  for (std::size_t k = 0; (k + 1) * step <= samples.size(); ++k) {
    double sum = 0.0;
    for (const float sample : samples.subspan(k * step, step)) sum += static_cast<double>(sample) * sample;
    squares.push_back(static_cast<float>(sum / static_cast<double>(step)));
  }
  return loudestOf(squares);
}

}  // namespace yewdrift
