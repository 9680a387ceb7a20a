// SPDX-License-Identifier: GPL-3.0-or-later
//
// Wherever what sounds breaks, nothing clicks: no step is larger than twice the material's own, measured at
// the device, on both sides.
#include "engine/engine_tests.h"

namespace {

constexpr float level = 0.5F;
constexpr double leftPitch = 220.3;
constexpr double rightPitch = 171.7;
constexpr std::size_t jumpFade = 240;  // 5 ms at 48 kHz

/// A stereo take, another tone on each side.
SessionFolder stereoSession(const fs::path& path, std::size_t frames = 200000) {
  SessionFolder folder = emptySession(path, 1);
  writeWave((folder.path() / "audio/tones.wav"),
            {sine(frames, leftPitch, 48000.0, level), sine(frames, rightPitch, 48000.0, level)});
  Session session = folder.session();
  const TrackId id = session.tracks.front()->id;
  session = setMicrophones(session, id, microphonesFor(2));
  session =
      addFileAsLane(session, id, {"audio/tones.wav", 2, {static_cast<std::int64_t>(frames)}}, {}, "Tones");
  folder.commit("Tones", session);
  return folder;
}

/// Plays and watches both sides over the edges of blocks.
struct Ears {
  explicit Ears(Rig& watched) : rig(watched) {}
  void listen(std::size_t frames) {
    for (std::size_t done = 0; done < frames;) {
      rig.engine.service();
      rig.device.runBlock();
      for (std::size_t side = 0; side < 2; ++side)
        for (const float sample : rig.device.lastOutput()[side]) {
          steps[side] = std::max(steps[side], std::abs(sample - last[side]));
          last[side] = sample;
          heard[side].push_back(sample);
        }
      done += rig.device.lastOutput()[0].size();
    }
  }
  void checkNothingClicked() const {
    CHECK(steps[0] <= 2.0 * 2.0 * M_PI * leftPitch / 48000.0 * level);
    CHECK(steps[1] <= 2.0 * 2.0 * M_PI * rightPitch / 48000.0 * level);
    CHECK(steps[0] > 0.0F);
    CHECK(steps[1] > 0.0F);
  }
  Rig& rig;
  std::array<float, 2> last{};
  std::array<float, 2> steps{};
  std::array<Samples, 2> heard;
};

}  // namespace

TEST_CASE("Starting in a note, going elsewhere, round the loop and stopping make no click") {
  for (const int block : {64, 100, 1024}) {
    INFO("block " << block);
    const TemporaryFolder temporary;
    SessionFolder folder = stereoSession(temporary / "s");
    Rig rig(folder, block);
    Ears ears(rig);
    rig.engine.play({{1055}, Span{{1000}, {11037}}, 0, std::nullopt, {}});
    rig.engine.settle();
    ears.listen(40000);
    REQUIRE(rig.engine.state().round >= 4);
    for (const std::int64_t to : {100060, 55, 77777}) {
      rig.engine.locate({to});
      rig.engine.settle();
      ears.listen(3000);
    }
    // As fast as a person can hit it.
    for (int i = 0; i < 20; ++i) {
      rig.engine.locate({20000 + i * 1733});
      rig.engine.settle();
      ears.listen(static_cast<std::size_t>(block));
    }
    rig.engine.stop();
    ears.listen(2000);
    CHECK(ears.last[0] == 0.0F);
    CHECK(ears.last[1] == 0.0F);
    ears.checkNothingClicked();
    CHECK(rig.engine.state().underruns == 0);
  }
}

TEST_CASE("A roll that ends by itself fades into what lies behind its end") {
  const TemporaryFolder temporary;
  SessionFolder folder = stereoSession(temporary / "s");
  Rig rig(folder, 128);
  Ears ears(rig);
  RollTimeline timeline;
  timeline.stopAt = Frames{10055};
  rig.engine.play(timeline);
  rig.engine.settle();
  ears.listen(12000);
  CHECK_FALSE(rig.engine.state().rolling);
  ears.checkNothingClicked();
  const Samples tone = sine(12000, leftPitch, 48000.0, level);
  CHECK(ears.heard[0][10054] == Approx(tone[10054]).margin(1e-5));
  for (const std::size_t i : {0U, 100U, 239U})
    CHECK(ears.heard[0][10055 + i] ==
          Approx(tone[10055 + i] * (1.0 - (static_cast<double>(i) + 0.5) / jumpFade)).margin(1e-5));
  CHECK(ears.heard[0][10055 + jumpFade] == 0.0F);
}

TEST_CASE("A plan that plays the same is taken over without a trace, bit for bit") {
  const TemporaryFolder temporary;
  const Samples signal = noise(100000, 5);
  SessionFolder folder = sessionWithLanes(temporary / "s", {signal});
  const auto play = [&](bool changing) {
    Rig rig(folder, 64);
    rig.engine.play({});
    rig.engine.settle();
    Samples heard;
    for (int i = 0; i < 20; ++i) {
      if (changing) rig.setPlan(addMarker(folder.session(), {i}, "new"));
      const Samples next = rig.play(640);
      heard.insert(heard.end(), next.begin(), next.end());
    }
    return heard;
  };
  CHECK(play(true) == play(false));
}

TEST_CASE("Where a roll goes on from here nothing is heard twice, and nothing jumps") {
  const TemporaryFolder temporary;
  const Samples signal = noise(100000, 6);
  SessionFolder folder = sessionWithLanes(temporary / "s", {signal});
  Rig rig(folder, 96);
  rig.engine.play({});
  rig.engine.settle();
  Samples heard = rig.play(96 * 50);
  // The position that the window knows is old by now; the loop is switched on and off again.
  const RollNumber on = rig.engine.play({{96 * 40}, Span{{0}, {90000}}, 0, std::nullopt, {}}, RollFrom::Here);
  Samples next = rig.play(96 * 50);
  heard.insert(heard.end(), next.begin(), next.end());
  rig.engine.play({{96 * 90}, std::nullopt, 0, std::nullopt, {}}, RollFrom::Here);
  next = rig.play(96 * 50);
  heard.insert(heard.end(), next.begin(), next.end());
  for (std::size_t i = 0; i < heard.size(); ++i)
    REQUIRE(heard[i] == Approx(signal[i] * std::sqrt(0.5)).margin(1e-6));
  const auto events = rig.engine.takeEvents();
  REQUIRE(events.size() == 2);
  CHECK(events[0].kind == EngineEvent::Kind::WentOn);
  CHECK(events[0].roll == on);
  CHECK(events[0].rollFrame == Frames{});
  // Where the first roll had come to, exactly: a block boundary, a little behind what was known.
  CHECK(events[0].position >= Frames{96 * 50});
  CHECK(events[0].position.count % 96 == 0);
}
