// SPDX-License-Identifier: GPL-3.0-or-later
//
// The search for the best place of a join: what it looks at, what it finds, what it leaves alone.
#include "core/core_tests.h"

#include "core/joins/join_finder.h"
#include "core/known_takes.h"

namespace {

/// A tone that lasts from one frame to another, with ends of 5 ms, over a quiet room.
void addTone(Samples& samples, std::size_t from, std::size_t to, double hertz, double phase,
             float peak = 0.4F) {
  for (std::size_t i = from; i < std::min(to, samples.size()); ++i) {
    const double edge =
        std::min({1.0, static_cast<double>(i - from) / 240.0, static_cast<double>(to - i) / 240.0});
    samples[i] +=
        peak *
        static_cast<float>(
            edge * std::sin(2.0 * std::numbers::pi * hertz * static_cast<double>(i) / 48000.0 + phase));
  }
}

Samples room(std::size_t count, unsigned seed) {
  return noise(count, seed, 0.0008F);
}

JoinScene sceneOf(const Samples& out, const Samples& in) {
  const JoinSides sides{out, in};
  StepSpectra spectra(rate, sceneStep(rate));
  return makeJoinScene(spectra, std::span(&sides, 1), rate, {});
}

struct Desk {
  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
  TrackId id;

  Desk(const std::vector<Samples>& lanes, Frames at)
      : folder(sessionWithLanes(temporary / "s", lanes, SampleFormat::Float32)),
        session(folder.session()),
        id(session.tracks.front()->id) {
    const Frames end{static_cast<std::int64_t>(lanes.front().size())};
    session = pick(pick(session, id, {{}, at}, LaneNumber{1}), id, {at, end}, LaneNumber{2});
  }
  [[nodiscard]] JoinView view(const Session& of, const JoinWish& wish = defaultWish(rate)) const {
    JoinFinder finder(folder.disk(), rate);
    const ResolvedComposite composite = resolve(*of.track(id), rate);
    REQUIRE(!composite.joins.empty());
    return finder.view(of, *of.track(id), composite, composite.joins.front(), wish);
  }
  [[nodiscard]] Improvement improved(const JoinWish& wish = defaultWish(rate),
                                     std::optional<Frames> only = std::nullopt) const {
    return improveJoins(folder.disk(), session, id, wish, only);
  }
};

}  // namespace

TEST_CASE("joins: a scene knows the level of both takes, what they have in common, and where they begin") {
  Samples out = noise(24000, 1, 0.2F);
  const Samples in = noise(24000, 2, 0.2F);
  JoinScene scene = sceneOf(out, in);
  REQUIRE(scene.steps() == 200);
  const auto sum = [](const SceneBands& bands) {
    double all = 0.0;
    for (const float band : bands) all += band;
    return all;
  };
  // The bands of a signal add up to its mean square (Parseval).
  double square = 0.0;
  double banded = 0.0;
  for (std::size_t i = 4800; i < 19200; ++i) square += static_cast<double>(out[i]) * out[i] / 14400.0;
  for (std::size_t k = 40; k < 160; ++k) banded += sum(scene.microphones[0].outgoing.power[k]) / 120.0;
  CHECK(banded == Approx(square).epsilon(0.05));
  CHECK(std::abs(scene.correlation(40, 160)) < 0.05);
  // The same, and its opposite.
  scene = sceneOf(out, out);
  CHECK(scene.correlation(40, 160) == Approx(1.0).margin(1e-9));
  CHECK(sum(scene.microphones[0].cross[80]) ==
        Approx(sum(scene.microphones[0].outgoing.power[80])).epsilon(1e-4));
  CHECK(scene.microphones[0].unlikeness[80] == Approx(0.0).margin(1e-6));
  Samples opposite = out;
  for (float& sample : opposite) sample = -sample;
  CHECK(sceneOf(out, opposite).correlation(40, 160) == Approx(-1.0).margin(1e-9));

  // Attacks, to a step of 2.5 ms, and which of both takes are the same one.
  Samples first = room(24000, 3);
  Samples second = room(24000, 4);
  addStroke(first, 9600, 300.0);
  addStroke(second, 9600 + 720, 300.0);
  addStroke(second, 18000, 300.0);
  scene = sceneOf(first, second);
  const auto& ours = scene.microphones[0].outgoing.onsets;
  const auto& theirs = scene.microphones[0].incoming.onsets;
  REQUIRE(ours.size() == 1);
  REQUIRE(theirs.size() == 2);
  CHECK(std::abs(ours[0].step - 80.0F) <= 1.0F);
  CHECK(std::abs(theirs[0].step - 86.0F) <= 1.0F);
  CHECK(std::abs(theirs[1].step - 150.0F) <= 1.0F);
  CHECK(ours[0].same == std::size_t{0});
  CHECK(theirs[0].same == std::size_t{0});
  CHECK(!theirs[1].same);
  CHECK(ours[0].strength > 0.5F);
  // A held tone, however low, begins once.
  Samples low = room(24000, 5);
  addTone(low, 4800, 20000, 55.0, 0.3);
  CHECK(sceneOf(low, low).microphones[0].outgoing.onsets.size() == 1);
}

TEST_CASE("joins: what is heard of a crossfade costs what a listener would mind") {
  const FadeLeaks leaks(rate);
  // The same take twice can be joined anywhere, by any fade.
  Samples take = room(24000, 1);
  addTone(take, 2000, 22000, 220.0, 0.0);
  const JoinScene same = sceneOf(take, take);
  for (const std::size_t length : fadeLengths)
    CHECK(JoinJudge(leaks).cost(same, {100 - length / 2, length}).total() < 0.02);

  // Out of phase by half a turn: they cancel. In phase: nothing happens.
  Samples against = room(24000, 2);
  addTone(against, 2000, 22000, 220.0, std::numbers::pi);
  Samples with = room(24000, 3);
  addTone(with, 2000, 22000, 220.0, 0.0);
  const JoinScene opposed = sceneOf(take, against);
  const JoinCost cancelled = JoinJudge(leaks).cost(opposed, {92, 16});
  CHECK(cancelled.outside > 0.3);
  const JoinScene agreeing = sceneOf(take, with);
  CHECK(JoinJudge(leaks).cost(agreeing, {92, 16}).total() < 0.1);

  // A sudden change of phase is heard as a click in the bands around; a long one less.
  Samples aside = room(24000, 4);
  addTone(aside, 2000, 22000, 1200.0, 0.0);
  Samples quarter = room(24000, 5);
  addTone(quarter, 2000, 22000, 1200.0, 1.6);
  const JoinScene turned = sceneOf(aside, quarter);
  CHECK(JoinJudge(leaks).cost(turned, {99, 2}).change >
        2.0 * JoinJudge(leaks).cost(turned, {80, 48}).change + 0.05);

  // The same attack 20 ms apart: between them it is lost or doubled, on either side it is whole.
  Samples early = room(24000, 6);
  Samples late = room(24000, 7);
  addStroke(early, 12000, 400.0);
  addStroke(late, 12960, 400.0);
  const JoinScene firstLater = sceneOf(early, late);
  JoinJudge judge(leaks);
  const JoinCost between = judge.cost(firstLater, {102, 4});  // the early one is heard, then the late one
  CHECK(between.doubled > 0.8);
  CHECK(between.lost < 0.1);
  const JoinScene firstEarlier = sceneOf(late, early);
  const JoinCost missed = judge.cost(firstEarlier, {102, 4});
  CHECK(missed.lost > 0.8);
  CHECK(missed.doubled < 0.1);
  const JoinCost before = judge.cost(firstLater, {60, 8});
  CHECK(before.doubled + before.lost + before.cut < 0.05);
  // In the middle of the attack it is cut into.
  Samples other = room(24000, 8);
  const JoinScene cutInto = sceneOf(early, other);
  CHECK(JoinJudge(leaks).cost(cutInto, {96, 8}).cut > 0.3);
}

TEST_CASE(
    "joins: no fade is laid over a stroke that only one take has, and one search finds what more would") {
  int moved = 0;
  for (unsigned seed = 0; seed < 24; ++seed) {
    std::mt19937 random(seed);
    const auto upTo = [&random](int most) {
      return static_cast<std::size_t>(std::uniform_int_distribution(0, most)(random));
    };
    // The take that goes out has come to rest; the one that comes in goes on beating, as after a take that
    // broke off.
    std::vector<Samples> lanes{room(144000, 2 * seed + 1), room(144000, 2 * seed + 2)};
    std::vector<std::size_t> lone;
    for (std::size_t at = 40000 + upTo(3000); at < 100000; at += 3000 + upTo(6000)) {
      addStroke(lanes[1], at, 180.0 + 20.0 * static_cast<double>(upTo(6)));
      lone.push_back(at);
    }
    for (std::size_t at = 20000; at < 38000; at += 6000) addStroke(lanes[0], at, 200.0);
    const Desk desk(lanes, Frames{static_cast<std::int64_t>(60000 + upTo(9000))});
    const Improvement improvement = desk.improved();
    if (improvement.joins.empty()) continue;
    ++moved;
    const JoinFinding& now = improvement.joins.front().now;
    const Span fade{now.at - now.shape.before, now.at + now.shape.after};
    INFO("seed " << seed << ", fade " << fade.start.count << " to " << fade.end.count);
    for (const std::size_t at : lone) CHECK_FALSE(fade.contains(Frames{static_cast<std::int64_t>(at)}));
    // What is nearer to the edge of what was allowed may still be found from there; nothing within reach is.
    const Improvement again =
        improveJoins(desk.folder.disk(), improvement.session, desk.id, defaultWish(rate), std::nullopt);
    for (const ImprovedJoin& join : again.joins) {
      const Frames from = improvement.joins.front().was.at;
      const bool within = std::abs((join.now.at - from).count) <= 4800;
      CHECK((!within || join.now.cost.total() > join.before.total() - 0.1));
    }
  }
  CHECK(moved > 12);
}

TEST_CASE("joins: what plays behind may be slipped into phase, where that is allowed") {
  std::vector<Samples> lanes{room(96000, 1), room(96000, 2)};
  addTone(lanes[0], 2000, 94000, 250.0, 0.0);
  addTone(lanes[1], 2000, 94000, 250.0, std::numbers::pi);  // half a period: 96 frames
  const Desk desk(lanes, {48000});
  const Improvement improvement = desk.improved({{960}, {144}});
  REQUIRE(improvement.joins.size() == 1);
  CHECK(std::abs(std::abs(improvement.joins[0].now.slip.count) - 96) <= 2);
  const ResolvedComposite composite = resolve(*improvement.session.track(desk.id), rate);
  CHECK(composite.pieces.back().slip == improvement.joins[0].now.slip);
  CHECK(desk.view(improvement.session).measure.correlation > 0.95);
  // Where it is not, nothing moves in time.
  for (const ImprovedJoin& join : desk.improved({{960}, {}}).joins) CHECK(join.now.slip == Frames{});
}

TEST_CASE("joins: improving never makes one worse by its own measure, whatever is joined") {
  for (unsigned seed = 1; seed <= 12; ++seed) {
    std::vector<Samples> lanes{room(96000, seed), room(96000, seed + 100)};
    std::mt19937 random(seed);
    const auto between = [&](int low, int high) { return std::uniform_int_distribution(low, high)(random); };
    for (auto& lane : lanes) {
      for (int i = 0; i < 6; ++i)
        addStroke(lane, static_cast<std::size_t>(between(1000, 90000)), between(80, 900), 0.3F);
      for (int i = 0; i < 4; ++i) {
        const auto from = static_cast<std::size_t>(between(1000, 70000));
        addTone(lane, from, from + static_cast<std::size_t>(between(4000, 25000)), between(60, 2000),
                between(0, 6), 0.2F);
      }
    }
    Desk desk(lanes, {between(20000, 76000)});
    const JoinView before = desk.view(desk.session);
    const Improvement improvement = desk.improved();
    CHECK(improvement.looked == 1);
    checkInvariants(improvement.session);
    const JoinView after = desk.view(improvement.session);
    CAPTURE(seed);
    CHECK(after.cost.total() <= before.cost.total() + 0.02);
    CHECK(std::abs((after.join.at - before.join.at).count) <= 4800);
    if (improvement.joins.empty()) CHECK(improvement.session == desk.session);
    // What the takes hold beyond what is heard of them is listened to as well.
    const Frames at = before.join.at;
    Session trimmed = pullWindow(desk.session, desk.id, LaneNumber{1}, {{}, at});
    trimmed = pullWindow(trimmed, desk.id, LaneNumber{2}, {at, {96000}});
    REQUIRE(trimmed != desk.session);
    CHECK(desk.view(trimmed).cost.total() == before.cost.total());
  }
}

TEST_CASE("joins: why a place is good is what lies there: the levels, the next attack, how alike they are") {
  std::map<std::string, int> told;
  for (unsigned seed = 1; seed <= 40; ++seed) {
    std::mt19937 random(seed);
    const auto upTo = [&random](int most) {
      return static_cast<std::size_t>(std::uniform_int_distribution(0, most)(random));
    };
    // Strokes apart, with rests between them; or a held tone, in phase at some places.
    std::vector<Samples> lanes{room(96000, seed), room(96000, seed + 100)};
    std::vector<double> attacks;  // of the take that comes in
    for (std::size_t at = 3000 + upTo(9000); seed % 4 != 0 && at < 90000; at += 9000 + upTo(16000)) {
      addStroke(lanes[1], at, 200.0 + 50.0 * static_cast<double>(upTo(9)));
      attacks.push_back(static_cast<double>(at));
      if (upTo(2) != 0) addStroke(lanes[0], at + upTo(400), 250.0);
    }
    if (seed % 4 == 0)
      for (std::size_t i = 0; i < 2; ++i)
        addTone(lanes[i], 1000, 95000, 180.0 + 3.0 * static_cast<double>(i), 0.5 * static_cast<double>(i));
    if (seed % 4 == 1)  // something sounds on under the strokes
      for (std::size_t i = 0; i < 2; ++i) addTone(lanes[i], 1000, 95000, 300.0 + 77.0 * i, 0.0, 0.02F);
    const Desk desk(lanes, {static_cast<std::int64_t>(30000 + upTo(30000))});
    for (const ImprovedJoin& join : desk.improved().joins) {
      const std::string why = join.now.why.english();
      INFO("seed " << seed << ": " << why);
      const double from = static_cast<double>((join.now.at - join.now.shape.before).count);
      const double to = static_cast<double>((join.now.at + join.now.shape.after).count);
      const auto sum = [&](const Samples& a, const Samples& b, double first, double last) {
        double all = 0.0;
        for (auto i = static_cast<std::size_t>(first); i < static_cast<std::size_t>(last); ++i)
          all += static_cast<double>(a[i]) * b[i];
        return all;
      };
      const auto level = [&](std::size_t lane) {
        const double centre = (from + to) / 2.0;
        return 10.0 *
               std::log10(sum(lanes[lane], lanes[lane], centre - 480.0, centre + 480.0) / 960.0 + 1e-12);
      };
      const auto next = std::ranges::lower_bound(attacks, to - 300.0);
      const auto place = [&](const std::string& text) {
        return static_cast<double>(parsePosition(text, desk.session.ruler()).count);
      };
      std::smatch parts;
      const auto says = [&](const char* pattern) {
        return std::regex_match(why, parts, std::regex(pattern)) && ++told[pattern] > 0;
      };
      const auto checkLevels = [&](std::size_t out) {
        CHECK(std::stod(parts[out]) == Approx(level(0)).margin(1.5));
        CHECK(std::stod(parts[out + 1]) == Approx(level(1)).margin(1.5));
      };
      if (says("In the rest before (\\S+): the takes are at (-\\d+) and (-\\d+) dB there\\.")) {
        REQUIRE(next != attacks.end());
        CHECK(place(parts[1]) == Approx(*next).margin(480.0));
        CHECK(*next - to < 24000.0 + 480.0);
        checkLevels(2);
      } else if (says("In a rest at (\\S+): the takes are at (-\\d+) and (-\\d+) dB there\\.")) {
        CHECK(place(parts[1]) == Approx((from + to) / 2.0).margin(360.0));
        CHECK((next == attacks.end() || *next - to > 24000.0 - 480.0));
        checkLevels(2);
      } else if (says("([\\d.]+) ms ahead of the attack at (\\S+), which covers it\\.")) {
        REQUIRE(next != attacks.end());
        CHECK(place(parts[2]) == Approx(*next).margin(480.0));
        CHECK(std::stod(parts[1]) == Approx((*next - to) / 48.0).margin(4.0));
        CHECK(std::stod(parts[1]) <= 20.0);
      } else if (says("In a held sound, .*: they agree by ([\\d.]+) over ([\\d.]+) ms\\.")) {
        const double alike = sum(lanes[0], lanes[1], from, to) /
                             std::sqrt(sum(lanes[0], lanes[0], from, to) * sum(lanes[1], lanes[1], from, to));
        CHECK(std::stod(parts[1]) == Approx(alike).margin(0.06));
        CHECK(std::stod(parts[2]) == Approx((to - from) / 48.0).margin(0.1));
      } else if (says("Where the takes sound most alike, gradually over ([\\d.]+) ms\\.")) {
        CHECK(std::stod(parts[1]) == Approx((to - from) / 48.0).margin(0.1));
      } else {
        CHECK_THAT(why, Catch::Contains("stays where it is"));
      }
    }
  }
  CHECK(told.size() >= 4);
}
