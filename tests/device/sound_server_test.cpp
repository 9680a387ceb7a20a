// SPDX-License-Identifier: GPL-3.0-or-later
//
// Recording for real, by the tool, from the microphone of a private sound server: nothing here is simulated
// but the card. $YEWDRIFT_TEST_DRIVER says through which driver. [desktop]: what JACK, whose sources are
// ports, has not.
#include <atomic>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/device/audio_driver.h"
#include "core/error.h"
#include "device/sound_server_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using nlohmann::json;

namespace {

/// Large enough for a shared virtual machine to keep up with: with blocks of 256 it loses some to its host.
constexpr int block = 1024;

std::string record(const fs::path& session, const std::string& rest, int blockFrames = block) {
  return "record " + session.string() + " --track Voice --driver " + driverUnderTest() + " --block " +
         std::to_string(blockFrames) + " " + rest;
}

/// Measures the round trip of the cable; what the tool says. Where frames are lost meanwhile it stores
/// nothing and says so, and a shared machine loses some: then it is measured again, as it asks for.
std::string measure(const std::string& rest, int blockFrames = block) {
  ToolResult result;
  for (int attempt = 0; attempt < 8; ++attempt) {
    result = shell("%T measure --driver " + driverUnderTest() + " --out " + cableSink() + " --block " +
                   std::to_string(blockFrames) + " " + rest);
    if (result.status == 0) return result.out;
    REQUIRE(result.status == 1);
  }
  FAIL(result.err);
  return {};
}

DeviceSettings settingsAt(int rate) {
  DeviceSettings settings;
  settings.driver = driverUnderTest();
  settings.rate = {rate};
  settings.blockFrames = block;
  return settings;
}

}  // namespace

TEST_CASE(
    "What is played into the microphone is recorded whole, at the right pace, both sides, sample for sample",
    "[server]") {
  const auto seconds = static_cast<std::size_t>(std::stoi(fromEnvironment("YEWDRIFT_TEST_SECONDS", "25")));
  const std::vector<Samples> signal{noise((seconds - 7) * 48000, 1, 0.4F),
                                    noise((seconds - 7) * 48000, 2, 0.4F)};
  requireOnce([&]() -> std::string {
    const TemporaryFolder temporary;
    const fs::path session = temporary / "s";
    tool("new " + session.string() + " --format float");
    tool("track " + session.string() + " --track Voice --make --channels 2");
    const auto began = std::chrono::steady_clock::now();
    {
      const Player player(temporary.path(), signal, 3.0);
      tool(record(session, "--from 0s --to " + std::to_string(seconds) + "s"));
    }
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - began;
    const auto lane = laneOf(session, "Voice", 0);
    REQUIRE(lane.size() == 2);
    REQUIRE(lane[0].size() == seconds * 48000);
    // As many frames as the clock says; besides there is the opening and closing of servers and sessions.
    CHECK(took.count() > static_cast<double>(seconds));
    if (took.count() > static_cast<double>(seconds) + 8.0)
      return "it took " + std::to_string(took.count()) + " s";
    return differences(lane, signal);
  });
}

TEST_CASE("Three passes of a loop lie where the backing was played, once the round trip is measured",
          "[server][brief]") {
  const Samples backing = noise(6 * 48000, 3, 0.4F);
  const Samples expected(backing.begin() + 48000, backing.begin() + 3 * 48000);
  requireOnce([&]() -> std::string {
    const TemporaryFolder temporary;
    const fs::path session = temporary / "s";
    writeWave(temporary / "b.wav", {backing}, 48000, SampleFormat::Float32);
    tool("new " + session.string() + " --format float");
    tool("add " + session.string() + " --track Backing --backing " + (temporary / "b.wav").string());
    measure("");
    tool(record(session, "--from 1s --loop 1s..3s --passes 3 --out " + cableSink()));
    REQUIRE(show(session)["tracks"][1]["lanes"].size() == 3);
    for (std::size_t pass = 0; pass < 3; ++pass) {
      const Samples lane = laneOf(session, "Voice", pass).front();
      REQUIRE(lane.size() == 96000);
      // Gapless: the same distance from where it was played at the start, in the middle and at the end of the
      // pass.
      std::optional<double> distance;
      for (const std::size_t from : {4000U, 40000U, 80000U}) {
        const CorrelationPeak found =
            findByCorrelation(std::span(lane), std::span(expected).subspan(from, 4096));
        const double here = static_cast<double>(found.lag) - static_cast<double>(from);
        if (found.correlation < 0.99) return "pass " + std::to_string(pass) + " has a gap";
        if (std::abs(here) > toleratedFrames())
          return "pass " + std::to_string(pass) + " lies " + std::to_string(here) + " frames off";
        if (distance && *distance != here) return "pass " + std::to_string(pass) + " has a jump";
        distance = here;
      }
    }
    return {};
  });
}

TEST_CASE("A session at another rate than the server's is recorded at the right pitch and place",
          "[server]") {
  const int rate = GENERATE(44100, 96000);
  const int blockFrames = rate == 96000 ? 2 * block : block;  // about as long as `block` is at 48 kHz
  const Samples backing = sine(static_cast<std::size_t>(rate) * 5, 1000.0, rate, 0.5F);
  requireOnce([&]() -> std::string {
    const TemporaryFolder temporary;
    const fs::path session = temporary / "s";
    tool("new " + session.string() + " --format float --rate " + std::to_string(rate));
    writeWave(temporary / "b.wav", {backing}, rate, SampleFormat::Float32);
    tool("add " + session.string() + " --track Backing --backing " + (temporary / "b.wav").string());
    measure("--rate " + std::to_string(rate), blockFrames);
    tool(record(session, "--from 0s --to 3s --out " + cableSink(), blockFrames));
    const Samples lane = laneOf(session, "Voice", 0).front();
    REQUIRE(lane.size() == static_cast<std::size_t>(rate) * 3);
    // Least squares against a sine of exactly 1 kHz (projection over whole periods): what is left over is
    // what a wrong pitch, a gap or the conversion would leave.
    const auto from = static_cast<std::size_t>(rate);
    const auto count = static_cast<std::size_t>(rate);
    double sines = 0.0;
    double cosines = 0.0;
    for (std::size_t i = from; i < from + count; ++i) {
      const double phase = 2.0 * M_PI * 1000.0 * static_cast<double>(i) / rate;
      sines += 2.0 * lane[i] * std::sin(phase) / static_cast<double>(count);
      cosines += 2.0 * lane[i] * std::cos(phase) / static_cast<double>(count);
    }
    double rest = 0.0;
    for (std::size_t i = from; i < from + count; ++i) {
      const double phase = 2.0 * M_PI * 1000.0 * static_cast<double>(i) / rate;
      const double difference = lane[i] - sines * std::sin(phase) - cosines * std::cos(phase);
      rest += difference * difference / static_cast<double>(count);
    }
    const double level = std::hypot(sines, cosines);
    const double restLevel = 10.0 * std::log10(rest / (level * level / 2.0));
    if (restLevel > -60.0) return "what is no sine of 1 kHz is at " + std::to_string(restLevel) + " dB";
    // One side of a mono track in the middle: 3 dB lower.
    CHECK(level == Approx(0.5 * std::sqrt(0.5)).epsilon(0.01));
    // The phase says where it lies, to a part of a frame.
    const double offBy = std::abs(std::atan2(cosines, sines)) * rate / (2.0 * M_PI * 1000.0);
    if (driverUnderTest() != "PulseAudio" && offBy > 1.0)
      return "it lies " + std::to_string(offBy) + " frames off";
    return {};
  });
}

TEST_CASE("A source that is unloaded in mid-pass ends the roll, says so, and everything until then is kept",
          "[server]") {
  const TemporaryFolder temporary;
  const fs::path session = temporary / "s";
  tool("new " + session.string() + " --format float");
  // However long it takes to begin: two seconds of it are on disk first.
  const auto written = [&session] {
    std::uintmax_t bytes = 0;
    std::error_code ignored;
    for (const auto& file : fs::directory_iterator(session / "audio", ignored))
      bytes += file.file_size(ignored);
    return bytes;
  };
  std::thread puller([&written] {
    for (int tries = 0; tries < 400 && written() < 2 * 48000 * sizeof(float); ++tries)
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
    shell("\"$SOUND_SERVER\" unplug");
  });
  const ToolResult result = shell("%T " + record(session, "--from 0s --to 60s"));
  puller.join();
  CHECK(result.status == 1);
  REQUIRE_THAT(result.err, Catch::Contains("is gone") && Catch::Contains("kept"));
  const Samples lane = laneOf(session, "Voice", 0).front();
  CHECK(lane.size() > 24000);
  CHECK(lane.size() < 48000 * 10);
  CHECK(shell("%T check " + session.string()).status == 0);
  REQUIRE(shell("\"$SOUND_SERVER\" plug; pactl set-default-source microphone").status == 0);
  tool(record(session, "--from 0s --to 1s"));
  CHECK(laneOf(session, "Voice", 1).front().size() == 48000);
}

TEST_CASE("Held up for longer than a block, it has lost nothing, or says where", "[server]") {
  requireOnce([&] {
    const TemporaryFolder temporary;
    return heldUp(temporary.path(),
                  [](const fs::path& session) { return "%T " + record(session, "--from 0s --to 10s"); });
  });
}

TEST_CASE("What is not there is said in a sentence", "[server][brief]") {
  const TemporaryFolder temporary;
  const fs::path session = temporary / "s";
  tool("new " + session.string());
  auto refused = [&](const std::string& rest, const std::string& says) {
    const ToolResult result = shell("%T " + record(session, "--from 0s --to 1s " + rest));
    INFO(rest);
    CHECK(result.status == 1);
    CHECK_THAT(result.err, Catch::Contains(says));
    CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
    CHECK(show(session)["tracks"].empty());
  };
  refused("--in 'no such thing'", "not there");
  refused("--out 'no such thing'", "not there");
  CHECK(shell("%T record " + session.string() + " --track A --driver Gramophone --from 0s --to 1s").status ==
        1);
  CHECK(shell("%T record " + session.string() + " --track A --from 0s --to 1s").status == 2);
  const ToolResult none = shell(
      "XDG_RUNTIME_DIR=/nonexistent PULSE_RUNTIME_PATH=/nonexistent PULSE_SERVER=unix:/nonexistent "
      "JACK_DEFAULT_SERVER=none %T " +
      record(session, "--from 0s --to 1s"));
  CHECK(none.status == 1);
  CHECK_THAT(none.err, Catch::Contains("running") || Catch::Contains("answer"));
}

TEST_CASE("An open pair says what it is and what is converted, and that its source is muted while it is",
          "[server][brief]") {
  const AudioDriver& driver = audioDriverNamed(driverUnderTest());
  const DriverListing listing = driver.list();
  Listener listener;
  DeviceSettings settings = settingsAt(44100);
  settings.inputs = 4;  // the microphone has two
  const auto device = driver.open(settings, listener);
  device->start();
  REQUIRE(comesTrue(10.0, [&] { return listener.frames > 22050; }));
  const DeviceReport report = device->report();
  CHECK(report.sourceName == findEndPoint(listing.sources, {})->name);
  CHECK(report.sinkName == findEndPoint(listing.sinks, {})->name);
  CHECK(report.silence.empty());
  CHECK(device->alive());
  if (driverUnderTest() == "PulseAudio") {  // converts by itself
    CHECK(report.deviceRate == 44100);
    for (const Sentence& note : report.notes) CHECK_THAT(note.english(), !Catch::Contains("(0 millionths)"));
  } else {
    CHECK(report.deviceRate == 48000);
    CHECK(report.notes.size() == 1);
    // Both ways through the filters: they look 6 ms ahead.
    UNSCOPED_INFO(device->reportedRoundTrip().count);
    CHECK(device->reportedRoundTrip() >= framesFromSeconds(0.006, {44100}));
    CHECK(device->reportedRoundTrip() < framesFromSeconds(0.5, {44100}));
  }
  const auto mute = [](bool on) {
    REQUIRE(shell(std::string("pactl set-source-mute microphone ") + (on ? "1" : "0")).status == 0);
  };
  if (driverUnderTest() != "JACK") {  // which does not know it
    for (int time = 0; time < 2; ++time) {
      mute(true);
      CHECK(comesTrue(5.0, [&] { return !device->report().silence.empty(); }));
      CHECK_THAT(device->report().silence.english(),
                 Catch::Contains("muted") && Catch::Contains(report.sourceName));
      mute(false);
      CHECK(comesTrue(5.0, [&] { return device->report().silence.empty(); }));
    }
  }
  device->stop();
  // JACK's ports are there whether anything is patched to them or not.
  REQUIRE(listener.inputs == (driverUnderTest() == "JACK" ? 4 : 2));
  for (const float loudest : listener.loudest) CHECK(loudest == 0.0F);
}

TEST_CASE("What a sink plays can be recorded, side by side, and blocks follow each other without dropouts",
          "[server][brief][desktop]") {
  const AudioDriver& driver = audioDriverNamed(driverUnderTest());
  const DriverListing listing = driver.list();
  const auto monitor = std::find_if(listing.sources.begin(), listing.sources.end(), [](const EndPoint& each) {
    return each.monitor && each.id.find("speakers") != std::string::npos;
  });
  REQUIRE(monitor != listing.sources.end());
  CHECK(monitor->channels == 2);
  CHECK_FALSE(monitor->isDefault);
  Listener listener({0.25F, -0.5F});
  DeviceSettings settings = settingsAt(48000);
  settings.source = monitor->id;
  const auto device = driver.open(settings, listener);
  CHECK(device->settings().source == monitor->id);
  CHECK(device->settings().sink == findEndPoint(listing.sinks, {})->id);
  device->start();
  CHECK(comesTrue(10.0, [&] { return listener.frames > 96000; }));
  CHECK(device->alive());
  CHECK(device->report().sourceName == monitor->name);
  const std::int64_t roundTrip = device->reportedRoundTrip().count;
  device->stop();
  REQUIRE(listener.inputs == 2);
  CHECK(listener.outputs == 2);
  CHECK(listener.loudest[0] == Approx(0.25F).margin(0.01));
  CHECK(listener.loudest[1] == Approx(0.5F).margin(0.02));
  CHECK(listener.apart < 1e-4F);
  // A shared machine may be held up now and then.
  CHECK(listener.dropouts * 4 < listener.blocks);
  // A sink without hardware is no way at all in PipeWire's graph.
  CHECK(roundTrip >= (driverUnderTest() == "PipeWire" ? 0 : device->settings().blockFrames));
  CHECK(roundTrip < 48000);
  // A block in, three out, and what waits between two clocks.
  if (driverUnderTest() == "PulseAudio") CHECK(roundTrip >= 4 * block + 480);
  const int stopped = listener.blocks;
  std::this_thread::sleep_for(std::chrono::milliseconds(200));
  CHECK(listener.blocks == stopped);
}

TEST_CASE("Whoever watches a driver is told when a microphone goes and when it comes, and is not any more",
          "[server][brief][desktop]") {
  const AudioDriver& driver = audioDriverNamed(driverUnderTest());
  const auto there = [&] {
    const auto sources = driver.list().sources;
    return std::any_of(sources.begin(), sources.end(),
                       [](const auto& each) { return each.id == "microphone"; });
  };
  std::atomic<int> changes{0};
  {
    const auto watch = driver.watch([&] { ++changes; });
    CHECK(there());
    for (int time = 0; time < 2; ++time) {
      int before = changes;
      REQUIRE(shell("\"$SOUND_SERVER\" unplug").status == 0);
      CHECK(comesTrue(5.0, [&] { return changes > before; }));
      CHECK(comesTrue(5.0, [&] { return !there(); }));
      before = changes;
      REQUIRE(shell("\"$SOUND_SERVER\" plug").status == 0);
      CHECK(comesTrue(5.0, [&] { return changes > before; }));
      CHECK(comesTrue(5.0, there));
    }
  }
  const int before = changes;
  REQUIRE(shell("\"$SOUND_SERVER\" unplug && \"$SOUND_SERVER\" plug && pactl set-default-source microphone")
              .status == 0);
  CHECK(changes == before);
}

TEST_CASE(
    "Where the server ends, the device is lost with a sentence, and can be opened again once it is back",
    "[server][brief]") {
  const AudioDriver& driver = audioDriverNamed(driverUnderTest());
  Listener listener;
  std::atomic<int> changes{0};
  auto device = driver.open(settingsAt(48000), listener);
  device->start();
  CHECK(comesTrue(5.0, [&] { return listener.blocks > 2; }));
  CHECK(device->alive());
  auto watch = driver.watch([&] { ++changes; });
  const int before = changes;
  REQUIRE(shell("\"$SOUND_SERVER\" stop").status == 0);
  CHECK(comesTrue(10.0, [&] { return !device->alive(); }));
  CHECK_FALSE(device->lossReason().empty());
  // PipeWire's JACK tells nobody who only watches.
  if (driverUnderTest() != "JACK") CHECK(comesTrue(10.0, [&] { return changes > before; }));
  const int heard = listener.blocks;
  std::this_thread::sleep_for(std::chrono::milliseconds(200));
  CHECK(listener.blocks == heard);
  CHECK_THROWS_AS(driver.list(), Error);
  CHECK_THROWS_AS(driver.open(settingsAt(48000), listener), Error);
  watch.reset();
  device.reset();
  REQUIRE(shell("\"$SOUND_SERVER\" start").status == 0);
  device = driver.open(settingsAt(48000), listener);
  device->start();
  CHECK(comesTrue(5.0, [&] { return listener.blocks > heard + 2; }));
  CHECK(device->alive());
}

TEST_CASE("What was opened, listed and watched leaves no thread and no descriptor behind",
          "[server][brief]") {
  const AudioDriver& driver = audioDriverNamed(driverUnderTest());
  const auto openAndClose = [&] {
    Listener listener;
    const auto device = driver.open(settingsAt(48000), listener);
    device->start();
    CHECK(comesTrue(5.0, [&] { return listener.blocks > 2; }));
    const auto watch = driver.watch([] {});
    (void)driver.list();
  };
  const auto held = [](const char* what) {
    return std::distance(fs::directory_iterator(fs::path("/proc/self") / what), fs::directory_iterator());
  };
  openAndClose();  // libraries keep some for themselves
  const auto descriptors = held("fd");
  const auto threads = held("task");
  openAndClose();
  CHECK(comesTrue(2.0, [&] { return held("fd") <= descriptors; }));
  CHECK(comesTrue(2.0, [&] { return held("task") <= threads; }));
}
