// SPDX-License-Identifier: GPL-3.0-or-later
//
// Changes of what is heard happen at a frame, and those between takes at hand need neither compiling nor
// disk.
#include "engine/engine_tests.h"

namespace {

constexpr std::size_t fade = 240;
const float mid = static_cast<float>(std::sqrt(0.5));

/// Three takes that are told apart by their level.
SessionFolder threeTakes(const fs::path& path) {
  return sessionWithLanes(path, {Samples(100000, 0.1F), Samples(100000, 0.2F), Samples(100000, 0.4F)});
}

/// Plays without anybody reading or compiling anything meanwhile.
Samples playAlone(Rig& rig, std::size_t frames) {
  Samples out;
  while (out.size() < frames) {
    rig.device.runBlock();
    out.insert(out.end(), rig.device.lastOutput()[0].begin(), rig.device.lastOutput()[0].end());
  }
  return out;
}

void checkChange(const Samples& heard, std::size_t at, float from, float to) {
  REQUIRE(heard.size() > at + fade);
  if (at > 0) CHECK(heard[at - 1] == Approx(from * mid).margin(1e-6));
  for (std::size_t i = 0; i < fade; ++i) {
    const float risen = (static_cast<float>(i) + 0.5F) / static_cast<float>(fade);
    REQUIRE(heard[at + i] == Approx((from + risen * (to - from)) * mid).margin(1e-6));
  }
  CHECK(heard[at + fade] == Approx(to * mid).margin(1e-6));
}

}  // namespace

TEST_CASE("Another take is heard from the very next block on, with nobody reading") {
  const TemporaryFolder temporary;
  SessionFolder folder = threeTakes(temporary / "s");
  const TrackId id = folder.session().tracks.front()->id;
  Rig rig(folder, 64);
  rig.engine.play({});
  rig.engine.settle();
  CHECK(playAlone(rig, 640).back() == Approx(0.4F * mid));  // the composite is the newest
  float former = 0.4F;
  for (const auto& [lane, takes] : {std::pair{std::optional(LaneNumber{1}), 0.1F},
                                    {std::optional(LaneNumber{2}), 0.2F},
                                    {std::optional<LaneNumber>{}, 0.4F}}) {
    REQUIRE(rig.engine.hear(id, lane));
    checkChange(playAlone(rig, 640), 0, former, takes);
    former = takes;
  }
  CHECK_FALSE(rig.engine.hear(id, LaneNumber{9}));
  CHECK_FALSE(rig.engine.hear(TrackId{77}, LaneNumber{1}));
  CHECK(rig.engine.state().underruns == 0);
}

TEST_CASE("Going round the takes: each change is told beforehand and happens at its frame") {
  for (const int block : {64, 100, 4096}) {
    INFO("block " << block);
    const TemporaryFolder temporary;
    SessionFolder folder = threeTakes(temporary / "s");
    const TrackId id = folder.session().tracks.front()->id;
    Rig rig(folder, block);
    const RollTimeline timeline{{1000}, Span{{1000}, {4001}}, 0, std::nullopt, {}};
    rig.engine.play(timeline);
    rig.engine.settle();
    // In any order; a later word for a frame counts.
    rig.engine.hearAt(timeline.roundStart(4), id, std::nullopt);
    rig.engine.hearAt(timeline.roundStart(2), id, LaneNumber{3});
    rig.engine.hearAt(timeline.roundStart(3), id, LaneNumber{2});
    rig.engine.hearAt(timeline.roundStart(2), id, LaneNumber{1});
    const Samples heard = playAlone(rig, 12288);
    checkChange(heard, 3001, 0.4F, 0.1F);
    checkChange(heard, 6002, 0.1F, 0.2F);
    checkChange(heard, 9003, 0.2F, 0.4F);
    CHECK(rig.engine.state().underruns == 0);
  }
}

TEST_CASE("A plan takes over at its frame, one for the same frame in its place; a roll's end forgets them") {
  const TemporaryFolder temporary;
  SessionFolder folder = threeTakes(temporary / "s");
  const TrackId id = folder.session().tracks.front()->id;
  const auto planOf = [&](Rig& rig, int lane) {
    return rig.compiler.compile(folder.session(), {{HeardLanes{id, {{lane}}}}, {}, {}});
  };
  Rig rig(folder, 100);
  rig.engine.play({});
  rig.engine.settle();
  rig.engine.setPlanAt({5077}, folder.disk(), planOf(rig, 3));
  rig.engine.setPlanAt({9000}, folder.disk(), planOf(rig, 2));
  rig.engine.setPlanAt({5077}, folder.disk(), planOf(rig, 1));
  const Samples heard = rig.play(8000);
  checkChange(heard, 5077, 0.4F, 0.1F);
  rig.engine.stop();
  rig.play(1000);
  rig.setPlan(folder.session());
  rig.engine.play({});
  rig.engine.settle();
  CHECK(rig.play(12000).back() == Approx(0.4F * mid));
  // More than can wait are given back, not lost track of.
  for (int i = 0; i < 20; ++i) rig.engine.setPlanAt({900000 + i}, folder.disk(), planOf(rig, 1));
  CHECK(rig.play(1000).back() == Approx(0.4F * mid));
}
