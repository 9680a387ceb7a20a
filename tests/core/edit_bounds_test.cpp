// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where edits end: how many there can be, how far things lie, and what of a composite is heard.
#include <catch2/catch.hpp>
#include <cmath>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_gather.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/session/limits.h"

using namespace yewdrift;

namespace {

constexpr TrackId viola{1};
constexpr LaneNumber one{1};
constexpr LaneNumber two{2};
constexpr Frames far = maximumPosition;

/// A track of two takes of 9,000 frames each.
Session twoTakes() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  for (const char* file : {"audio/a.wav", "audio/b.wav"})
    session = addFileAsLane(session, viola, {file, 1, {9000}}, {}, "take");
  return session;
}
Track& edit(Session& session) {
  return session.tracks.front().edit();
}

/// Takes without files, as many as that.
void fill(Track& track, std::size_t lanes) {
  while (track.lanes.size() < lanes) {
    Lane lane;
    lane.number = LaneNumber{++track.lanesMade};
    track.lanes.emplace_back(std::move(lane));
  }
}

}  // namespace

TEST_CASE("Of what there can be a number of, the last one is taken and one more is refused") {
  const Session session = twoTakes();
  SECTION("composites that are kept") {
    Session full = session;
    while (edit(full).keptComposites.size() + 1 < limits::composites)
      edit(full).keptComposites.push_back({"C" + std::to_string(edit(full).keptComposites.size()), {}, {}});
    full = keepComposite(full, viola, "the last");
    CHECK(full.tracks.front()->keptComposites.size() == limits::composites);
    CHECK_THROWS_WITH(keepComposite(full, viola, "one more"), Catch::Contains("at most"));
  }
  SECTION("tracks") {
    Session full = session;
    const Shared<Track> other = addTrack(Session{}, "Other", microphonesFor(1)).tracks.front();
    while (full.tracks.size() + 1 < limits::tracks) full.tracks.push_back(other);
    full = duplicateTrack(full, viola);
    CHECK(full.tracks.size() == limits::tracks);
    CHECK_THROWS_WITH(duplicateTrack(full, viola), Catch::Contains("at most"));
    CHECK_THROWS_WITH(spreadTakes(full, viola, 1.0), Catch::Contains("at most"));
  }
  SECTION("takes of a track") {
    Session both = addTrack(session, "Other", microphonesFor(1));
    const TrackId other = both.tracks.back()->id;
    fill(both.tracks.back().edit(), limits::lanes - 2);
    CHECK(absorbTracks(both, viola, {other}).tracks.front()->lanes.size() == limits::lanes);
    fill(both.tracks.back().edit(), limits::lanes - 1);
    CHECK_THROWS_WITH(absorbTracks(both, viola, {other}), Catch::Contains("at most"));
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
    CHECK(setLevel(session, viola, one, line).tracks.front()->lane(one)->level == line);
    line.push_back({{static_cast<std::int64_t>(line.size())}, {-1.0}});
    CHECK_THROWS_WITH(setLevel(session, viola, one, line), Catch::Contains("at most"));
  }
  SECTION("phrases") {
    Session full = session;
    for (std::int64_t i = 1; i < static_cast<std::int64_t>(limits::phrases); ++i)
      edit(full).phrases.push_back({{100000 + i * 10}, {100000 + i * 10 + 10}});
    const std::vector<Phrase> first{{{{0}, {9000}}, true, {{0}, {9000}}}};
    edit(full).phrases.erase(edit(full).phrases.begin());
    CHECK(addPhraseEdge(full, viola, first, {4000}).tracks.front()->phrases.size() == limits::phrases);
    edit(full).phrases.push_back({{far.count - 10}, far});
    CHECK_THROWS_WITH(addPhraseEdge(full, viola, first, {4000}), Catch::Contains("more phrases"));
  }
}

TEST_CASE("Nothing is put where no position is, and as far as positions go everything is") {
  const Session session = twoTakes();
  const Frames beyond = far + Frames{1};
  CHECK_NOTHROW(setLevel(session, viola, one, {{far, {0.0}}, {-far, {0.0}}}));
  CHECK_THROWS_AS(setLevel(session, viola, one, {{beyond, {0.0}}}), Error);
  CHECK_THROWS_AS(setLevel(session, viola, one, {{-beyond, {0.0}}}), Error);
  // A take ends 9,000 frames behind where it begins.
  CHECK_NOTHROW(nudgeLane(session, viola, one, far - Frames{9000}));
  CHECK_THROWS_AS(nudgeLane(session, viola, one, far - Frames{8999}), Error);
  CHECK_NOTHROW(nudgeLane(session, viola, one, -far));
  CHECK_THROWS_AS(nudgeLane(session, viola, one, -beyond), Error);
  Session picked = pick(session, viola, {{1000}, {3000}}, one);
  CHECK_THROWS_WITH(changePiece(picked, viola, {1500}, {.slip = beyond}),
                    Catch::Contains("out of the session"));
  CHECK_THROWS_WITH(changePiece(picked, viola, {1500}, {.slip = -beyond}),
                    Catch::Contains("out of the session"));
  CHECK_THROWS_WITH(changePiece(picked, viola, {1500}, {.slip = far}), Catch::Contains("no material"));
  // By 2,999 frames later the piece still plays the take's first frame, by 3,000 none.
  CHECK_NOTHROW(changePiece(picked, viola, {1500}, {.slip = Frames{2999}}));
  CHECK_THROWS_WITH(changePiece(picked, viola, {1500}, {.slip = Frames{3000}}),
                    Catch::Contains("no material"));
  CHECK_THROWS_AS(setJoin(picked, viola, {1000}, {{-1}, {1}, Curve::S}), Error);
  CHECK_THROWS_AS(setJoin(picked, viola, {1000}, {{1}, {-1}, Curve::S}), Error);
  CHECK_NOTHROW(setJoin(picked, viola, {1000}, {{0}, {0}, Curve::S}));
  CHECK_NOTHROW(setJoin(picked, viola, {1000}, {far, {0}, Curve::S}));
  CHECK_THROWS_WITH(setJoin(picked, viola, {1000}, {far, {1}, Curve::S}), Catch::Contains("longer than any"));
}

TEST_CASE("Takes are spread by 0 to 1, a loop is widened by 0 to 1,000 bars") {
  const Session session = setLoop(twoTakes(), Span{{96000}, {192000}});
  for (const double bad : {-0.01, 1.01, std::nan("")})
    CHECK_THROWS_AS(spreadTakes(session, viola, bad), Error);
  CHECK(spreadTakes(session, viola, 1.0).tracks[1]->pan.value == -1.0);
  CHECK(spreadTakes(session, viola, 1.0).tracks[2]->pan.value == 1.0);
  CHECK(spreadTakes(session, viola, 0.0).tracks[2]->pan.value == 0.0);
  for (const double bad : {-0.5, limits::widestLead + 0.5, std::nan("")}) {
    CHECK_THROWS_AS(widenLoop(session, bad, 1.0), Error);
    CHECK_THROWS_AS(widenLoop(session, 1.0, bad), Error);
  }
  // A bar of 4/4 at 120 bpm is 96,000 frames; before the session's start there is none.
  CHECK(widenLoop(session, 0.5, 1.0).loop == Span{{48000}, {288000}});
  CHECK(widenLoop(session, limits::widestLead, 0.0).loop == Span{{0}, {192000}});
  CHECK(widenLoop(session, 0.0, limits::widestLead).loop == Span{{96000}, {96'192'000}});
  CHECK_THROWS_AS(widenLoop(twoTakes(), 1.0, 1.0), Error);
}

TEST_CASE("Two sessions play the same composite only where nothing that is heard of it differs") {
  const auto base = [] {
    Session session = pick(twoTakes(), viola, {{1000}, {3000}}, one);
    session = pick(session, viola, {{3000}, {5000}}, two);
    return overdub(session, viola, {{3000}, {4000}}, one);
  };
  const Session session = base();
  CHECK(sameComposite(session, base(), viola));
  const auto differs = [&](const Session& other) {
    return !sameComposite(session, other, viola) && !sameComposite(other, session, viola);
  };
  CHECK(differs(removeTrack(session, viola)));
  CHECK(differs(pick(session, viola, {{0}, {500}}, one)));
  CHECK(differs(setJoin(session, viola, {1000}, {{10}, {10}, Curve::S})));
  CHECK(differs(setLevel(session, viola, std::nullopt, {{{10}, {-1.0}}})));
  CHECK(differs(setEndFade(session, viola, CompositeEnd::Start, {{10}})));
  CHECK(differs(setEndFade(session, viola, CompositeEnd::End, {{10}})));
  CHECK(differs(changePiece(session, viola, {1500}, {.gain = Decibels{-1.0}})));
  // Of a take that it plays, alone or together with another.
  for (const LaneNumber lane : {one, two}) {
    CHECK(differs(changeLane(session, viola, lane, {.gain = Decibels{-1.0}})));
    CHECK(differs(changeLane(session, viola, lane, {.pitch = Cents{10.0}})));
    CHECK(differs(changeLane(session, viola, lane, {.muted = true})));
    CHECK(differs(setLevel(session, viola, lane, {{{10}, {-1.0}}})));
    CHECK(differs(cutLane(session, viola, lane, {{3500}, {3600}})));
    CHECK(differs(nudgeLane(session, viola, lane, {1})));
  }
  CHECK(differs(widenToStereo(session, viola)));
  // What is not heard of it: names, notes, another place, and a take that it does not play.
  CHECK_FALSE(differs(changeLane(session, viola, one, {.name = "other", .note = "note", .rating = 5})));
  CHECK_FALSE(differs(renameTrack(session, viola, "Lead")));
  CHECK_FALSE(differs(placeLane(session, viola, two, 1)));
  CHECK_FALSE(differs(setTrackMix(session, viola, {-6.0}, {0.5})));
  Session aside = setLaneAside(addFileAsLane(session, viola, {"audio/c.wav", 1, {9000}}, {}, "third"), viola,
                               LaneNumber{3}, true);
  CHECK_FALSE(differs(aside));
  CHECK_FALSE(differs(changeLane(aside, viola, LaneNumber{3}, {.gain = Decibels{-9.0}})));
}

TEST_CASE("Where two composites differ is told from edge to edge, stretches that meet as one") {
  const Session first = pick(twoTakes(), viola, {{0}, {9000}}, one);
  const auto differences = [&](const Session& other) {
    return differencesBetween(*first.tracks.front(), first.tracks.front()->composite,
                              other.tracks.front()->composite, first.rate);
  };
  using Spans = std::vector<Span>;
  CHECK(differences(first).empty());
  CHECK(differences(pick(first, viola, {{2000}, {3000}}, two)) == Spans{{{2000}, {3000}}});
  const Session meeting =
      changePiece(pick(pick(first, viola, {{2000}, {3000}}, two), viola, {{3000}, {4000}}, two), viola,
                  {3500}, {.gain = Decibels{-1.0}});
  CHECK(differences(meeting).size() == 1);
  const Session apart =
      pick(pick(first, viola, {{2000}, {3000}}, two), viola, {{5000}, {6000}}, std::nullopt);
  CHECK(differences(apart) == Spans{{{2000}, {3000}}, {{5000}, {6000}}});
  const Session shorter = pick(twoTakes(), viola, {{4000}, {9000}}, one);
  CHECK(differences(shorter) == Spans{{{0}, {4000}}});
}
