// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where edits end: how many there can be and how far things lie.
#include "core/core_tests.h"

namespace {

constexpr TrackId onlyTrack{1};
constexpr LaneNumber firstTake{1};
constexpr Frames farthest = maximumPosition;

/// A track of two takes of 9,000 frames each.
Session twoTakesOfOne() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  for (const char* file : {"audio/a.wav", "audio/b.wav"})
    session = addFileAsLane(session, onlyTrack, {file, 1, {9000}}, {}, "take");
  return session;
}
Track& editOnly(Session& session) {
  return session.tracks.front().edit();
}

/// Takes without files, as many as that.
void fillWithLanes(Track& track, std::size_t lanes) {
  while (track.lanes.size() < lanes) {
    Lane lane;
    lane.number = LaneNumber{++track.lanesMade};
    track.lanes.emplace_back(std::move(lane));
  }
}

}  // namespace

TEST_CASE("Of what there can be a number of, the last one is taken and one more is refused") {
  const Session session = twoTakesOfOne();
  SECTION("composites that are kept") {
    Session full = session;
    while (editOnly(full).keptComposites.size() + 1 < limits::composites)
      editOnly(full).keptComposites.push_back(
          {"C" + std::to_string(editOnly(full).keptComposites.size()), {}, {}});
    full = keepComposite(full, onlyTrack, "the last");
    CHECK(full.tracks.front()->keptComposites.size() == limits::composites);
    CHECK_THROWS_WITH(keepComposite(full, onlyTrack, "one more"), Catch::Contains("at most"));
  }
  SECTION("tracks") {
    Session full = session;
    const Shared<Track> other = addTrack(Session{}, "Other", microphonesFor(1)).tracks.front();
    while (full.tracks.size() + 1 < limits::tracks) full.tracks.push_back(other);
    full = duplicateTrack(full, onlyTrack);
    CHECK(full.tracks.size() == limits::tracks);
    CHECK_THROWS_WITH(duplicateTrack(full, onlyTrack), Catch::Contains("at most"));
    CHECK_THROWS_WITH(spreadTakes(full, onlyTrack, spreadEvenly(requireTrack(full, onlyTrack), 1.0)),
                      Catch::Contains("at most"));
  }
  SECTION("takes of a track") {
    Session both = addTrack(session, "Other", microphonesFor(1));
    const TrackId other = both.tracks.back()->id;
    fillWithLanes(both.tracks.back().edit(), limits::lanes - 2);
    CHECK(absorbTracks(both, onlyTrack, {other}).tracks.front()->lanes.size() == limits::lanes);
    fillWithLanes(both.tracks.back().edit(), limits::lanes - 1);
    CHECK_THROWS_WITH(absorbTracks(both, onlyTrack, {other}), Catch::Contains("at most"));
  }
  SECTION("microphones of a set") {
    Session both = addTrack(addTrack(Session{}, "Drum", microphonesFor(1)), "Other", microphonesFor(1));
    const TrackId other = both.tracks.back()->id;
    Track& wide = both.tracks.back().edit();
    wide.microphones.resize(limits::microphones - 1, wide.microphones.front());
    CHECK(gatherMicrophones(both, both.tracks.front()->id, {other}).tracks.front()->microphones.size() ==
          limits::microphones);
    wide.microphones.push_back(wide.microphones.front());
    CHECK_THROWS_WITH(gatherMicrophones(both, both.tracks.front()->id, {other}), Catch::Contains("at most"));
  }
  SECTION("points of a line") {
    LevelLine line;
    for (std::size_t i = 0; i < limits::levelPoints; ++i)
      line.push_back({{static_cast<std::int64_t>(i)}, {-1.0}});
    CHECK(setLevel(session, onlyTrack, firstTake, line).tracks.front()->lane(firstTake)->level == line);
    line.push_back({{static_cast<std::int64_t>(line.size())}, {-1.0}});
    CHECK_THROWS_WITH(setLevel(session, onlyTrack, firstTake, line), Catch::Contains("at most"));
  }
  SECTION("phrases") {
    Session full = session;
    for (std::int64_t i = 1; i < static_cast<std::int64_t>(limits::phrases); ++i)
      editOnly(full).phrases.push_back({{100000 + i * 10}, {100000 + i * 10 + 10}});
    const std::vector<Phrase> first{{{{0}, {9000}}, true, {{0}, {9000}}}};
    editOnly(full).phrases.erase(editOnly(full).phrases.begin());
    CHECK(addPhraseEdge(full, onlyTrack, first, {4000}).tracks.front()->phrases.size() == limits::phrases);
    editOnly(full).phrases.push_back({{farthest.count - 10}, farthest});
    CHECK_THROWS_WITH(addPhraseEdge(full, onlyTrack, first, {4000}), Catch::Contains("more phrases"));
  }
}

TEST_CASE("Nothing is put where no position is, and as far as positions go everything is") {
  const Session session = twoTakesOfOne();
  const Frames beyond = farthest + Frames{1};
  CHECK_NOTHROW(setLevel(session, onlyTrack, firstTake, {{farthest, {0.0}}, {-farthest, {0.0}}}));
  CHECK_THROWS_AS(setLevel(session, onlyTrack, firstTake, {{beyond, {0.0}}}), Error);
  CHECK_THROWS_AS(setLevel(session, onlyTrack, firstTake, {{-beyond, {0.0}}}), Error);
  // A take ends 9,000 frames behind where it begins.
  CHECK_NOTHROW(nudgeLane(session, onlyTrack, firstTake, farthest - Frames{9000}));
  CHECK_THROWS_AS(nudgeLane(session, onlyTrack, firstTake, farthest - Frames{8999}), Error);
  CHECK_NOTHROW(nudgeLane(session, onlyTrack, firstTake, -farthest));
  CHECK_THROWS_AS(nudgeLane(session, onlyTrack, firstTake, -beyond), Error);
  // And back from there.
  const Session far = nudgeLane(session, onlyTrack, firstTake, Frames{100} - farthest);
  CHECK(nudgeLane(far, onlyTrack, firstTake, farthest - Frames{100}) == session);
  Session picked = pick(session, onlyTrack, {{1000}, {3000}}, firstTake);
  CHECK_THROWS_WITH(changePiece(picked, onlyTrack, {1500}, {.slip = beyond}),
                    Catch::Contains("out of the session"));
  CHECK_THROWS_WITH(changePiece(picked, onlyTrack, {1500}, {.slip = -beyond}),
                    Catch::Contains("out of the session"));
  CHECK_THROWS_WITH(changePiece(picked, onlyTrack, {1500}, {.slip = farthest}),
                    Catch::Contains("no material"));
  // By 2,999 frames later the piece still plays the take's first frame, by 3,000 none.
  CHECK_NOTHROW(changePiece(picked, onlyTrack, {1500}, {.slip = Frames{2999}}));
  CHECK_THROWS_WITH(changePiece(picked, onlyTrack, {1500}, {.slip = Frames{3000}}),
                    Catch::Contains("no material"));
  CHECK_THROWS_AS(setJoin(picked, onlyTrack, {1000}, {{-1}, {1}, Curve::S}), Error);
  CHECK_THROWS_AS(setJoin(picked, onlyTrack, {1000}, {{1}, {-1}, Curve::S}), Error);
  CHECK_NOTHROW(setJoin(picked, onlyTrack, {1000}, {{0}, {0}, Curve::S}));
  CHECK_NOTHROW(setJoin(picked, onlyTrack, {1000}, {farthest, {0}, Curve::S}));
  CHECK_THROWS_WITH(setJoin(picked, onlyTrack, {1000}, {farthest, {1}, Curve::S}),
                    Catch::Contains("longer than any"));
}
