// SPDX-License-Identifier: GPL-3.0-or-later
#include "seams/seam_judge.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/signal/fourier.h"

namespace yewdrift::bench {
namespace {

constexpr std::size_t hop = 240;  // 5 ms
constexpr std::size_t size = 1024;
constexpr std::size_t bands = 22;  // thirds of an octave from 100 Hz

struct Frame {
  std::vector<double> level;  // dB a band
  double loudness = -120.0;   // dB
};

std::vector<Frame> framesOf(std::span<const float> signal) {
  static thread_local RepeatedTransform transform(size);
  static const std::vector<double> window = [] {
    std::vector<double> made;
    for (std::size_t i = 0; i < size; ++i)
      made.push_back(0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / size));
    return made;
  }();
  static const std::vector<std::size_t> bandOf = [] {
    std::vector<std::size_t> made;
    for (std::size_t bin = 0; bin <= size / 2; ++bin) {
      const double hertz = std::max(1.0, static_cast<double>(bin) * 48000.0 / size);
      made.push_back(
          static_cast<std::size_t>(std::clamp(3.0 * std::log2(hertz / 100.0) + 1.0, 0.0, bands - 1.0)));
    }
    return made;
  }();
  std::vector<Frame> frames;
  for (std::size_t from = 0; from + size <= signal.size(); from += hop) {
    const auto in = transform.signal();
    double square = 0.0;
    for (std::size_t i = 0; i < size; ++i) {
      in[i] = window[i] * signal[from + i];
      square += in[i] * in[i];
    }
    std::vector<double> power(bands, 0.0);
    const auto spectrum = transform.run();
    for (std::size_t bin = 1; bin < spectrum.size(); ++bin) power[bandOf[bin]] += std::norm(spectrum[bin]);
    Frame frame;
    for (const double p : power) frame.level.push_back(10.0 * std::log10(p / (size * size / 8.0) + 1e-12));
    frame.loudness = 10.0 * std::log10(square / (size * 0.375) + 1e-12);
    frames.push_back(std::move(frame));
  }
  return frames;
}

double audible(double decibels, double loudest) {
  return std::clamp((decibels - loudest + 55.0) / 50.0, 0.05, 1.0);
}

/// Mean movement of the bands that are heard, in dB, over 10 ms.
double movement(const std::vector<Frame>& frames, std::size_t k, double loudest) {
  if (k < 2) return 0.0;
  double sum = 0.0;
  double count = 1e-9;
  const double floor = std::max(*std::max_element(frames[k].level.begin(), frames[k].level.end()),
                                *std::max_element(frames[k - 2].level.begin(), frames[k - 2].level.end())) -
                       40.0;
  for (std::size_t band = 0; band < bands; ++band) {
    const double now = std::max(floor, frames[k].level[band]);
    const double before = std::max(floor, frames[k - 2].level[band]);
    if (now <= floor && before <= floor) continue;
    sum += std::abs(now - before);
    ++count;
  }
  return sum / count * audible(std::max(frames[k].loudness, frames[k - 2].loudness), loudest);
}

struct Onset {
  double at = 0.0;  // samples
  double strength = 0.0;
};

/// Where many bands rise together.
std::vector<Onset> onsetsOf(const std::vector<Frame>& frames, double loudest) {
  std::vector<double> rise(frames.size(), 0.0);
  for (std::size_t k = 2; k < frames.size(); ++k) {
    const double floor = loudest - 55.0;
    for (std::size_t band = 0; band < bands; ++band)
      rise[k] +=
          std::max(0.0, std::max(floor, frames[k].level[band]) - std::max(floor, frames[k - 2].level[band])) /
          bands;
  }
  std::vector<Onset> onsets;
  for (std::size_t k = 2; k + 2 < rise.size(); ++k) {
    const bool peak =
        rise[k] >= rise[k - 1] && rise[k] > rise[k + 1] && rise[k] >= rise[k - 2] && rise[k] > rise[k + 2];
    if (!peak || rise[k] < 4.0) continue;
    const double at = static_cast<double>(k * hop + size / 2 - hop);
    if (!onsets.empty() && at - onsets.back().at < 1400.0) continue;
    onsets.push_back({at, std::clamp((rise[k] - 3.0) / 5.0, 0.0, 1.0)});
  }
  return onsets;
}

const Onset* nearest(const std::vector<Onset>& onsets, double at, double within) {
  const Onset* found = nullptr;
  for (const Onset& onset : onsets)
    if (std::abs(onset.at - at) <= within && (!found || std::abs(onset.at - at) < std::abs(found->at - at)))
      found = &onset;
  return found;
}

double onsetBadness(const std::vector<Onset>& out, const std::vector<Onset>& in,
                    const std::vector<Onset>& heard) {
  constexpr double same = 2880.0;  // 60 ms
  constexpr double near = 720.0;   // 15 ms
  double bad = 0.0;
  // Heard, but in neither take.
  for (const Onset& onset : heard)
    if (!nearest(out, onset.at, near) && !nearest(in, onset.at, near)) bad += onset.strength;
  // Of those that both takes have, one is to be heard.
  for (const Onset& onset : out) {
    const Onset* const other = nearest(in, onset.at, same);
    if (!other) continue;
    const bool first = nearest(heard, onset.at, near) != nullptr;
    const bool second = nearest(heard, other->at, near) != nullptr;
    const double strength = std::min(onset.strength, other->strength);
    if (!first && !second) bad += strength;
    if (first && second && nearest(heard, onset.at, near) != nearest(heard, other->at, near)) bad += strength;
  }
  return bad;
}

double clickBadness(std::span<const float> out, std::span<const float> in, std::span<const float> heard) {
  const auto bend = [](std::span<const float> s, std::size_t i) {
    return std::abs(static_cast<double>(s[i + 1]) - 2.0 * s[i] + s[i - 1]);
  };
  constexpr std::size_t block = 240;
  double worst = 0.0;
  std::vector<double> own;
  std::vector<double> here;
  for (std::size_t from = 1; from + block + 1 < heard.size(); from += block) {
    double a = 0.0;
    double b = 0.0;
    for (std::size_t i = from; i < from + block; ++i) {
      a = std::max({a, bend(out, i), bend(in, i)});
      b = std::max(b, bend(heard, i));
    }
    own.push_back(a);
    here.push_back(b);
  }
  for (std::size_t k = 1; k + 1 < own.size(); ++k) {
    const double most = std::max({own[k - 1], own[k], own[k + 1], 2e-5});
    worst = std::max(worst, 20.0 * std::log10(std::max(here[k], 1e-9) / most));
  }
  return std::clamp((worst - 1.0) / 12.0, 0.0, 2.0);
}

double distance(const Frame& a, const Frame& b) {
  const double floor = std::max(*std::max_element(a.level.begin(), a.level.end()),
                                *std::max_element(b.level.begin(), b.level.end())) -
                       40.0;
  double sum = 0.0;
  double count = 1e-9;
  for (std::size_t band = 0; band < bands; ++band) {
    const double x = std::max(floor, a.level[band]);
    const double y = std::max(floor, b.level[band]);
    if (x <= floor && y <= floor) continue;
    sum += std::abs(x - y);
    ++count;
  }
  return sum / count;
}

}  // namespace

Badness judgeSeam(std::span<const float> out, std::span<const float> in, std::span<const float> heard,
                  std::size_t centre, double loudestSquare) {
  const double loudest = 10.0 * std::log10(loudestSquare + 1e-12);
  const auto a = framesOf(out);
  const auto b = framesOf(in);
  const auto y = framesOf(heard);
  Badness bad;
  bad.click = clickBadness(out, in, heard);
  bad.onsets = onsetBadness(onsetsOf(a, loudest), onsetsOf(b, loudest), onsetsOf(y, loudest));
  for (std::size_t k = 1; k + 1 < y.size(); ++k) {
    double highest = -200.0;
    double lowest = 200.0;
    double quickest = 0.0;
    for (std::size_t i = k - 1; i <= k + 1; ++i) {
      highest = std::max({highest, a[i].loudness, b[i].loudness});
      lowest = std::min({lowest, a[i].loudness, b[i].loudness});
      quickest = std::max({quickest, movement(a, i, loudest), movement(b, i, loudest)});
    }
    const double outside = std::max({0.0, y[k].loudness - highest - 0.5, lowest - y[k].loudness - 0.5});
    bad.level += outside * audible(highest, loudest) / 12.0;
    bad.change += std::max(0.0, movement(y, k, loudest) - quickest - 0.5) / 12.0;
  }
  const std::size_t k = std::min(y.size() - 1, centre >= size / 2 ? (centre - size / 2) / hop : 0);
  bad.exposure =
      std::min(1.0, distance(a[k], b[k]) / 10.0) * audible(std::max(a[k].loudness, b[k].loudness), loudest);
  return bad;
}

}  // namespace yewdrift::bench
