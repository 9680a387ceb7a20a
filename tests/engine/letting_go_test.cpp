// SPDX-License-Identifier: GPL-3.0-or-later
//
// What goes to the audio thread by pointer is held as long as it is used there, and no longer.
#include "engine/engine_tests.h"

namespace {

using WeakPlan = std::weak_ptr<const PlaybackPlan>;

std::shared_ptr<const PlaybackPlan> compiled(Rig& rig) {
  rig.meter.setFiles(*rig.folder.session().pool);
  return rig.compiler.compile(rig.folder.session(), {{}, {}, rig.folder.session().tracks.front()->id});
}

WeakPlan give(Rig& rig) {
  const auto plan = compiled(rig);
  rig.engine.setPlan(rig.folder.disk(), plan);
  rig.engine.settle();
  return plan;
}

}  // namespace

TEST_CASE("A plan that another has taken the place of is let go, while it plays and while it stands") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {Samples(480000, 0.5F)});
  Rig rig(folder, 100);
  for (const bool plays : {false, true}) {
    INFO("plays: " << plays);
    if (plays) rig.engine.play({{}, std::nullopt, 0, std::nullopt, {}});
    std::vector<WeakPlan> given;
    for (int i = 0; i < 30; ++i) {
      given.push_back(give(rig));
      rig.play(700);  // the change has been faded in
      CHECK_FALSE(given.back().expired());
    }
    rig.engine.service();
    for (std::size_t i = 0; i + 1 < given.size(); ++i) CHECK(given[i].expired());
    // One after the other, faster than they are faded in, and some that nobody takes.
    given.clear();
    for (int i = 0; i < 30; ++i) {
      given.push_back(give(rig));
      if (i % 3 != 0) rig.play(100);
      CHECK_FALSE(given.back().expired());
    }
    rig.play(2000);
    rig.engine.service();
    for (std::size_t i = 0; i + 1 < given.size(); ++i) CHECK(given[i].expired());
    CHECK_FALSE(given.back().expired());
  }
  // What was to be played from a frame on is let go once it was, or when the roll ends before.
  const auto atFrame = compiled(rig);
  const WeakPlan switched = atFrame;
  rig.engine.setPlanAt(rig.engine.state().rollFrame + Frames{500}, folder.disk(), atFrame);
  const auto neverReached = compiled(rig);
  const WeakPlan waiting = neverReached;
  rig.engine.setPlanAt(rig.engine.state().rollFrame + Frames{400000}, folder.disk(), neverReached);
  CHECK(atFrame.use_count() > 1);
  rig.play(2000);
  CHECK(atFrame.use_count() > 1);
  CHECK(neverReached.use_count() > 1);
  rig.engine.stop();
  rig.play(2000);
  rig.engine.service();
  CHECK(neverReached.use_count() == 1);
  give(rig);
  rig.play(2000);
  rig.engine.service();
  CHECK(atFrame.use_count() == 1);
}

TEST_CASE("A probe and what a recording captures are held until they are done, whatever changes meanwhile") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {Samples(480000, 0.5F)});
  Rig rig(folder, 100);
  const auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 0, {48000});
  rig.engine.startProbe(probe);
  for (int i = 0; i < 10000 && !probe->finished; ++i) {
    CHECK(probe.use_count() > 1);
    if (i % 10 == 0) give(rig);
    rig.play(100);
  }
  REQUIRE(probe->finished);
  rig.play(100);
  rig.engine.service();
  CHECK(probe.use_count() == 1);

  RecordSetup setup;
  setup.timeline = {{}, std::nullopt, 0, Frames{20000}, {}};
  Recorder recorder(folder.disk(), folder.session(), setup, {folder.session().tracks.front()->id});
  const auto stream = recorder.stream();
  const auto without = stream.use_count();
  rig.engine.record(setup, stream);
  rig.engine.settle();
  for (int i = 0; i < 10000 && !stream->closed(); ++i) {
    if (!stream->bodyWritten()) CHECK(stream.use_count() > without);
    if (i % 10 == 0) give(rig);
    rig.play(100);
  }
  REQUIRE(stream->closed());
  rig.play(1000);
  rig.engine.service();
  CHECK(stream.use_count() == without);
}
