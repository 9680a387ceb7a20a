// SPDX-License-Identifier: GPL-3.0-or-later
//
// What foot switches send. Bytes as the MIDI 1.0 specification lays them out.
#include "core/core_tests.h"

#include "core/device/audio_gate.h"
#include "core/device/control_input.h"
#include "core/device/shared_library.h"
#include "core/engine/test_tone.h"

using namespace std::chrono_literals;
using Kind = ControlMessage::Kind;

TEST_CASE("MIDI bytes become controls; what no pedal sends does not") {
  const auto read = [](std::vector<unsigned char> bytes) {
    ControlMessage message;
    return controlFromBytes(bytes, message) ? std::optional(message) : std::nullopt;
  };
  const auto sustain = read({0xB3, 64, 127});
  REQUIRE(sustain);
  CHECK(sustain->kind == Kind::Controller);
  CHECK(sustain->channel == 3);
  CHECK(sustain->number == 64);
  CHECK(sustain->value == 127);
  CHECK(sustain->pressed());
  CHECK(read({0xB0, 64, 64})->pressed());
  CHECK_FALSE(read({0xB0, 64, 63})->pressed());
  CHECK(read({0xB0, 119, 1}));
  CHECK_FALSE(read({0xB0, 120, 0}));
  CHECK_FALSE(read({0xB0, 123, 0}));
  CHECK(read({0x95, 60, 1})->pressed());
  CHECK(read({0x95, 60, 1})->kind == Kind::Note);
  CHECK_FALSE(read({0x95, 60, 0})->pressed());   // running status: a note-on of velocity 0 is a note-off
  CHECK_FALSE(read({0x85, 60, 90})->pressed());  // with a release velocity
  const auto program = read({0xCF, 5});
  REQUIRE(program);
  CHECK(program->kind == Kind::Program);
  CHECK(program->channel == 15);
  CHECK(program->number == 5);
  CHECK(program->pressed());
  CHECK_FALSE(read({}));
  CHECK_FALSE(read({0xB0}));
  CHECK_FALSE(read({0xB0, 64}));
  CHECK_FALSE(read({0xE0, 0, 64}));
  CHECK_FALSE(read({0xF8, 0, 0}));
}

TEST_CASE("A press that two systems bring counts once; two presses count twice") {
  PressEchoes echoes;
  const PressEchoes::Time start{1h};
  const ControlMessage down{Kind::Controller, 0, 64, 127};
  const ControlMessage up{Kind::Controller, 0, 64, 0};
  CHECK_FALSE(echoes.isEcho(1, down, start));
  CHECK(echoes.isEcho(2, down, start + 5ms));
  CHECK(echoes.isEcho(3, down, start + 29ms));
  CHECK_FALSE(echoes.isEcho(2, up, start + 10ms));  // another value
  CHECK(echoes.isEcho(1, up, start + 12ms));
  CHECK_FALSE(echoes.isEcho(2, up, start + 13ms));  // the same system again: the foot was quick
  ControlMessage other = up;
  other.number = 65;
  CHECK_FALSE(echoes.isEcho(1, other, start + 14ms));
  CHECK_FALSE(echoes.isEcho(2, other, start + 44ms));  // 30 ms later it is a press of its own
}

TEST_CASE("The test tone is 1 kHz at -20 dBFS on both sides, over what plays, without a click") {
  TestTone tone({48000});
  Samples left(480, 0.25F);
  Samples right(480, -0.25F);
  tone.add(480, left.data(), right.data());
  CHECK(left == Samples(480, 0.25F));  // off: nothing is touched
  CHECK_FALSE(tone.on());
  tone.set(true);
  CHECK(tone.on());
  Samples heard;
  const auto listen = [&](int blocks) {
    for (int i = 0; i < blocks; ++i) {
      std::fill(left.begin(), left.end(), 0.25F);
      std::fill(right.begin(), right.end(), -0.25F);
      tone.add(480, left.data(), right.data());
      for (std::size_t k = 0; k < 480; ++k) {
        REQUIRE(left[k] - 0.25F == Approx(right[k] + 0.25F).margin(1e-7));
        heard.push_back(left[k] - 0.25F);
      }
    }
  };
  listen(110);
  tone.set(false);
  listen(10);
  // 100 periods of 48 frames each, from 100 ms on.
  double power = 0.0;
  int rising = 0;
  for (std::size_t i = 4800; i < 9600; ++i) {
    power += static_cast<double>(heard[i]) * heard[i] / 4800.0;
    rising += heard[i - 1] < 0.0F && heard[i] >= 0.0F ? 1 : 0;
    CHECK(std::abs(heard[i] - heard[i + 48]) < 1e-6F);
  }
  CHECK(10.0 * std::log10(2.0 * power) == Approx(-20.0).margin(0.01));
  CHECK(std::abs(rising - 100) <= 1);
  const float own = 0.1F * static_cast<float>(2.0 * std::numbers::pi * 1000.0 / 48000.0);
  for (std::size_t i = 1; i < heard.size(); ++i) REQUIRE(std::abs(heard[i] - heard[i - 1]) < 1.05F * own);
  CHECK(heard.back() == 0.0F);
}

TEST_CASE("Before a device is taken on it plays silence and nothing of it arrives") {
  struct Counter : AudioCallback {
    std::span<const PlayedStretch> prepare(int) noexcept override {
      ++prepared;
      return {stretches.data(), stretches.size()};
    }
    void process(const AudioBlock& block) noexcept override {
      heard.push_back(block.inputs[0][0]);
      block.outputs[0][0] = 0.75F;
    }
    std::array<PlayedStretch, 1> stretches;
    int prepared = 0;
    Samples heard;
  } counter;
  AudioGate gate(counter);
  const Samples in(4, 0.5F);
  Samples left(4, 9.0F);
  Samples right(4, 9.0F);
  const std::array<const float*, 1> inputs{in.data()};
  const std::array<float*, 2> outputs{left.data(), right.data()};
  const AudioBlock block{inputs.data(), 1, outputs.data(), 2, 4, false};
  CHECK(gate.prepare(4).empty());
  gate.process(block);
  CHECK(counter.prepared == 0);
  CHECK(counter.heard.empty());
  CHECK(left == Samples(4, 0.0F));
  CHECK(right == Samples(4, 0.0F));
  gate.open();
  CHECK(gate.prepare(4).size() == 1);
  gate.process(block);
  CHECK(counter.heard == Samples{0.5F});
  CHECK(left[0] == 0.75F);
}

TEST_CASE("Sources and sinks are found by id, by a name that only one has, or as the default") {
  const std::vector<EndPoint> points{{"a", "Line", 2, false, false},
                                     {"b", "Microphone", 1, false, true},
                                     {"c", "Microphone", 2, true, false},
                                     {"d", "a", 2, false, false}};
  CHECK(findEndPoint(points, "b")->id == "b");
  CHECK(findEndPoint(points, "nothing") == nullptr);
  CHECK(findEndPoint(points, "")->id == "c");
  CHECK(findEndPoint({}, "") == nullptr);
  // Without a default the first that is no monitor.
  CHECK(findEndPoint({points[1], points[0]}, "")->id == "a");
  CHECK(requireEndPoint(points, "Line", EndPointKind::Source).id == "a");
  CHECK(requireEndPoint(points, "a", EndPointKind::Source).id == "a");  // an id before a name
  CHECK_THROWS_WITH(requireEndPoint(points, "Microphone", EndPointKind::Source),
                    "There are several sources named \"Microphone\"; say which by its id: b or c.");
  CHECK_THROWS_WITH(requireEndPoint(points, "Trumpet", EndPointKind::Sink),
                    Catch::Contains("sink") && Catch::Contains("Trumpet"));
  CHECK(distinctName(points[0], points) == "Line");
  CHECK_THAT(distinctName(points[1], points), Catch::Contains("Microphone") && Catch::Contains("b"));
  CHECK(distinctName(points[1], points) != distinctName(points[2], points));
}
