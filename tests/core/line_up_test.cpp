// SPDX-License-Identifier: GPL-3.0-or-later
//
// By how much a take lies early or late: against planted offsets.
#include "core/signal/line_up.h"
#include "core/signal/fourier.h"

#include "core/core_tests.h"

#include "core/known_takes.h"

namespace {

constexpr Frames within{24000};
/// Sanitizers watch memory and numbers, for which a few of what is planted do.
const bool few = sanitized();

/// Something played: notes of several partials with noise in their attack, at times that vary by `loose`
/// seconds from performance to performance; voices differ by `voice`.
Samples performance(unsigned voice, double loose, double seconds = 12.0) {
  std::mt19937 score(11);
  std::mt19937 player(100 + voice);
  Samples samples(static_cast<std::size_t>(seconds * rate.hertz), 0.0F);
  double at = 0.7;
  while (at < seconds - 1.0) {
    const double hertz = 110.0 * std::exp2(std::uniform_int_distribution(0, 24)(score) / 12.0);
    const double length = std::uniform_real_distribution(0.15, 0.7)(score);
    const double early = std::uniform_real_distribution(-loose, loose)(player);
    const double phase = std::uniform_real_distribution(0.0, 6.28)(player);
    const float level = std::uniform_real_distribution(0.1F, 0.2F)(player);
    const auto from = static_cast<std::size_t>((at + early) * rate.hertz);
    std::uniform_real_distribution<float> breath(-1.0F, 1.0F);
    for (std::size_t i = 0; i < static_cast<std::size_t>(length * rate.hertz) && from + i < samples.size();
         ++i) {
      const double t = static_cast<double>(i) / rate.hertz;
      double tone = 0.0;
      for (int partial = 1; partial <= 8; ++partial)
        tone += std::sin(phase * partial + 6.283185307 * hertz * partial * t) / partial;
      const double noisy = breath(player) * std::exp(-t * 60.0);
      samples[from + i] +=
          level * static_cast<float>((tone + noisy) * std::min(1.0, t / 0.004) * std::exp(-t * 3.0));
    }
    at += length;
  }
  return samples;
}

/// Notes under one bow: each goes over into the next while neither sinks, and vibrates in a way of its own.
Samples underOneBow(unsigned score, unsigned voice, double loose, double seconds = 7.0) {
  std::mt19937 notes(score);
  std::mt19937 player(100 + voice);
  Samples samples(static_cast<std::size_t>(seconds * rate.hertz), 0.0F);
  double at = 0.5;
  double phase = std::uniform_real_distribution(0.0, 6.28)(player);
  double hertz = 0.0;
  double next = 0.0;
  double changes = at;
  const double vibrato = std::uniform_real_distribution(5.0, 6.5)(player);
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double t = static_cast<double>(i) / rate.hertz;
    if (t >= changes && t < seconds - 0.5) {
      next = 146.8 * std::exp2(std::uniform_int_distribution(0, 14)(notes) / 12.0);
      at += std::uniform_real_distribution(0.3, 0.9)(notes);
      changes = at + std::uniform_real_distribution(-loose, loose)(player);
      if (hertz == 0.0) hertz = next;
    }
    hertz += (next - hertz) / (0.012 * rate.hertz);
    phase += 6.283185307 * hertz * (1.0 + 0.006 * std::sin(6.283185307 * vibrato * t)) / rate.hertz;
    double tone = 0.0;
    for (int partial = 1; partial <= 10; ++partial) tone += std::sin(phase * partial) / partial;
    const double swell = std::clamp(std::min(t - 0.5, seconds - 0.5 - t) / 0.05, 0.0, 1.0);
    samples[i] = static_cast<float>(0.15 * swell * tone);
  }
  return samples;
}

/// The same, later by so many frames (earlier where it is negative).
Samples later(const Samples& samples, std::int64_t by) {
  Samples moved(samples.size(), 0.0F);
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const std::int64_t from = static_cast<std::int64_t>(i) - by;
    if (from >= 0 && from < static_cast<std::int64_t>(samples.size()))
      moved[i] = samples[static_cast<std::size_t>(from)];
  }
  return moved;
}

Samples plus(Samples a, const Samples& b, float gain) {
  for (std::size_t i = 0; i < a.size(); ++i) a[i] += gain * b[i];
  return a;
}

/// A room: sound that arrives at once, then reflections that die away, and air that dulls.
Samples inRoom(const Samples& dry) {
  std::mt19937 random(3);
  Samples wet = dry;
  for (int i = 0; i < 60; ++i) {
    const auto delay = std::uniform_int_distribution<std::int64_t>(150, 9600)(random);
    const float gain =
        0.4F * std::exp(-static_cast<float>(delay) / 3000.0F) * (random() % 2 == 0 ? 1.0F : -1.0F);
    wet = plus(std::move(wet), later(dry, delay), gain);
  }
  float low = 0.0F;
  for (float& sample : wet) sample = low += 0.6F * (sample - low);
  return wet;
}

}  // namespace

TEST_CASE("The same performance is lined up to the frame, whatever the gain, the noise and the polarity") {
  const Samples played = performance(1, 0.0);
  std::vector<std::int64_t> planted{137, -23999};
  if (!few) planted.insert(planted.end(), {0, 1, -1, -4801, 20000});
  for (const std::int64_t by : planted) {
    const LineUp plain = lineUp(played, later(played, by), within, rate);
    INFO(by);
    CHECK(plain.offset == Frames{-by});
    CHECK(plain.samePerformance);
    CHECK(plain.sureness > 0.9);
    Samples other = plus(later(played, by), noise(played.size(), 5, 0.01F), 1.0F);
    for (float& sample : other) sample *= -0.2F;
    const LineUp noisy = lineUp(plus(played, noise(played.size(), 6, 0.01F), 1.0F), other, within, rate);
    CHECK(noisy.offset == Frames{-by});
    CHECK(noisy.samePerformance);
    CHECK(noisy.sureness >= leastSureness);
    // As soft as the last bits of 24.
    Samples soft = played;
    for (float& sample : soft) sample *= 1e-5F;
    CHECK(lineUp(soft, later(soft, by), within, rate).offset == Frames{-by});
  }
}

TEST_CASE("Another performance is lined up by what begins in both, to a few milliseconds") {
  const Samples first = performance(3, 0.006);
  for (unsigned voice = 4; voice < (few ? 5 : 8); ++voice)
    for (const std::int64_t by : {-9000, 0, 2400, 14000}) {
      const LineUp found = lineUp(first, later(performance(voice, 0.006), by), within, rate);
      INFO("voice " << voice << ", by " << by << ", found " << found.offset.count << ", sureness "
                    << found.sureness);
      CHECK(std::abs(found.offset.count + by) <= 240);  // 5 ms
      CHECK(found.sureness >= leastSureness);
      CHECK(found.sureness <= 0.9);
      CHECK_FALSE(found.samePerformance);
    }
}

TEST_CASE("The other way round the offset is the opposite; silence after one's end makes no difference") {
  const Samples first = performance(3, 0.006);
  for (const bool same : {true, false}) {
    const Samples second = later(same ? first : performance(4, 0.006), 2400);
    Samples longer = first;
    longer.resize(longer.size() + 30'000, 0.0F);
    const auto found = [](const Samples& a, const Samples& b) {
      return static_cast<double>(lineUp(a, b, within, rate).offset.count);
    };
    const double offset = found(first, second);
    const auto margin = same ? 0.0 : 48.0;  // a tenth of a step
    CHECK(found(second, first) == Approx(-offset).margin(margin));
    CHECK(found(longer, second) == Approx(offset).margin(margin));
    CHECK(found(second, longer) == Approx(-offset).margin(margin));
  }
}

TEST_CASE("What has nothing to do with each other is not lined up with any sureness") {
  CHECK(lineUp(noise(480000, 1), noise(480000, 2), within, rate).sureness < leastSureness);
  CHECK(lineUp(performance(1, 0.0), noise(576000, 2), within, rate).sureness < leastSureness);
  // Other notes at other times.
  const Samples known = underOneBow(4, 0, 0.006);
  for (unsigned score = 5; score < (few ? 6 : 13); ++score) {
    const LineUp found = lineUp(known, underOneBow(score, 1, 0.006), within, rate);
    INFO(score << ": found " << found.offset.count << ", sureness " << found.sureness);
    CHECK(found.sureness < leastSureness);
  }
  CHECK(lineUp(performance(1, 0.0), Samples(576000, 0.0F), within, rate).sureness == 0.0);
  CHECK(lineUp(Samples(48000, 0.0F), Samples(48000, 0.0F), within, rate).sureness == 0.0);
  CHECK(lineUp(Samples{}, Samples{}, within, rate).sureness == 0.0);
  CHECK(lineUp(Samples(1, 1.0F), Samples(1, 1.0F), within, rate).sureness < leastSureness);
  // A tone lies over itself at every period.
  const Samples tone = sine(480000, 440.0, 48000.0);
  CHECK(lineUp(tone, later(tone, 500), within, rate).sureness < leastSureness);
  const Samples direct(480000, 1.0F);
  CHECK(lineUp(direct, direct, within, rate).sureness < leastSureness);
}

TEST_CASE("Clicks are not lined up with any sureness: they lie well with anything") {
  Samples take(480000, 0.0F);
  take[0] = 0.5F;
  const Samples reference = noise(480000, 4, 0.3F);
  for (const std::size_t more : {0U, 1U, 30U, 400U}) {
    for (std::size_t i = 0; i < more; ++i) take[i * 1000] = 0.5F;
    CHECK(lineUp(reference, take, {24000}, {48000}).sureness == 0.0);
    CHECK(lineUp(take, reference, {24000}, {48000}).sureness == 0.0);
  }
  // But a clap of twenty milliseconds is lined up with itself.
  Samples clap(480000, 0.0F);
  std::copy_n(reference.begin(), 960, clap.begin() + 100000);
  Samples later(480000, 0.0F);
  std::copy_n(reference.begin(), 960, later.begin() + 101234);
  const LineUp found = lineUp(clap, later, {24000}, {48000});
  CHECK(found.offset == Frames{-1234});
  CHECK(found.sureness > leastSureness);
}

TEST_CASE("No offset beyond what is allowed is found, and samples that are not numbers do not matter") {
  const Samples played = performance(1, 0.0, 5.0);
  const Samples another = performance(2, 0.004, 5.0);
  const Samples wet = inRoom(played);
  for (const std::int64_t way : {-1, 1}) {
    for (const std::int64_t beyond : {1, 1500, 6000}) {
      INFO(way * (4800 + beyond));
      // Neither at the edge, nor by an echo that lies within.
      CHECK(lineUp(played, later(played, way * (4800 + beyond)), {4800}, rate).sureness < leastSureness);
      CHECK(lineUp(played, later(wet, way * (4800 + beyond)), {4800}, rate).sureness < leastSureness);
      if (beyond > 1000)
        CHECK(lineUp(played, later(another, way * (4800 + beyond)), {4800}, rate).sureness < leastSureness);
    }
    const LineUp edge = lineUp(played, later(played, way * 4800), {4800}, rate);
    CHECK(edge.offset == Frames{-way * 4800});
    CHECK(edge.sureness > leastSureness);
    CHECK(edge.samePerformance);
    CHECK(lineUp(played, later(played, way * 4799), {4799}, rate).offset == Frames{-way * 4799});
  }
  Samples broken = later(played, 700);
  broken[50000] = std::nanf("");
  broken[60000] = INFINITY;
  CHECK(lineUp(played, broken, within, rate).offset == Frames{-700});
}
