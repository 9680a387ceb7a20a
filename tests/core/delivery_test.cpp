// SPDX-License-Identifier: GPL-3.0-or-later
//
// Delivering takes at another pitch: they are made first, or nothing is delivered.
#include "core/deliver/delivery.h"

#include "core/core_tests.h"

#include "core/deliver/edit_list.h"
#include "core/plan/offline_render.h"
#include "core/store/standard_midi_file.h"

TEST_CASE(
    "What is delivered plays takes at the pitch they are given, made before where it is not there yet") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {sine(24000, 440.0, 48000.0)});
  const TrackId id = folder.session().tracks.front()->id;
  LaneChange change;
  change.pitch = Cents{100.0};
  const Session session = changeLane(folder.session(), id, {1}, change);
  const auto wanted = pitchedFilesOf(session);
  REQUIRE(wanted.size() == 1);
  DeliveryWish wish;
  wish.what = {Deliverable::Composites};
  // Cancelled while it is made: nothing is left, neither there nor in the cache.
  int asked = 0;
  CHECK_THROWS_WITH(deliver(folder.disk(), session, wish, temporary / "to",
                            [&](double share) {
                              ++asked;
                              CHECK(share == 0.0);
                              return false;
                            }),
                    Catch::Contains("cancelled"));
  CHECK(asked == 1);
  CHECK_FALSE(PitchedFiles::isMade(folder.disk(), wanted.front()));
  CHECK_FALSE(fs::exists(temporary / "to"));
  std::vector<double> shares;
  const Delivery delivery = deliver(folder.disk(), session, wish, temporary / "to", [&](double share) {
    shares.push_back(share);
    return true;
  });
  REQUIRE(delivery.files.size() == 1);
  CHECK(std::is_sorted(shares.begin(), shares.end()));
  CHECK(shares.back() > 0.5);
  CHECK(PitchedFiles::isMade(folder.disk(), wanted.front()));
  const auto heard = renderTrack(folder, session, "Viola");
  CHECK(readWave(temporary / "to" / delivery.files.front().name) == heard);
  CHECK(heard.front() != sine(24000, 440.0, 48000.0));
}

TEST_CASE(
    "Names of delivered files are such that every file system takes, whatever tracks and takes are called") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(2400, 1)});
  DeliveryWish wish;
  wish.what = {Deliverable::Takes};
  const auto nameOf = [&](const std::string& take) {
    Session session = folder.session();
    session.tracks.front().edit().lanes.front().edit().name = take;
    const Delivery planned = planDelivery(folder.disk(), session, wish);
    REQUIRE(planned.files.size() == 1);
    const std::string name = planned.files.front().name;
    const std::string before = "Viola - take 01 ";
    const std::size_t at = name.find(before);
    REQUIRE(at != std::string::npos);
    REQUIRE(name.ends_with(".wav"));
    return name.substr(at + before.size(), name.size() - at - before.size() - 4);
  };
  CHECK(nameOf("low wind") == "low wind");
  CHECK(nameOf("a/b\\c:d*e?f\"g<h>i|j\x1f") == "a-b-c-d-e-f-g-h-i-j-");
  CHECK(nameOf("..hidden") == "hidden");
  CHECK(nameOf(" . spaces . ") == "spaces");
  CHECK(nameOf("x.y") == "x.y");
  CHECK(nameOf("...") == "unnamed");
  CHECK(nameOf("") == "unnamed");
  CHECK(nameOf(std::string(100, 'x')) == std::string(100, 'x'));
  CHECK(nameOf(std::string(101, 'x')) == std::string(100, 'x'));
  // A character is not cut in two, and what a cut leaves at the end goes.
  CHECK(nameOf(std::string(99, 'x') + "\xc3\xa4") == std::string(99, 'x'));
  CHECK(nameOf(std::string(98, 'x') + "\xc3\xa4y") == std::string(98, 'x') + "\xc3\xa4");
  CHECK(nameOf(std::string(98, 'x') + " .y") == std::string(98, 'x'));
  CHECK(nameOf(std::string(97, 'x') + "\xf0\x9f\x8e\xbb") == std::string(97, 'x'));
}

TEST_CASE(
    "A stem is its own track as the mix has it, whatever is muted or soloed; what has nothing has none") {
  const TemporaryFolder temporary;
  const Samples viola = noise(24000, 1);
  const SessionFolder folder = sessionWithLanes(temporary / "s", {viola, noise(24000, 2)});
  Session session = addTrack(folder.session(), "Drum", microphonesFor(1));
  session = addFileAsLane(session, session.tracks[1]->id, session.pool->back(), {}, "drum");
  session = addTrack(session, "Empty", microphonesFor(1));
  const TrackId id = session.tracks[0]->id;
  session = removeLane(session, id, LaneNumber{2});
  session = setTrackMix(session, id, {}, {-1.0});
  session = setTrackSwitch(session, id, TrackSwitch::Mute, true);
  session = setTrackSwitch(session, session.tracks[1]->id, TrackSwitch::Solo, true);
  DeliveryWish wish;
  wish.what = {Deliverable::Stems};
  const Delivery delivery = deliver(folder.disk(), session, wish, temporary / "to");
  CHECK(delivery.notices.empty());
  REQUIRE(delivery.files.size() == 2);
  const auto stem = readWave(temporary / "to" / delivery.files[0].name);
  CHECK(stem == std::vector<Samples>{viola, Samples(24000, 0.0F)});
}

TEST_CASE("Delivered audio begins with the session, or with what lies before it; cues lie where markers do") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(24000, 1)});
  const TrackId id = folder.session().tracks.front()->id;
  Session session = nudgeLane(folder.session(), id, LaneNumber{1}, {2400});
  CHECK(deliveredSpan(session) == Span{{0}, {26400}});
  session = nudgeLane(folder.session(), id, LaneNumber{1}, {-2400});
  CHECK(deliveredSpan(session) == Span{{-2400}, {21600}});
  session = addMarker(addMarker(session, {0}, "dusk"), {12000}, "ferry");
  DeliveryWish wish;
  wish.what = {Deliverable::Takes};
  wish.rate = SampleRate{96000};
  const Delivery delivery = deliver(folder.disk(), session, wish, temporary / "to");
  const std::string bytes = content(temporary / "to" / delivery.files.front().name);
  const std::size_t cue = bytes.find("cue ");
  REQUIRE(cue != std::string::npos);
  const auto numberAt = [&](std::size_t at) {
    std::uint32_t value = 0;
    std::memcpy(&value, &bytes.at(at), 4);
    return value;
  };
  CHECK(numberAt(cue + 8) == 2);
  CHECK(numberAt(cue + 16) == 4800);
  CHECK(numberAt(cue + 40) == 28800);
}

TEST_CASE("The mix is what is heard, of all tracks or of those chosen, and a tail of silence") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(24000, 1, 0.2F), noise(48000, 2, 0.2F)});
  const TrackId id = folder.session().tracks.front()->id;
  Session session = duplicateTrack(folder.session(), id);
  session = pick(session, id, {{0}, {24000}}, LaneNumber{1});
  session = cutLane(session, id, {2}, {{36000}, {48000}});
  const TrackId other = session.tracks.back()->id;
  session = setTrackMix(setTrackSwitch(session, id, TrackSwitch::Mute, true), other, {-6.0}, {0.5});
  DeliveryWish wish;
  wish.what = {Deliverable::Mix};
  wish.format = SampleFormat::Float32;
  wish.tailSeconds = 0.25;
  int made = 0;
  const auto delivered = [&](const Session& of, const std::vector<TrackId>& tracks) {
    wish.tracks = tracks;
    const fs::path to = temporary / std::to_string(++made);
    const Delivery delivery = deliver(folder.disk(), of, wish, to);
    REQUIRE(delivery.files.size() == 1);
    return readWave(to / delivery.files.front().name);
  };
  const auto heard = [&](Session of, std::int64_t end) {
    RenderRequest request;
    request.span = Span{{}, {end}};
    request.format = SampleFormat::Float32;
    renderToFile(folder.disk(), of, request, temporary / "heard.wav");
    std::vector<Samples> all = readWave(temporary / "heard.wav");
    for (Samples& side : all) side.resize(side.size() + 12000, 0.0F);
    return all;
  };
  CHECK(delivered(session, {}) == heard(session, 48000));
  // The muted one was chosen, so it is heard; it ends where its last take does.
  Session chosen = setTrackSwitch(session, id, TrackSwitch::Mute, false);
  chosen = setTrackSwitch(chosen, other, TrackSwitch::Mute, true);
  CHECK(delivered(session, {id}) == heard(chosen, 36000));
  // Stems of those that were chosen, and of no other.
  wish.what = {Deliverable::Stems};
  wish.tracks = {other};
  const Delivery stems = deliver(folder.disk(), session, wish, temporary / "stems");
  REQUIRE(stems.files.size() == 1);
  CHECK_THAT(stems.files.front().name, Catch::Contains("02 " + session.track(other)->name));
  wish.what = {Deliverable::Mix};
  CHECK_THROWS_WITH(delivered(setTrackSwitch(session, other, TrackSwitch::Mute, true), {}),
                    Catch::Contains("silent"));
  wish.tailSeconds = -1.0;
  CHECK_THROWS_AS(delivered(session, {}), Error);
}
