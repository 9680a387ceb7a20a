// SPDX-License-Identifier: GPL-3.0-or-later
//
// The tape of the last minute, and what of it can be claimed.
#include <sys/syscall.h>
#include <unistd.h>

#include <future>
#include <map>
#include "engine/engine_tests.h"

namespace {

/// A frame's number, told apart by its input; exact in a float.
float sampleOf(std::int64_t frame, int input) {
  return static_cast<float>(frame) * (input % 2 == 0 ? 1.0F : -1.0F);
}

/// Inputs that hear their own frames' numbers.
struct Counting {
  explicit Counting(int count) : samples(static_cast<std::size_t>(count), Samples(1000)) {}
  void push(InputTape& tape, int frames = 1000) {
    std::vector<const float*> inputs;
    for (std::size_t i = 0; i < samples.size(); ++i) {
      for (int f = 0; f < frames; ++f)
        samples[i][static_cast<std::size_t>(f)] = sampleOf(clock + f, static_cast<int>(i));
      inputs.push_back(samples[i].data());
    }
    tape.push(inputs.data(), static_cast<int>(inputs.size()), frames);
    clock += frames;
  }
  void run(InputTape& tape, int blocks) {
    for (int i = 0; i < blocks; ++i) {
      push(tape);
      if (i % 3 == 0) tape.drain();
    }
    for (int i = 0; i < 20; ++i) tape.drain();
  }
  std::vector<Samples> samples;
  std::int64_t clock = 0;
};

/// Writes to a place in a file wait while it stalls.
std::atomic<bool> stalled{false};
std::atomic<int> waiting{0};

}  // namespace

extern "C" ssize_t pwrite(int descriptor, const void* from, size_t bytes, off_t at) {
  ++waiting;
  while (stalled) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  --waiting;
  return syscall(SYS_pwrite64, descriptor, from, bytes, at);
}

TEST_CASE("Heard, drained and listened to at random, it holds just the last of every input") {
  for (unsigned seed = 1; seed <= 12; ++seed) {
    INFO("seed " << seed);
    std::mt19937 random(seed);
    const auto below = [&random](int most) {
      return static_cast<std::int64_t>(random() % static_cast<unsigned>(most));
    };
    const TemporaryFolder temporary;
    InputTape tape(SessionDisk(temporary.path()), {48000}, 0.1);
    constexpr std::int64_t holds = 4800;
    Counting inputs(3);
    std::map<int, std::int64_t> begins;  // of those listened to; on the tape's clock
    for (int step = 0; step < 400; ++step) {
      if (below(60) == 0) {
        std::vector<int> wanted;
        for (const int input : {2, 0, 1})
          if (below(3) > 0) wanted.push_back(input);
        tape.listenTo(wanted);
        std::map<int, std::int64_t> next;
        for (const int input : wanted) next[input] = begins.count(input) ? begins[input] : inputs.clock;
        begins = next;
      }
      for (std::int64_t i = below(9); i >= 0; --i) {
        inputs.push(tape, 1 + static_cast<int>(below(1000)));
        if (below(2) == 0) tape.drain();
      }
      for (int i = 0; i < 20; ++i) tape.drain();
      REQUIRE(tape.end().count == (begins.empty() ? 0 : inputs.clock));
      std::int64_t oldest = inputs.clock;
      for (const auto& [input, from] : begins)
        oldest = std::min(oldest, std::max(from, inputs.clock - holds));
      REQUIRE(tape.held().count == inputs.clock - oldest);
      const int input = static_cast<int>(below(3));
      const std::int64_t from = std::max<std::int64_t>(0, inputs.clock - below(6000));
      const Span span{{from}, {from + 1 + below(6000)}};
      const Samples heard = tape.read(input, span);
      REQUIRE(heard.size() == static_cast<std::size_t>(span.length().count));
      for (std::size_t i = 0; i < heard.size(); ++i) {
        const std::int64_t frame = from + static_cast<std::int64_t>(i);
        const bool there = begins.count(input) && frame >= begins[input] && frame >= inputs.clock - holds &&
                           frame < inputs.clock;
        REQUIRE(heard[i] == (there ? sampleOf(frame, input) : 0.0F));
      }
    }
  }
}

TEST_CASE("What follows a roll is told from what does not, however they come one after the other") {
  const TemporaryFolder temporary;
  InputTape tape(SessionDisk(temporary.path()), {48000}, 10.0);
  tape.listenTo({0});
  Counting inputs(1);
  inputs.run(tape, 10);
  tape.rollBegan(5, {});
  inputs.run(tape, 10);
  tape.rollBegan(6, {});  // right behind it
  inputs.run(tape, 10);
  tape.rollEnded();
  inputs.run(tape, 10);
  tape.rollBegan(7, {});
  inputs.run(tape, 10);
  tape.rollEnded();
  inputs.run(tape, 10);
  const auto segments = tape.segments();
  REQUIRE(segments.size() == 6);
  const std::vector<RollNumber> rolls{0, 5, 6, 0, 7, 0};
  const std::vector<bool> follows{false, false, true, true, false, true};
  for (std::size_t i = 0; i < segments.size(); ++i) {
    INFO("segment " << i);
    const Frames begins{static_cast<std::int64_t>(i) * 10000};
    CHECK(segments[i].tape == Span{begins, begins + Frames{10000}});
    CHECK(segments[i].begins == begins);
    CHECK(segments[i].roll == rolls[i]);
    CHECK(segments[i].followsRoll == follows[i]);
    CHECK(segments[i].reaches == Frames{60000});
  }
  // What is left of one when its beginning was taken does not follow any more, but for what rang over.
  tape.take({{32000}, {35000}});
  REQUIRE(tape.segments().size() == 6);
  CHECK(tape.segments()[3].tape == Span{{35000}, {40000}});
  CHECK_FALSE(tape.segments()[3].followsRoll);
  tape.take({{45000}, {53000}});
  CHECK(tape.segments().back().tape == Span{{53000}, {60000}});
  CHECK(tape.segments().back().followsRoll);
}

TEST_CASE("A claim goes from the first that any microphone heard to the last") {
  const TemporaryFolder temporary;
  InputTape tape(SessionDisk(temporary.path()), {48000}, 10.0);
  tape.listenTo({0, 1, 2});
  std::vector<Samples> heard(3, Samples(200000, 0.0F));
  std::fill(heard[0].begin() + 50000, heard[0].begin() + 60000, 0.1F);
  std::fill(heard[1].begin() + 40000, heard[1].begin() + 45000, -0.1F);
  std::fill(heard[2].begin() + 80000, heard[2].begin() + 90000, 0.1F);
  for (std::ptrdiff_t at = 0; at < 200000; at += 1000) {
    const float* inputs[] = {heard[0].data() + at, heard[1].data() + at, heard[2].data() + at};
    tape.push(inputs, 3, 1000);
    tape.drain();
  }
  for (int i = 0; i < 20; ++i) tape.drain();
  constexpr std::int64_t room = 4800;  // a tenth of a second
  const auto soundOf = [&](const std::vector<int>& inputs) {
    return findClaim(tape, inputs, {48000})->sound;
  };
  CHECK(soundOf({0}) == Span{{50000 - room}, {60000 + room}});
  CHECK(soundOf({0, 1}) == Span{{40000 - room}, {60000 + room}});
  CHECK(soundOf({1, 0}) == Span{{40000 - room}, {60000 + room}});
  CHECK(soundOf({0, 2}) == Span{{50000 - room}, {90000 + room}});
  CHECK(soundOf({2, 1, 0}) == Span{{40000 - room}, {90000 + room}});
  CHECK_FALSE(findClaim(tape, {3}, {48000}));
}
