// SPDX-License-Identifier: GPL-3.0-or-later
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

#include "core/store/last_sound.h"

using nlohmann::json;
using Access = SessionFolder::Access;

namespace {

json document(const fs::path& session) {
  return json::parse(content(session / "session.json"));
}
void putDocument(const fs::path& session, const json& content) {
  std::ofstream(session / "session.json", std::ios::trunc) << content.dump();
}
/// The note that a killed program leaves of a recording of that file.
void leaveNote(const fs::path& session, const RecordSetup& setup, const std::vector<std::string>& files) {
  const SessionFolder folder = SessionFolder::open(session, Access::Read);
  Capture capture{folder.session().tracks.front()->id, {}, {}};
  for (const std::string& file : files) capture.files.push_back({file, 1, {}});
  RecordingNote(folder.disk()).write(folder.session(), setup, {capture});
}

void makeSession(const fs::path& path) {
  sessionWithLanes(path, {noise(4000, 1), noise(4000, 2)});
}
}  // namespace

namespace {

/// Nothing in it is as it is by itself.
Session everythingSet(const SessionFolder& folder) {
  Session s = folder.session();
  const TrackId id = s.tracks.front()->id;
  s.name = "The Lantern Ferry";
  s.rate = {96000};
  s.format = SampleFormat::Pcm16;
  s.tempo = TempoMap({{1, 96, {3, 4}}, {9, 80.5, {6, 8}}});
  s = pick(s, id, {{1000}, {20000}}, LaneNumber{1});
  s = setJoin(s, id, {20000}, {{77}, {99}, Curve::S});
  s = pick(s, id, {{30000}, {40000}}, std::nullopt);
  s = overdub(s, id, {{5000}, {9000}}, LaneNumber{2});
  s = setLoop(s, Span{{4000}, {8000}});
  s = setPunches(s, {{Frames{5000}, Frames{6000}}, {Frames{9000}, std::nullopt}});
  s = addMarker(s, {123}, "Lantern");
  s = addMarker(s, {456}, "Gap", MarkerKind::Dropout);
  Track& track = s.tracks.front().edit();
  track.gain = {-3.5};
  track.pan = {-0.25};
  track.armed = track.muted = track.soloed = track.backing = true;
  track.monitoring = Monitoring::Automatic;
  track.recordInto = LaneNumber{2};
  track.lanesMade = 7;
  track.microphones.front() = {"Close", 5, 1, {-1.5}, {0.75}};
  Lane& lane = track.lanes.front().edit();
  lane.name = "First \"good\" one";
  lane.setAside = true;
  lane.clips.front().window = {{100}, {47000}};
  lane.cutAway = {lane.clips.front()};
  lane.cutAway.front().window = {{47000}, {47500}};
  lane.note = "ribbon\nfar away";
  lane.rating = 4;
  lane.palette = 7;
  lane.muted = true;
  lane.gain = {-2.5};
  lane.pitch = {-17.5};
  lane.level = {{{100}, {-6.5}}, {{200}, {1.25}}};
  lane.picture = LanePicture::Pitch;
  lane.marks = {{{300}, "cough"}, {{400}, ""}};
  lane.cells = {{{500}, 3, "lovely"}, {{600}, 0, "flat"}, {{700}, 1, ""}};
  track.composite.level = {{{150}, {-3.25}}, {{250}, {0.0}}};
  track.phrases = {{{10}, {20}}, {{20}, {45}}};
  track.phraseRules = {0.75, 0.375};
  Piece pitched = track.composite.picks[0];
  pitched.pitch = {12.5};
  pitched.split = true;
  pitched.rough = true;
  track.composite.picks = track.composite.picks.replaced(0, 1, {pitched});
  Piece unpicked;  // only a boundary
  unpicked.span = {{400000}, {500000}};
  unpicked.picked = false;
  unpicked.split = true;
  const std::size_t count = track.composite.picks.size();
  track.composite.picks = track.composite.picks.replaced(count, count, {unpicked});
  s.tracksMade = 9;
  RecordingOptions& options = s.recording;
  options.preRoll = {1.5, LengthUnit::Seconds};
  options.fillPreRoll = true;
  options.postRoll = {2.0, LengthUnit::Bars};
  options.playOn = true;
  options.countInBars = 3;
  options.loop = options.punch = options.hush = options.safeReview = options.setAside = false;
  options.keepWhole = options.grid = false;
  options.passes = 4;
  options.result = PassResult::Overdub;
  options.playBack = true;
  options.backUpSeconds = 1.25;
  options.leadSeconds = 2.75;
  options.airBars = 0.5;
  options.click = {true, true, false, {-7.5}, Cue::PunchesAndWraps};
  options.snap = Snap::Bar;
  options.divisions = 5;
  lane.brokenOff = true;
  lane.clips.front().part = Span{{50}, {47500}};
  return addTrack(std::move(s), "Pair", {{"Room", 2, 2, {1.0}, {-0.5}}}, true);
}

}  // namespace

TEST_CASE("A session comes back as it was saved, every field of it") {
  const TemporaryFolder temporary;
  Session kept;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(48000, 1), noise(48000, 2)});
    kept = everythingSet(folder);
    folder.commit("Everything", kept);
  }
  const SessionFolder folder = SessionFolder::open(temporary / "s", Access::Read);
  const Session& s = folder.session();
  CHECK(s == kept);
  // Not only alike: as it was set.
  CHECK(s.format == SampleFormat::Pcm16);
  CHECK(s.tempo.changes()[1] == TempoChange{9, 80.5, {6, 8}});
  const Track& track = *s.tracks.front();
  CHECK(track.gain.value == -3.5);
  CHECK(track.pan.value == -0.25);
  CHECK((track.armed && track.muted && track.soloed && track.backing));
  CHECK(track.monitoring == Monitoring::Automatic);
  CHECK(track.recordInto == LaneNumber{2});
  CHECK(track.lanes.front()->setAside);
  CHECK(track.lanes.front()->clips.front().window == Span{{100}, {47000}});
  CHECK(s.markers[1].kind == MarkerKind::Dropout);
  CHECK_FALSE(s.punches[1].out);
  CHECK(s.recording.result == PassResult::Overdub);
  CHECK(s.recording.click.level.value == -7.5);
  CHECK(s.recording.click.cue == Cue::PunchesAndWraps);
  CHECK((s.recording.fillPreRoll && s.recording.playOn && !s.recording.keepWhole));
  CHECK(track.lanes.front()->brokenOff);
  CHECK(track.lanes.front()->clips.front().extent() == Span{{50}, {47500}});
}

TEST_CASE("Missing, empty, shortened and foreign audio is said; the session opens all the same") {
  const TemporaryFolder temporary;
  makeSession(temporary / "s");
  const SessionFolder folder = SessionFolder::open(temporary / "s", Access::Read);
  const fs::path audio = audioPath(folder, folder.session().pool->front());
  auto notices = [&] {
    std::string all;
    const SessionFolder opened = SessionFolder::open(temporary / "s", Access::Read);
    for (const Sentence& notice : opened.notices()) all += notice.english() + "\n";
    return all;
  };
  fs::resize_file(audio, fs::file_size(audio) / 2);
  CHECK_THAT(notices(), Catch::Contains("shorter than it was"));
  fs::resize_file(audio, 0);
  CHECK_THAT(notices(), Catch::Contains("is empty"));
  std::ofstream(audio) << "this is a text file";
  CHECK_THAT(notices(), Catch::Contains("not an audio file"));
  fs::remove(audio);
  CHECK_THAT(notices(), Catch::Contains("is missing"));
}

TEST_CASE("A session that is only looked at is not recovered, locked or written to") {
  const TemporaryFolder temporary;
  makeSession(temporary / "s");
  const fs::path folder = temporary / "s";
  writeWave(folder / "audio" / "left.wav", {noise(9600, 9)});
  RecordSetup setup;
  setup.timeline.stopAt = Frames{9600};
  leaveNote(folder, setup, {"audio/left.wav"});
  fs::remove(folder / ".lock");
  const auto everything = [&] {
    std::map<std::string, std::string> all;
    for (const auto& entry : fs::recursive_directory_iterator(folder))
      if (entry.is_regular_file()) all[entry.path().string()] = content(entry.path());
    return all;
  };
  const auto before = everything();
  {
    const SessionFolder looking = SessionFolder::open(folder, Access::Read);
    CHECK(looking.session().tracks.front()->lanes.size() == 2);
    CHECK(looking.notices().empty());
  }
  CHECK((everything() == before));
  const SessionFolder writing = SessionFolder::open(folder, Access::Write);
  REQUIRE(writing.session().tracks.front()->lanes.size() == 3);
  const Clip& clip = writing.session().tracks.front()->lanes.back()->clips.front();
  CHECK(clip.window == Span{{0}, {9600}});
  CHECK(writing.session().pool->back() == PoolFile{"audio/left.wav", 1, {9600}});
  REQUIRE(writing.notices().size() == 1);
  CHECK_THAT(writing.notices()[0].english(), Catch::Contains("recovered: 0:00.200"));
  CHECK_FALSE(fs::exists(folder / "recording-001.json"));
  CHECK(writing.history().undoLabel() == "Recover recording");
}

TEST_CASE("What cannot be recovered is said, and the note stays; what holds nothing is forgotten") {
  const TemporaryFolder temporary;
  makeSession(temporary / "s");
  const fs::path folder = temporary / "s";
  const auto noteOf = [&](const std::string& path) {
    RecordSetup setup;
    setup.timeline.stopAt = Frames{9600};
    leaveNote(folder, setup, {path});
  };
  std::ofstream(folder / "audio" / "text.wav") << std::string(3000, 'x');
  std::ofstream(folder / "audio" / "empty.wav").flush();
  // At another rate, and with another number of channels: either alone is not what was recorded.
  writeWave(folder / "audio" / "rate.wav", {noise(9600, 3)}, 44100);
  writeWave(folder / "audio" / "sides.wav", {noise(9600, 3), noise(9600, 4)});
  for (const std::string& bad :
       {std::string("audio/text.wav"), std::string("audio/gone.wav"), std::string("audio/rate.wav"),
        std::string("audio/sides.wav"), std::string("../outside.wav")}) {
    noteOf(bad);
    const SessionFolder opened = SessionFolder::open(folder, Access::Write);
    REQUIRE(opened.notices().size() == 1);
    CHECK_THAT(opened.notices()[0].english(), Catch::Contains("could not be brought in"));
    CHECK(opened.session().tracks.front()->lanes.size() == 2);
    CHECK(fs::exists(folder / "recording-001.json"));
    fs::remove(folder / "recording-001.json");
  }
  noteOf("audio/empty.wav");
  const SessionFolder opened = SessionFolder::open(folder, Access::Write);
  CHECK(opened.notices().empty());
  CHECK(opened.session().tracks.front()->lanes.size() == 2);
  CHECK_FALSE(fs::exists(folder / "recording-001.json"));
}

TEST_CASE("Where the disk does not take it, the present and the file stay as they were") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(4000, 1), noise(4000, 2)});
  const Session before = folder.session();
  const std::string onDisk = content(folder.path() / "session.json");
  const std::string log = content(folder.path() / "steps.log");
  const auto next = [&] { return pick(before, before.tracks.front()->id, {{10}, {100}}, LaneNumber{1}); };
  // Full for the log, then for the document only: what was written to the log by then counts for nothing.
  for (const std::uint64_t room :
       {std::uint64_t{0}, std::uint64_t{log.size() + 20}, std::uint64_t{onDisk.size() - 10}}) {
    INFO("no file longer than " << room);
    {
      const FullDisk full(room);
      CHECK_THROWS_AS(folder.commit("Pick", next()), Error);
    }
    CHECK((folder.session() == before));
    CHECK(content(folder.path() / "session.json") == onDisk);
    CHECK(SessionFolder::open(temporary / "s", Access::Read).history().undoLabel() == "Set up");
    for (const auto& entry : fs::directory_iterator(folder.path())) CHECK(entry.path().extension() != ".new");
  }
  CHECK_NOTHROW(folder.commit("Pick again", next()));
  const SessionFolder opened = SessionFolder::open(temporary / "s", Access::Read);
  CHECK((opened.session() == folder.session()));
  CHECK(opened.notices().empty());
  CHECK(opened.history().undoLabel() == "Pick again");
  CHECK(opened.history().doneCount() == 2);
  CHECK_THROWS_AS(SessionFolder::create("/proc/yewdrift", Session{}), Error);
  CHECK_THROWS_AS(SessionFolder::create(temporary / "s", Session{}), Error);
}

TEST_CASE("The last sound of a lane is the last frame of any channel that is louder than nothing played") {
  const TemporaryFolder temporary;
  Samples played(48000, 0.003F);
  played[11000] = -0.0032F;
  played[35000] = 0.0032F;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {played});
  const Session& session = folder.session();
  const TrackId id = session.tracks.front()->id;
  const Session cut = cutLane(session, id, {1}, {{20000}, {30000}});
  const LastSound lastSound = lastSoundOn(folder.disk(), cut);
  const Lane& lane = *cut.track(id)->lane({1});
  CHECK(lastSound(lane, {{0}, {48000}}) == Frames{35000});
  CHECK(lastSound(lane, {{0}, {35000}}) == Frames{11000});
  CHECK(lastSound(lane, {{0}, {20000}}) == Frames{11000});
  CHECK(lastSound(lane, {{11000}, {11001}}) == Frames{11000});
  CHECK_FALSE(lastSound(lane, {{11001}, {35000}}));
  CHECK_FALSE(lastSound(lane, {{21000}, {29000}}));
  fs::remove(audioPath(folder, session.pool->front()));
  CHECK_FALSE(lastSound(lane, {{0}, {48000}}));
}

TEST_CASE("Audio at another rate or with fewer channels is said; what is missing beyond what plays is not") {
  const TemporaryFolder temporary;
  makeSession(temporary / "s");
  const SessionFolder folder = SessionFolder::open(temporary / "s", Access::Read);
  const PoolFile file = folder.session().pool->front();
  const auto length = static_cast<std::size_t>(file.length.count);
  const auto notices = [&] { return SessionFolder::open(temporary / "s", Access::Read).notices(); };
  REQUIRE(notices().empty());
  writeWave(audioPath(folder, file), {noise(length, 1)},
            folder.session().rate.hertz == 44100 ? 48000 : 44100);
  REQUIRE(notices().size() == 1);
  CHECK_THAT(notices()[0].english(), Catch::Contains(file.path) && Catch::Contains("wrong speed"));
  writeWave(audioPath(folder, file), {noise(length - 1, 1)}, folder.session().rate.hertz);
  REQUIRE(notices().size() == 1);
  CHECK_THAT(notices()[0].english(),
             Catch::Contains(std::to_string(length - 1) + " of " + std::to_string(length)));
  writeWave(audioPath(folder, file), {noise(length, 1)}, folder.session().rate.hertz);
  CHECK(notices().empty());
  json two = document(temporary / "s");
  two["session"]["pool"][0]["channels"] = 2;
  putDocument(temporary / "s", two);
  REQUIRE(notices().size() == 1);
  CHECK_THAT(notices()[0].english(), Catch::Contains("lost channels"));
}

TEST_CASE("The note of a recording says all that its recovery needs") {
  RecordSetup setup;
  setup.timeline = {{4800}, Span{{4800}, {9600}}, 5, std::nullopt, {1200}, {2400}};
  setup.recordFrom = {4900};
  setup.punches = {{{5000}, {6000}}, {{7000}, {8000}}};
  setup.byHand = true;
  setup.handPunches = {{{100}, {200}}, {{300}, maximumPosition}};
  setup.roundTrip = {777};
  setup.capturesFrom = {55};
  setup.rolled = Frames{12345};
  setup.result = PassResult::Overdub;
  setup.hush = false;
  setup.playBack = true;
  const RecordSetup read = recordSetupFromJson(json::parse(toJson(setup).dump()));
  CHECK(read.timeline.start == Frames{4800});
  CHECK(read.timeline.loop == Span{{4800}, {9600}});
  CHECK(read.timeline.passes == 5);
  CHECK_FALSE(read.timeline.stopAt);
  CHECK(read.timeline.postRoll == Frames{1200});
  CHECK(read.timeline.countIn == Frames{2400});
  CHECK(read.recordFrom == Frames{4900});
  CHECK(read.punches == setup.punches);
  CHECK(read.byHand);
  CHECK(read.handPunches == setup.handPunches);
  CHECK(read.roundTrip == Frames{777});
  CHECK(read.capturesFrom == Frames{55});
  CHECK(read.rolled == Frames{12345});
  CHECK(read.result == PassResult::Overdub);
  CHECK_FALSE(read.hush);
  CHECK(read.playBack);
  setup.timeline.loop.reset();
  setup.timeline.stopAt = Frames{99999};
  setup.rolled.reset();
  const RecordSetup straight = recordSetupFromJson(json::parse(toJson(setup).dump()));
  CHECK_FALSE(straight.timeline.loop);
  CHECK(straight.timeline.stopAt == Frames{99999});
  CHECK_FALSE(straight.rolled);
}
