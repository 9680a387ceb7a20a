// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/capture.h"

#include <sys/resource.h>

#include <algorithm>
#include <csignal>
#include "engine/engine_tests.h"

TEST_CASE("However late the disk is, what found no room is silence in its place, on every channel") {
  for (unsigned seed = 1; seed <= 20; ++seed) {
    INFO("seed " << seed);
    std::mt19937 random(seed);
    const auto below = [&random](int most) {
      return static_cast<std::size_t>(random()) % static_cast<std::size_t>(most);
    };
    const TemporaryFolder temporary;
    constexpr std::size_t room = 1000;
    CaptureStream stream({{{2, 0}, temporary / "a.wav"}, {{1}, temporary / "b.wav"}}, {48000},
                         SampleFormat::Float32, room);
    const std::vector<Samples> played{noise(9000, seed), noise(9000, seed + 30), noise(9000, seed + 60)};
    const float* inputs[] = {played[0].data(), played[1].data(), played[2].data()};
    std::vector<Samples> expected(3);
    std::size_t waiting = 0;  // in the ring
    std::size_t owed = 0;
    std::size_t lost = 0;
    const auto silent = [&](std::size_t frames) {
      for (Samples& channel : expected) channel.insert(channel.end(), frames, 0.0F);
    };
    for (int step = 0; step < 200; ++step) {
      const std::size_t offset = below(8000);
      const std::size_t frames = 1 + below(400);
      const std::size_t paid = std::min(owed, room - waiting);
      silent(paid);
      owed -= paid;
      waiting += paid;
      const std::size_t taken = owed > 0 ? 0 : std::min(frames, room - waiting);
      for (std::size_t c = 0; c < 3; ++c) {
        const auto from = played[c].begin() + static_cast<std::ptrdiff_t>(offset);
        expected[c].insert(expected[c].end(), from, from + static_cast<std::ptrdiff_t>(taken));
      }
      waiting += taken;
      owed += frames - taken;
      lost += frames - taken;
      stream.push(inputs, 3, static_cast<int>(offset), static_cast<int>(frames));
      REQUIRE(stream.lostFrames() == static_cast<std::int64_t>(lost));
      if (below(4) == 0) {
        stream.drain();
        waiting = 0;
        REQUIRE(stream.written() == Frames{static_cast<std::int64_t>(expected[0].size())});
      }
    }
    silent(owed + 100);  // to the end of what its files are to hold
    const Frames whole{static_cast<std::int64_t>(expected[0].size())};
    stream.endsAt(whole, whole);
    stream.markComplete();
    REQUIRE(stream.drain());
    CHECK((readWave(temporary / "a.wav") == std::vector<Samples>{expected[2], expected[0]}));
    CHECK((readWave(temporary / "b.wav") == std::vector<Samples>{expected[1]}));
  }
}

TEST_CASE("At every moment the files on disk tell of all but the last fifth of a second") {
  // What a kill would leave: whatever was written is there, whatever the header does not tell is not.
  const TemporaryFolder temporary("/dev/shm");
  const fs::path stereo = temporary / "stereo.wav";
  const fs::path mono = temporary / "mono.wav";
  CaptureStream stream({{{2, 0}, stereo}, {{1}, mono}}, {48000}, SampleFormat::Pcm24, 48000);
  const std::vector<Samples> played{noise(48000, 1), noise(48000, 2), noise(48000, 3)};
  std::int64_t pushed = 0;
  const auto at = [&](std::size_t input, std::int64_t frame) {
    return played[input][static_cast<std::size_t>(frame % 48000)];
  };
  while (pushed < 40 * 48000) {
    const auto offset = static_cast<std::ptrdiff_t>(pushed % 48000);
    const float* inputs[] = {played[0].data() + offset, played[1].data() + offset, played[2].data() + offset};
    stream.push(inputs, 3, 0, 480);
    stream.drain();
    pushed += 480;
    REQUIRE(stream.written() == Frames{pushed});
    if (pushed < 9600) continue;
    for (const fs::path& path : {stereo, mono}) {
      const std::int64_t told = probeAudioFile(path).length.count;
      REQUIRE(told > pushed - 9600);
      REQUIRE(told <= pushed);
    }
    // At 0.4 s, 4 s and 40 s all of it is what was played, channel by channel.
    if (pushed != 19200 && pushed != 192000 && pushed != 1920000) continue;
    const auto both = readWave(stereo);
    const auto one = readWave(mono);
    REQUIRE(both.size() == 2);
    REQUIRE(one.size() == 1);
    for (std::size_t i = 0; i < both[0].size(); ++i) {
      const auto frame = static_cast<std::int64_t>(i);
      REQUIRE((both[0][i] == at(2, frame) && both[1][i] == at(0, frame)));
    }
    for (std::size_t i = 0; i < one[0].size(); ++i) REQUIRE(one[0][i] == at(1, static_cast<std::int64_t>(i)));
  }
  // What was played in the roll is told of as soon as it is written; takes are made of it at once.
  stream.endsAt({pushed + 480}, {pushed + 9600});
  const float* inputs[] = {played[0].data(), played[1].data(), played[2].data()};
  stream.push(inputs, 3, 0, 480);
  CHECK_FALSE(stream.bodyWritten());
  stream.drain();
  CHECK(stream.bodyWritten());
  CHECK(stream.body() == Frames{pushed + 480});
  CHECK(stream.whole() == Frames{pushed + 9600});
  CHECK(probeAudioFile(mono).length == Frames{pushed + 480});
  CHECK_FALSE(stream.closed());
  // It was complete before the rest was played: silence stands in for that.
  stream.markComplete();
  CHECK(stream.drain());
  CHECK(stream.closed());
  CHECK(stream.safe());
  CHECK_FALSE(stream.failure());
  for (const fs::path& path : {stereo, mono}) {
    const auto file = readWave(path);
    REQUIRE(file[0].size() == static_cast<std::size_t>(pushed + 9600));
    CHECK(file[0][static_cast<std::size_t>(pushed) + 479] == at(path == mono ? 1 : 2, 479));
    CHECK(std::all_of(file[0].begin() + pushed + 480, file[0].end(), [](float s) { return s == 0.0F; }));
  }
}
