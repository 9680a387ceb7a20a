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
