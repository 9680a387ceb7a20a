// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is said to a JACK server, and made of what it says, where one that is none stands in for it; the tests
// in tests/device ask real ones.
#include "stand_ins/jack_server.h"

#include "engine/engine_tests.h"

#include "stand_ins/ask_drivers.h"

namespace {

// As JACK numbers them (jack/types.h, JackPortFlags).
constexpr unsigned long inputPort = 1;
constexpr unsigned long outputPort = 2;
constexpr unsigned long physicalPort = 4;

using Connections = std::vector<JackServer::Connection>;

struct RunningJack {
  RunningJack() { server.runs = true; }
  ~RunningJack() {
    CHECK(server.arraysHeld == 0);
    CHECK(server.clients.empty());
    freshJackServer();
  }
  RunningJack(const RunningJack&) = delete;
  RunningJack& operator=(const RunningJack&) = delete;
  JackServer& server = freshJackServer();
};

/// A card of three inputs and two outputs that has a port beside those of its hardware, a synthesizer,
/// another card, and a foot switch.
struct JackStudio : RunningJack {
  JackStudio() {
    server.addPort("synth:out_l", outputPort);
    server.addPort("synth:out_r", outputPort);
    server.addPort("Yewdrift-other:out", outputPort);
    for (const char* name : {"card:capture_1", "card:capture_2", "card:capture_3"})
      server.addPort(name, outputPort | physicalPort);
    server.addPort("card:monitor", outputPort);
    server.addPort("meter:in", inputPort);
    server.addPort("card:playback_1", inputPort | physicalPort);
    server.addPort("card:playback_2", inputPort | physicalPort);
    server.addPort("desk:in_1", inputPort | physicalPort);
    server.addPort("pedal:midi_out", outputPort | physicalPort, true);
    server.addPort("zither:out", outputPort);
  }
};

/// Hears what comes in and plays numbers of its own.
struct JackHeard : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    ++blocks;
    dropouts += block.dropout ? 1 : 0;
    inputs.assign(static_cast<std::size_t>(block.inputCount), {});
    for (int c = 0; c < block.inputCount; ++c)
      inputs[static_cast<std::size_t>(c)].assign(block.inputs[c], block.inputs[c] + block.frames);
    outputs = block.outputCount;
    for (int c = 0; c < block.outputCount; ++c)
      for (int i = 0; i < block.frames; ++i)
        block.outputs[c][i] = static_cast<float>(c + 1) * static_cast<float>(i);
  }
  int blocks = 0;
  int dropouts = 0;
  int outputs = 0;
  std::vector<std::vector<float>> inputs;
};

const AudioDriver& jack() {
  return audioDriverNamed("JACK");
}

}  // namespace

TEST_CASE("Without a JACK server everything that asks for one says so, and no foot switch is listened to") {
  freshJackServer();
  JackHeard heard;
  CHECK(refusal([] { (void)jack().list(); }) == "No JACK server is running.");
  CHECK(refusal([&] { (void)jack().open(askedOf("JACK", "", ""), heard); }) == "No JACK server is running.");
  CHECK(refusal([] { (void)jack().watch([] {}); }) == "No JACK server is running.");
  CHECK(openJackControl([](std::span<const unsigned char>) {}) == nullptr);
}

TEST_CASE("JACK's clients are listed: hardware first, by its hardware ports alone; our own are not") {
  const JackStudio studio;
  const DriverListing listing = jack().list();
  CHECK((listing.sources == std::vector<EndPoint>{{"card", "card", 3, true, false},
                                                  {"synth", "synth", 2, false, true},
                                                  {"zither", "zither", 1, false, true}}));
  CHECK((listing.sinks == std::vector<EndPoint>{{"card", "card", 2, true, false},
                                                {"desk", "desk", 1, false, false},
                                                {"meter", "meter", 1, false, true}}));
  CHECK(studio.server.clients.empty());  // who looked is gone
  CHECK(studio.server.closed == 1);
}

TEST_CASE("Without a choice the first hardware is connected, channel by channel; with one, what was chosen") {
  const JackStudio studio;
  JackHeard heard;
  {
    const auto device = jack().open(askedOf("JACK", "", ""), heard);
    CHECK(device->settings().source == "card");
    CHECK(device->settings().sink == "card");
    CHECK(device->settings().inputs == 3);
    CHECK(device->settings().outputs == 2);
    CHECK(studio.server.connected().empty());
    device->start();
    CHECK((studio.server.connected() == Connections{{"Yewdrift:output_left", "card:playback_1"},
                                                    {"Yewdrift:output_right", "card:playback_2"},
                                                    {"card:capture_1", "Yewdrift:input_1"},
                                                    {"card:capture_2", "Yewdrift:input_2"},
                                                    {"card:capture_3", "Yewdrift:input_3"}}));
    CHECK((device->patches() == std::vector<Patch>{{"card:capture_1", "Yewdrift:input_1"},
                                                   {"card:capture_2", "Yewdrift:input_2"},
                                                   {"card:capture_3", "Yewdrift:input_3"},
                                                   {"Yewdrift:output_left", "card:playback_1"},
                                                   {"Yewdrift:output_right", "card:playback_2"}}));
    CHECK(device->settings().blockFrames == 64);
    const DeviceReport report = device->report();
    CHECK(report.sourceName == "card");
    CHECK(report.sinkName == "card");
    CHECK(report.deviceRate == 48000);
    CHECK(report.notes.empty());
    CHECK(report.silence.empty());
    device->stop();
    CHECK(studio.server.connected().empty());
    CHECK_FALSE(device->alive());
    CHECK(device->patches().empty());
    CHECK(device->reportedRoundTrip() == Frames{});
    CHECK(device->report().silence.empty());
  }
  DeviceSettings chosen = askedOf("JACK", "synth", "desk");
  chosen.inputs = 1;
  chosen.outputs = 1;
  const auto device = jack().open(chosen, heard);
  CHECK(device->settings().inputs == 2);
  CHECK(device->settings().outputs == 1);
  device->start();
  CHECK((studio.server.connected() == Connections{{"Yewdrift:output_left", "desk:in_1"},
                                                  {"synth:out_l", "Yewdrift:input_1"},
                                                  {"synth:out_r", "Yewdrift:input_2"}}));
}

TEST_CASE("JACK gets no more ports than can be converted, and says where it has no room for them") {
  const JackStudio studio;
  JackHeard heard;
  DeviceSettings many = askedOf("JACK", "", "");
  many.inputs = 500;
  many.outputs = 500;
  CHECK(jack().open(many, heard)->settings().inputs == 128);
  CHECK(jack().open(many, heard)->settings().outputs == 128);
  studio.server.roomForPorts = 4;
  CHECK(refusal([&] { (void)jack().open(askedOf("JACK", "", ""), heard); }) ==
        "The JACK server has no room for more ports.");
  studio.server.roomForPorts = 5;
  CHECK(refusal([&] { (void)jack().open(askedOf("JACK", "", ""), heard); }).empty());
}

TEST_CASE("How a person had patched it by hand is patched again, and nothing else") {
  const JackStudio studio;
  JackHeard heard;
  DeviceSettings settings = askedOf("JACK", "", "");
  settings.patches = {{"synth:out_r", "Yewdrift:input_1"}, {"Yewdrift:output_left", "meter:in"}};
  const auto device = jack().open(settings, heard);
  device->start();
  CHECK((studio.server.connected() ==
         Connections{{"Yewdrift:output_left", "meter:in"}, {"synth:out_r", "Yewdrift:input_1"}}));
}

TEST_CASE("A JACK server that does not let Yewdrift run, or does not call it, is told of") {
  const JackStudio studio;
  JackHeard heard;
  const auto device = jack().open(askedOf("JACK", "", ""), heard);
  studio.server.activates = false;
  CHECK(refusal([&] { device->start(); }) == "The JACK server refused to run Yewdrift.");
  studio.server.activates = true;
  studio.server.calls = false;
  CHECK(refusal([&] { device->start(); }) == "The JACK server accepted Yewdrift but does not run it.");
}

TEST_CASE("What JACK's ports hear comes in, what is played goes out, and what was lost is said once") {
  const JackStudio studio;
  JackHeard heard;
  const auto device = jack().open(askedOf("JACK", "", ""), heard);
  JackServer::Client& client = *studio.server.client("Yewdrift");
  client.xrun();  // in which it started us
  device->start();
  CHECK(heard.blocks == 2);
  CHECK(heard.dropouts == 0);
  for (int i = 1; i <= 3; ++i)
    studio.server.port("Yewdrift:input_" + std::to_string(i))
        ->buffer.assign(64, 0.125F * static_cast<float>(i));
  studio.server.cycle();
  CHECK(heard.blocks == 3);
  CHECK(heard.dropouts == 0);
  REQUIRE(heard.inputs.size() == 3);
  for (std::size_t i = 0; i < 3; ++i)
    CHECK(heard.inputs[i] == std::vector<float>(64, 0.125F * static_cast<float>(i + 1)));
  CHECK(heard.outputs == 2);
  CHECK(studio.server.port("Yewdrift:output_left")->buffer[63] == 63.0F);
  CHECK(studio.server.port("Yewdrift:output_right")->buffer[63] == 126.0F);
  client.xrun();
  studio.server.cycle();
  CHECK(heard.dropouts == 1);
  studio.server.cycle();
  CHECK(heard.dropouts == 1);
  studio.server.clock += 128;  // it went on without us
  studio.server.cycle();
  CHECK(heard.dropouts == 2);
  studio.server.frames = 32;
  studio.server.cycle();
  studio.server.cycle();
  CHECK(heard.dropouts == 2);
  CHECK(heard.inputs[0].size() == 32);
}

TEST_CASE("The round trip is the longest of JACK's ports each way, at the session's rate") {
  const JackStudio studio;
  JackHeard heard;
  const auto device = jack().open(askedOf("JACK", "", ""), heard);
  studio.server.port("Yewdrift:input_1")->captureLatency = 200;
  studio.server.port("Yewdrift:input_2")->captureLatency = 300;
  studio.server.port("Yewdrift:input_3")->captureLatency = 100;
  studio.server.port("Yewdrift:output_left")->playbackLatency = 500;
  studio.server.port("Yewdrift:output_right")->playbackLatency = 400;
  for (const char* name : {"Yewdrift:input_1", "Yewdrift:input_2"})
    studio.server.port(name)->playbackLatency = 9000;
  CHECK(device->reportedRoundTrip() == Frames{800});
  studio.server.client("Yewdrift")->rateChanged(96000);
  CHECK(device->reportedRoundTrip() == Frames{400});
  CHECK(device->report().deviceRate == 96000);
  REQUIRE(device->report().notes.size() == 1);
  CHECK(device->report().notes[0].english() ==
        "The JACK server runs at 96000 Hz; what the session records and plays is converted.");
}

TEST_CASE("A device is lost when the last of its ports goes, or the server does; others may come and go") {
  JackHeard heard;
  for (const bool source : {true, false}) {
    const JackStudio studio;
    const auto device =
        jack().open(askedOf("JACK", source ? "synth" : "card", source ? "card" : "desk"), heard);
    const std::vector<std::string> ports = source ? std::vector<std::string>{"synth:out_l", "synth:out_r"}
                                                  : std::vector<std::string>{"desk:in_1"};
    device->start();
    studio.server.addPort("late:out", outputPort);
    studio.server.removePort("late:out");
    studio.server.removePort("meter:in");
    CHECK(device->alive());
    for (const std::string& port : ports) {
      CHECK(device->alive());
      studio.server.removePort(port);
    }
    CHECK_FALSE(device->alive());
    CHECK(device->lossReason().english() == (source ? "\"synth\" is gone." : "\"desk\" is gone."));
    CHECK(device->patches().empty());
  }
  for (const char* reason : {"the card burnt", "", static_cast<const char*>(nullptr)}) {
    const JackStudio studio;
    const auto device = jack().open(askedOf("JACK", "", ""), heard);
    device->start();
    studio.server.client("Yewdrift")->ended(reason);
    CHECK_FALSE(device->alive());
    CHECK(device->lossReason().english() ==
          (reason && *reason ? "The JACK server has ended: the card burnt." : "The JACK server has ended."));
  }
  const JackStudio studio;
  const auto device = jack().open(askedOf("JACK", "", ""), heard);
  device->start();
  CHECK(device->lossReason().english() == "The JACK server has stopped calling.");
}

TEST_CASE("Foot switches in JACK are connected as they come, and what they send is heard, byte by byte") {
  const JackStudio studio;
  std::mutex mutex;
  std::vector<std::vector<unsigned char>> messages;
  auto control = openJackControl([&](std::span<const unsigned char> bytes) {
    const std::lock_guard guard(mutex);
    messages.emplace_back(bytes.begin(), bytes.end());
  });
  REQUIRE(control);
  using Names = std::vector<std::string>;
  CHECK(soon([&] { return control->names() == Names{"JACK: Yewdrift control", "JACK: pedal:midi_out"}; }));
  CHECK((studio.server.connected() == Connections{{"pedal:midi_out", "Yewdrift:control"}}));
  studio.server.addPort("keys:midi_out", outputPort | physicalPort, true);
  CHECK(soon([&] { return control->names().size() == 3; }));
  studio.server.addPort("player:midi_out", outputPort, true);  // connected by hand, or not at all
  studio.server.connect("player:midi_out", "Yewdrift:control");
  CHECK(soon([&] { return control->names().size() == 4; }));
  CHECK(control->names().back() == "JACK: player:midi_out");
  studio.server.removePort("pedal:midi_out");
  CHECK(soon([&] { return control->names().size() == 3; }));
  JackServer::Port& port = *studio.server.port("Yewdrift:control");
  port.messages = {{0xB0, 64, 127}, {}, {0xC3, 5}};
  studio.server.cycle();
  studio.server.cycle();
  CHECK((messages == std::vector<std::vector<unsigned char>>{{0xB0, 64, 127}, {0xC3, 5}}));
  // The server ends: nothing of it is asked any more.
  studio.server.client("Yewdrift")->ended("");
  studio.server.removePort("keys:midi_out");
  std::this_thread::sleep_for(std::chrono::milliseconds(50));
  CHECK(control->names().size() == 3);
  control.reset();
  CHECK(studio.server.clients.empty());
}
