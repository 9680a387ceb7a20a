// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is known of takes and what is heard of them: names, ratings, levels, pitch, cuts, nudges, places; as
// edits, and in what is rendered.
#include "core/core_tests.h"

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

  Samples first;
  Samples second;
  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
  TrackId id;
};

}  // namespace

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
