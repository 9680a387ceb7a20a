// SPDX-License-Identifier: GPL-3.0-or-later
//
// How a session is listened to: beside what, how loud, with what around it, several takes at once.
#include "engine/engine_tests.h"

namespace {

const float inMiddle = static_cast<float>(std::sqrt(0.5));
constexpr float third = 0.4F;  // the composite: the newest take

/// Three takes told apart by their level, and another track.
SessionFolder band(const fs::path& path) {
  SessionFolder folder =
      sessionWithLanes(path, {Samples(100000, 0.1F), Samples(100000, 0.2F), Samples(100000, third)});
  Session session = folder.session();
  session = addTrack(std::move(session), "Other", microphonesFor(1));
  session = addFileAsLane(session, session.tracks.back()->id, session.pool->front(), {}, "take");
  folder.commit("Add", session);
  return folder;
}

struct Listener {
  explicit Listener(const fs::path& path) : folder(band(path)), rig(folder, 64) {}
  [[nodiscard]] TrackId id() const { return folder.session().tracks.front()->id; }
  /// From the start on, for so many frames.
  Rig::Sides hear(Listening how, std::size_t frames = 6400) {
    how.inHand = id();
    rig.setPlan(folder.session(), how);
    rig.engine.locate({});
    rig.engine.play({});
    rig.engine.settle();
    Rig::Sides heard = rig.playBoth(frames);
    rig.engine.stop();
    rig.playBoth(640);
    return heard;
  }
  Listening lanes(std::vector<LaneNumber> numbers) {
    Listening how;
    how.heard.push_back({id(), std::move(numbers)});
    return how;
  }
  TemporaryFolder temporary;
  SessionFolder folder;
  Rig rig;
};

/// Both sides, at that frame.
void checkAt(const Rig::Sides& heard, std::size_t frame, float level) {
  INFO("frame " << frame);
  CHECK(heard.left.at(frame) == Approx(level * inMiddle).margin(2e-6));
  CHECK(heard.right.at(frame) == Approx(level * inMiddle).margin(2e-6));
}

}  // namespace

TEST_CASE("The other tracks are full, dimmed by so much, or silent; the track in hand stays as it is") {
  const TemporaryFolder temporary;
  Listener ears(temporary / "s");
  Listening how;
  checkAt(ears.hear(how), 3000, third + 0.1F);
  how.others = Decibels{-12.0};
  checkAt(ears.hear(how), 3000, third + 0.1F * std::pow(10.0F, -0.6F));
  how.others.reset();
  checkAt(ears.hear(how), 3000, third);
  // While nothing is in hand nothing is turned down.
  const auto plan = ears.rig.compiler.compile(ears.folder.session(), {{}, {}, {}, {}, {}, {}, std::nullopt});
  CHECK(plan->levels == std::vector<float>{1.0F, 1.0F});
}

TEST_CASE("Every take, and the composite, is trimmed by what it is to be trimmed by") {
  const TemporaryFolder temporary;
  Listener ears(temporary / "s");
  Listening how = ears.lanes({{1}});
  how.others.reset();
  how.trims = {{LaneNumber{1}, Decibels{6.0}}, {LaneNumber{2}, Decibels{-6.0}}};
  how.compositeTrim = {-3.0};
  const auto factor = [](double decibels) { return static_cast<float>(std::pow(10.0, decibels / 20.0)); };
  checkAt(ears.hear(how), 3000, 0.1F * factor(6.0));
  how.heard.front().lanes = {{2}};
  checkAt(ears.hear(how), 3000, 0.2F * factor(-6.0));
  how.heard.front().lanes = {{3}};
  checkAt(ears.hear(how), 3000, third);
  how.heard.clear();
  checkAt(ears.hear(how), 3000, third * factor(-3.0));
  // Together, each with its own.
  how.heard.push_back({ears.id(), {{1}, {2}}});
  checkAt(ears.hear(how), 3000, 0.1F * factor(6.0) + 0.2F * factor(-6.0));
}

TEST_CASE("With what lies around, a take is heard as if it were picked, trims and joins included") {
  const TemporaryFolder temporary;
  Listener ears(temporary / "s");
  Listening how = ears.lanes({{1}});
  how.others.reset();
  how.within = Span{{2000}, {4000}};
  how.trims = {{LaneNumber{1}, Decibels{6.0}}};
  how.compositeTrim = {-9.0};  // it stays as it is
  const Rig::Sides heard = ears.hear(how);
  const float taken = 0.1F * static_cast<float>(std::pow(10.0, 0.3));
  checkAt(heard, 1000, third);
  checkAt(heard, 3000, taken);
  checkAt(heard, 5000, third);
  // The very joins that picking it makes.
  Session picked = pick(ears.folder.session(), ears.id(), *how.within, LaneNumber{1});
  Listening plain;
  plain.inHand = ears.id();
  plain.others.reset();
  how.trims.clear();
  const Rig::Sides untrimmed = ears.hear(how);
  ears.folder.commit("Pick", picked);
  CHECK(ears.hear(plain).left == untrimmed.left);
  // What was picked of it elsewhere is as loud as it was.
  how.trims = {{LaneNumber{1}, Decibels{6.0}}};
  ears.folder.commit("Pick", pick(ears.folder.session(), ears.id(), {{6000}, {6300}}, LaneNumber{1}));
  const Rig::Sides elsewhere = ears.hear(how);
  checkAt(elsewhere, 3000, taken);
  checkAt(elsewhere, 6150, 0.1F);
  ears.folder.commit("Pick", picked);
  // The composite itself is heard as it is.
  how.heard.clear();
  how.trims = {{LaneNumber{1}, Decibels{6.0}}};
  CHECK(ears.hear(how).left == untrimmed.left);
}

TEST_CASE("Several takes are heard together, in place of the composite or within a stretch") {
  const TemporaryFolder temporary;
  Listener ears(temporary / "s");
  Listening how = ears.lanes({{2}, {1}});
  how.others.reset();
  checkAt(ears.hear(how), 3000, 0.3F);
  how.within = Span{{2000}, {4000}};
  const Rig::Sides heard = ears.hear(how);
  checkAt(heard, 1000, third);
  checkAt(heard, 3000, 0.3F);
  checkAt(heard, 5000, third);
  // One of them alone is still at hand.
  CHECK(ears.rig.engine.hear(ears.id(), LaneNumber{2}));
  CHECK(ears.rig.engine.hear(ears.id(), std::nullopt));
}
