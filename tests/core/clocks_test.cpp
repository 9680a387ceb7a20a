// SPDX-License-Identifier: GPL-3.0-or-later
//
// Between clocks: what is played where source and sink each have one of their own, and sessions at another
// rate than the device's.
#include "core/core_tests.h"

#include "core/device/device_life.h"
#include "core/device/elastic_output.h"
#include "core/device/rate_bridge.h"

namespace {

constexpr double toneHertz = 997.0;

float toneAt(double frame, double rate, double phase = 0.0) {
  return static_cast<float>(0.5 * std::sin(2.0 * std::numbers::pi * toneHertz * frame / rate + phase));
}

/// The tone at the source's own rate comes round after a second to the sample.
float sourceTone(std::size_t frame) {
  static const Samples second = [] {
    Samples made(48000);
    for (std::size_t i = 0; i < made.size(); ++i) made[i] = toneAt(static_cast<double>(i), 48000.0);
    return made;
  }();
  return second[frame % second.size()];
}

/// A source of so many frames a block and a sink that takes 480 at a time, each on a clock of its own, in
/// simulated time. Left carries the signal, right its negative.
struct TwoClocks {
  explicit TwoClocks(double sinkMillionths, std::size_t framesOfSource = 256)
      : sourceFrames(framesOfSource), sinkRate(48000.0 * (1.0 + sinkMillionths * 1e-6)) {}

  void run(double seconds) {
    for (const double end = now + seconds; now < end;) {
      const double source = static_cast<double>(pushed + sourceFrames) / 48000.0;
      const double sink = static_cast<double>(left.size() + sinkFrames) / sinkRate;
      now = std::min(source, sink);
      if (source <= sink)
        push();
      else
        pull();
    }
  }
  /// Plays a click and tells how many frames of the source's clock later the sink gets it.
  double delayOfAClick() {
    clickAt = pushed + 3 * sourceFrames;
    const std::size_t from = left.size();
    run(0.5);
    const auto found = std::max_element(left.begin() + static_cast<std::ptrdiff_t>(from), left.end());
    return static_cast<double>(found - left.begin()) / sinkRate * 48000.0 - static_cast<double>(clickAt);
  }
  void push() {
    std::vector<float> l(sourceFrames);
    std::vector<float> r(sourceFrames);
    for (std::size_t i = 0; i < sourceFrames; ++i) {
      l[i] = pushed + i == clickAt ? 4.0F : sourceTone(pushed + i);
      r[i] = -l[i];
    }
    const std::array<const float*, 2> planes{l.data(), r.data()};
    elastic.push(planes.data(), static_cast<int>(sourceFrames));
    pushed += sourceFrames;
  }
  void pull() {
    std::vector<float> frames(2 * sinkFrames, 9.0F);
    elastic.pull(frames.data(), sinkFrames);
    for (std::size_t i = 0; i < sinkFrames; ++i) {
      left.push_back(frames[2 * i]);
      right.push_back(frames[2 * i + 1]);
    }
  }

  static constexpr std::size_t sinkFrames = 480;
  std::size_t sourceFrames;
  ElasticOutput elastic{2, {48000}};
  double sinkRate;
  double now = 0.0;
  std::size_t pushed = 0;
  std::size_t clickAt = static_cast<std::size_t>(-1);
  Samples left;
  Samples right;
};

float largestStep(const Samples& samples, std::size_t from) {
  float step = 0.0F;
  for (std::size_t i = from + 1; i < samples.size(); ++i)
    step = std::max(step, std::abs(samples[i] - samples[i - 1]));
  return step;
}

struct Player : AudioCallback {
  explicit Player(double sessionRate) : rate(sessionRate) {}
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    for (int i = 0; i < block.frames; ++i) {
      for (int c = 0; c < block.inputCount; ++c)
        heard[static_cast<std::size_t>(c)].push_back(block.inputs[c][i]);
      block.outputs[0][i] = toneAt(played, rate);
      block.outputs[1][i] = -toneAt(played, rate);
      played += 1.0;
    }
    dropouts.push_back(block.dropout);
    largest = std::max(largest, block.frames);
  }
  double rate;
  double played = 0.0;
  int largest = 0;
  std::array<Samples, 2> heard;
  std::vector<bool> dropouts;
};

/// A device at 48 kHz that hears the tone, its phase shifted on input 2, and keeps what it is given to play.
struct Device {
  Device(Player& player, double sessionRate, int blockFrames)
      : bridge(player, {static_cast<int>(sessionRate)}, 2, 2), block(blockFrames) {}
  void run(int blocks, int deviceRate = 48000, bool dropout = false) {
    std::array<Samples, 2> in{Samples(static_cast<std::size_t>(block)),
                              Samples(static_cast<std::size_t>(block))};
    for (int b = 0; b < blocks; ++b) {
      std::array<Samples, 2> out{in[0], in[1]};
      for (int i = 0; i < block; ++i) {
        in[0][static_cast<std::size_t>(i)] = toneAt(frame + i, deviceRate);
        in[1][static_cast<std::size_t>(i)] = toneAt(frame + i, deviceRate, 1.0);
      }
      frame += block;
      const std::array<const float*, 2> inputs{in[0].data(), in[1].data()};
      const std::array<float*, 2> outputs{out[0].data(), out[1].data()};
      bridge.process({inputs.data(), 2, outputs.data(), 2, block, dropout}, deviceRate);
      for (std::size_t side = 0; side < 2; ++side)
        played[side].insert(played[side].end(), out[side].begin(), out[side].end());
    }
  }
  RateBridge bridge;
  int block;
  double frame = 0.0;
  std::array<Samples, 2> played;
};

}  // namespace

TEST_CASE(
    "Whichever side begins first, what waits is 15 ms at the least, and nothing but silence is put in") {
  // Much waits already, or the sink has been in want; a sink that takes a little, or much at a time.
  for (const int headStart : {-4000, -700, 0, 900, 30000}) {
    for (const std::size_t sinkFrames : {480, 3000}) {
      INFO("head start " << headStart << ", sink takes " << sinkFrames);
      ElasticOutput elastic(1, {48000});
      Samples heard;
      std::int64_t pushed = 0;
      const auto pull = [&](std::size_t frames) {
        Samples part(frames, 9.0F);
        elastic.pull(part.data(), static_cast<int>(frames));
        heard.insert(heard.end(), part.begin(), part.end());
      };
      const auto push = [&](int frames) {
        Samples part;
        // Counts, so that every sample says which it is; none is silent.
        for (int i = 0; i < frames; ++i) part.push_back(static_cast<float>(++pushed));
        const std::array<const float*, 1> plane{part.data()};
        elastic.push(plane.data(), frames);
      };
      if (headStart > 0)
        push(headStart);
      else
        pull(static_cast<std::size_t>(-headStart));
      const std::int64_t ahead = static_cast<std::int64_t>(heard.size());
      std::int64_t least = 1'000'000;
      for (int block = 0; block < 1200; ++block) {
        push(100);
        while (static_cast<std::int64_t>(heard.size()) - ahead + static_cast<std::int64_t>(sinkFrames) <=
               100 * (block + 1)) {
          pull(sinkFrames);
          if (elastic.settled()) least = std::min(least, elastic.level());
        }
      }
      REQUIRE(elastic.settled());
      CHECK(elastic.gaps() == 0);
      CHECK(least >= 720);
      CHECK(least <= 720 + 100);
      // The count never goes back; it leaves out only what came too late or was too much, all before it
      // settled.
      float last = 0.0F;
      std::int64_t silent = 0;
      for (const float sample : heard) {
        if (sample == 0.0F) {
          ++silent;
          continue;
        }
        REQUIRE(sample > last);
        last = sample;
      }
      CHECK(static_cast<std::int64_t>(heard.size()) - static_cast<std::int64_t>(last) <= silent);
      for (std::size_t i = heard.size() - 48000; i < heard.size(); ++i)
        REQUIRE(heard[i] == heard[i - 1] + 1.0F);
    }
  }
}

TEST_CASE("A drift is measured and worked off without a gap or a click") {
  std::vector<double> drifts{-150.0};
  if (!sanitized()) drifts = {150.0, -40.0};
  for (const double planted : drifts) {
    INFO("sink faster by " << planted << " millionths");
    TwoClocks clocks(planted, planted > 0.0 ? 700 : 256);
    clocks.run(2.0);
    REQUIRE(clocks.elastic.driftMillionths() == 0.0);
    const double early = clocks.delayOfAClick();
    clocks.run(240.0);
    CHECK(clocks.elastic.gaps() == 0);
    // A click is heard as late as it was before: what the round trip says still holds.
    CHECK(clocks.elastic.driftMillionths() == Approx(planted).margin(0.15 * std::abs(planted) + 5.0));
    const float own = toneAt(0.5, 48000.0) - toneAt(-0.5, 48000.0);
    CHECK(largestStep(clocks.left, 4 * 48000) < 1.003F * own);
    CHECK(largestStep(clocks.right, 4 * 48000) < 1.003F * own);
    // A click is heard as late as it was before: what the round trip says still holds.
    CHECK(clocks.delayOfAClick() == Approx(early).margin(48.0));
  }
}

TEST_CASE("What came too late for the sink is left out, so that the rest is heard in its time") {
  ElasticOutput elastic(1, {48000});
  Samples ramp(400);
  for (std::size_t i = 0; i < ramp.size(); ++i) ramp[i] = static_cast<float>(i + 1);
  const std::array<const float*, 1> plane{ramp.data()};
  Samples out(100, 9.0F);
  CHECK(elastic.pull(out.data(), 100) == 0);
  CHECK(out == Samples(100, 0.0F));
  CHECK(elastic.level() == -100);
  elastic.push(plane.data(), 400);
  CHECK(elastic.level() == 300);
  CHECK(elastic.pull(out.data(), 100) == 100);
  CHECK(out.front() == 101.0F);
  CHECK(out.back() == 200.0F);
  Samples rest(300, 9.0F);
  CHECK(elastic.pull(rest.data(), 300) == 200);
  CHECK(rest[199] == 400.0F);
  CHECK(rest[200] == 0.0F);
  CHECK(elastic.gaps() == 0);  // before it has settled silence is no fault
}

TEST_CASE("At another rate than the device's, tones are recorded and played at their own pitch and time") {
  for (const double rate : {44100.0, 96000.0, 88200.0}) {
    for (const int block : {64, 1024, 3000}) {
      INFO("session at " << rate << ", blocks of " << block);
      Player player(rate);
      Device device(player, rate, block);
      device.run(192000 / block);
      const double frames = static_cast<double>(player.heard[0].size());
      CHECK(frames > device.frame * rate / 48000.0 - 400.0 * rate / 48000.0);
      CHECK(frames <= device.frame * rate / 48000.0 + 1.0);
      double worst = 0.0;
      for (std::size_t i = 2000; i < player.heard[0].size(); ++i) {
        worst = std::max<double>(worst, std::abs(player.heard[0][i] - toneAt(static_cast<double>(i), rate)));
        worst =
            std::max<double>(worst, std::abs(player.heard[1][i] - toneAt(static_cast<double>(i), rate, 1.0)));
      }
      CHECK(worst < 0.5 * std::pow(10.0, -90.0 / 20.0));
      // What is played lies a known number of frames later.
      const auto delay = static_cast<double>(device.bridge.delay().count);
      worst = 0.0;
      for (std::size_t i = 4000; i < device.played[0].size(); ++i) {
        const float expected = toneAt(static_cast<double>(i) - delay * 48000.0 / rate, 48000.0);
        worst = std::max<double>(worst, std::abs(device.played[0][i] - expected));
        worst = std::max<double>(worst, std::abs(device.played[1][i] + expected));
      }
      // The delay is a whole number of the session's frames: half a frame of the tone's slope at most.
      CHECK(worst < 0.5 * 2.0 * std::numbers::pi * toneHertz / rate * 0.5 + 1e-4);
      CHECK(std::count(player.dropouts.begin(), player.dropouts.end(), true) == 0);
    }
  }
}

TEST_CASE("A device that changes its rate in the middle is a dropout, once; so is one it reports itself") {
  Player player(44100.0);
  Device device(player, 44100.0, 256);
  device.run(20);
  device.run(20, 32000);
  CHECK(device.bridge.deviceRate() == 32000);
  CHECK(std::count(player.dropouts.begin(), player.dropouts.end(), true) == 1);
  device.run(1, 32000, true);
  CHECK(std::count(player.dropouts.begin(), player.dropouts.end(), true) == 2);
}

TEST_CASE(
    "Converting fills a block and nothing beyond, one channel too; an input that is not there is silent") {
  struct Mono : AudioCallback {
    std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
    void process(const AudioBlock& block) noexcept override {
      CHECK(block.frames > 0);  // nothing is asked for while the converter holds what came
      CHECK(block.inputCount == 2);
      CHECK(block.outputCount == 1);
      for (int i = 0; i < block.frames; ++i) {
        loudest = std::max(loudest, std::abs(block.inputs[1][i]));
        block.outputs[0][i] = 0.25F;
      }
    }
    float loudest = 0.0F;
  } mono;
  RateBridge bridge(mono, {44100}, 2, 1);
  const Samples in(256, 0.5F);
  const std::array<const float*, 1> inputs{in.data()};
  Samples left(257, 9.0F);
  Samples right(257, 9.0F);
  const std::array<float*, 2> outputs{left.data(), right.data()};
  bridge.process({inputs.data(), 1, outputs.data(), 2, 256, false}, 48000);
  CHECK(std::all_of(left.begin(), left.begin() + 256, [](float sample) { return sample == 0.0F; }));
  for (int i = 0; i < 40; ++i) {
    bridge.process({inputs.data(), 1, outputs.data(), 2, 256, false}, 48000);
    for (std::size_t k = 0; k < 256; ++k) REQUIRE(std::abs(left[k]) < 0.3F);  // nothing but what is played
  }
  CHECK(mono.loudest == 0.0F);
  for (std::size_t i = 0; i < 256; ++i) {
    CHECK(left[i] == Approx(0.25F).margin(1e-4));
    CHECK(right[i] == 0.0F);  // more outputs than there are channels to play
  }
  CHECK(left[256] == 9.0F);
  CHECK(right[256] == 9.0F);
}

TEST_CASE("A device that was lost says why, first reason first; one that stops calling is noticed") {
  DeviceLife lost(Sentence("The card has stopped calling."));
  CHECK(lost.alive());  // not begun: nothing has to call yet
  lost.begin();
  CHECK(lost.begun());
  CHECK_FALSE(lost.lost());
  lost.lose(Sentence("It was unplugged."));
  lost.lose(Sentence("And then the server ended."));
  CHECK(lost.lost());
  CHECK_FALSE(lost.alive());
  lost.called();
  CHECK_FALSE(lost.alive());
  CHECK(lost.reason().english() == "It was unplugged.");

  DeviceLife silent(Sentence("The card has stopped calling."));
  silent.begin();
  CHECK(silent.alive());
  std::this_thread::sleep_for(std::chrono::milliseconds(2100));
  CHECK_FALSE(silent.alive());
  CHECK_FALSE(silent.lost());  // it may come back
  CHECK(silent.reason().english() == "The card has stopped calling.");
  silent.called();
  CHECK(silent.alive());
}
