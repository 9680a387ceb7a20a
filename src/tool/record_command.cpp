// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/record_command.h"

#include <chrono>
#include <thread>

#include "core/device/performer_file.h"
#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/store/session_json.h"

namespace yewdrift::tool {
namespace {

RecordSetup setupFrom(const RecordOptions& options, const Session& session) {
  const Ruler ruler = session.ruler();
  RecordSetup setup;
  setup.recordFrom = parsePosition(options.from, ruler);
  const Frames preRoll =
      options.preRoll ? parseDuration(*options.preRoll, ruler, setup.recordFrom) : Frames{};
  setup.timeline.start = std::max(Frames{}, setup.recordFrom - preRoll);
  if (options.loop) {
    setup.timeline.loop = parseSpan(*options.loop, ruler);
    setup.timeline.passes = options.passes.value_or(static_cast<int>(options.performances.size()));
  } else {
    setup.timeline.stopAt = parsePosition(*options.to, ruler);
  }
  const Frames end = options.loop ? setup.timeline.loop->end : *setup.timeline.stopAt;
  if (options.postRoll) setup.timeline.postRoll = parseDuration(*options.postRoll, ruler, end);
  for (const std::string& punch : options.punches) setup.punches.push_back(parseSpan(punch, ruler));
  std::sort(setup.punches.begin(), setup.punches.end(), [](Span a, Span b) { return a.start < b.start; });
  setup.roundTrip = Frames{options.roundTrip};
  setup.result = passResultNamed(options.result);
  setup.check();
  return setup;
}

/// Lets the interface and the engine run until everything that was played has reached the disk.
void roll(Engine& engine, SimulatedDevice& device, const CaptureStream& stream, bool realtime) {
  if (realtime) {
    engine.settle();
    device.start();
    while (!stream.closed()) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    device.stop();
    return;
  }
  engine.settle();
  while (!stream.closed()) {
    device.runBlock();
    engine.service();
  }
}

}  // namespace

std::string record(const RecordOptions& options) {
  SessionFolder folder = SessionFolder::open(options.session, SessionFolder::Access::Write);
  Session session = folder.session();
  const RecordSetup setup = setupFrom(options, session);

  std::vector<Performance> performances;
  std::size_t channels = 1;
  for (const std::string& path : options.performances) {
    performances.push_back(readPerformance(path, session.rate));
    channels = std::max(channels, performances.back().channels.size());
  }
  if (!session.trackNamed(options.track))
    session = addTrack(std::move(session), options.track, microphonesFor(static_cast<int>(channels)));
  const Track& track = requireTrack(session, options.track);
  int firstInput = track.microphones.front().input;
  int inputs = 1;
  for (const Microphone& microphone : track.microphones) {
    firstInput = std::min(firstInput, microphone.input);
    inputs = std::max(inputs, microphone.input + microphone.channels);
  }

  SimulatedInterface interface;
  interface.settings.rate = session.rate;
  interface.settings.blockFrames = options.block;
  interface.settings.inputs = inputs;
  interface.roundTrip = setup.roundTrip;
  const Frames natural = setup.timeline.loop ? setup.timeline.loop->start : setup.recordFrom;
  interface.parts.push_back(
      {firstInput, options.performanceAt ? parsePosition(*options.performanceAt, session.ruler()) : natural,
       std::move(performances), false, std::nullopt});

  Engine engine(session.rate, options.block,
                options.realtime ? Engine::Service::Background : Engine::Service::ByHand);
  SimulatedDevice device(std::move(interface), engine);
  FileCorrelationMeter meter(folder.path());
  meter.setFiles(*session.pool);
  engine.setPlan(folder.path(), Compiler(meter).compile(session, {std::nullopt, {track.id}}));

  Recorder recorder(folder, session, setup, {track.id});
  engine.record(setup.timeline, setup.roundTrip, recorder.stream());
  roll(engine, device, *recorder.stream(), options.realtime);
  if (recorder.stream()->lostFrames() > 0)
    throw Error("The disk could not keep up: " + std::to_string(recorder.stream()->lostFrames()) +
                " frames were lost. What was recorded is brought in when the session is opened next.");
  const Frames captured = recorder.stream()->written();
  folder.commit(recordingLabel(setup, captured), recorder.finished(session));
  recorder.forgetNote();
  if (const auto failure = recorder.stream()->failure()) throw Error(*failure);
  const std::size_t lanes = folder.session().trackNamed(options.track)->lanes.size();
  return recordingLabel(setup, captured) + ": \"" + options.track + "\" now has " + std::to_string(lanes) +
         (lanes == 1 ? " lane." : " lanes.");
}

}  // namespace yewdrift::tool
