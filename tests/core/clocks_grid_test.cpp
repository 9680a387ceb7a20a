// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is heard between clocks and at other rates, for any number of channels and blocks of any length, as it
// was when it was judged (by what clocks_test measures). See recorded_numbers.h.

#include "core/device/elastic_output.h"
#include "core/device/rate_bridge.h"
#include "core/recorded_numbers.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

float toneOf(std::int64_t frame, int channel, double rate) {
  const double hertz = 300.0 + 170.0 * channel;
  return static_cast<float>(0.4 * std::sin(6.283185307 * hertz * static_cast<double>(frame) / rate));
}

/// Interleaved or planar, folded into a number that tells channels and places apart.
struct Sum {
  void add(float sample, std::size_t place) {
    value += sample * (1.0 + 0.01 * static_cast<double>(place % 89));
  }
  double value = 0.0;
};

void addElastic(Numbers& numbers, unsigned scene) {
  Chance chance(scene);
  const int channels = 1 + chance.below(3);
  const double drift = 300.0 * (chance.below(9) - 4) * 1e-6;
  const int longestPush = 1 + chance.below(3000);
  const int longestPull = 1 + chance.below(1500);
  const double seconds = scene % 3 == 0 ? 30.0 : 9.0;
  ElasticOutput elastic(channels, {8000});
  const std::string name = "elastic " + std::to_string(scene) + " ";
  std::int64_t pushed = 0, pulled = 0;
  int second = 0;
  Sum sum;
  int next = 1 + chance.below(longestPush), take = 1 + chance.below(longestPull);
  while (second < seconds) {
    const double source = static_cast<double>(pushed + next) / 8000.0;
    const double sink = static_cast<double>(pulled + take) / (8000.0 * (1.0 + drift));
    if (source <= sink) {
      std::vector<Samples> planes(static_cast<std::size_t>(channels),
                                  Samples(static_cast<std::size_t>(next)));
      std::vector<const float*> pointers;
      for (int c = 0; c < channels; ++c) {
        for (int i = 0; i < next; ++i)
          planes[static_cast<std::size_t>(c)][static_cast<std::size_t>(i)] = toneOf(pushed + i, c, 8000.0);
        pointers.push_back(planes[static_cast<std::size_t>(c)].data());
      }
      elastic.push(pointers.data(), next);
      pushed += next;
      // Now and then it is late.
      next = chance.below(400) == 0 ? 5000 : 1 + chance.below(longestPush);
    } else {
      Samples frames(static_cast<std::size_t>(take * channels), 9.0F);
      const int got = elastic.pull(frames.data(), take);
      for (std::size_t i = 0; i < frames.size(); ++i)
        sum.add(frames[i], static_cast<std::size_t>(pulled) + i);
      sum.add(static_cast<float>(got) * 1e-3F, 1);
      pulled += take;
      take = 1 + chance.below(longestPull);
    }
    if (std::min(source, sink) < second + 1) continue;
    const std::string at = name + std::to_string(second++);
    numbers[at + " heard"] = sum.value;
    numbers[at + " level"] = static_cast<double>(elastic.level());
    numbers[at + " gaps"] = static_cast<double>(elastic.gaps());
    numbers[at + " drift"] = elastic.driftMillionths();
    numbers[at + " aim"] = elastic.settled() ? elastic.aim() : -1.0;
    sum = {};
  }
}

/// Plays on each output what it hears on an input, and a tone of its own.
struct Echo : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    for (int c = 0; c < block.inputCount; ++c)
      for (int i = 0; i < block.frames; ++i)
        heard.add(block.inputs[c][i], static_cast<std::size_t>(frame + i + 31 * c));
    for (int c = 0; c < block.outputCount; ++c)
      for (int i = 0; i < block.frames; ++i)
        block.outputs[c][i] =
            toneOf(frame + i, c, 44100.0) + (c < block.inputCount ? 0.5F * block.inputs[c][i] : 0.0F);
    frame += block.frames;
    dropouts += block.dropout ? 1 : 0;
  }
  Sum heard;
  std::int64_t frame = 0;
  int dropouts = 0;
};

void addBridge(Numbers& numbers, unsigned scene) {
  Chance chance(scene + 1000);
  const int inputs = chance.below(scene % 4 == 0 ? 12 : 4);
  const int outputs = chance.below(scene % 4 == 0 ? 12 : 4);
  constexpr std::array<int, 5> rates{44100, 48000, 22050, 96000, 24000};
  Echo echo;
  RateBridge bridge(echo, {rates[static_cast<std::size_t>(chance.below(4))]}, inputs, outputs);
  int rate = rates[static_cast<std::size_t>(chance.below(5))];
  std::int64_t frame = 0;
  const std::string name = "bridge " + std::to_string(scene) + " ";
  for (int part = 0; part < 6; ++part) {
    Sum played;
    for (int b = 0; b < 6; ++b) {
      if (chance.below(40) == 0) rate = rates[static_cast<std::size_t>(chance.below(5))];
      const int frames = 1 + chance.below(chance.below(3) == 0 ? 3000 : 600);
      // The device has fewer channels than it was asked for now and then, or more.
      const int in = std::max(0, inputs + chance.below(3) - 1);
      const int out = std::max(0, outputs + chance.below(3) - 1);
      std::vector<Samples> planes(static_cast<std::size_t>(in + out),
                                  Samples(static_cast<std::size_t>(frames)));
      std::vector<const float*> from;
      std::vector<float*> to;
      for (int c = 0; c < in + out; ++c) {
        Samples& plane = planes[static_cast<std::size_t>(c)];
        for (int i = 0; c < in && i < frames; ++i)
          plane[static_cast<std::size_t>(i)] = toneOf(frame + i, c, rate);
        if (c < in)
          from.push_back(plane.data());
        else
          to.push_back(plane.data());
      }
      bridge.process({from.data(), in, to.data(), out, frames, chance.below(30) == 0}, rate);
      for (int c = 0; c < out; ++c)
        for (int i = 0; i < frames; ++i)
          played.add(to[static_cast<std::size_t>(c)][i], static_cast<std::size_t>(frame + i + 17 * c));
      frame += frames;
    }
    const std::string at = name + std::to_string(part);
    numbers[at + " played"] = played.value;
    numbers[at + " heard"] = echo.heard.value;
    numbers[at + " frames"] = static_cast<double>(echo.frame);
    numbers[at + " dropouts"] = echo.dropouts;
    numbers[at + " delay"] = static_cast<double>(bridge.delay().count);
  }
}

}  // namespace

TEST_CASE("Between clocks and at other rates everything is heard as it was when it was judged") {
  Numbers now;
  for (unsigned scene = 1; scene <= 14; scene += nextScene()) addElastic(now, scene);
  for (unsigned scene = 1; scene <= 32; scene += nextScene()) addBridge(now, scene);
  checkRecorded("clocks", now);
}
