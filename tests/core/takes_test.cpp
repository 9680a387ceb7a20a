// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is known of takes and what is heard of them: names, ratings, levels, pitch, cuts, nudges, places; as
// edits, and in what is rendered.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/plan/flatten.h"
#include "core/plan/pitched_files.h"
#include "core/session/limits.h"
#include "core/signal/pitch_track.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr LaneNumber one{1};
constexpr LaneNumber two{2};

const Track& viola(const Session& session) {
  return *session.tracks.front();
}
TrackId idOf(const Session& session) {
  return session.tracks.front()->id;
}

/// Two takes of a second each.
struct TwoTakes {
  TwoTakes()
      : first(noise(48000, 1)),
        second(noise(48000, 2)),
        folder(sessionWithLanes(temporary / "s", {first, second})),
        session(folder.session()),
        id(idOf(session)) {}
  [[nodiscard]] Samples lane(const Session& of, LaneNumber number, Span span = {{0}, {48000}}) const {
    RenderRequest request;
    request.track = id;
    request.lane = number;
    request.span = span;
    request.format = SampleFormat::Float32;
    renderToFile(folder.disk(), of, request, temporary / "lane.wav");
    return readWave(temporary / "lane.wav").front();
  }
  [[nodiscard]] Samples composite(const Session& of, Span span = {{0}, {48000}}) const {
    return renderTrack(folder, of, "Viola", span).front();
  }

  Samples first;
  Samples second;
  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
  TrackId id;
};

}  // namespace

TEST_CASE("What is said of a lane is changed, and nothing else of it") {
  const TwoTakes takes;
  LaneChange change;
  change.name = "Warm one";
  change.note = "ribbon,\nfar away \u05e9\u05dc\u05d5\u05dd";
  change.rating = 4;
  change.palette = limits::palettes;
  change.muted = true;
  change.gain = Decibels{-4.5};
  change.pitch = Cents{-12.0};
  change.picture = LanePicture::Pitch;
  Session session = changeLane(takes.session, takes.id, one, change);
  Lane expected = *viola(takes.session).lane(one);
  expected.name = *change.name;
  expected.note = *change.note;
  expected.rating = 4;
  expected.palette = limits::palettes;
  expected.muted = true;
  expected.gain = {-4.5};
  expected.pitch = {-12.0};
  expected.picture = LanePicture::Pitch;
  CHECK((*viola(session).lane(one) == expected));
  CHECK((*viola(session).lane(two) == *viola(takes.session).lane(two)));
  CHECK((changeLane(session, takes.id, one, {}) == session));
  LaneChange only;
  only.rating = 5;
  session = changeLane(session, takes.id, one, only);
  expected.rating = 5;
  CHECK((*viola(session).lane(one) == expected));
  checkInvariants(session);
}

TEST_CASE("What a lane cannot be is refused with a sentence") {
  const TwoTakes takes;
  const auto refused = [&](auto set) {
    LaneChange change;
    set(change);
    return refusal([&] { changeLane(takes.session, takes.id, one, change); });
  };
  CHECK(refused([](LaneChange& c) { c.name = ""; }) == "A lane needs a name.");
  CHECK(refused([](LaneChange& c) { c.rating = 6; }) == "A rating is 0 (none) to 5.");
  CHECK(refused([](LaneChange& c) { c.rating = -1; }) == "A rating is 0 (none) to 5.");
  CHECK(refused([](LaneChange& c) { c.palette = 9; }) ==
        "A colour is 1 to 8, or 0 for the one of the lane's number.");
  CHECK(refused([](LaneChange& c) { c.gain = Decibels{-200.5}; }) == "A gain lies between -200 and 60 dB.");
  CHECK(refused([](LaneChange& c) { c.gain = Decibels{NAN}; }) == "A gain lies between -200 and 60 dB.");
  CHECK(refused([](LaneChange& c) { c.pitch = Cents{2401.0}; }) ==
        "A pitch lies within 2400 cents either way.");
  CHECK(refused([](LaneChange& c) { c.pitch = Cents{-2401.0}; }) ==
        "A pitch lies within 2400 cents either way.");
  CHECK(refused([](LaneChange& c) { c.pitch = Cents{NAN}; }) == "A pitch lies within 2400 cents either way.");
  CHECK(refused([](LaneChange& c) { c.note = "\xff"; }) == "That text is not readable (it is no UTF-8).");
  CHECK(refused([](LaneChange& c) { c.note = std::string(limits::textBytes + 1, 'x'); }) ==
        "A text can have 10000 bytes at most.");
  for (const auto& fine : {LaneChange{.gain = Decibels{-200.0}}, LaneChange{.gain = Decibels{60.0}},
                           LaneChange{.pitch = Cents{2400.0}}, LaneChange{.pitch = Cents{-2400.0}},
                           LaneChange{.note = std::string(limits::textBytes, 'x')}})
    CHECK_NOTHROW(checkInvariants(changeLane(takes.session, takes.id, one, fine)));
  CHECK_THROWS_AS(changeLane(takes.session, takes.id, LaneNumber{3}, {}), Error);
}

TEST_CASE("Lanes are put in another order; those set aside do not count") {
  TwoTakes takes;
  Session session = addLane(takes.session, takes.id, {});
  session = addLane(session, takes.id, {});
  const auto order = [](const Session& of) {
    std::vector<int> numbers;
    for (const auto& lane : viola(of).lanes) numbers.push_back(lane->number.value);
    return numbers;
  };
  using Order = std::vector<int>;
  CHECK(order(placeLane(session, takes.id, {4}, 1)) == Order{4, 1, 2, 3});
  CHECK(order(placeLane(session, takes.id, one, 2)) == Order{2, 1, 3, 4});
  CHECK(order(placeLane(session, takes.id, one, 4)) == Order{2, 3, 4, 1});
  CHECK(order(placeLane(session, takes.id, one, 400)) == Order{2, 3, 4, 1});
  CHECK(order(placeLane(session, takes.id, {3}, 3)) == Order{1, 2, 3, 4});
  session = setLaneAside(session, takes.id, one, true);
  CHECK(order(placeLane(session, takes.id, {4}, 2)) == Order{1, 2, 4, 3});
  CHECK_THROWS_AS(placeLane(session, takes.id, {4}, 0), Error);
  CHECK_THROWS_AS(placeLane(session, takes.id, {5}, 1), Error);
}

TEST_CASE("A nudged take lies elsewhere with all that belongs to it, and sounds the same there") {
  const TwoTakes takes;
  Session session = markTake(takes.session, takes.id, one, {1000}, "cough");
  session = changeCell(session, takes.id, one, {{{0}, {20000}}, false, {}}, 3, std::nullopt);
  session = setLevel(session, takes.id, one, {{{5000}, {-6.0}}, {{6000}, {0.0}}});
  session = cutLane(session, takes.id, one, {{30000}, {31000}});
  const Samples before = takes.lane(session, one);
  for (const std::int64_t by : {777, -777}) {
    const Session nudged = nudgeLane(session, takes.id, one, {by});
    checkInvariants(nudged);
    const Lane& lane = *viola(nudged).lane(one);
    CHECK(lane.marks[0].at == Frames{1000 + by});
    CHECK(lane.cells[0].at == Frames{10000 + by});
    CHECK(lane.level == LevelLine{{{5000 + by}, {-6.0}}, {{6000 + by}, {0.0}}});
    CHECK(lane.cutAway[0].window == Span{{30000 + by}, {31000 + by}});
    CHECK((takes.lane(nudged, one, {{by}, {48000 + by}}) == before));
    CHECK((*viola(nudged).lane(two) == *viola(session).lane(two)));
    // And back again it is as it was.
    CHECK((nudgeLane(nudged, takes.id, one, {-by}) == session));
  }
  CHECK_THROWS_AS(nudgeLane(session, takes.id, one, maximumPosition), Error);
  CHECK_THROWS_AS(nudgeLane(session, takes.id, one, {INT64_MAX}), Error);
  CHECK_THROWS_AS(nudgeLane(session, takes.id, one, {INT64_MIN}), Error);
}

TEST_CASE("What is cut out of a take is silent, and comes back exactly") {
  const TwoTakes takes;
  const Session cut = cutLane(takes.session, takes.id, one, {{10000}, {20000}});
  checkInvariants(cut);
  const Samples heard = takes.lane(cut, one);
  // But for the short fades at the edges, which lie in what was cut.
  for (std::size_t i = 0; i < 48000; ++i)
    if (i < 10000 || i >= 20000)
      REQUIRE(heard[i] == takes.first[i]);
    else if (i >= 10240 && i < 19760)
      REQUIRE(heard[i] == 0.0F);
  CHECK((restoreLane(cut, takes.id, one, {{10000}, {20000}}) == takes.session));
  CHECK((restoreLane(cut, takes.id, one, {{0}, {48000}}) == takes.session));
  // A part of it.
  const Session part = restoreLane(cut, takes.id, one, {{5000}, {15000}});
  const Lane& lane = *viola(part).lane(one);
  REQUIRE(lane.clips.size() == 2);
  CHECK(lane.clips[0].window == Span{{0}, {15000}});
  CHECK(lane.clips[1].window == Span{{20000}, {48000}});
  CHECK(lane.cutAway[0].window == Span{{15000}, {20000}});
  CHECK(refusal([&] {
          cutLane(cut, takes.id, one, {{12000}, {13000}});
        }) == "Lane 1 is silent there already.");
  CHECK(refusal([&] {
          restoreLane(cut, takes.id, one, {{30000}, {31000}});
        }) == "Nothing was cut out of lane 1 there.");
  CHECK_THROWS_AS(cutLane(cut, takes.id, one, {{5}, {5}}), Error);
  CHECK_THROWS_AS(restoreLane(cut, takes.id, one, {{5}, {4}}), Error);
}

TEST_CASE("A take that was cut away altogether comes back too, in whatever order it is cut and given back") {
  const TwoTakes takes;
  const Session gone = cutLane(takes.session, takes.id, one, {{-5}, {50000}});
  CHECK(viola(gone).lane(one)->clips.empty());
  CHECK((restoreLane(gone, takes.id, one, {{0}, {48000}}) == takes.session));
  std::mt19937 random(77);
  for (int round = 0; round < 200; ++round) {
    Session session = takes.session;
    for (int i = 0; i < 6; ++i) {
      const std::int64_t from = std::uniform_int_distribution(0, 47000)(random);
      const Span span{{from}, {from + std::uniform_int_distribution(1, 20000)(random)}};
      try {
        session = random() % 3 == 0 ? restoreLane(session, takes.id, one, span)
                                    : cutLane(session, takes.id, one, span);
      } catch (const Error&) {
        continue;
      }
      checkInvariants(session);
      // Audible and cut away are all of it, and nothing twice.
      std::int64_t frames = 0;
      for (const Clip& clip : viola(session).lane(one)->clips) frames += clip.window.length().count;
      for (const Clip& clip : viola(session).lane(one)->cutAway) frames += clip.window.length().count;
      REQUIRE(frames == 48000);
    }
    if (!viola(session).lane(one)->cutAway.empty())
      session = restoreLane(session, takes.id, one, {{0}, {48000}});
    REQUIRE((session == takes.session));
  }
}

TEST_CASE("What was placed into a cut meanwhile stays when it is given back") {
  const TwoTakes takes;
  Session session = cutLane(takes.session, takes.id, one, {{10000}, {20000}});
  Clip other = viola(session).lane(two)->clips[0];
  other.window = {{12000}, {13000}};
  session = placeInLane(session, takes.id, one, {other});
  session = restoreLane(session, takes.id, one, {{0}, {48000}});
  checkInvariants(session);
  const auto& clips = viola(session).lane(one)->clips;
  REQUIRE(clips.size() == 3);
  CHECK(clips[0].window == Span{{0}, {12000}});
  CHECK(clips[1].window == Span{{12000}, {13000}});
  CHECK(clips[1].channels == other.channels);
  CHECK(clips[2].window == Span{{13000}, {48000}});
}

TEST_CASE("A lane's gain, and its mute, are heard where it plays") {
  const TwoTakes takes;
  LaneChange quieter;
  quieter.gain = Decibels{-6.0};
  Session session = changeLane(takes.session, takes.id, one, quieter);
  session = pick(session, takes.id, {{0}, {24000}}, one);
  const float factor = factorOf({-6.0});
  const Samples alone = takes.lane(session, one);
  const Samples played = takes.composite(session);
  for (std::size_t i = 0; i < 48000; ++i) {
    REQUIRE(alone[i] == takes.first[i] * factor);
    if (i < 23760) REQUIRE(played[i] == takes.first[i] * factor);
    if (i >= 24240) REQUIRE(played[i] == takes.second[i]);
  }
  // With the piece's, one on the other.
  PieceChange piece;
  piece.gain = Decibels{2.0};
  const Samples both = takes.composite(changePiece(session, takes.id, {100}, piece));
  for (std::size_t i = 0; i < 23760; ++i)
    REQUIRE(both[i] == Approx(takes.first[i] * factorOf({-4.0})).margin(1e-7));

  LaneChange mute;
  mute.muted = true;
  session = changeLane(session, takes.id, one, mute);
  const Samples without = takes.composite(session);
  for (std::size_t i = 0; i < 23760; ++i) REQUIRE(without[i] == 0.0F);
  for (std::size_t i = 24240; i < 48000; ++i) REQUIRE(without[i] == takes.second[i]);
  CHECK((takes.lane(session, one) == alone));  // listened to it is heard
  CHECK_FALSE(sameComposite(session, takes.session, takes.id));
}

TEST_CASE("A level line goes evenly in decibels from point to point, and stays before and behind") {
  const LevelLine line{{{1000}, {-12.0}}, {{3000}, {0.0}}, {{3001}, {6.0}}};
  CHECK(levelAt({}, {5}).value == 0.0);
  CHECK(levelAt(line, {-100}).value == -12.0);
  CHECK(levelAt(line, {1000}).value == -12.0);
  CHECK(levelAt(line, {2000}).value == Approx(-6.0));
  CHECK(levelAt(line, {2500}).value == Approx(-3.0));
  CHECK(levelAt(line, {3000}).value == 0.0);
  CHECK(levelAt(line, {3001}).value == 6.0);
  CHECK(levelAt(line, {9000}).value == 6.0);
  // Wherever a block begins.
  for (const std::int64_t from : {-5, 0, 999, 1000, 1001, 2999, 3000, 3001, 5000})
    for (const std::size_t count : {1U, 2U, 3U, 2500U}) {
      std::vector<float> gains(count, 0.5F);
      multiplyByLevel(line, {from}, gains);
      for (std::size_t i = 0; i < count; ++i)
        REQUIRE(gains[i] == 0.5F * factorOf(levelAt(line, {from + static_cast<std::int64_t>(i)})));
    }
  std::vector<float> untouched(3, 0.25F);
  multiplyByLevel({}, {0}, untouched);
  CHECK(untouched == std::vector<float>(3, 0.25F));
  CHECK(withPoint(withPoint({}, {{5}, {1.0}}), {{3}, {2.0}}) == LevelLine{{{3}, {2.0}}, {{5}, {1.0}}});
  CHECK(withPoint({{{5}, {1.0}}}, {{5}, {3.0}}) == LevelLine{{{5}, {3.0}}});
}

TEST_CASE("Lines of a lane and of the composite ride what is heard, to the sample; the lane's travels") {
  const TwoTakes takes;
  const LevelLine ofLane{{{2000}, {0.0}}, {{4000}, {-20.0}}, {{6000}, {-20.0}}, {{7000}, {0.0}}};
  const LevelLine ofAll{{{5000}, {0.0}}, {{9000}, {-10.0}}};
  Session session = setLevel(takes.session, takes.id, one, ofLane);
  session = pick(session, takes.id, {{0}, {48000}}, one);
  const Samples alone = takes.lane(session, one);
  for (std::int64_t i = 0; i < 48000; ++i)
    REQUIRE(alone[static_cast<std::size_t>(i)] ==
            takes.first[static_cast<std::size_t>(i)] * factorOf(levelAt(ofLane, {i})));
  session = setLevel(session, takes.id, std::nullopt, ofAll);
  PieceChange slip;
  slip.slip = Frames{-300};
  session = changePiece(session, takes.id, {100}, slip);
  const Samples played = takes.composite(session);
  for (std::int64_t i = 0; i < 47700; ++i)
    REQUIRE(played[static_cast<std::size_t>(i)] ==
            Approx(takes.first[static_cast<std::size_t>(i + 300)] * factorOf(levelAt(ofLane, {i + 300})) *
                   factorOf(levelAt(ofAll, {i})))
                .margin(1e-7));
  CHECK((takes.lane(session, one) == alone));  // the composite's is not the lane's
  checkInvariants(session);
  // Points come in any order; of one place the last counts.
  const Session sorted = setLevel(session, takes.id, one, {{{9}, {1.0}}, {{3}, {2.0}}, {{9}, {4.0}}});
  CHECK(viola(sorted).lane(one)->level == LevelLine{{{3}, {2.0}}, {{9}, {4.0}}});
  CHECK_THROWS_AS(setLevel(session, takes.id, one, {{{3}, {61.0}}}), Error);
  CHECK_THROWS_AS(setLevel(session, takes.id, one, {{maximumPosition + Frames{1}, {0.0}}}), Error);
}

TEST_CASE("Marks of a take are kept in order, named anew, removed") {
  const TwoTakes takes;
  Session session = markTake(takes.session, takes.id, one, {500}, "turn");
  session = markTake(session, takes.id, one, {100}, "cough");
  session = markTake(session, takes.id, one, {500}, "lovely turn");
  const auto& marks = viola(session).lane(one)->marks;
  REQUIRE(marks.size() == 2);
  CHECK(marks[0] == TakeMark{{100}, "cough"});
  CHECK(marks[1] == TakeMark{{500}, "lovely turn"});
  CHECK(viola(removeTakeMark(session, takes.id, one, 1)).lane(one)->marks ==
        std::vector<TakeMark>{{{100}, "cough"}});
  session = removeTakeMark(session, takes.id, one, 0);
  CHECK(viola(session).lane(one)->marks == std::vector<TakeMark>{{{500}, "lovely turn"}});
  CHECK_THROWS_AS(removeTakeMark(session, takes.id, one, 1), Error);
  CHECK_THROWS_AS(markTake(session, takes.id, one, {1}, "\xc3"), Error);
  CHECK_THROWS_AS(markTake(session, takes.id, one, maximumPosition + Frames{1}, ""), Error);
}

TEST_CASE("A piece is changed where it plays, and picked by that") {
  const TwoTakes takes;
  PieceChange change;
  change.gain = Decibels{3.0};
  change.slip = Frames{48};
  Session session = changePiece(takes.session, takes.id, {1000}, change);
  REQUIRE(viola(session).composite.picks.size() == 1);
  const Piece piece = viola(session).composite.picks[0];
  CHECK(piece.lane == two);  // the newest take, which played
  CHECK(piece.span == Span{{0}, {48000}});
  CHECK(piece.gain.value == 3.0);
  CHECK(piece.slip == Frames{48});
  CHECK(piece.picked);
  CHECK_THROWS_AS(changePiece(session, takes.id, {60000}, change), Error);
  PieceChange wide;
  wide.pitch = Cents{2400.5};
  CHECK_THROWS_AS(changePiece(session, takes.id, {1000}, wide), Error);
  PieceChange loud;
  loud.gain = Decibels{60.5};
  CHECK_THROWS_AS(changePiece(session, takes.id, {1000}, loud), Error);
  PieceChange far;
  far.slip = maximumPosition + Frames{1};
  CHECK_THROWS_AS(changePiece(session, takes.id, {1000}, far), Error);
}

TEST_CASE("A take at another pitch is as long as it was, higher by so many cents, and where it was") {
  const TemporaryFolder temporary;
  Samples tone(96000);
  for (int partial = 1; partial <= 4; ++partial) {
    const Samples each = sine(96000, 330.0 * partial, 48000.0, 0.3F / static_cast<float>(partial));
    for (std::size_t i = 0; i < tone.size(); ++i) tone[i] += each[i];
  }
  // A second of rest, so that it can be seen when it begins.
  tone.insert(tone.begin(), 48000, 0.0F);
  const SessionFolder folder = sessionWithLanes(temporary / "s", {tone});
  const TrackId id = idOf(folder.session());
  const auto at = [&](double cents, const std::string& name) {
    LaneChange change;
    change.pitch = Cents{cents};
    const Session session = changeLane(folder.session(), id, one, change);
    RenderRequest request;
    request.track = id;
    request.lane = one;
    request.format = SampleFormat::Float32;
    renderToFile(folder.disk(), session, request, temporary / name);
    return readWave(temporary / name).front();
  };
  for (const double cents : {-700.0, -50.0, -5.0, 12.0, 100.0, 1200.0}) {
    const Samples shifted = at(cents, "p.wav");
    INFO(cents << " cents");
    REQUIRE(shifted.size() == tone.size());
    const PitchTrack track = trackPitch(shifted, {48000});
    CHECK(medianOf(track.voicedIn({60000}, {130000})) == Approx(centsOf(330.0).value + cents).margin(3.0));
    float before = 0.0F;
    for (std::size_t i = 0; i < 46000; ++i) before = std::max(before, std::abs(shifted[i]));
    CHECK(before < 0.01F);
    float behind = 0.0F;
    for (std::size_t i = 50000; i < 60000; ++i) behind = std::max(behind, std::abs(shifted[i]));
    CHECK(behind > 0.2F);
  }
  // At its own pitch it is what was played, bit for bit.
  CHECK((at(0.0, "p.wav") == tone));
}

TEST_CASE(
    "A take at another pitch is made once, again where it is another, and never counts as there when it is "
    "not") {
  const TwoTakes takes;
  const PitchedFile wanted{(*takes.session.pool)[0], {30.0}};
  const SessionDisk& disk = takes.folder.disk();
  CHECK_FALSE(PitchedFiles::isMade(disk, wanted));
  PitchedFiles files(disk);
  CHECK_FALSE(files.pitched(wanted.file, wanted.by));
  std::vector<double> told;
  REQUIRE(PitchedFiles::make(disk, {48000}, wanted, [&](double share) {
    told.push_back(share);
    return true;
  }));
  CHECK(std::is_sorted(told.begin(), told.end()));
  CHECK(told.back() == Approx(1.0));
  CHECK(PitchedFiles::isMade(disk, wanted));
  CHECK_FALSE(PitchedFiles::isMade(disk, {wanted.file, {30.5}}));
  CHECK_FALSE(PitchedFiles::isMade(disk, {(*takes.session.pool)[1], {30.0}}));
  CHECK(files.pitched(wanted.file, wanted.by) == -1);
  CHECK(files.pitched(wanted.file, wanted.by) == -1);
  REQUIRE(files.files().size() == 1);
  CHECK(files.files()[0].length == Frames{48000});
  // The second time there is nothing to do.
  told.clear();
  REQUIRE(PitchedFiles::make(disk, {48000}, wanted, [&](double share) {
    told.push_back(share);
    return true;
  }));
  CHECK(told.empty());
  // Broken off, nothing is left.
  const std::vector<std::string> before = disk.list("cache");
  CHECK_FALSE(PitchedFiles::make(disk, {48000}, {wanted.file, {77.0}}, [](double) { return false; }));
  CHECK(disk.list("cache") == before);
  // One that is cut short is made anew.
  const std::string path = files.files()[0].path;
  fs::resize_file(takes.folder.disk().path() / path, 1000);
  CHECK_FALSE(PitchedFiles::isMade(disk, wanted));
  REQUIRE(PitchedFiles::make(disk, {48000}, wanted));
  CHECK(PitchedFiles::isMade(disk, wanted));
  // A channel that the file has not is silence.
  PitchedFile wider = wanted;
  wider.file.channels = 2;
  REQUIRE(PitchedFiles::make(disk, {48000}, wider));
  PitchedFiles both(disk);
  REQUIRE(both.pitched(wider.file, wider.by) == -1);
  const auto sides = readWave(disk.path() / both.files()[0].path);
  REQUIRE(sides.size() == 2);
  CHECK(std::any_of(sides[0].begin(), sides[0].end(), [](float sample) { return std::abs(sample) > 0.01F; }));
  CHECK(std::all_of(sides[1].begin(), sides[1].end(), [](float sample) { return std::abs(sample) < 1e-6F; }));
}

TEST_CASE("What has to be made for a composite is every file at every pitch, once") {
  const TwoTakes takes;
  LaneChange change;
  change.pitch = Cents{20.0};
  Session session = changeLane(takes.session, takes.id, one, change);
  session = pick(session, takes.id, {{0}, {10000}}, one);
  session = pick(session, takes.id, {{10000}, {20000}}, two);
  PieceChange piece;
  piece.pitch = Cents{-5.0};
  session = changePiece(session, takes.id, {100}, piece);
  piece.pitch = Cents{7.0};
  session = changePiece(session, takes.id, {15000}, piece);
  std::vector<std::pair<std::string, double>> wanted;
  for (const PitchedFile& file : pitchedFilesOf(session)) wanted.emplace_back(file.file.path, file.by.value);
  std::sort(wanted.begin(), wanted.end());
  const std::string a = (*session.pool)[0].path;
  const std::string b = (*session.pool)[1].path;
  CHECK(wanted == std::vector<std::pair<std::string, double>>{{a, 15.0}, {a, 20.0}, {b, 7.0}});
  CHECK(pitchedFilesOf(takes.session).empty());
  // What is heard together with it is pitched by the piece too, each from where it is itself.
  session = overdub(session, takes.id, {{0}, {5000}}, two);
  wanted.clear();
  for (const PitchedFile& file : pitchedFilesOf(session)) wanted.emplace_back(file.file.path, file.by.value);
  std::sort(wanted.begin(), wanted.end());
  CHECK(wanted == std::vector<std::pair<std::string, double>>{{a, 15.0}, {a, 20.0}, {b, -5.0}, {b, 7.0}});
  // Pieces at their takes' own pitch, before one that is not.
  piece.pitch = Cents{0.0};
  for (const std::int64_t at : {100, 6000}) session = changePiece(session, takes.id, {at}, piece);
  wanted.clear();
  for (const PitchedFile& file : pitchedFilesOf(session)) wanted.emplace_back(file.file.path, file.by.value);
  std::sort(wanted.begin(), wanted.end());
  CHECK(wanted == std::vector<std::pair<std::string, double>>{{a, 20.0}, {b, 7.0}});
}

TEST_CASE("A flattened composite of takes at other pitches is what is rendered of it") {
  const TwoTakes takes;
  LaneChange change;
  change.pitch = Cents{-35.0};
  Session session = changeLane(takes.session, takes.id, two, change);
  session = pick(session, takes.id, {{0}, {20000}}, one);
  const Samples live = takes.composite(session);
  const FlattenedFile file = renderComposite(takes.folder.disk(), session, takes.id);
  CHECK(file.difference == 0.0);
  const Session flat = takePlaceOfComposite(session, takes.id, file.file, file.origin);
  CHECK((takes.composite(flat) == live));
  for (std::size_t i = 0; i < 19760; ++i) REQUIRE(live[i] == takes.first[i]);
  std::size_t different = 0;
  for (std::size_t i = 21000; i < 48000; ++i) different += live[i] != takes.second[i] ? 1U : 0U;
  CHECK(different > 20000);
}
