// SPDX-License-Identifier: GPL-3.0-or-later
//
// The system backend for real: a JACK server with its dummy driver, our output patched to our input. Runs
// under tests/with_jack.sh, which starts the server.
#include <jack/jack.h>
#include <jack/midiport.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <chrono>
#include <mutex>
#include <thread>

#include "core/device/audio_driver.h"
#include "core/device/control_input.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/signal/correlation.h"
#include "device/sound_server_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// A client that stands beside ours, as a patchbay does.
class Patchbay {
 public:
  Patchbay() : client_(jack_client_open("yewdrift-patch", JackNoStartServer, nullptr)) { REQUIRE(client_); }
  ~Patchbay() { jack_client_close(client_); }
  Patchbay(const Patchbay&) = delete;
  Patchbay& operator=(const Patchbay&) = delete;

  /// Patches every port of our client's outputs to its inputs.
  void patchOutputToInput() {
    const auto outputs = ports("Yewdrift", JackPortIsOutput);
    const auto inputs = ports("Yewdrift", JackPortIsInput);
    REQUIRE_FALSE(outputs.empty());
    REQUIRE_FALSE(inputs.empty());
    for (std::size_t i = 0; i < std::min(outputs.size(), inputs.size()); ++i)
      CHECK(jack_connect(client_, outputs[i].c_str(), inputs[i].c_str()) == 0);
  }
  /// From now on the server calls with blocks of that size.
  void setBlock(int frames) {
    REQUIRE(jack_set_buffer_size(client_, static_cast<jack_nframes_t>(frames)) == 0);
    REQUIRE(jack_get_buffer_size(client_) == static_cast<jack_nframes_t>(frames));
  }
  /// What lies beyond the server's own ports, there and back.
  std::int64_t roundTripOfHardware() {
    jack_nframes_t frames = 0;
    for (const auto& [flag, mode] :
         {std::pair{JackPortIsOutput, JackCaptureLatency}, std::pair{JackPortIsInput, JackPlaybackLatency}}) {
      jack_nframes_t most = 0;
      for (const std::string& name : ports("system", flag)) {
        jack_latency_range_t range{};
        jack_port_get_latency_range(jack_port_by_name(client_, name.c_str()), mode, &range);
        most = std::max(most, range.max);
      }
      frames += most;
    }
    return frames;
  }

 private:
  std::vector<std::string> ports(const char* of, unsigned long flags) {
    std::vector<std::string> names;
    const char** found = jack_get_ports(client_, of, JACK_DEFAULT_AUDIO_TYPE, flags);
    for (int i = 0; found && found[i]; ++i) names.emplace_back(found[i]);
    if (found) jack_free(found);
    return names;
  }
  jack_client_t* client_;
};

LoopBackResult measured(Engine& engine) {
  auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 0, {48000});
  engine.startProbe(probe);
  REQUIRE(comesTrue(10.0, [&] { return probe->finished.load(); }));
  return measureRoundTrip(*probe, {48000});
}

Samples recordFor(SessionFolder& folder, Engine& engine, TrackId track, Frames length, Frames roundTrip) {
  RecordSetup setup;
  setup.timeline = {{}, std::nullopt, 0, length, {}};
  setup.roundTrip = roundTrip;
  Recorder recorder(folder.disk(), folder.session(), setup, {track});
  engine.record(setup, recorder.stream());
  REQUIRE(comesTrue(10.0, [&] { return recorder.stream()->bodyWritten(); }));
  engine.endTail();
  REQUIRE(comesTrue(10.0, [&] { return recorder.stream()->safe(); }));
  REQUIRE(recorder.stream()->lostFrames() == 0);
  folder.commit("Record", recorder.finished(folder.session()).session);
  const Clip& clip = folder.session().track(track)->lanes.back()->clips.front();
  const Samples file =
      readWave(
          audioPath(folder, (*folder.session().pool)[static_cast<std::size_t>(clip.channels.front().file)]))
          .front();
  return {file.begin() + (clip.window.start - clip.origin).count,
          file.begin() + (clip.window.end - clip.origin).count};
}

}  // namespace

TEST_CASE(
    "Through JACK, whatever its block, a take lies where it was played by the round trip that was measured") {
  const TemporaryFolder temporary;
  const Samples played = noise(48000, 1);
  SessionFolder folder = sessionWithLanes(temporary / "s", {played});
  Session session = addTrack(folder.session(), "Loop-back", microphonesFor(1));
  session = setTrackMix(session, session.tracks[0]->id, {}, {-1.0});  // unity on the left side
  folder.commit("Add", session);
  const TrackId target = session.tracks[1]->id;
  Patchbay patchbay;
  for (const int block : {512, 256, 2048}) {
    INFO("block " << block);
    patchbay.setBlock(block);
    // This machine may be taken away for longer than a block; then JACK leaves some out and says so.
    bool undisturbed = false;
    for (int attempt = 0; attempt < 4 && !undisturbed; ++attempt) {
      Engine engine(session.rate, 4096);
      FileCorrelationMeter meter(folder.disk());
      meter.setFiles(*session.pool);
      engine.setPlan(folder.disk(), Compiler(meter).compile(session, {{}, {target}}));
      DeviceSettings settings;
      settings.driver = "JACK";
      settings.rate = session.rate;
      settings.inputs = 2;
      settings.blockFrames = 64;  // the server decides
      const auto device = audioDriverNamed("JACK").open(settings, engine);
      device->start();
      CHECK(device->settings().blockFrames == block);
      CHECK(device->settings().inputs == 2);
      CHECK(device->report().silence.empty());
      // What it says of itself, patched to the hardware as it is by itself.
      CHECK(device->reportedRoundTrip() == Frames{patchbay.roundTripOfHardware()});
      CHECK(device->reportedRoundTrip().count >= block);
      if (attempt == 0 && block == 512) CHECK_FALSE(measured(engine).good);  // nothing comes back yet
      patchbay.patchOutputToInput();
      const LoopBackResult result = measured(engine);
      std::this_thread::sleep_for(std::chrono::milliseconds(100));  // the mix is heard again, softly
      const Samples take = recordFor(folder, engine, target, {24000}, result.roundTrip);
      device->stop();
      undisturbed = engine.state().dropouts == 0;
      if (!undisturbed) continue;
      INFO(result.sentence);
      REQUIRE(result.good);
      CHECK(result.sureness > 0.99);
      CHECK(result.roundTrip.count % block == 0);  // whole periods, as JACK does
      CHECK(engine.state().underruns == 0);
      for (std::size_t i = 0; i < 24000; ++i) REQUIRE(take[i] == Approx(played[i]).margin(2e-7));
    }
    CHECK(undisturbed);
  }
}

namespace {

/// Another program: it plays 0.125 and 0.25 from its two ports.
class Program {
 public:
  Program() : client_(jack_client_open("synth", JackNoStartServer, nullptr)) {
    REQUIRE(client_);
    for (std::size_t i = 0; i < ports_.size(); ++i)
      ports_[i] = jack_port_register(client_, i == 0 ? "left" : "right", JACK_DEFAULT_AUDIO_TYPE,
                                     JackPortIsOutput, 0);
    jack_set_process_callback(client_, &Program::process, this);
    REQUIRE(jack_activate(client_) == 0);
  }
  ~Program() { jack_client_close(client_); }
  Program(const Program&) = delete;
  Program& operator=(const Program&) = delete;

 private:
  static int process(jack_nframes_t frames, void* self) {
    float level = 0.125F;
    for (jack_port_t* const port : static_cast<Program*>(self)->ports_) {
      std::fill_n(static_cast<float*>(jack_port_get_buffer(port, frames)), frames, level);
      level = 0.25F;
    }
    return 0;
  }
  jack_client_t* client_;
  std::array<jack_port_t*, 2> ports_{};
};

}  // namespace

TEST_CASE("A program is recorded channel by channel or as a person patched it, and is lost when it ends") {
  auto program = std::make_unique<Program>();
  const AudioDriver& jack = audioDriverNamed("JACK");
  const DriverListing listing = jack.list();
  REQUIRE(listing.sources.size() == 2);  // hardware first
  CHECK(listing.sources[0] == EndPoint{"system", "system", 2, true, false});
  CHECK(listing.sources[1] == EndPoint{"synth", "synth", 2, false, true});
  CHECK(listing.sinks == std::vector<EndPoint>{{"system", "system", 2, true, false}});
  DeviceSettings settings;
  settings.driver = "JACK";
  settings.source = "synth";
  settings.rate = {48000};
  const std::vector<Patch> byHand{{"synth:right", "Yewdrift:input_1"}};
  for (const bool patched : {false, true}) {
    Listener listener;
    settings.patches = patched ? byHand : std::vector<Patch>();
    const auto device = jack.open(settings, listener);
    device->start();
    CHECK(comesTrue(10.0, [&] { return listener.frames > 24000; }));
    CHECK(device->alive());
    if (patched)
      CHECK(device->patches() == byHand);
    else
      CHECK(device->patches() == std::vector<Patch>{{"synth:left", "Yewdrift:input_1"},
                                                    {"synth:right", "Yewdrift:input_2"},
                                                    {"Yewdrift:output_left", "system:playback_1"},
                                                    {"Yewdrift:output_right", "system:playback_2"}});
    if (patched) {
      program.reset();
      CHECK(comesTrue(10.0, [&] { return !device->alive(); }));
      CHECK(device->lossReason().english() == "\"synth\" is gone.");
    }
    device->stop();
    CHECK_FALSE(device->alive());
    CHECK(device->patches().empty());
    CHECK(listener.loudest[0] == (patched ? 0.25F : 0.125F));
    CHECK(listener.loudest[1] == (patched ? 0.0F : 0.25F));
  }
  settings.source = {};
  settings.inputs = 500;
  Listener listener;
  CHECK(jack.open(settings, listener)->settings().inputs == 128);  // no more than can be converted
}

namespace {

/// A foot switch: a JACK client that sends what it is told from a MIDI port.
class FootSwitch {
 public:
  FootSwitch() : client_(jack_client_open("foot-switch", JackNoStartServer, nullptr)) {
    REQUIRE(client_);
    port_ = jack_port_register(client_, "out", JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput, 0);
    jack_set_process_callback(client_, &FootSwitch::process, this);
    REQUIRE(jack_activate(client_) == 0);
  }
  ~FootSwitch() { jack_client_close(client_); }
  FootSwitch(const FootSwitch&) = delete;
  FootSwitch& operator=(const FootSwitch&) = delete;

  void plugIn() {
    const char** inputs = jack_get_ports(client_, "control", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput);
    REQUIRE(inputs);
    // Where it was patched already, by us, that is what was wanted.
    const int result = jack_connect(client_, jack_port_name(port_), inputs[0]);
    CHECK((result == 0 || result == EEXIST));
    jack_free(inputs);
  }
  void press(int value) { value_ = value; }

 private:
  static int process(jack_nframes_t frames, void* self) {
    auto* me = static_cast<FootSwitch*>(self);
    void* buffer = jack_port_get_buffer(me->port_, frames);
    jack_midi_clear_buffer(buffer);
    const int value = me->value_.exchange(-1);
    if (value < 0) return 0;
    const jack_midi_data_t message[] = {0xB0, 64, static_cast<jack_midi_data_t>(value)};
    jack_midi_event_write(buffer, 0, message, sizeof message);
    return 0;
  }

  jack_client_t* client_;
  jack_port_t* port_ = nullptr;
  std::atomic<int> value_{-1};
};

}  // namespace

TEST_CASE("A foot switch is heard, pressed and let go, once each; unplugged and plugged in again too",
          "[midi]") {
  std::mutex mutex;
  std::vector<ControlMessage> heard;
  ControlInput input([&](ControlMessage message) {
    const std::lock_guard guard(mutex);
    heard.push_back(message);
  });
  REQUIRE_FALSE(input.sources().empty());
  const auto heardNow = [&] {
    const std::lock_guard guard(mutex);
    return heard.size();
  };
  const auto waitFor = [&](std::size_t count) {
    return comesTrue(10.0, [&] { return heardNow() >= count; });
  };
  const auto listed = [&] {
    const auto names = input.sources();
    return std::any_of(names.begin(), names.end(),
                       [](const std::string& name) { return name.find("foot-switch") != std::string::npos; });
  };
  for (std::size_t time = 0; time < 2; ++time) {
    INFO("plugged in for the " << (time == 0 ? "first" : "second") << " time");
    {
      FootSwitch pedal;
      pedal.plugIn();
      CHECK(comesTrue(10.0, listed));
      pedal.press(127);
      REQUIRE(waitFor(4 * time + 1));
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
      pedal.press(0);
      REQUIRE(waitFor(4 * time + 2));
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
      pedal.press(127);
      REQUIRE(waitFor(4 * time + 3));
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
      pedal.press(0);
      REQUIRE(waitFor(4 * time + 4));
      // What a second system brings of it would have come by now.
      std::this_thread::sleep_for(std::chrono::milliseconds(200));
      CHECK(heardNow() == 4 * time + 4);
    }
    CHECK(comesTrue(10.0, [&] { return !listed(); }));
  }
  const std::lock_guard guard(mutex);
  for (std::size_t i = 0; i < heard.size(); ++i) {
    CHECK(heard[i].pressed() == (i % 2 == 0));
    CHECK(controlText(heard[i]) == "controller 64 on channel 1");
  }
}
