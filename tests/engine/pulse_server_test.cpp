// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is asked of a PulseAudio server, and made of what it says, where one that is none stands in for it;
// the tests in tests/device ask real ones.
#include "stand_ins/pulse_server.h"

#include "engine/engine_tests.h"

#include "stand_ins/ask_drivers.h"

namespace {

using Answers = PulseServer::Answers;
// As PulseAudio numbers them (pulse/sample.h, channelmap.h, def.h).
constexpr int float32 = 5;
constexpr int mono = 0;
constexpr int frontLeft = 1;
constexpr int aux0 = 12;
constexpr unsigned interpolateTiming = 0x2;
constexpr unsigned autoTiming = 0x8;
constexpr unsigned noRemap = 0x10;
constexpr unsigned noRemix = 0x20;
constexpr unsigned dontMove = 0x200;
constexpr unsigned adjustLatency = 0x2000;

/// A microphone, an interface of four, what each sink plays, and two sinks.
struct PulseDesktop {
  PulseDesktop() {
    server.answers = Answers::Yes;
    server.sources = {
        {"line.monitor", "Monitor of Line", 2, true}, {"mic", "Microphone", 1}, {"box", std::nullopt, 4}};
    server.sinks = {{"line", "Line", 2}, {"phones", std::nullopt, 2}};
    server.defaultSource = "box";
    server.defaultSink = "phones";
  }
  ~PulseDesktop() {
    CHECK(server.clients == 0);
    CHECK(server.operationsHeld == 0);
    CHECK(server.streamsHeld == 0);
    freshPulseServer();
  }
  PulseDesktop(const PulseDesktop&) = delete;
  PulseDesktop& operator=(const PulseDesktop&) = delete;
  PulseServer& server = freshPulseServer();
};

/// Keeps what comes in, and plays numbers of its own.
struct PulseHeard : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    const std::lock_guard guard(mutex);
    blocks.push_back(block.frames);
    dropouts += block.dropout ? 1 : 0;
    inputs.resize(static_cast<std::size_t>(block.inputCount));
    for (int c = 0; c < block.inputCount; ++c)
      inputs[static_cast<std::size_t>(c)].insert(inputs[static_cast<std::size_t>(c)].end(), block.inputs[c],
                                                 block.inputs[c] + block.frames);
    outputs = block.outputCount;
    for (int c = 0; c < block.outputCount; ++c)
      std::fill_n(block.outputs[c], block.frames, c == 0 ? 0.25F : -0.5F);
  }
  void forget() {
    const std::lock_guard guard(mutex);
    blocks.clear();
    inputs.clear();
    dropouts = 0;
  }
  std::mutex mutex;
  std::vector<int> blocks;
  std::vector<std::vector<float>> inputs;
  int dropouts = 0;
  int outputs = -1;
};

const AudioDriver& pulse() {
  return audioDriverNamed("PulseAudio");
}

}  // namespace

TEST_CASE(
    "Without a PulseAudio server, or where it does not let one in, everything that asks for one says so") {
  PulseHeard heard;
  const auto saysOnly = [&](const std::string& sentence) {
    CHECK(refusal([] { (void)pulse().list(); }) == sentence);
    CHECK(refusal([&] { (void)pulse().open(askedOf("PulseAudio", "", ""), heard); }) == sentence);
    std::atomic<int> told{0};
    CHECK(refusal([&] { (void)pulse().watch([&told] { ++told; }); }) == sentence);
    CHECK(pulseServer().clients == 0);
  };
  freshPulseServer();
  saysOnly("No PulseAudio server is running.");
  {
    const PulseDesktop desktop;
    desktop.server.loopsStart = false;
    saysOnly("No PulseAudio server is running.");
  }
  const PulseDesktop desktop;
  desktop.server.answers = Answers::Refuses;
  saysOnly("The PulseAudio server refuses this user.");
  desktop.server.answers = Answers::Fails;
  saysOnly("No PulseAudio server is running, or it does not answer.");
  desktop.server.answers = Answers::Never;
  desktop.server.impatient = true;
  saysOnly("No PulseAudio server is running, or it does not answer.");
}

TEST_CASE(
    "PulseAudio's sources and sinks are listed, what sinks play behind the others; without a name by id") {
  const PulseDesktop desktop;
  const DriverListing listing = pulse().list();
  CHECK((listing.sources == std::vector<EndPoint>{{"mic", "Microphone", 1, false, false},
                                                  {"box", "box", 4, true, false},
                                                  {"line.monitor", "Monitor of Line", 2, false, true}}));
  CHECK((listing.sinks ==
         std::vector<EndPoint>{{"line", "Line", 2, false, false}, {"phones", "phones", 2, true, false}}));
  desktop.server.defaultSource.clear();
  desktop.server.defaultSink.clear();
  for (const EndPoint& each : pulse().list().sources) CHECK_FALSE(each.isDefault);
  for (const EndPoint& each : pulse().list().sinks) CHECK_FALSE(each.isDefault);
  desktop.server.answersQuestions = false;
  CHECK(refusal([] { (void)pulse().list(); }) == "The PulseAudio server does not answer: Bad state.");
}

TEST_CASE("Without a choice PulseAudio's defaults are opened, with all channels of what records") {
  const PulseDesktop desktop;
  PulseHeard heard;
  {
    DeviceSettings settings = askedOf("PulseAudio", "", "");
    settings.outputs = 5;
    const auto device = pulse().open(settings, heard);
    CHECK(device->settings().source == "box");
    CHECK(device->settings().sink == "phones");
    CHECK(device->settings().inputs == 4);
    CHECK(device->settings().outputs == 2);
  }
  DeviceSettings settings = askedOf("PulseAudio", "mic", "line");
  settings.outputs = 0;
  CHECK(pulse().open(settings, heard)->settings().inputs == 1);
  CHECK(pulse().open(settings, heard)->settings().outputs == 1);
  CHECK(refusal([&] { (void)pulse().open(askedOf("PulseAudio", "none", ""), heard); }) ==
        "The source \"none\" is not there; is it plugged in?");
  CHECK(refusal([&] { (void)pulse().open(askedOf("PulseAudio", "", "none"), heard); }) ==
        "The sink \"none\" is not there; is it plugged in?");
  desktop.server.sources.push_back({"wall", "Wall", 40});
  CHECK(pulse().open(askedOf("PulseAudio", "wall", ""), heard)->settings().inputs == 32);
  // Only what a sink plays: it is recorded where it is chosen, and not otherwise.
  desktop.server.sources = {{"line.monitor", "Monitor of Line", 2, true}};
  desktop.server.defaultSource.clear();
  CHECK(pulse().open(askedOf("PulseAudio", "", ""), heard)->settings().source.empty());
  CHECK(pulse().open(askedOf("PulseAudio", "line.monitor", ""), heard)->settings().source == "line.monitor");
  desktop.server.sinks.clear();
  CHECK(pulse().open(askedOf("PulseAudio", "", ""), heard)->settings().outputs == 0);
  desktop.server.sources.clear();
  CHECK(refusal([&] { (void)pulse().open(askedOf("PulseAudio", "", ""), heard); }) ==
        "The PulseAudio server has neither source nor sink; is a sound card plugged in?");
}

TEST_CASE(
    "Streams are as the session is, channel by channel, with buffers as small as a block, and stay there") {
  for (const auto& point :
       std::vector<std::pair<std::string, int>>{{"mic", 1}, {"line.monitor", 2}, {"box", 4}})
    for (const int outputs : {1, 2}) {
      const std::string& source = point.first;
      const int channels = point.second;
      const PulseDesktop desktop;
      PulseHeard heard;
      DeviceSettings settings = askedOf("PulseAudio", source, "line");
      settings.rate = {44100};
      settings.outputs = outputs;
      const auto device = pulse().open(settings, heard);
      device->start();
      desktop.server.within([&] {
        const PulseServer::Stream* const record = desktop.server.stream(true);
        const PulseServer::Stream* const play = desktop.server.stream(false);
        REQUIRE(record);
        REQUIRE(play);
        CHECK(record->name == "Yewdrift records");
        CHECK(play->name == "Yewdrift plays");
        CHECK(record->point == source);
        CHECK(play->point == "line");
        for (const PulseServer::Stream* each : {record, play}) {
          CHECK(each->format == float32);
          CHECK(each->rate == 44100);
          const int count = each == record ? channels : outputs;
          CHECK(each->channels == count);
          std::vector<int> map;
          for (int i = 0; i < count; ++i)
            map.push_back(count == 1 ? mono : (count == 2 ? frontLeft : aux0) + i);
          CHECK(each->map == map);
        }
        constexpr unsigned both = adjustLatency | autoTiming | interpolateTiming | dontMove;
        CHECK(play->flags == both);
        CHECK(record->flags == (both | noRemix | noRemap));
        CHECK(record->wantedFragment == static_cast<unsigned>(256 * channels * 4));
        CHECK(play->wantedTarget == static_cast<unsigned>(3 * 256 * outputs * 4));
        CHECK(play->wantedRequest == static_cast<unsigned>(256 * outputs * 4));
      });
      CHECK(device->settings().blockFrames == 256);
      const DeviceReport report = device->report();
      CHECK(report.deviceRate == 44100);
      CHECK(report.sinkName == "Line");
      CHECK(report.notes.empty());
      CHECK(report.silence.empty());
      CHECK(report.latency.english().starts_with("The server decides the timing"));
      CHECK(device->alive());
      device->stop();
      desktop.server.within([&] { CHECK(desktop.server.streamsHeld == 0); });
    }
}

TEST_CASE("What the server grants counts: the block is no larger, and the round trip is what it buffers") {
  const auto roundTrip = [](std::uint32_t fragment, std::uint32_t request, std::uint32_t target, int block) {
    const PulseDesktop desktop;
    PulseHeard heard;
    desktop.server.fragment = fragment * 4 * 4;
    desktop.server.request = request * 2 * 4;
    desktop.server.target = target * 2 * 4;
    const auto device = pulse().open(askedOf("PulseAudio", "box", "line"), heard);
    device->start();
    CHECK(device->settings().blockFrames == block);
    return device->reportedRoundTrip().count;
  };
  // What waits between the two differs by less than a block from once to the next.
  const auto whole = static_cast<double>(roundTrip(256, 256, 768, 256));
  CHECK(static_cast<double>(roundTrip(256, 256, 10768, 256)) - whole == Approx(10000).margin(256));
  const auto larger = static_cast<double>(roundTrip(1024, 1024, 768, 256)) - whole;
  CHECK(larger > 600.0);
  CHECK(larger < 1900.0);
  roundTrip(64, 64, 768, 64);
  for (const std::uint32_t request : {100U, 1000U}) {
    const PulseDesktop desktop;
    PulseHeard heard;
    desktop.server.sources.clear();
    desktop.server.request = request * 2 * 4;
    desktop.server.target = 5000 * 2 * 4;
    const auto device = pulse().open(askedOf("PulseAudio", "", "line"), heard);
    device->start();
    CHECK(device->settings().blockFrames == std::min(256, static_cast<int>(request)));
    CHECK(device->reportedRoundTrip() == Frames{5000});
  }
}

TEST_CASE("Each frame of a source comes in once, in order, in parts no larger than a block; holes are told") {
  const PulseDesktop desktop;
  PulseHeard heard;
  const auto device = pulse().open(askedOf("PulseAudio", "box", "line"), heard);
  device->start();
  desktop.server.within([&] { desktop.server.pumps = false; });
  {
    const std::lock_guard guard(heard.mutex);
    CHECK(heard.dropouts == 0);
    REQUIRE(heard.inputs.size() == 4);
    // Until the source is open the sink leads, and nothing comes in.
    const auto begin = static_cast<std::size_t>(
        std::find_if(heard.inputs[0].begin(), heard.inputs[0].end(), [](float x) { return x != 0.0F; }) -
        heard.inputs[0].begin());
    const std::size_t frames = heard.inputs[0].size();
    CHECK(frames - begin == static_cast<std::size_t>(desktop.server.delivered));
    for (std::size_t c = 0; c < 4; ++c) {
      REQUIRE(heard.inputs[c].size() == frames);
      for (std::size_t i = 0; i < frames; ++i)
        REQUIRE(heard.inputs[c][i] ==
                (i < begin ? 0.0F
                           : PulseServer::sample(static_cast<std::int64_t>(i - begin), static_cast<int>(c))));
    }
  }
  heard.forget();
  std::vector<float> many(700 * 4);
  for (std::size_t i = 0; i < many.size(); ++i) many[i] = static_cast<float>(i);
  desktop.server.deliver(many);
  CHECK(heard.blocks == std::vector<int>{256, 256, 188});
  for (std::size_t c = 0; c < 4; ++c)
    for (std::size_t i = 0; i < 700; ++i) REQUIRE(heard.inputs[c][i] == static_cast<float>(4 * i + c));
  CHECK(heard.dropouts == 0);
  CHECK(heard.outputs == 2);
  heard.forget();
  desktop.server.deliver({}, 100 * 4 * sizeof(float));
  CHECK(heard.blocks == std::vector<int>{100});
  CHECK(heard.inputs[3] == std::vector<float>(100, 0.0F));
  CHECK(heard.dropouts == 1);
  desktop.server.deliver(std::vector<float>(40, 1.0F));
  CHECK(heard.dropouts == 1);
  desktop.server.overflow();
  desktop.server.deliver(std::vector<float>(40, 1.0F));
  desktop.server.deliver(std::vector<float>(40, 1.0F));
  CHECK(heard.dropouts == 2);
}

TEST_CASE(
    "With a source what is played follows it; without one the sink leads; a sink that takes nothing is "
    "left") {
  {
    const PulseDesktop desktop;
    PulseHeard heard;
    const auto device = pulse().open(askedOf("PulseAudio", "mic", "line"), heard);
    device->start();
    desktop.server.within([&] {
      desktop.server.pumps = false;
      const std::vector<float>& written = desktop.server.stream(false)->written;
      REQUIRE(written.size() > 2000);
      for (std::size_t i = written.size() - 1000; i < written.size(); i += 2) {
        REQUIRE(written[i] == 0.25F);
        REQUIRE(written[i + 1] == -0.5F);
      }
    });
  }
  const PulseDesktop desktop;
  desktop.server.sources.clear();
  PulseHeard heard;
  const auto device = pulse().open(askedOf("PulseAudio", "", "line"), heard);
  device->start();
  CHECK(device->report().latency.empty());
  CHECK(device->report().sourceName.empty());
  desktop.server.within([&] { desktop.server.pumps = false; });
  heard.forget();
  std::size_t before = 0;
  desktop.server.within([&] { before = desktop.server.stream(false)->written.size(); });
  desktop.server.ask(600 * 2 * sizeof(float));
  CHECK(heard.blocks == std::vector<int>{256, 256, 88});
  CHECK(heard.inputs.empty());
  desktop.server.within([&] {
    const std::vector<float>& written = desktop.server.stream(false)->written;
    REQUIRE(written.size() == before + 1200);
    for (std::size_t i = before; i < written.size(); i += 2) {
      REQUIRE(written[i] == 0.25F);
      REQUIRE(written[i + 1] == -0.5F);
    }
    desktop.server.takesSamples = false;
  });
  heard.forget();
  desktop.server.ask(600 * 2 * sizeof(float));
  CHECK(heard.blocks == std::vector<int>{256});
}

TEST_CASE("A stream that PulseAudio does not open is told of by its name, with the server's reason") {
  PulseHeard heard;
  for (const bool source : {true, false}) {
    const PulseDesktop desktop;
    if (source)
      desktop.server.sinks.clear();
    else
      desktop.server.sources.clear();
    const auto device =
        pulse().open(source ? askedOf("PulseAudio", "mic", "") : askedOf("PulseAudio", "", "line"), heard);
    const std::string name = source ? "Microphone" : "Line";
    desktop.server.streamsAreMade = false;
    CHECK(refusal([&] { device->start(); }) == "The PulseAudio server refuses: no reason given.");
    desktop.server.streamsAreMade = true;
    desktop.server.streamsConnect = false;
    CHECK(refusal([&] { device->start(); }) == "\"" + name + "\" cannot be opened: No such entity.");
    device->stop();
    desktop.server.streamsConnect = true;
    desktop.server.streamsOpen = false;
    CHECK(refusal([&] { device->start(); }) == "\"" + name + "\" cannot be opened: No such entity.");
    device->stop();
    CHECK(device->alive());  // it had not begun
  }
}

TEST_CASE(
    "What delivers nothing is not open; a sink that wants more than there is plays with gaps, and says so") {
  PulseHeard heard;
  {
    const PulseDesktop desktop;
    desktop.server.pumps = false;
    const auto device = pulse().open(askedOf("PulseAudio", "box", "line"), heard);
    CHECK(refusal([&] { device->start(); }) ==
          "\"box\" was opened but delivers nothing; it may be suspended or in use by another program.");
  }
  const PulseDesktop desktop;
  desktop.server.fragment = 256 * 4 * 4;
  desktop.server.request = 1024 * 2 * 4;  // four times as much as there is
  const auto device = pulse().open(askedOf("PulseAudio", "box", "line"), heard);
  device->start();
  CHECK(device->reportedRoundTrip() >= Frames{256 + 768});
  CHECK(device->reportedRoundTrip() < Frames{48000});
  CHECK(soon([&] {
    const auto notes = device->report().notes;
    return std::any_of(notes.begin(), notes.end(), [](const Sentence& note) {
      return note.english().find("gaps since it was opened; what is recorded had none") != std::string::npos;
    });
  }));
}
