// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/capture.h"

#include <sys/resource.h>

#include <catch2/catch.hpp>
#include <csignal>

#include "core/error.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("Frames that find no room are counted, never waited for") {
  const TemporaryFolder temporary;
  CaptureStream stream({{{0}, temporary / "a.wav"}}, {48000}, SampleFormat::Float32, 1000);
  const Samples signal = noise(800, 1);
  const float* inputs[] = {signal.data()};
  stream.push(inputs, 1, 0, 800);
  stream.push(inputs, 1, 0, 800);
  CHECK(stream.lostFrames() == 600);
  stream.markComplete();
  CHECK(stream.drain());
  CHECK(stream.written() == Frames{1000});
  CHECK(readWave(temporary / "a.wav").front().size() == 1000);
}

TEST_CASE("An input that the device does not have records silence") {
  const TemporaryFolder temporary;
  CaptureStream stream({{{0, 7}, temporary / "a.wav"}}, {48000}, SampleFormat::Float32, 4000);
  const Samples signal = noise(800, 1);
  const float* inputs[] = {signal.data()};
  stream.push(inputs, 1, 0, 800);
  stream.markComplete();
  stream.drain();
  const auto file = readWave(temporary / "a.wav");
  CHECK(file[0] == signal);
  CHECK(file[1] == Samples(800, 0.0F));
}

TEST_CASE("A full disk in mid-pass is said, and what was written before is kept") {
  const TemporaryFolder temporary;
  // A limit on file sizes makes writing fail as a full disk does.
  rlimit before{};
  getrlimit(RLIMIT_FSIZE, &before);
  const auto previous = std::signal(SIGXFSZ, SIG_IGN);
  rlimit small = before;
  small.rlim_cur = 400'000;
  setrlimit(RLIMIT_FSIZE, &small);
  {
    CaptureStream stream({{{0}, temporary / "a.wav"}}, {48000}, SampleFormat::Float32, 20000);
    const Samples signal = noise(10000, 1);
    const float* inputs[] = {signal.data()};
    for (int i = 0; i < 30; ++i) {
      stream.push(inputs, 1, 0, 10000);
      stream.drain();
    }
    stream.markComplete();
    stream.drain();
    CHECK(stream.failure().has_value());
    CHECK(stream.written().count >= 80000);
    CHECK(stream.written().count < 110000);
  }
  setrlimit(RLIMIT_FSIZE, &before);
  std::signal(SIGXFSZ, previous);
  const Samples kept = readWave(temporary / "a.wav").front();
  REQUIRE(kept.size() >= 80000);
  CHECK(std::equal(kept.begin(), kept.begin() + 10000, noise(10000, 1).begin()));
}

TEST_CASE("Where a file cannot be made the recording is refused") {
  CHECK_THROWS_AS(CaptureStream({{{0}, "/proc/a.wav"}}, {48000}, SampleFormat::Float32, 1000), Error);
}
