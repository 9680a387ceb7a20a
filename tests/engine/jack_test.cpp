// SPDX-License-Identifier: GPL-3.0-or-later
//
// The system backend for real: a JACK server with its dummy driver, our output patched to our input. Runs
// under tests/with_jack.sh, which starts the server.
#include <jack/jack.h>

#include <catch2/catch.hpp>
#include <chrono>
#include <thread>

#include "core/device/system_device.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/signal/correlation.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// Patches every port of our client's outputs to its inputs.
void patchOutputToInput() {
  jack_client_t* client = jack_client_open("yewdrift-patch", JackNoStartServer, nullptr);
  REQUIRE(client);
  const char** outputs = jack_get_ports(client, "Yewdrift", JACK_DEFAULT_AUDIO_TYPE, JackPortIsOutput);
  const char** inputs = jack_get_ports(client, "Yewdrift", JACK_DEFAULT_AUDIO_TYPE, JackPortIsInput);
  REQUIRE(outputs);
  REQUIRE(inputs);
  for (int i = 0; outputs[i] && inputs[i]; ++i) CHECK(jack_connect(client, outputs[i], inputs[i]) == 0);
  jack_free(outputs);
  jack_free(inputs);
  jack_client_close(client);
}

Samples recordFor(SessionFolder& folder, Engine& engine, TrackId track, Frames length, Frames roundTrip) {
  RecordSetup setup;
  setup.timeline = {{}, std::nullopt, 0, length, {}};
  setup.roundTrip = roundTrip;
  Recorder recorder(folder, folder.session(), setup, {track});
  engine.record(setup, recorder.stream());
  for (int i = 0; i < 2000 && !recorder.stream()->closed(); ++i)
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  REQUIRE(recorder.stream()->closed());
  REQUIRE(recorder.stream()->lostFrames() == 0);
  folder.commit("Record", recorder.finished(folder.session()).session);
  const Clip& clip = folder.session().track(track)->lanes.back()->clips.front();
  const Samples file =
      readWave(
          folder.audioPath((*folder.session().pool)[static_cast<std::size_t>(clip.channels.front().file)]))
          .front();
  return {file.begin() + (clip.window.start - clip.origin).count,
          file.begin() + (clip.window.end - clip.origin).count};
}

}  // namespace

TEST_CASE("A JACK server's device is found and refuses another rate") {
  CHECK_FALSE(systemDevices("JACK").empty());
  class Silent : public AudioCallback {
    std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
    void process(const AudioBlock&) noexcept override {}
  } silent;
  DeviceSettings settings;
  settings.driver = "JACK";
  settings.rate = {44100};
  CHECK_THROWS_AS(openSystemDevice(settings, silent), Error);
}

TEST_CASE(
    "Through JACK, output patched to input: the round trip is found and the take lies where it was played") {
  const TemporaryFolder temporary;
  const Samples probe = noise(48000, 1);
  SessionFolder folder = sessionWithLanes(temporary / "s", {probe});
  Session session = addTrack(folder.session(), "Loop-back", microphonesFor(1));
  session = setTrackMix(session, session.tracks[0]->id, {}, {-1.0});  // unity on the left side
  folder.commit("Add", session);
  const TrackId target = session.tracks[1]->id;

  Engine engine(session.rate, 4096);
  FileCorrelationMeter meter(folder.path());
  meter.setFiles(*session.pool);
  engine.setPlan(folder.path(), Compiler(meter).compile(session, {{}, {target}}));
  DeviceSettings settings;
  settings.driver = "JACK";
  settings.rate = session.rate;
  settings.inputs = 2;
  const auto device = openSystemDevice(settings, engine);
  device->start();
  std::this_thread::sleep_for(std::chrono::milliseconds(200));
  patchOutputToInput();

  const Samples raw = recordFor(folder, engine, target, {24000}, {});
  const Alignment found = findIn(std::span(raw).subspan(0, 12000), std::span(probe).subspan(0, 6000));
  REQUIRE(found.correlation > 0.999);
  CHECK(found.lag % static_cast<std::size_t>(device->settings().blockFrames) ==
        0);  // whole periods, as JACK does

  const Samples take = recordFor(folder, engine, target, {24000}, {static_cast<std::int64_t>(found.lag)});
  device->stop();
  CHECK(engine.state().underruns == 0);
  for (std::size_t i = 0; i < 24000; ++i) REQUIRE(take[i] == Approx(probe[i]).margin(2e-7));
}
