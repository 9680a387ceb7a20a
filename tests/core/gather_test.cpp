// SPDX-License-Identifier: GPL-3.0-or-later
//
// Tracks that come and go; takes and tracks, microphones and sets, one way and the other.
#include "core/core_tests.h"

namespace {

std::vector<std::string> namesOf(const Session& session) {
  std::vector<std::string> names;
  for (const auto& track : session.tracks) names.push_back(track->name);
  return names;
}
using Names = std::vector<std::string>;

TrackId idOf(const Session& session, const std::string& name) {
  return session.trackNamed(name)->id;
}

/// Tracks that hold so many lanes each, of one file a lane; mono.
Session withTracks(const std::vector<std::pair<std::string, int>>& tracks) {
  Session session;
  int file = 0;
  for (const auto& [name, lanes] : tracks) {
    session = addTrack(std::move(session), name, microphonesFor(1));
    const TrackId id = session.tracks.back()->id;
    for (int i = 0; i < lanes; ++i) {
      session =
          addFileAsLane(std::move(session), id, {"audio/f" + std::to_string(file++) + ".wav", 1, {1000}},
                        {100}, "Take " + std::to_string(i + 1));
    }
  }
  checkInvariants(session);
  return session;
}

}  // namespace

TEST_CASE("Takes become tracks from left to right; a track that would play them again is muted") {
  Session session = withTracks({{"Voice", 3}, {"Drum", 1}});
  const TrackId id = idOf(session, "Voice");
  session = addLane(session, id, {}, "Empty");
  session = pick(session, id, {{200}, {300}}, LaneNumber{1});
  Session spread = spreadTakes(session, id, spreadEvenly(requireTrack(session, id), 0.8));
  checkInvariants(spread);
  CHECK(namesOf(spread) == Names{"Voice", "Voice, Take 1", "Voice, Take 2", "Voice, Take 3", "Drum"});
  CHECK(spread.tracks[1]->pan.value == Approx(-0.8));
  CHECK(spread.tracks[2]->pan.value == Approx(0.0));
  CHECK(spread.tracks[3]->pan.value == Approx(0.8));
  for (std::size_t i = 1; i <= 3; ++i) {
    REQUIRE(spread.tracks[i]->lanes.size() == 1);
    CHECK((*spread.tracks[i]->lanes[0] == *session.tracks[0]->lanes[i - 1]));
    CHECK(spread.tracks[i]->composite.picks.empty());
    CHECK_FALSE(spread.tracks[i]->muted);
  }
  CHECK(spread.tracks[0]->muted);
  CHECK((spread.tracks[0]->composite == session.tracks[0]->composite));
  CHECK(spread.tracks[0]->lanes.size() == 4);
  CHECK(spreadEvenly(requireTrack(session, id), 1.0, {{2}}) == std::vector<SpreadTake>{{{2}, {0.0}}});
  // For a doubling only some: the others stay in their lanes, and what the composite plays goes on.
  spread = spreadTakes(session, id, {{{2}, {-1.0}}, {{1}, {0.5}}});
  CHECK(namesOf(spread) == Names{"Voice", "Voice, Take 2", "Voice, Take 1", "Drum"});
  CHECK(spread.tracks[1]->pan.value == -1.0);
  CHECK(spread.tracks[2]->pan.value == 0.5);
  CHECK_FALSE(spread.tracks[0]->muted);
  CHECK_THROWS_AS(spreadTakes(session, id, std::vector<SpreadTake>{{{9}, {}}}), Error);
  CHECK_THROWS_AS(spreadTakes(session, id, {}), Error);
}

TEST_CASE("Tracks become takes, in order, under numbers of their own; those tracks go") {
  Session session = withTracks({{"Voice", 2}, {"Double", 1}, {"Third", 2}});
  const Session gathered =
      absorbTracks(session, idOf(session, "Voice"), {idOf(session, "Third"), idOf(session, "Double")});
  checkInvariants(gathered);
  CHECK(namesOf(gathered) == Names{"Voice"});
  const Track& voice = *gathered.tracks[0];
  REQUIRE(voice.lanes.size() == 5);
  Names names;
  for (std::size_t i = 0; i < 5; ++i) {
    CHECK(voice.lanes[i]->number.value == static_cast<int>(i) + 1);
    names.push_back(voice.lanes[i]->name);
  }
  CHECK(names == Names{"Take 1", "Take 2", "Take 1", "Take 2", "Double"});
  CHECK(voice.lanes[2]->clips == session.trackNamed("Third")->lanes[0]->clips);
  CHECK(voice.lanes[4]->clips == session.trackNamed("Double")->lanes[0]->clips);
  CHECK_THROWS_AS(absorbTracks(session, TrackId{1}, {}), Error);
  CHECK_THROWS_AS(absorbTracks(session, TrackId{1}, {TrackId{1}}), Error);
  CHECK_THROWS_AS(absorbTracks(session, TrackId{1}, {TrackId{2}, TrackId{2}}), Error);
}

TEST_CASE("A mono take plays on all channels of a track, cut parts too; others go where they fit only") {
  Session session = withTracks({{"Voice", 1}});
  session = addTrack(session, "Pair", microphonesFor(2));
  session = addFileAsLane(session, idOf(session, "Pair"), {"audio/s.wav", 2, {1000}}, {}, "Wide");
  const Session wide = absorbTracks(session, idOf(session, "Pair"), {idOf(session, "Voice")});
  checkInvariants(wide);
  CHECK(wide.tracks[0]->lanes[1]->clips[0].channels == std::vector<ChannelSource>{{0, 0}, {0, 0}});
  CHECK_THROWS_AS(absorbTracks(session, idOf(session, "Voice"), {idOf(session, "Pair")}), Error);
  session = addTrack(session, "Set", microphonesFor(3));
  session = cutLane(session, idOf(session, "Voice"), LaneNumber{1}, {{300}, {400}});
  const Session set = absorbTracks(session, idOf(session, "Set"), {idOf(session, "Voice")});
  checkInvariants(set);
  const Lane& lane = *set.trackNamed("Set")->lanes[0];
  for (const auto* clips : {&lane.clips, &lane.cutAway}) {
    CHECK_FALSE(clips->empty());
    for (const Clip& clip : *clips) CHECK(clip.channels == std::vector<ChannelSource>(3, {0, 0}));
  }
  CHECK_THROWS_WITH(absorbTracks(session, idOf(session, "Set"), {idOf(session, "Pair")}),
                    Catch::Contains("as many channels"));
}

TEST_CASE("Tracks recorded apart become a set that sounds the same, and apart again") {
  const TemporaryFolder temporary;
  const Samples close = noise(20000, 1);
  const Samples room = noise(20000, 2);
  SessionFolder folder = sessionWithLanes(temporary / "s", {close, noise(20000, 3)});
  Session session = folder.session();
  session = duplicateTrack(session, session.tracks[0]->id);
  // The copy plays the other file of the two: a track recorded apart.
  session.tracks[1].edit().lanes[0].edit().clips[0].channels = {{1, 0}};
  session.tracks[1].edit().lanes[1].edit().clips[0].channels = {{0, 0}};
  session = renameTrack(session, session.tracks[1]->id, "Room");
  session = setTrackMix(session, session.tracks[0]->id, {-3.0}, {-0.5});
  session = setTrackMix(session, session.tracks[1]->id, {2.0}, {0.4});
  session = pick(session, session.tracks[0]->id, {{1000}, {9000}}, LaneNumber{1});
  session = pick(session, session.tracks[1]->id, {{1000}, {9000}}, LaneNumber{1});
  checkInvariants(session);
  const auto mix = [&](const Session& of, const std::string& name) {
    renderToFile(folder.disk(), of, {}, temporary / name);
    return readWave(temporary / name);
  };
  const auto before = mix(session, "before.wav");
  const Session set = gatherMicrophones(session, session.tracks[0]->id, {session.tracks[1]->id});
  checkInvariants(set);
  REQUIRE(set.tracks.size() == 1);
  REQUIRE(set.tracks[0]->microphones.size() == 2);
  CHECK(set.tracks[0]->microphones[0].name == "Viola");
  CHECK(set.tracks[0]->microphones[1].name == "Room");
  const auto together = mix(set, "set.wav");
  REQUIRE(together[0].size() == before[0].size());
  for (std::size_t side = 0; side < 2; ++side)
    for (std::size_t i = 0; i < together[side].size(); ++i)
      REQUIRE(together[side][i] == Approx(before[side][i]).margin(2e-6));
  const Session apart = separateMicrophones(set, set.tracks[0]->id);
  checkInvariants(apart);
  CHECK(namesOf(apart) == Names{"Viola", "Room"});
  const auto again = mix(apart, "apart.wav");
  for (std::size_t side = 0; side < 2; ++side)
    for (std::size_t i = 0; i < again[side].size(); ++i)
      REQUIRE(again[side][i] == Approx(before[side][i]).margin(2e-6));
  CHECK((apart.tracks[1]->composite == set.tracks[0]->composite));
  CHECK_THROWS_AS(separateMicrophones(apart, apart.tracks[0]->id), Error);
}
