// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the reader reads before it is heard, how long it stays at hand, and when it goes.
#include "core/engine/read_ahead.h"

#include "engine/engine_tests.h"

namespace {

TrackPlan scattered(Chance& chance) {
  TrackPlan plan;
  const int count = chance.below(7);
  std::vector<Frames> starts;
  for (int i = 0; i < count; ++i) starts.emplace_back(Frames{chance.below(30)});
  std::sort(starts.begin(), starts.end());
  for (const Frames start : starts) {
    Segment segment;
    segment.span = {start, start + Frames{1 + chance.below(12)}};
    segment.origin = start - Frames{chance.below(20)};
    for (int channel = chance.below(3); channel >= 0; --channel)
      segment.channels.push_back({chance.below(4) - 1, channel});
    plan.latestEnd.push_back(plan.latestEnd.empty() ? segment.span.end
                                                    : std::max(plan.latestEnd.back(), segment.span.end));
    plan.segments.push_back(std::move(segment));
  }
  return plan;
}

/// Counts what is freed.
struct Witness : CachedFile::Retired {
  explicit Witness(int& count) : freed(count) {}
  ~Witness() override { ++freed; }
  Witness(const Witness&) = delete;
  Witness& operator=(const Witness&) = delete;
  int& freed;
};

}  // namespace

TEST_CASE("Read for a span are the frames that each segment plays of each file there, and no others") {
  Chance chance(1);
  int found = 0;
  for (int round = 0; round < 3000; ++round) {
    const TrackPlan plan = scattered(chance);
    const Frames start{chance.below(40) - 5};
    const Span span{start, start + Frames{1 + chance.below(10)}};
    std::vector<FilePart> wanted;
    for (const Segment& segment : plan.segments)
      for (const ChannelSource& source : segment.channels) {
        std::vector<Frames> frames;
        for (Frames at = segment.span.start; at < segment.span.end; at += Frames{1})
          if (span.contains(at)) frames.push_back(at - segment.origin);
        if (!frames.empty()) wanted.push_back({source.file, frames.front(), frames.back() + Frames{1}});
      }
    REQUIRE(partsPlayed(plan, span) == wanted);
    found += static_cast<int>(wanted.size());
  }
  CHECK(found > 3000);
}

TEST_CASE("Whatever is heard soon is ahead, in rolls that loop and end, from wherever they are") {
  Chance chance(2);
  for (int round = 0; round < 300; ++round) {
    RollTimeline roll;
    roll.start = Frames{chance.below(50)};
    if (chance.below(2) > 0) {
      const Frames end = roll.start + Frames{2 + chance.below(40)};
      roll.loop = Span{end - Frames{1 + chance.below(40)}, end};
      roll.passes = chance.below(4);
      roll.postRoll = Frames{chance.below(20)};
    }
    const Frames length{1 + chance.below(30)};
    for (Frames now{0}; now < Frames{100}; now += Frames{7}) {
      const auto positionAt = [&](Frames rollFrame) { return roll.runAt(rollFrame).position; };
      const std::vector<Span> spans = spansAhead(positionAt(now), {roll}, length);
      const std::vector<Span> before = spansAhead(Frames{1000}, {roll}, length);
      const auto in = [](const std::vector<Span>& all, Frames at) {
        return std::any_of(all.begin(), all.end(), [at](Span span) { return span.contains(at); });
      };
      INFO("start " << roll.start.count << " now " << now.count << " length " << length.count);
      for (Frames later{0}; later < length; later += Frames{1}) {
        REQUIRE(in(spans, positionAt(now + later)));
        REQUIRE(in(before, positionAt(later)));  // before it begins
      }
      for (const Span span : spans) REQUIRE(span.length() == length);  // and no more than that
    }
  }
  const RollTimeline plain{Frames{100}, std::nullopt, 0, std::nullopt, {}};
  const RollTimeline looped{Frames{200}, Span{Frames{150}, Frames{250}}, 0, std::nullopt, {}};
  CHECK(
      (spansAhead(Frames{7}, {plain, looped}, Frames{10}) == std::vector<Span>{{Frames{7}, Frames{17}},
                                                                               {Frames{100}, Frames{110}},
                                                                               {Frames{200}, Frames{210}},
                                                                               {Frames{150}, Frames{160}}}));
}

TEST_CASE("A file that the pool took in while it grew is heard to its end once the pool says so") {
  const TemporaryFolder temporary;
  const Samples signal = noise(48000, 1);
  SessionFolder folder = sessionWithLanes(temporary / "s", {signal});
  Session shorter = folder.session();
  std::vector<PoolFile> pool(shorter.pool->begin(), shorter.pool->end());
  pool.back().length = Frames{20000};
  shorter.pool = Shared<std::vector<PoolFile>>(pool);
  Rig rig(folder, 256);
  const auto heard = [&](const Session& session) {
    rig.setPlan(session);
    rig.engine.play({Frames{19000}, std::nullopt, 0, std::nullopt, {}});
    rig.engine.settle();
    const Samples out = rig.play(4096);
    rig.engine.stop();
    rig.play(1024);
    return out;
  };
  const Samples before = heard(shorter);
  CHECK(before[500] != 0.0F);
  CHECK(before[3000] == 0.0F);
  const Samples after = heard(folder.session());
  CHECK(std::equal(before.begin() + 500, before.begin() + 1000, after.begin() + 500));
  CHECK(after[3000] == Approx(signal[22000] * std::sqrt(0.5F)).epsilon(1e-4));
}
