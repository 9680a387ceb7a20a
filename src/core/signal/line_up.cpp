// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/line_up.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "core/signal/finite.h"
#include "core/signal/fourier.h"
#include "core/signal/pitch_track.h"
#include "core/signal/spectra.h"

namespace yewdrift {
namespace {

constexpr double leastSeconds = 0.25;  // less says nothing
constexpr double mostSeconds = 120.0;
constexpr double lowestHertz = 60.0;  // of what is compared: rumble and hum say nothing
constexpr double highestHertz = 12'000.0;

using Cancelled = const std::atomic<bool>*;

bool isCancelled(Cancelled cancelled) {
  return cancelled && *cancelled;
}

/// What is found at every offset, and how far the best stands out. Index 0 is an offset of -within.
struct Found {
  std::int64_t best = 0;
  double rival = 1.0;    // the next best, `apart` or more away, as a share of the best
  double standsOut = 0;  // the best as a multiple of the root mean square of all
  double value = 0.0;
};

Found bestOf(const std::vector<double>& found, std::int64_t apart, bool eitherSign) {
  Found result;
  const auto value = [&](std::size_t i) { return eitherSign ? std::abs(found[i]) : found[i]; };
  std::size_t best = 0;
  double squares = 0.0;
  for (std::size_t i = 0; i < found.size(); ++i) {
    if (value(i) > value(best)) best = i;
    squares += found[i] * found[i];
  }
  result.best = static_cast<std::int64_t>(best);
  result.value = value(best);
  if (result.value <= 0.0) return result;
  result.standsOut = result.value / std::sqrt(squares / static_cast<double>(found.size()));
  result.rival = 0.0;
  for (std::size_t i = 0; i < found.size(); ++i)
    if (std::abs(static_cast<std::int64_t>(i) - result.best) >= apart)
      result.rival = std::max(result.rival, value(i) / result.value);
  return result;
}

double finiteEnergy(std::span<const float> samples) {
  double energy = 0.0;
  for (const float sample : samples) energy += static_cast<double>(finite(sample)) * finite(sample);
  return energy;
}

/// The stretch of at most that length in which both together have most energy.
Span loudest(const ReadSignal& a, const ReadSignal& b, Frames most, SampleRate rate, Cancelled cancelled) {
  const Frames all = std::min(a.length, b.length);
  if (all <= most) return {{}, all};
  const Frames step{rate.hertz};
  std::vector<double> energies;
  for (Span each{{}, step}; each.end <= all && !isCancelled(cancelled); each.start += step, each.end += step)
    energies.push_back(std::sqrt(finiteEnergy(a.read(each)) * finiteEnergy(b.read(each))));
  const auto count = static_cast<std::size_t>(most.count / step.count);
  std::size_t best = 0;
  double sum = 0.0;
  double highest = -1.0;
  for (std::size_t i = 0; i < energies.size(); ++i) {
    sum += energies[i];
    if (i >= count) sum -= energies[i - count];
    if (i + 1 >= count && sum > highest) {
      highest = sum;
      best = i + 1 - count;
    }
  }
  const Frames from{static_cast<std::int64_t>(best) * step.count};
  return {from, from + Frames{static_cast<std::int64_t>(count) * step.count}};
}

/// How many samples are no more than 60 dB below the loudest of them.
std::int64_t soundingFrames(std::span<const float> samples) {
  float loudest = 0.0F;
  for (const float sample : samples) loudest = std::max(loudest, std::abs(finite(sample)));
  if (loudest == 0.0F) return 0;
  return std::count_if(samples.begin(), samples.end(),
                       [least = loudest * 1e-3F](float sample) { return std::abs(finite(sample)) >= least; });
}

/// Copies [from, from + length) of a signal; silence outside it.
std::vector<float> stretchOf(std::span<const float> signal, std::int64_t from, std::int64_t length) {
  std::vector<float> stretch(static_cast<std::size_t>(length));
  const std::int64_t first = std::max<std::int64_t>(0, from);
  const std::int64_t last = std::min(static_cast<std::int64_t>(signal.size()), from + length);
  for (std::int64_t i = first; i < last; ++i)
    stretch[static_cast<std::size_t>(i - from)] = finite(signal[static_cast<std::size_t>(i)]);
  return stretch;
}

/// One of two stretches that are cut out of what sounds is led in and out, or their ends lie over each other.
void leadInAndOut(std::vector<float>& stretch, SampleRate rate) {
  const auto length =
      std::min(stretch.size() / 2, static_cast<std::size_t>(framesFromSeconds(0.010, rate).count));
  for (std::size_t i = 0; i < length; ++i) {
    const float gain = static_cast<float>(
        0.5 - 0.5 * std::cos(3.141592653589793 * static_cast<double>(i) / static_cast<double>(length)));
    stretch[i] *= gain;
    stretch[stretch.size() - 1 - i] *= gain;
  }
}

/// The cross-correlation of the waves with every frequency given the same weight, of what the reference holds
/// in that part. Nothing where it is cancelled.
Found compareWaves(std::span<const float> reference, std::span<const float> take, Span part,
                   std::int64_t within, SampleRate rate, Cancelled cancelled) {
  const std::int64_t segment =
      std::min(part.length().count, std::max<std::int64_t>(std::int64_t{1} << 17, 4 * within));
  const std::size_t size = powerOfTwoFrom(static_cast<std::size_t>(segment + 2 * within));
  Spectrum cross(size / 2 + 1);
  for (std::int64_t from = part.start.count; from < part.end.count; from += segment) {
    if (isCancelled(cancelled)) return {};
    const std::int64_t length = std::min(segment, part.end.count - from);
    std::vector<float> around = stretchOf(take, from - within, length + 2 * within);
    leadInAndOut(around, rate);
    const Spectrum a = spectrumOf(stretchOf(reference, from, length), size);
    const Spectrum b = spectrumOf(around, size);
    for (std::size_t i = 0; i < cross.size(); ++i) cross[i] += b[i] * std::conj(a[i]);
  }
  double mean = 0.0;
  for (const auto& each : cross) mean += std::abs(each) / static_cast<double>(cross.size());
  // What is all but silent in both is noise of the arithmetic, and is not brought up to the rest.
  const double floor = 1e-3 * mean;
  const double binHertz = static_cast<double>(rate.hertz) / static_cast<double>(size);
  for (std::size_t i = 0; i < cross.size(); ++i) {
    const double hertz = static_cast<double>(i) * binHertz;
    const bool counts = hertz >= lowestHertz && hertz <= highestHertz;
    cross[i] = counts && mean > 0.0 ? cross[i] / (std::abs(cross[i]) + floor) : 0.0;
  }
  std::vector<double> found = signalOf(std::move(cross), size);
  found.resize(static_cast<std::size_t>(2 * within + 1));
  // Where a lag of the signal is an offset of -within + lag of the take, to be taken back.
  std::reverse(found.begin(), found.end());
  return bestOf(found, std::max<std::int64_t>(1, framesFromSeconds(0.002, rate).count), true);
}

/// Whether what was found for the whole is found in most of its parts too. In the same performance it is, in
/// another one a tone or two may lie over each other by chance, and stand out.
bool partsAgree(std::span<const float> reference, std::span<const float> take, const Found& whole,
                std::int64_t within, SampleRate rate, Cancelled cancelled) {
  const auto all = static_cast<std::int64_t>(std::min(reference.size(), take.size()));
  const std::int64_t parts = std::min<std::int64_t>(5, all / framesFromSeconds(0.5, rate).count);
  if (parts < 2) return true;
  const auto leastSounding = framesFromSeconds(0.010, rate).count;
  // A tone lies over another at every period of it; of the same performance all lies where the rest does.
  const auto near = framesFromSeconds(0.0001, rate).count;
  int counted = 0;
  int agree = 0;
  for (std::int64_t i = 0; i < parts; ++i) {
    const Span part{{all * i / parts}, {all * (i + 1) / parts}};
    const auto heard = reference.subspan(static_cast<std::size_t>(part.start.count),
                                         static_cast<std::size_t>(part.length().count));
    if (soundingFrames(heard) >= leastSounding) {
      ++counted;
      const Found found = compareWaves(reference, take, part, within, rate, cancelled);
      agree += found.value > 0.0 && std::abs(found.best - whole.best) <= near ? 1 : 0;
    }
  }
  // What was played anew in a part of it changes nothing.
  return agree >= std::min(2, counted) && 2 * agree >= counted;
}

/// How the level rises in the ear's bands, step by step; each of mean 0 and mean square 1. Notes that are
/// played under one bow or sung in one breath begin in some of them only.
using Rises = std::array<std::vector<float>, bandCount>;

/// What is that much quieter than the loudest band is of no account, nor a band that far below its own peak.
constexpr double heardBelowAll = 60.0;
constexpr double heardBelowPeak = 40.0;
/// What rises from silence says no more than what rises plainly.
constexpr double mostRise = 12.0;

std::vector<float> risesOf(const std::vector<double>& level) {
  std::vector<float> rise(level.size());
  // Over some steps, so that a few milliseconds do not matter.
  constexpr std::size_t reach = 5;
  for (std::size_t i = reach; i + reach < level.size(); ++i) {
    double before = 0.0;
    double behind = 0.0;
    for (std::size_t j = 0; j < reach; ++j) {
      before += level[i - 1 - j];
      behind += level[i + j];
    }
    rise[i] = static_cast<float>(std::clamp((behind - before) / reach, 0.0, mostRise));
  }
  const double count = static_cast<double>(std::max<std::size_t>(1, rise.size()));
  double mean = 0.0;
  for (const float each : rise) mean += each / count;
  double square = 0.0;
  for (float& each : rise) {
    each -= static_cast<float>(mean);
    square += static_cast<double>(each) * each / count;
  }
  const float scale = square > 1e-9 ? static_cast<float>(1.0 / std::sqrt(square)) : 0.0F;
  for (float& each : rise) each *= scale;
  return rise;
}

Rises risesOf(std::span<const float> signal, std::int64_t step, SampleRate rate) {
  SpectraFollower follower(rate, {step});
  follower.add(signal);
  const std::vector<BandLevels> levels = follower.finish();
  BandLevels peaks{};
  for (const BandLevels& each : levels)
    for (std::size_t band = 0; band < bandCount; ++band) peaks[band] = std::max(peaks[band], each[band]);
  const double loudest = bandDecibels(*std::max_element(peaks.begin(), peaks.end()));
  Rises rises;
  for (std::size_t band = 0; band < bandCount; ++band) {
    const double floor = std::max(loudest - heardBelowAll, bandDecibels(peaks[band]) - heardBelowPeak);
    std::vector<double> level;
    level.reserve(levels.size());
    for (const BandLevels& each : levels) level.push_back(std::max(floor, bandDecibels(each[band])));
    rises[band] = risesOf(level);
  }
  return rises;
}

struct RisesFound {
  Found found;
  double offsetSteps = 0.0;
  double alike = 0.0;  // correlation, -1 to 1
  double beginnings = 0.0;
};

/// About how many things begin in both where the take is moved by so many steps: as many, all alike, would
/// have those moments over stretches in which one thing begins.
double beginningsInBoth(const Rises& reference, const Rises& take, std::int64_t offset) {
  constexpr std::int64_t stretch = 40;
  const auto length = static_cast<std::int64_t>(reference[0].size());
  std::vector<double> inBoth(static_cast<std::size_t>(length / stretch + 1), 0.0);
  const std::int64_t last = length + std::min<std::int64_t>(0, offset);
  for (std::int64_t i = std::max<std::int64_t>(0, offset); i < last; ++i)
    for (std::size_t band = 0; band < bandCount; ++band)
      inBoth[static_cast<std::size_t>(i / stretch)] +=
          static_cast<double>(reference[band][static_cast<std::size_t>(i)]) *
          take[band][static_cast<std::size_t>(i - offset)];
  double sum = 0.0;
  double squares = 0.0;
  for (const double both : inBoth) {
    sum += std::max(0.0, both);
    squares += both > 0.0 ? both * both : 0.0;
  }
  return squares > 0.0 ? sum * sum / squares : 0.0;
}

RisesFound compareRises(const Rises& reference, const Rises& take, std::int64_t within, std::int64_t apart,
                        Cancelled cancelled) {
  RisesFound result;
  const auto length = static_cast<std::int64_t>(reference[0].size());
  if (length < 3) return result;
  const std::size_t size = powerOfTwoFrom(static_cast<std::size_t>(length + 2 * within));
  Spectrum cross(size / 2 + 1);
  double most = 0.0;
  for (std::size_t band = 0; band < bandCount; ++band) {
    if (isCancelled(cancelled)) return result;
    const auto a = stretchOf(reference[band], 0, length);
    const auto b = stretchOf(take[band], 0, length);
    double ofA = 0.0;
    double ofB = 0.0;
    for (const float each : a) ofA += static_cast<double>(each) * each;
    for (const float each : b) ofB += static_cast<double>(each) * each;
    most += std::sqrt(ofA * ofB);
    const Spectrum spectrumA = spectrumOf(a, size);
    const Spectrum spectrumB = spectrumOf(stretchOf(b, -within, length + 2 * within), size);
    for (std::size_t i = 0; i < cross.size(); ++i) cross[i] += spectrumB[i] * std::conj(spectrumA[i]);
  }
  std::vector<double> found = signalOf(std::move(cross), size);
  found.resize(static_cast<std::size_t>(2 * within + 1));
  std::reverse(found.begin(), found.end());
  result.found = bestOf(found, apart, false);
  result.beginnings = beginningsInBoth(reference, take, result.found.best - within);
  if (result.found.value <= 0.0) return result;
  result.alike = result.found.value / most;
  const auto best = static_cast<std::size_t>(result.found.best);
  double between = 0.0;  // the top of a parabola through three values
  if (best > 0 && best + 1 < found.size()) {
    const double bend = found[best - 1] - 2.0 * found[best] + found[best + 1];
    if (bend < 0.0) between = 0.5 * (found[best - 1] - found[best + 1]) / bend;
  }
  result.offsetSteps = static_cast<double>(result.found.best - within) + between;
  return result;
}

LineUp lookFor(std::span<const float> reference, std::span<const float> take, Frames within, SampleRate rate,
               Cancelled cancelled) {
  LineUp result;
  // A click or two lies well with anything.
  const auto leastSounding = framesFromSeconds(0.010, rate).count;
  if (soundingFrames(reference) < leastSounding || soundingFrames(take) < leastSounding) return result;
  const std::int64_t reach = std::max<std::int64_t>(1, within.count);
  const Span all{{}, {static_cast<std::int64_t>(reference.size())}};
  const Found waves = compareWaves(reference, take, all, reach, rate, cancelled);
  constexpr double standingOut = 8.0;  // by chance one in a hundred thousand values stands out by 4.5
  const double sureOfWaves = waves.standsOut >= standingOut ? 1.0 - waves.rival : 0.0;
  constexpr double theSame = 0.4;
  if (sureOfWaves >= theSame && partsAgree(reference, take, waves, reach, rate, cancelled))
    return {{waves.best - reach}, std::min(1.0, sureOfWaves), true};

  if (isCancelled(cancelled)) return result;
  const std::int64_t step = std::max<std::int64_t>(1, rate.hertz / 250);
  const RisesFound rises =
      compareRises(risesOf(reference, step, rate), risesOf(take, step, rate), (reach + step - 1) / step,
                   std::max<std::int64_t>(1, framesFromSeconds(0.080, rate).count / step), cancelled);
  constexpr double quiteAlike = 0.35;
  constexpr double enough = 5.0;  // one thing that begins in both proves little
  result.offset = {std::llround(rises.offsetSteps * static_cast<double>(step))};
  result.offset = std::clamp(result.offset, -within, within);
  result.sureness = std::clamp(rises.alike / quiteAlike, 0.0, 1.0) *
                    std::clamp(1.0 - rises.found.rival, 0.0, 0.9) * std::min(1.0, rises.beginnings / enough);
  return result;
}

}  // namespace

LineUp lineUp(const ReadSignal& reference, const ReadSignal& take, Frames within, SampleRate rate,
              const std::atomic<bool>* cancelled) {
  // A little further is looked at too: else what lies just beyond would be found at the edge, or by its echo.
  const Frames beyond = within + Frames{within.count / 4} + framesFromSeconds(0.020, rate);
  const Span part =
      loudest(reference, take, framesFromSeconds(mostSeconds, rate) + beyond + beyond, rate, cancelled);
  if (part.length() < framesFromSeconds(leastSeconds, rate)) return {};
  const LineUp found = lookFor(reference.read(part), take.read(part), beyond, rate, cancelled);
  return isCancelled(cancelled) || found.offset > within || found.offset < -within ? LineUp{} : found;
}

LineUp lineUp(std::span<const float> reference, std::span<const float> take, Frames within, SampleRate rate) {
  const auto held = [](std::span<const float> samples) {
    return ReadSignal{{static_cast<std::int64_t>(samples.size())}, [samples](Span part) {
                        const auto stretch = samples.subspan(static_cast<std::size_t>(part.start.count),
                                                             static_cast<std::size_t>(part.length().count));
                        return std::vector<float>(stretch.begin(), stretch.end());
                      }};
  };
  return lineUp(held(reference), held(take), within, rate);
}

LineUp lineUpOnsets(std::span<const Frames> onsets, const std::function<Frames(Frames)>& nearest,
                    Frames within) {
  LineUp result;
  std::vector<float> early;
  for (const Frames at : onsets)
    if (const Frames by = nearest(at) - at; by >= -within && by <= within)
      early.push_back(static_cast<float>(by.count));
  if (early.empty()) return result;
  const double middle = medianOf(early);
  result.offset = {std::llround(middle)};
  // How closely they agree, and how many of them: one onset proves little.
  double spread = 0.0;
  for (float& each : early) each = std::abs(each - static_cast<float>(middle));
  spread = medianOf(early);
  const double agreement = 1.0 - std::min(1.0, 4.0 * spread / std::max<double>(1.0, within.count));
  const double enough = std::min(1.0, static_cast<double>(early.size()) / 4.0);
  result.sureness =
      agreement * enough * static_cast<double>(early.size()) / static_cast<double>(onsets.size());
  return result;
}

}  // namespace yewdrift
