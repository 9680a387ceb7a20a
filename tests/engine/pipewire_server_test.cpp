// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is asked of a PipeWire server, and made of what it says, where one that is none stands in for it; the
// tests in tests/device ask real ones.
#include "stand_ins/pipewire_server.h"

#include <cerrno>
#include "engine/engine_tests.h"

#include "stand_ins/ask_drivers.h"

namespace {

using NodeLinks = std::set<std::pair<std::uint32_t, std::uint32_t>>;
const std::string midiFormat = "8 bit raw midi";

/// A card that records four channels and plays two, whose monitors hear that; headphones; a virtual source
/// that gives what it captures through monitors; a duplex interface; and programs, which are none of these.
struct PipeWireDesktop {
  explicit PipeWireDesktop(bool withDefaults = true) {
    server.runs = true;
    server.add(
        30,
        {"Node", {{"node.name", "card.in"}, {"node.description", "Card"}, {"media.class", "Audio/Source"}}});
    for (int i = 4; i >= 1; --i) server.addPort(30 + static_cast<std::uint32_t>(i), 30, 4 - i, true);
    server.addPort(36, 30, 0, true, true);
    server.add(40, {"Node",
                    {{"node.name", "card.out"}, {"node.nick", "Card plays"}, {"media.class", "Audio/Sink"}}});
    server.addPort(41, 40, 0, false);
    server.addPort(42, 40, 1, false);
    server.addPort(43, 40, 0, true, true);
    server.addPort(44, 40, 1, true, true);
    server.addPort(45, 40, 2, false, false, midiFormat);
    server.add(50, {"Node", {{"node.name", "phones"}, {"media.class", "Audio/Sink"}}});
    server.addPort(51, 50, 0, false);
    server.addPort(52, 50, 1, false);
    server.add(60, {"Node",
                    {{"node.name", "virtual"},
                     {"node.description", "Virtual"},
                     {"media.class", "Audio/Source/Virtual"}}});
    server.addPort(61, 60, 0, true, true);
    server.add(
        70, {"Node", {{"node.name", "box"}, {"node.description", "Box"}, {"media.class", "Audio/Duplex"}}});
    server.addPort(71, 70, 0, true);
    server.addPort(72, 70, 0, false);
    server.add(80, {"Node", {{"node.name", "player"}, {"media.class", "Stream/Output/Audio"}}});
    server.addPort(81, 80, 0, true);
    server.add(90, {"Client", {{"node.name", "nobody"}, {"media.class", "Audio/Sink"}}});
    if (withDefaults) {
      server.add(91, {"Metadata",
                      {{"metadata.name", "default"}},
                      {{"default.audio.source", R"({"name": "card.in"})"},
                       {"default.audio.sink", R"({"name":"phones"})"},
                       {"default.configured.audio.sink", R"({"name":"card.out"})"}}});
      server.add(
          93,
          {"Metadata", {{"metadata.name", "others"}}, {{"default.audio.sink", R"({"name":"card.out"})"}}});
    }
  }
  ~PipeWireDesktop() {
    CHECK(server.clients == 0);
    CHECK(server.filtersHeld == 0);
    CHECK(server.proxiesHeld == 0);
    CHECK(server.buffersHeld == 0);
    CHECK(server.links.empty());
    freshPipeWireServer();
  }
  PipeWireDesktop(const PipeWireDesktop&) = delete;
  PipeWireDesktop& operator=(const PipeWireDesktop&) = delete;
  PipeWireServer& server = freshPipeWireServer();
};

struct PipeWireHeard : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    ++blocks;
    frames = block.frames;
    dropouts += block.dropout ? 1 : 0;
    inputs.assign(static_cast<std::size_t>(block.inputCount), {});
    for (int c = 0; c < block.inputCount; ++c)
      inputs[static_cast<std::size_t>(c)].assign(block.inputs[c], block.inputs[c] + block.frames);
    outputs = block.outputCount;
    for (int c = 0; c < block.outputCount; ++c)
      std::fill_n(block.outputs[c], block.frames, c == 0 ? 0.25F : -0.5F);
  }
  std::atomic<int> blocks{0};
  int frames = 0;
  int dropouts = 0;
  int outputs = -1;
  std::vector<std::vector<float>> inputs;
};

const AudioDriver& pipeWire() {
  return audioDriverNamed("PipeWire");
}

/// A device that has started; nothing is called from then on but by hand.
struct StartedNode {
  explicit StartedNode(const DeviceSettings& settings) : device(pipeWire().open(settings, heard)) {
    device->start();
    desktop.server.within([&] { desktop.server.pumps = false; });
  }
  PipeWireDesktop desktop;
  PipeWireServer& server = desktop.server;
  PipeWireHeard heard;
  std::unique_ptr<AudioDevice> device;
};

}  // namespace

TEST_CASE(
    "Without a PipeWire server, or where its library does not start, everything that asks for one says so") {
  PipeWireHeard heard;
  const auto saysOnly = [&](const std::string& sentence) {
    CHECK(refusal([] { (void)pipeWire().list(); }) == sentence);
    CHECK(refusal([&] { (void)pipeWire().open(askedOf("PipeWire", "", ""), heard); }) == sentence);
    CHECK(refusal([] { (void)pipeWire().watch([] {}); }) == sentence);
    CHECK(openPipeWireControl([](std::span<const unsigned char>) {}) == nullptr);
    CHECK(pipeWireServer().clients == 0);
  };
  freshPipeWireServer();
  saysOnly("No PipeWire server is running, or it does not answer.");
  const PipeWireDesktop desktop;
  desktop.server.loopsStart = false;
  saysOnly("PipeWire's client library cannot be started.");
  desktop.server.loopsStart = true;
  desktop.server.contextsAreMade = false;
  saysOnly("PipeWire's client library cannot be started.");
}

TEST_CASE("PipeWire's nodes are listed by what they are, with their channels, what a sink plays at the end") {
  const PipeWireDesktop desktop;
  const DriverListing listing = pipeWire().list();
  CHECK((listing.sources ==
         std::vector<EndPoint>{{"card.in", "Card", 4, true, false},
                               {"virtual", "Virtual", 1, false, false},
                               {"box", "Box", 1, false, false},
                               {"card.out.monitor", "What Card plays plays", 2, false, true}}));
  CHECK((listing.sinks == std::vector<EndPoint>{{"card.out", "Card plays", 2, false, false},
                                                {"phones", "phones", 2, true, false},
                                                {"box", "Box", 1, false, false}}));
  CHECK(desktop.server.configuration == "client-rt.conf");
}

TEST_CASE(
    "Without a choice PipeWire's defaults are linked, channel by channel, in a node as the session is") {
  StartedNode started(askedOf("PipeWire", "", ""));
  CHECK(started.device->settings().source == "card.in");
  CHECK(started.device->settings().sink == "phones");
  CHECK(started.device->settings().inputs == 4);
  CHECK(started.device->settings().outputs == 2);
  CHECK(started.device->settings().blockFrames == 256);
  started.server.within([&] {
    const PipeWireServer::Filter* const node = started.server.filter("Yewdrift");
    REQUIRE(node);
    CHECK(node->properties.at("node.name") == "Yewdrift");
    CHECK(node->properties.at("node.latency") == "256/48000");
    CHECK(node->properties.at("node.rate") == "1/48000");
    CHECK(node->properties.at("node.always-process") == "true");
    std::vector<std::string> names;
    for (const PipeWireServer::FilterPort& each : node->ports) {
      names.push_back(each.name);
      CHECK(each.output == each.name.starts_with("output"));
      CHECK(each.format == "32 bit float mono audio");
    }
    CHECK(names == std::vector<std::string>{"input_1", "input_2", "input_3", "input_4", "output_left",
                                            "output_right"});
    const std::uint32_t id = node->id;
    // The card's ports are numbered backwards.
    CHECK((started.server.links ==
           NodeLinks{{34, id + 1}, {33, id + 2}, {32, id + 3}, {31, id + 4}, {id + 5, 51}, {id + 6, 52}}));
  });
  const DeviceReport report = started.device->report();
  CHECK(report.sourceName == "Card");
  CHECK(report.sinkName == "phones");
  CHECK(report.deviceRate == 48000);
  CHECK(report.notes.empty());
  CHECK(report.silence.empty());
  CHECK(started.device->alive());
}

TEST_CASE("A PipeWire server that makes no node, port or connection for Yewdrift is told of") {
  const PipeWireDesktop desktop;
  PipeWireHeard heard;
  const auto opening = [&] { (void)pipeWire().open(askedOf("PipeWire", "", ""), heard); };
  desktop.server.filtersAreMade = false;
  CHECK(refusal(opening) == "PipeWire refused to make a node for Yewdrift.");
  CHECK(openPipeWireControl([](std::span<const unsigned char>) {}) == nullptr);
  desktop.server.filtersAreMade = true;
  desktop.server.roomForPorts = 0;
  CHECK(openPipeWireControl([](std::span<const unsigned char>) {}) == nullptr);
  desktop.server.roomForPorts = 1000;
  desktop.server.filtersConnect = false;
  CHECK(openPipeWireControl([](std::span<const unsigned char>) {}) == nullptr);
  const auto device = pipeWire().open(askedOf("PipeWire", "", ""), heard);
  CHECK(refusal([&] { device->start(); }) == "PipeWire refused to run Yewdrift's node.");
}

TEST_CASE(
    "What PipeWire's ports hear comes in, what is played goes out, and what its clock skips is a dropout") {
  StartedNode started(askedOf("PipeWire", "card.in", "phones"));
  PipeWireServer& server = started.server;
  PipeWireHeard& heard = started.heard;
  CHECK(heard.dropouts == 0);
  server.within([&] {
    for (int i = 1; i <= 4; ++i)
      server.port("Yewdrift", "input_" + std::to_string(i))
          ->buffer.assign(256, 0.125F * static_cast<float>(i));
  });
  const int before = heard.blocks;
  server.cycle();
  CHECK(heard.blocks == before + 1);
  CHECK(heard.frames == 256);
  REQUIRE(heard.inputs.size() == 4);
  for (std::size_t c = 0; c < 4; ++c)
    CHECK(heard.inputs[c] == std::vector<float>(256, 0.125F * static_cast<float>(c + 1)));
  server.within([&] {
    CHECK(server.port("Yewdrift", "output_left")->buffer == std::vector<float>(256, 0.25F));
    CHECK(server.port("Yewdrift", "output_right")->buffer == std::vector<float>(256, -0.5F));
  });
  CHECK(heard.dropouts == 0);
  server.position += 64;
  server.cycle();
  CHECK(heard.dropouts == 1);
  server.cycle();
  CHECK(heard.dropouts == 1);
  server.clock = 8;  // another driver's, which counts for itself
  server.position = 5;
  server.cycle();
  server.cycle();
  CHECK(heard.dropouts == 1);
  // A port without a buffer hears nothing, and takes what is played nowhere.
  server.within([&] {
    server.port("Yewdrift", "input_2")->bufferThere = false;
    server.port("Yewdrift", "output_left")->bufferThere = false;
  });
  server.cycle();
  CHECK(heard.inputs[1] == std::vector<float>(256, 0.0F));
  CHECK(heard.inputs[2] == std::vector<float>(256, 0.375F));
  // A cycle of nothing, of no rate, or of more than anybody plays at once is none.
  const int until = heard.blocks;
  for (const std::uint32_t frames : {0U, 16385U}) {
    server.frames = frames;
    server.cycle();
  }
  server.frames = 256;
  server.rate = 0;
  server.cycle();
  CHECK(heard.blocks == until);
  server.rate = 48000;
  server.frames = 16384;
  server.cycle();
  CHECK(heard.blocks == until + 1);
}

TEST_CASE("The round trip is the longest way before and behind PipeWire's ports, at the session's rate") {
  {
    StartedNode started(askedOf("PipeWire", "card.in", "phones"));
    PipeWireServer& server = started.server;
    CHECK(started.device->reportedRoundTrip() == Frames{0});
    server.tellLatency("Yewdrift", "input_1", true, 1.0F, 10, 0);
    server.tellLatency("Yewdrift", "input_2", true, 2.0F, 10, 1'000'000);
    server.tellLatency("Yewdrift", "output_left", false, 0.0F, 0, 2'000'000);
    server.tellLatency("Yewdrift", "output_right", false, 0.0F, 70, 0);
    // What is told of the other direction is not theirs.
    server.tellLatency("Yewdrift", "input_1", false, 90.0F, 0, 0);
    server.tellLatency("Yewdrift", "output_left", true, 90.0F, 0, 0);
    CHECK(started.device->reportedRoundTrip() == Frames{2 * 256 + 10 + 48 + 96});
  }
  DeviceSettings settings = askedOf("PipeWire", "card.in", "phones");
  settings.rate = {24000};
  StartedNode slower(settings);
  const Frames converting = slower.device->reportedRoundTrip();
  CHECK(converting > Frames{0});
  slower.server.tellLatency("Yewdrift", "input_1", true, 2.0F, 10, 1'000'000);
  CHECK(slower.device->reportedRoundTrip() - converting == Frames{(2 * 256 + 10 + 48) / 2});
  CHECK(slower.device->report().deviceRate == 48000);
  REQUIRE(slower.device->report().notes.size() == 1);
  CHECK(slower.device->report().notes[0].english() ==
        "The graph runs at 48000 Hz; what the session records and plays is converted.");
}

TEST_CASE("A PipeWire device is lost with its source, its sink or its node; others may come and go") {
  const auto lost = [](const std::string& source, const std::string& sink,
                       const std::function<void(PipeWireServer&)>& what) {
    StartedNode started(askedOf("PipeWire", source, sink));
    started.server.remove(80);
    started.server.add(95, {"Node", {{"node.name", "late"}, {"media.class", "Audio/Sink"}}});
    started.server.remove(95);
    started.server.become("Yewdrift", PipeWireServer::State::Streaming, nullptr);
    CHECK(started.device->alive());
    CHECK(started.device->lossReason().english() == "PipeWire has stopped calling.");
    what(started.server);
    CHECK_FALSE(started.device->alive());
    return started.device->lossReason().english();
  };
  CHECK(lost("card.in", "phones", [](PipeWireServer& server) { server.remove(30); }) == "\"Card\" is gone.");
  CHECK(lost("card.in", "phones", [](PipeWireServer& server) { server.remove(50); }) ==
        "\"phones\" is gone.");
  CHECK(lost("card.out.monitor", "phones", [](PipeWireServer& server) { server.remove(40); }) ==
        "\"What Card plays plays\" is gone.");
  CHECK(lost("card.in", "phones", [](PipeWireServer& server) {
          server.become("Yewdrift", PipeWireServer::State::Error, "no memory");
        }) == "PipeWire stopped Yewdrift's node: no memory.");
  CHECK(lost("card.in", "phones", [](PipeWireServer& server) {
          server.become("Yewdrift", PipeWireServer::State::Error, nullptr);
        }) == "PipeWire stopped Yewdrift's node without a reason.");
  {
    const PipeWireDesktop desktop;
    for (const std::uint32_t id : {30U, 60U, 70U}) desktop.server.remove(id);
    PipeWireHeard heard;
    const auto device = pipeWire().open(askedOf("PipeWire", "", "phones"), heard);
    device->start();
    desktop.server.remove(80);
    CHECK(device->alive());  // nothing was recorded from, so nothing of it is gone
  }
  StartedNode started(askedOf("PipeWire", "card.in", "phones"));
  started.device->stop();
  started.server.within([&] { CHECK(started.server.filtersHeld == 0); });
}

TEST_CASE("Foot switches in PipeWire are linked as they come, and what they send is heard, byte by byte") {
  const PipeWireDesktop desktop;
  PipeWireServer& server = desktop.server;
  server.add(100, {"Node", {{"node.name", "bridge"}, {"node.description", "Bridge"}}});
  server.addPort(101, 100, 1, true, false, midiFormat);
  server.addPort(102, 100, 2, false, false, midiFormat);
  server.addPort(103, 100, 3, true, true, midiFormat);
  std::vector<std::vector<unsigned char>> messages;
  auto control = openPipeWireControl(
      [&](std::span<const unsigned char> bytes) { messages.emplace_back(bytes.begin(), bytes.end()); });
  REQUIRE(control);
  using Names = std::vector<std::string>;
  CHECK(soon([&] {
    return control->names() == Names{"PipeWire: Yewdrift control", "PipeWire: Bridge port_1"};
  }));
  std::uint32_t input = 0;
  server.within([&] { input = server.filter("Yewdrift control")->id + 1; });
  server.within([&] { CHECK((server.links == NodeLinks{{101, input}})); });
  server.addPort(104, 110, 4, true, false, midiFormat);  // its node is not known yet
  CHECK(control->names() ==
        Names{"PipeWire: Yewdrift control", "PipeWire: Bridge port_1", "PipeWire: port_4"});
  server.within([&] { CHECK((server.links == NodeLinks{{101, input}, {104, input}})); });
  server.remove(101);
  CHECK(control->names() == Names{"PipeWire: Yewdrift control", "PipeWire: port_4"});
  server.addPort(101, 100, 1, true, false, midiFormat);  // plugged in again
  CHECK(control->names().size() == 3);
  server.within([&] { server.pumps = false; });
  constexpr std::uint32_t properties = 1;
  constexpr std::uint32_t midiControl = 2;
  server.send("Yewdrift control", "control",
              {{midiControl, {0xB0, 64, 127}}, {properties, {1, 2, 3}}, {midiControl, {0xC3, 5}}});
  CHECK((messages == std::vector<std::vector<unsigned char>>{{0xB0, 64, 127}, {0xC3, 5}}));
  server.cycle();
  server.within([&] { server.port("Yewdrift control", "control")->bufferThere = false; });
  server.cycle();
  CHECK(messages.size() == 2);
  control.reset();
}

TEST_CASE("Who watches PipeWire is told of nodes and ports that come and go, of defaults, and of its end") {
  const PipeWireDesktop desktop;
  std::atomic<int> told{0};
  const auto watch = pipeWire().watch([&told] { ++told; });
  CHECK(told == 0);
  const auto tells = [&](const std::function<void()>& what) {
    const int before = told;
    what();
    return told - before;
  };
  PipeWireServer& server = desktop.server;
  CHECK(tells([&] { server.add(95, {"Node", {{"node.name", "late"}}}); }) == 1);
  CHECK(tells([&] { server.addPort(96, 95, 0, true); }) == 1);
  CHECK(tells([&] { server.add(97, {"Client", {}}); }) == 0);
  CHECK(tells([&] { server.remove(97); }) == 0);
  CHECK(tells([&] { server.remove(96); }) == 1);
  CHECK(tells([&] { server.remove(95); }) == 1);
  CHECK(tells([&] { server.metadataSays(91, "default.audio.sink", R"({"name":"card.out"})"); }) == 1);
  CHECK(tells([&] { server.metadataSays(91, "default.audio.source", nullptr); }) == 1);
  CHECK(tells([&] { server.metadataSays(91, "default.video.source", "{}"); }) == 0);
  CHECK(tells([&] { server.metadataSays(91, nullptr, nullptr); }) == 0);
  CHECK(tells([&] { server.failCore(5, -EPIPE); }) == 0);
  CHECK(tells([&] { server.failCore(0, -EINVAL); }) == 0);
  CHECK(tells([&] { server.failCore(0, -EPIPE); }) == 1);
}
