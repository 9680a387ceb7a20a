// SPDX-License-Identifier: GPL-3.0-or-later
//
// What tests against a real sound server share. They run under tests/with_sound_server.sh or with_jack.sh.
#pragma once

#include <atomic>
#include <catch2/catch.hpp>
#include <cstdlib>
#include <fstream>
#include <thread>

#include "core/device/audio_device.h"
#include "core/signal/cross_correlation.h"
#include "support.h"

namespace yewdrift::test {

inline std::string fromEnvironment(const char* name, const std::string& otherwise = {}) {
  const char* value = std::getenv(name);
  return value && *value ? value : otherwise;
}

/// The driver under test, and the sink and source that the cable joins, as that driver names them.
inline std::string driverUnderTest() {
  return fromEnvironment("YEWDRIFT_TEST_DRIVER", "PipeWire");
}
inline std::string cableSink() {
  return driverUnderTest() == "JACK" ? "'cable Audio/Sink sink'" : "cable";
}
/// How far from its place a take may lie once the round trip was measured, in frames: nowhere, where the
/// server runs what is recorded and what is played on one clock; else what the device dialog states.
inline int toleratedFrames() {
  if (driverUnderTest() != "PulseAudio") return 0;
  return fromEnvironment("SOUND_SERVER_KIND") == "pulseaudio" ? 96 : 960;
}

/// Plays a stereo signal into the microphone from another program, from about `after` seconds on.
class Player {
 public:
  Player(const fs::path& folder, const std::vector<Samples>& channels, double after, int rate = 48000) {
    const fs::path raw = folder / "played.raw";
    std::ofstream out(raw, std::ios::binary);
    for (std::size_t i = 0; i < channels.front().size(); ++i)
      for (const Samples& channel : channels)
        out.write(reinterpret_cast<const char*>(&channel[i]), sizeof(float));
    out.close();
    const std::string line =
        "sleep " + std::to_string(after) +
        "; pacat --playback --device=cable --raw --format=float32le --latency-msec=200 --channels=" +
        std::to_string(channels.size()) + " --rate=" + std::to_string(rate) + " " + raw.string();
    thread_ = std::thread([line] { CHECK(shell(line).status == 0); });
  }
  ~Player() { thread_.join(); }
  Player(const Player&) = delete;
  Player& operator=(const Player&) = delete;

 private:
  std::thread thread_;
};

/// Plays the same noise on each side, at levels of its own, and keeps how loud each input was, and how far
/// the first two are from being the same but for those levels.
class Listener : public AudioCallback {
 public:
  explicit Listener(std::array<float, 2> plays = {}) : plays_(plays) {}
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& given) noexcept override {
    for (int n = 0; n < given.frames; ++n) {
      seed_ = seed_ * 1664525U + 1013904223U;
      const float sample = static_cast<float>(seed_ >> 8U) / static_cast<float>(1U << 23U) - 1.0F;
      for (int i = 0; i < given.outputCount; ++i)
        given.outputs[i][n] = sample * plays_[static_cast<std::size_t>(i) % 2];
      if (given.inputCount > 1)
        apart = std::max(apart, std::abs(given.inputs[0][n] * plays_[1] - given.inputs[1][n] * plays_[0]));
    }
    for (int i = 0; i < std::min(given.inputCount, static_cast<int>(loudest.size())); ++i)
      for (int n = 0; n < given.frames; ++n)
        loudest[static_cast<std::size_t>(i)] =
            std::max(loudest[static_cast<std::size_t>(i)], std::abs(given.inputs[i][n]));
    inputs = given.inputCount;
    outputs = given.outputCount;
    dropouts += given.dropout ? 1 : 0;
    ++blocks;
    frames += given.frames;
  }
  std::array<float, 8> loudest{};  // read once the device is stopped
  float apart = 0.0F;
  std::atomic<int> inputs{0};
  std::atomic<int> outputs{0};
  std::atomic<int> dropouts{0};
  std::atomic<int> blocks{0};
  std::atomic<int> frames{0};

 private:
  std::array<float, 2> plays_;
  std::uint32_t seed_ = 1;
};

/// The samples of a lane's first clip, a channel each, within its window.
inline std::vector<Samples> laneOf(const fs::path& session, const std::string& track, std::size_t lane) {
  const SessionFolder folder = SessionFolder::open(session, SessionFolder::Access::Read);
  const Clip& clip = folder.session().trackNamed(track)->lanes.at(lane)->clips.front();
  std::vector<Samples> channels;
  for (const ChannelSource& source : clip.channels) {
    const auto file =
        readWave(audioPath(folder, (*folder.session().pool)[static_cast<std::size_t>(source.file)]));
    const Samples& whole = file.at(static_cast<std::size_t>(source.channel));
    channels.emplace_back(whole.begin() + (clip.window.start - clip.origin).count,
                          whole.begin() + (clip.window.end - clip.origin).count);
  }
  return channels;
}

/// A shared virtual machine is taken away from its programs now and then for longer than a block; then a
/// server loses a block, and so does what is recorded from it. `attempt` says what is wrong, or nothing; one
/// of a few attempts has to be without fault.
template <typename Attempt>
void requireOnce(Attempt attempt) {
  std::string problems;
  for (int i = 0; i < 4; ++i) {
    const std::string problem = attempt();
    if (problem.empty()) return;
    problems += problem + "\n";
  }
  FAIL(problems);
}

/// What differs between a lane and what was played into it, from where it begins on; empty where nothing
/// does.
inline std::string differences(const std::vector<Samples>& lane, const std::vector<Samples>& signal) {
  const std::size_t most = std::min<std::size_t>(lane[0].size(), 480000);
  const CorrelationPeak found =
      findByCorrelation(std::span(lane[0]).first(most), std::span(signal[0]).first(4096));
  if (found.correlation < 0.99) return "the signal is not there";
  if (found.lag + signal[0].size() > lane[0].size()) return "the signal is cut off";
  for (std::size_t i = 0; i < signal[0].size(); ++i)
    for (std::size_t side = 0; side < signal.size(); ++side)
      if (std::abs(lane[side][found.lag + i] - signal[side][i]) > 1e-6F)
        return "side " + std::to_string(side) + " differs from frame " + std::to_string(i) + " on";
  return {};
}

/// Records ten seconds into a new session, with a program that is stopped for 0.4 s while a signal is played
/// to it, `playedAfter` seconds after it began. Says what is wrong, or nothing: either all of the signal is
/// there, or all up to a mark.
template <typename CommandFor>
std::string heldUp(const fs::path& folder, CommandFor commandFor, int playedAfter = 3) {
  const std::vector<Samples> signal{noise(240000, 5, 0.4F), noise(240000, 6, 0.4F)};
  const fs::path session = folder / "held-up";
  tool("new " + session.string() + " --format float");
  tool("track " + session.string() + " --track Voice --make --channels 2");
  ToolResult result;
  {
    const Player player(folder, signal, playedAfter);
    result = shell(commandFor(session) + " & t=$!; sleep " + std::to_string(playedAfter + 3) +
                   "; kill -STOP $t; sleep 0.4; kill -CONT $t; wait $t");
  }
  INFO(result.err);
  REQUIRE(result.status == 0);
  const SessionFolder opened = SessionFolder::open(session, SessionFolder::Access::Read);
  const auto& markers = opened.session().markers;
  const std::vector<Samples> lane = laneOf(session, "Voice", 0);
  REQUIRE(lane[0].size() == 480000);
  if (markers.empty()) {
    const std::string lost = differences(lane, signal);
    return lost.empty() ? lost : "nothing is marked, and yet " + lost;
  }
  CHECK(result.out.find("marked") != std::string::npos);
  // One mark lies to the frame where something is missing: a quarter of a second up to it is what was played,
  // and what follows is not. There may be others: a shared machine holds programs up, too.
  constexpr std::size_t before = 12000;
  for (const Marker& marker : markers) {
    CHECK(marker.kind == MarkerKind::Dropout);
    const auto marked = static_cast<std::size_t>(marker.at.count);
    if (marked < before || marked + 200 > lane[0].size()) continue;
    const CorrelationPeak found =
        findByCorrelation(signal[0], std::span(lane[0]).subspan(marked - before, 4096));
    if (found.correlation < 0.99 || found.lag + before + 200 > signal[0].size()) continue;
    const auto same = [&](std::size_t i) {
      return std::abs(lane[0][marked - before + i] - signal[0][found.lag + i]) < 1e-6F &&
             std::abs(lane[1][marked - before + i] - signal[1][found.lag + i]) < 1e-6F;
    };
    bool whole = true;
    for (std::size_t i = 0; i < before; ++i) whole = whole && same(i);
    if (whole && !same(before + 100)) return {};
  }
  return "none of " + std::to_string(markers.size()) + " marks lies where something is missing";
}

}  // namespace yewdrift::test
