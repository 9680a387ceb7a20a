// SPDX-License-Identifier: GPL-3.0-or-later
//
// Whatever is asked of the engine, one thing after the other at random: what is heard, told and captured is
// what it was when it was judged (by the plain mixers and transports of the other tests). See
// recorded_numbers.h.
#include <random>

#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/recorded_numbers.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

struct Scene {
  explicit Scene(unsigned seed, const fs::path& path)
      : random(seed),
        folder(made(path)),
        interface(interfaceFor()),
        block(std::array{32, 64, 100, 441, 512}[below(5)]),
        announced(oneIn(3) ? 600 : 0),
        rig(folder, block, interface, announced) {}

  std::size_t below(int most) { return random() % static_cast<unsigned>(most); }
  bool oneIn(int so) { return below(so) == 0; }
  Frames at(int most) { return Frames{static_cast<std::int64_t>(below(most)) * 50}; }

  SessionFolder made(const fs::path& path) {
    SessionFolder created = sessionWithLanes(path, {noise(30000, 1), noise(20000, 2), noise(30000, 3)});
    Session session = created.session();
    session =
        addTrack(std::move(session), "Drum", {{"near", 0, 2, {-3.0}, {0.25}}, {"room", 2, 1, {}, {-0.5}}});
    const TrackId drum = session.tracks.back()->id;
    session = addFileAsLane(session, drum, session.pool->front(), {4000}, "one");
    session = pick(session, session.tracks.front()->id, {{5000}, {9000}}, LaneNumber{1});
    session.recording.click.playing = true;
    created.commit("Make", session);
    return created;
  }
  SimulatedInterface interfaceFor() {
    SimulatedInterface made;
    made.settings.inputs = 3;
    made.roundTrip = Frames{static_cast<std::int64_t>(below(4)) * 333};
    made.dropoutEveryBlocks = oneIn(4) ? 37 : 0;
    for (int input = 0; input < 3; ++input) {
      PerformerPart part;
      part.firstInput = input;
      part.performances = {played(noise(40000, 7U + static_cast<unsigned>(input), 0.2F))};
      part.startOver = oneIn(2);
      made.parts.push_back(part);
    }
    return made;
  }
  Session changed() {
    Session session = folder.session();
    const TrackId id = session.tracks[below(2)]->id;
    const bool yes = oneIn(2);
    const auto n = static_cast<int>(below(720));
    switch (below(5)) {
      case 0:
        return setTrackSwitch(session, id, static_cast<TrackSwitch>(n % 3), yes);
      case 1:
        return setMonitoring(session, id, static_cast<Monitoring>(n % 3));
      case 2:
        return setTrackMix(session, id, {-2.0 * (n % 4)}, {0.5 * (n % 5) - 1.0});
      case 3: {
        const Frames from = at(300);
        const std::size_t lane = below(3);
        return pick(session, session.tracks.front()->id, {from, from + Frames{3000}},
                    lane == 0 ? std::nullopt : std::optional(LaneNumber{static_cast<int>(lane)}));
      }
      default: {
        RecordingOptions options = session.recording;
        options.preRoll = {0.01 * static_cast<double>(below(9)), LengthUnit::Seconds};
        options.postRoll = {0.01 * static_cast<double>(below(9)), LengthUnit::Seconds};
        options.countInBars = oneIn(3) ? 1 : 0;
        options.passes = 1 + static_cast<int>(below(3));
        options.loop = oneIn(2);
        options.punch = oneIn(2);
        options.result = static_cast<PassResult>(below(3));
        options.hush = oneIn(2);
        options.playBack = oneIn(4);
        options.click.recording = oneIn(2);
        session = setRecordingOptions(session, options);
        const Frames from = at(100);
        const Frames length = Frames{2000} + at(80);
        session = setLoop(session, Span{from, from + length});
        return setPunches(session, {{from + Frames{500}, from + Frames{1500}}});
      }
    }
  }
  Listening listening() {
    Listening how;
    const TrackId id = folder.session().tracks.front()->id;
    how.inHand = id;
    if (oneIn(2)) how.heard.push_back({id, {LaneNumber{1 + static_cast<int>(below(3))}}});
    if (oneIn(3)) how.within = Span{{3000}, {9000}};
    if (oneIn(3)) how.trims[LaneNumber{2}] = Decibels{-4.0};
    if (oneIn(3)) how.gated.push_back(id);
    if (oneIn(3)) how.others = oneIn(2) ? std::optional(Decibels{-9.0}) : std::nullopt;
    return how;
  }
  RollTimeline timeline() {
    RollTimeline made;
    made.start = at(300);
    if (oneIn(2)) made.loop = Span{made.start, made.start + Frames{1500 + at(60).count}};
    if (made.loop && oneIn(2)) made.passes = 1 + static_cast<int>(below(4));
    if (!made.loop && oneIn(2)) made.stopAt = made.start + at(100);
    made.postRoll = at(20);
    return made;
  }
  void record(Digest& captured) {
    const Session& session = folder.session();
    try {
      const Frames from = at(100);
      const RecordSetup setup = planRecording(session, {from, rig.device.reportedRoundTrip()});
      std::vector<TrackId> armed;
      for (const auto& track : session.tracks)
        if (track->armed) armed.push_back(track->id);
      if (armed.empty()) armed.push_back(session.tracks.front()->id);
      const std::size_t stopAfter = 20 + below(200);
      std::size_t blocks = 0;
      const auto result = rig.roll(setup, armed, [&](EngineState state) {
        captured.add(state.position);
        captured.add(state.countIn);
        captured.add(static_cast<std::int64_t>(state.round * 4 + state.recording * 2 + state.rolling));
        if (++blocks == stopAfter) rig.engine.stop();
        if (blocks > stopAfter) rig.engine.endTail();
      });
      for (const auto& track : result.session.tracks)
        for (const auto& lane : track->lanes)
          for (const Clip& clip : lane->clips) {
            captured.add(clip.window);
            captured.add(clip.origin);
            captured.add(clip.sourceLength);
          }
      for (const auto& file : *folder.session().pool)
        if (file.path.find("f0") == std::string::npos)
          for (const Samples& channel : readWave(folder.path() / file.path))
            for (std::size_t i = 0; i < channel.size(); i += 211)
              captured.add(static_cast<double>(channel[i]));
    } catch (const Error& error) {
      captured.add(error.what());
    }
  }

  std::mt19937 random;
  SessionFolder folder;
  SimulatedInterface interface;
  int block;
  int announced;
  Rig rig;
};

void run(Numbers& numbers, unsigned seed) {
  const TemporaryFolder temporary;
  Scene scene(seed, temporary / "s");
  Rig& rig = scene.rig;
  Digest told;
  for (int step = 0; step < 16; ++step) {
    const TrackId id = scene.folder.session().tracks.front()->id;
    const LaneNumber lane{1 + static_cast<int>(scene.below(4))};
    switch (scene.below(13)) {
      case 0:
        rig.engine.stop();
        break;
      case 1:
        rig.engine.locate(scene.at(300));
        break;
      case 2:
        told.add(static_cast<std::int64_t>(rig.engine.hear(id, lane)));
        break;
      case 3:
        rig.engine.hearAt(rig.engine.state().rollFrame + scene.at(40), id, lane);
        break;
      case 4:
        rig.setPlan(scene.folder.session(), scene.listening());
        break;
      case 5: {
        rig.meter.setFiles(*scene.folder.session().pool);
        const auto plan = rig.compiler.compile(scene.folder.session(), scene.listening());
        rig.engine.setPlanAt(rig.engine.state().rollFrame + scene.at(40), scene.folder.disk(), plan);
        break;
      }
      case 6:
        scene.folder.commit("Change", scene.changed());
        rig.setPlan(scene.folder.session());
        break;
      case 7:
        scene.record(told);
        break;
      default:
        rig.engine.play(scene.timeline());
        break;
    }
    rig.engine.settle();
    const Rig::Sides heard = rig.playBoth(400 + scene.below(4000));
    double left = 0.0, right = 0.0;
    for (std::size_t i = 0; i < heard.left.size(); ++i) {
      left += heard.left[i] * (1.0 + 0.01 * static_cast<double>(i % 89));
      right += heard.right[i] * (1.0 + 0.01 * static_cast<double>(i % 89));
    }
    const EngineState state = rig.engine.state();
    told.add(state.position);
    told.add(state.rollFrame);
    told.add(static_cast<std::int64_t>(state.round * 4 + state.rolling * 2 + state.capturing));
    told.add(state.dropouts * 1000 + state.underruns);
    for (const EngineEvent& event : rig.engine.takeEvents()) {
      told.add(event.position);
      told.add(event.rollFrame);
    }
    const std::string name = "scene " + std::to_string(seed) + " " + std::to_string(step);
    numbers[name + " left"] = left;
    numbers[name + " right"] = right;
    numbers[name + " peaks"] = static_cast<double>(rig.engine.takeTrackPeak(0)) +
                               2.0 * static_cast<double>(rig.engine.takeTrackPeak(1)) +
                               3.0 * static_cast<double>(rig.engine.takeInputPeak(0)) +
                               5.0 * static_cast<double>(rig.engine.takeOutputPeak(1));
    numbers[name + " told"] = told.folded();
  }
}

}  // namespace

TEST_CASE("Whatever is asked of it, the engine plays, tells and captures what it did when it was judged") {
  Numbers now;
  for (unsigned seed = 1; seed <= 40; seed += nextScene()) run(now, seed);
  checkRecorded("engine", now);
}
