// SPDX-License-Identifier: GPL-3.0-or-later
//
// What was played and not recorded, claimed from the tape through the engine that ran it.
#include "engine/engine_tests.h"

namespace {

Session armed(Session session) {
  for (std::size_t i = 0; i < session.tracks.size(); ++i) session.tracks[i].edit().armed = true;
  return session;
}

/// An engine with its tape, and a player who plays when a test says so, on two inputs.
struct Claiming {
  explicit Claiming(const fs::path& path)
      : folder(emptySession(path, 2)),
        tape(std::make_shared<InputTape>(folder.disk(), SampleRate{48000}, 60.0)),
        rig(folder, 100) {
    tape->listenTo({0, 1});
    rig.engine.setTape(tape);
  }
  /// `left` is what input 1 hears, from now on; then nothing for a while.
  void play(const Samples& left, std::size_t silence) {
    Samples played(left);
    played.resize(left.size() + silence, 0.0F);
    Samples outLeft(100);
    Samples outRight(100);
    Samples right(100);
    for (std::size_t at = 0; at + 100 <= played.size(); at += 100) {
      for (std::size_t i = 0; i < 100; ++i) right[i] = -0.5F * played[at + i];
      const std::array<const float*, 2> inputs{&played[at], right.data()};
      const std::array<float*, 2> outputs{outLeft.data(), outRight.data()};
      rig.engine.service();
      rig.engine.process({inputs.data(), 2, outputs.data(), 2, 100, false});
    }
    for (int i = 0; i < 20; ++i) rig.engine.service();
  }
  /// Played along with a roll from the start on, to its end.
  void playAlong() {
    rig.engine.play({});
    rig.engine.settle();
    play(noise(20000, 4), 0);
    rig.engine.stop();
  }
  Recorded claim(Frames playhead) {
    const auto found = findClaim(*tape, {0, 1}, {48000});
    REQUIRE(found);
    const auto captures = writeClaims(folder.disk(), armed(folder.session()), *tape, found->file);
    Recorded claimed = addClaim(folder.session(), *found, captures, playhead);
    folder.commit("Claim", claimed.session);
    tape->take(found->file);
    return claimed;
  }
  SessionFolder folder;
  std::shared_ptr<InputTape> tape;
  Rig rig;
};

void checkAudible(const SessionFolder& folder, int lane, Span window, const Samples& expected) {
  REQUIRE(folder.session().tracks.front()->lane({lane}));
  const Clip& clip = folder.session().tracks.front()->lane({lane})->clips.front();
  CHECK(clip.window == window);
  CHECK(laneSamples(folder, lane, 0, 0) == expected);
  Samples other(expected);
  for (float& sample : other) sample *= -0.5F;
  const Samples second = laneSamples(folder, lane, 0, 1);
  REQUIRE(second.size() == other.size());
  for (std::size_t i = 0; i < other.size(); ++i) REQUIRE(second[i] == Approx(other[i]).margin(1.2e-7));
}

}  // namespace

TEST_CASE(
    "What was played while the transport stood begins at the playhead, with what lay before as handle") {
  const TemporaryFolder temporary;
  Claiming claiming(temporary / "s");
  const Samples phrase = noise(20000, 4);
  claiming.play({}, 30000);
  claiming.play(phrase, 10000);
  const Recorded claimed = claiming.claim({50000});
  REQUIRE(claimed.lanes.size() == 1);
  // A tenth of a second of room on either side.
  Samples expected(4800, 0.0F);
  expected.insert(expected.end(), phrase.begin(), phrase.end());
  expected.resize(4800 + 20000 + 4800, 0.0F);
  checkAudible(claiming.folder, 1, {{50000}, {50000 + 29600}}, expected);
  const Clip& clip = claiming.folder.session().tracks.front()->lane({1})->clips.front();
  CHECK(clip.extent() == Span{{50000 - 25200}, {50000 - 25200 + 60000}});
  CHECK_FALSE(findClaim(*claiming.tape, {0, 1}, {48000}));
}

TEST_CASE("What rings on when a roll was claimed already is no claim of its own; what is played then is") {
  const TemporaryFolder temporary;
  Claiming claiming(temporary / "s");
  claiming.playAlong();
  claiming.play(noise(1000, 8), 0);
  claiming.claim({});
  claiming.play(noise(3000, 9), 60000);
  CHECK_FALSE(findClaim(*claiming.tape, {0, 1}, {48000}));
  const Samples later = noise(15000, 5);
  claiming.play(later, 9000);
  claiming.claim({70000});
  const Samples heard = laneSamples(claiming.folder, 2);
  CHECK(claiming.folder.session().tracks.front()->lane({2})->clips.front().window.start == Frames{70000});
  CHECK(std::equal(later.begin(), later.end(), heard.begin() + 4800));
  CHECK(heard.size() == 4800 + 15000 + 4800);
  // That was no roll: what comes right behind it is played, not ringing.
  claiming.play(noise(3000, 9), 9000);
  CHECK(findClaim(*claiming.tape, {0, 1}, {48000}));
}

TEST_CASE("Ringing ends where a second is quiet") {
  Samples heard(200000, 0.001F);
  CHECK(ringingOf(heard, {48000}) == Frames{});
  heard[20000] = 0.1F;
  heard[67000] = -0.1F;
  heard[115001] = 0.1F;  // a frame too late
  CHECK(ringingOf(heard, {48000}) == Frames{67001});
  heard[115000] = 0.1F;
  CHECK(ringingOf(heard, {48000}) == Frames{115002});
}

TEST_CASE("What armed tracks heard is written, all of it or, where the disk has no room for one, none") {
  const TemporaryFolder temporary;
  Claiming claiming(temporary / "s");
  const Samples heard = noise(30000, 4);
  claiming.play(heard, 0);
  Session session;
  session = addTrack(session, "Left", {{"Near", 0, 1, {}, {}}});
  session = addTrack(session, "Unarmed", {{"Near", 0, 1, {}, {}}});
  session = addTrack(session, "Right", {{"Near", 1, 1, {}, {}}, {"Pair", 0, 2, {}, {}}});
  session = armed(session);
  session.tracks[1].edit().armed = false;
  const Span span{{100}, {29000}};
  const SessionDisk& disk = claiming.folder.disk();
  const auto files = [&] {
    std::vector<std::string> names;
    for (const auto& entry : fs::directory_iterator(claiming.folder.path() / "audio"))
      names.push_back(entry.path().filename().string());
    std::sort(names.begin(), names.end());
    return names;
  };
  const auto before = files();
  {
    const FullDisk full(28900 * 5);  // one side is 3 bytes a frame
    CHECK_THROWS_AS(writeClaims(disk, session, *claiming.tape, span), Error);
  }
  CHECK(files() == before);
  const auto captures = writeClaims(disk, session, *claiming.tape, span);
  REQUIRE(captures.size() == 2);
  CHECK(captures[0].track == session.tracks[0]->id);
  CHECK(captures[1].track == session.tracks[2]->id);
  REQUIRE(captures[0].files.size() == 1);
  REQUIRE(captures[1].files.size() == 2);
  CHECK(files().size() == before.size() + 3);
  CHECK_THAT(captures[0].files[0].path, Catch::StartsWith("audio/Left-claimed"));
  CHECK_THAT(captures[1].files[0].path, Catch::StartsWith("audio/Right-Near-claimed"));
  CHECK_THAT(captures[1].files[1].path, Catch::StartsWith("audio/Right-Pair-claimed"));
  const auto near = [](const Samples& written, const Samples& played, float gain) {
    REQUIRE(written.size() == 28900);
    for (std::size_t i = 0; i < written.size(); ++i)
      REQUIRE(written[i] == Approx(gain * played[100 + i]).margin(2e-7));
  };
  const auto written = [&](std::size_t capture, std::size_t file) {
    const PoolFile& of = captures[capture].files[file];
    CHECK(of.length == span.length());
    const auto channels = readWave(audioPath(claiming.folder, of));
    CHECK(of.channels == static_cast<int>(channels.size()));
    return channels;
  };
  near(written(0, 0).at(0), heard, 1.0F);
  near(written(1, 0).at(0), heard, -0.5F);
  const auto pair = written(1, 1);
  REQUIRE(pair.size() == 2);
  near(pair[0], heard, 1.0F);
  near(pair[1], heard, -0.5F);
  removeClaims(disk, captures);
  CHECK(files() == before);
}

TEST_CASE("The engine keeps the tape running whatever rolls, and tells it what") {
  const TemporaryFolder temporary;
  Claiming claiming(temporary / "s");
  const Samples heard = noise(30000, 4);
  claiming.play(Samples(heard.begin(), heard.begin() + 10000), 0);
  RecordSetup setup;
  setup.timeline.stopAt = Frames{7050};
  Recorder recorder(claiming.folder.disk(), claiming.folder.session(), setup, {onlyTrack(claiming.folder)});
  const RollNumber roll = claiming.rig.engine.record(setup, recorder.stream());
  claiming.rig.engine.settle();
  claiming.play(Samples(heard.begin() + 10000, heard.end()), 0);
  const auto segments = claiming.tape->segments();
  REQUIRE(segments.size() == 3);
  CHECK(segments[1].roll == roll);
  CHECK(segments[1].tape == Span{{10000}, {17100}});  // to the end of the block in which it ended
  CHECK(claiming.tape->read(0, {{0}, {30000}}) == heard);
}

TEST_CASE("What was played along with a roll is claimed where it was played, whatever came after") {
  const TemporaryFolder temporary;
  Claiming claiming(temporary / "s");
  const Samples phrase = noise(20000, 4);
  constexpr std::int64_t roundTrip = 500;
  claiming.tape->setRoundTrip({roundTrip});
  claiming.play({}, 7000);  // it ran for a while before
  claiming.rig.engine.play({{100000}, std::nullopt, 0, std::nullopt, {}});
  claiming.rig.engine.settle();
  claiming.play({}, 10000);
  claiming.play(phrase, 10000);
  claiming.rig.engine.stop();
  // The last of it arrives when the transport stands already, and rings on.
  claiming.play(noise(2000, 8), 28000);
  claiming.tape->setRoundTrip({33});  // another device by now
  const Recorded claimed = claiming.claim({7});
  REQUIRE(claimed.lanes.size() == 1);
  Samples expected(4800, 0.0F);
  expected.insert(expected.end(), phrase.begin(), phrase.end());
  expected.resize(4800 + 30000, 0.0F);
  const Samples rings = noise(2000, 8);
  expected.insert(expected.end(), rings.begin(), rings.begin() + roundTrip);  // was played to the roll's last
  const std::int64_t start = 100000 + 10000 - 4800 - roundTrip;
  checkAudible(claiming.folder, 1, {{start}, {100000 + 40000}}, expected);
  // What followed the roll is its handle.
  const Clip& clip = claiming.folder.session().tracks.front()->lane({1})->clips.front();
  CHECK(clip.extent() == Span{{100000 - roundTrip}, {100000 + 70000 - roundTrip}});
  CHECK(claiming.tape->held() == Frames{7000});
}
