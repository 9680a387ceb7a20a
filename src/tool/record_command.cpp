// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/record_command.h"

#include <chrono>
#include <csignal>
#include <limits>
#include <thread>

#include "core/device/audio_driver.h"
#include "core/device/performer_file.h"
#include "core/device/round_trips.h"
#include "core/device/simulated_device.h"
#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/store/session_names.h"
#include "tool/open_session.h"

namespace yewdrift::tool {
namespace {

std::optional<Frames> spanEnd(std::string_view text, const Ruler& ruler) {
  return text.empty() ? std::nullopt : std::optional(parsePosition(text, ruler));
}

/// `FROM..TO`, `FROM..` (a punch-in alone) or `..TO` (a punch-out alone).
Span parsePunch(const std::string& text, const Ruler& ruler) {
  const auto dots = text.find("..");
  if (dots == std::string::npos || text.size() == 2)
    throw Error("\"%1\" is not a punch; write FROM..TO, FROM.. or ..TO.", text);
  const std::string_view whole = text;
  return Punch{spanEnd(whole.substr(0, dots), ruler), spanEnd(whole.substr(dots + 2), ruler)}.span();
}

bool isInBars(const std::string& text) {
  return text.ends_with("bar") || text.ends_with("bars");
}

/// Bars follow the tempo map on that side of `at`.
Frames durationBefore(const std::string& text, Frames at, const Ruler& ruler) {
  return isInBars(text) ? at - positionBefore(at, parseMusicalLength(text), ruler)
                        : parseDuration(text, ruler, at);
}
Frames durationBehind(const std::string& text, Frames at, const Ruler& ruler) {
  return isInBars(text) ? positionBehind(at, parseMusicalLength(text), ruler) - at
                        : parseDuration(text, ruler, at);
}

RecordSetup setupFrom(const RecordOptions& options, const Session& session) {
  const Ruler ruler = session.ruler();
  RecordSetup setup;
  setup.recordFrom = parsePosition(options.from, ruler);
  setup.timeline.start = setup.recordFrom;
  if (options.preRoll) {
    const Frames start = setup.recordFrom - durationBefore(*options.preRoll, setup.recordFrom, ruler);
    setup.timeline.start = std::max(Frames{}, start);
    setup.preRollCut = start.count < 0;
  }
  if (options.loop) {
    setup.timeline.loop = parseSpan(*options.loop, ruler);
    setup.timeline.passes = options.passes.value_or(static_cast<int>(options.performances.size()));
  } else if (options.to) {
    setup.timeline.stopAt = parsePosition(*options.to, ruler);
  }
  const std::optional<Frames> end =
      options.loop ? std::optional(setup.timeline.loop->end) : setup.timeline.stopAt;
  if (options.postRoll && end) setup.timeline.postRoll = durationBehind(*options.postRoll, *end, ruler);
  setup.timeline.countIn = session.tempo.lengthOfBars(options.countIn, setup.timeline.start, session.rate);
  for (const std::string& punch : options.punches) setup.punches.push_back(parsePunch(punch, ruler));
  std::sort(setup.punches.begin(), setup.punches.end(), [](Span a, Span b) { return a.start < b.start; });
  setup.byHand = !options.handPunches.empty();
  setup.playBack = options.playBack;
  setup.roundTrip = Frames{options.roundTrip.value_or(0)};
  setup.result = passResultNamed(options.result);
  setup.check();
  return setup;
}

volatile std::sig_atomic_t interrupted = 0;

/// Lets the interface and the engine run until everything that was played has reached the disk; a hand
/// punches and stops on the way. From a real device, an interrupt (Ctrl+C) stops too, and keeps what was
/// played.
class Roll {
 public:
  /// `stepped`: an interface that runs as fast as it can, or null where the device runs by itself.
  Roll(Engine& engine, AudioDevice& device, SimulatedDevice* stepped, Recorder& recorder,
       const RecordOptions& options, const Ruler& ruler)
      : engine_(engine), device_(device), stepped_(stepped), recorder_(recorder) {
    for (const std::string& text : options.handPunches) {
      const Span span = parseSpan(text, ruler);
      if (!toggles_.empty() && span.start < toggles_.back())
        throw Error("Punches by hand come in order and do not overlap.");
      toggles_.push_back(span.start);
      toggles_.push_back(span.end);
    }
    if (options.stopAfter)
      stopAt_ = parseDuration(*options.stopAfter, ruler, recorder.setup().timeline.start);
  }

  /// A sentence where the device was lost on the way; what was recorded until then is kept.
  std::optional<Sentence> run() {
    std::optional<Sentence> lost;
    while (!recorder_.stream()->closed()) {
      act();
      if (stepped_) {
        stepped_->runBlock();
        engine_.service();
      } else {
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
      }
      takeEvents();
      if (!lost && !device_.alive()) {
        lost = device_.lossReason();
        device_.stop();
        engine_.deviceClosed();
      }
    }
    takeEvents();
    if (!stepped_) device_.stop();
    return lost;
  }

 private:
  void takeEvents() {
    for (const EngineEvent& event : engine_.takeEvents()) {
      if (event.kind == EngineEvent::Kind::Dropout)
        recorder_.dropout(event.rollFrame);
      else
        recorder_.punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
    }
  }

  void act() {
    const EngineState state = engine_.state();
    if (!state.rolling) {
      if (interrupted) engine_.endTail();
      interrupted = 0;
      return;
    }
    for (; next_ < toggles_.size() && state.position >= toggles_[next_] && state.round == 1; ++next_)
      engine_.punch();
    if (state.rollFrame >= stopAt_ || interrupted) {
      engine_.stop();
      stopAt_ = never;
      interrupted = 0;
    }
  }

  Engine& engine_;
  AudioDevice& device_;
  SimulatedDevice* stepped_;
  Recorder& recorder_;
  std::vector<Frames> toggles_;
  std::size_t next_ = 0;
  static constexpr Frames never{std::numeric_limits<std::int64_t>::max()};
  Frames stopAt_ = never;
};

std::string madeSentence(const Recorder& recorder, const Recorder::Result& result, const Track& track) {
  const std::size_t lanes = track.lanes.size();
  std::string text = recorder.label().english() + ": \"" + track.name + "\" now has " +
                     std::to_string(lanes) + (lanes == 1 ? " lane." : " lanes.");
  if (result.setAside > 0) text += " The last one was broken off and is set aside.";
  if (result.brokenOff > 0)
    text += " The last one broke off: where nothing was picked, the whole take before it plays.";
  if (const std::size_t dropouts = recorder.dropouts().size(); dropouts > 0)
    text += " " + std::to_string(dropouts) + (dropouts == 1 ? " dropout is" : " dropouts are") + " marked.";
  return text;
}

}  // namespace

namespace {

/// How many inputs of a device the track's microphones need.
int inputsOf(const Track& track) {
  int inputs = 1;
  for (const Microphone& microphone : track.microphones)
    inputs = std::max(inputs, microphone.input + microphone.channels);
  return inputs;
}

std::unique_ptr<AudioDevice> openSimulated(const RecordOptions& options, const RecordSetup& setup,
                                           const Session& session, const Track& track,
                                           std::vector<Performance> performances, Engine& engine) {
  int firstInput = track.microphones.front().input;
  for (const Microphone& microphone : track.microphones) firstInput = std::min(firstInput, microphone.input);
  SimulatedInterface interface;
  interface.settings.rate = session.rate;
  interface.settings.blockFrames = options.block;
  interface.settings.inputs = inputsOf(track);
  interface.roundTrip = setup.roundTrip;
  interface.dropoutEveryBlocks = options.dropoutEvery;
  const Frames natural = setup.timeline.loop ? setup.timeline.loop->start : setup.recordFrom;
  interface.parts.push_back(
      {firstInput, options.performanceAt ? parsePosition(*options.performanceAt, session.ruler()) : natural,
       std::move(performances), false, std::nullopt});
  return std::make_unique<SimulatedDevice>(std::move(interface), engine);
}

std::unique_ptr<AudioDevice> openReal(const RecordOptions& options, SampleRate rate, const Track& track,
                                      Engine& engine) {
  DeviceSettings settings;
  settings.driver = *options.driver;
  settings.source = options.source;
  settings.sink = options.sink;
  settings.rate = rate;
  settings.blockFrames = options.block;
  settings.inputs = inputsOf(track);
  std::unique_ptr<AudioDevice> device = audioDriverNamed(settings.driver).open(settings, engine);
  if (const int there = device->settings().inputs; there < settings.inputs)
    throw there == 0
        ? Error("\"%1\" records from input %2, and the source has none.", track.name, settings.inputs)
        : Error("\"%1\" records from input %2, and the source has only %3.", track.name, settings.inputs,
                there);
  device->start();
  std::signal(SIGINT, [](int) { interrupted = 1; });
  return device;
}

}  // namespace

std::string record(const RecordOptions& options) {
  SessionFolder folder = openToChange(options.session);
  Session session = folder.session();
  RecordSetup setup = setupFrom(options, session);

  std::vector<Performance> performances;
  std::size_t channels = 1;
  for (const std::string& path : options.performances) {
    performances.push_back(readPerformance(openAnywhere(path), session.rate));
    channels = std::max(channels, performances.back().channels.size());
  }
  if (!session.trackNamed(options.track))
    session = addTrack(std::move(session), options.track, microphonesFor(static_cast<int>(channels)));
  const TrackId id = session.trackNamed(options.track)->id;
  if (options.intoLane) session = setRecordInto(std::move(session), id, LaneNumber{*options.intoLane});
  const Track& track = requireTrack(session, options.track);
  if (options.dryRun)
    return english(describeRecording(setup, {{track.name, track.recordInto}}, session.ruler()));
  const bool byItself = options.driver || options.realtime;
  Engine engine(session.rate, std::max(options.block, 4096),
                byItself ? Engine::Service::Background : Engine::Service::ByHand);
  const std::unique_ptr<AudioDevice> device =
      options.driver ? openReal(options, session.rate, track, engine)
                     : openSimulated(options, setup, session, track, std::move(performances), engine);
  if (options.driver && !options.roundTrip) {
    const Frames reported = device->reportedRoundTrip();
    setup.roundTrip = RoundTrips::ofUser().find(device->settings(), reported).value_or(reported);
  }
  FileCorrelationMeter meter(folder.disk());
  meter.setFiles(*session.pool);
  Listening hearing;
  if (setup.hush) hearing.gated = {id};
  engine.setPlan(folder.disk(), Compiler(meter).compile(session, hearing));

  Recorder recorder(folder.disk(), session, setup, {id});
  engine.record(setup, recorder.stream());
  auto* simulated = dynamic_cast<SimulatedDevice*>(device.get());
  Roll roll(engine, *device, byItself ? nullptr : simulated, recorder, options, session.ruler());
  if (!byItself || simulated) engine.settle();
  if (byItself && simulated) device->start();
  const std::optional<Sentence> lost = roll.run();
  if (recorder.stream()->lostFrames() > 0)
    throw Error(
        "The disk could not keep up: %n frames were lost. What was recorded is brought in when the session "
        "is "
        "opened next.|The disk could not keep up: one frame was lost. What was recorded is brought in when "
        "the "
        "session is opened next.",
        Count{recorder.stream()->lostFrames()});
  if (recorder.nothing()) {
    recorder.abandon();
    throw Error("Nothing was recorded: the roll ended before anything became audible.");
  }
  const bool torn = recorder.stream()->failure() || lost;
  const bool byHand = options.stopAfter || options.driver;
  Recorder::Result result = recorder.finished(session, torn     ? Recorder::Ended::ByAccident
                                                       : byHand ? Recorder::Ended::ByHand
                                                                : Recorder::Ended::AsPlanned);
  if (options.intoLane) result.session = setRecordInto(std::move(result.session), id, std::nullopt);
  folder.commit(recorder.label().english(), result.session);
  recorder.forgetNote();
  if (const auto failure = recorder.stream()->failure()) throw Error(*failure);
  if (lost) throw Error("%1 What was recorded until then is kept.", *lost);
  return madeSentence(recorder, result, *folder.session().track(id));
}

}  // namespace yewdrift::tool
