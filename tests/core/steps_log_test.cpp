// SPDX-License-Identifier: GPL-3.0-or-later
//
// The log of steps is the truth: damage costs what lies behind it and nothing else, what was read badly is
// never written over, and the session can be rebuilt from it.
#include <sys/stat.h>

#include <memory>
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

using nlohmann::json;
using Access = SessionFolder::Access;

namespace {

constexpr int picks = 12;

/// Ten states and more, each made by a step of its own, the last two undone.
struct Worked {
  Worked() {
    SessionFolder folder = sessionWithLanes(path, {noise(9000, 1), noise(9000, 2)});
    const TrackId id = folder.session().tracks.front()->id;
    states.push_back(folder.session());
    for (int i = 0; i < picks; ++i) {
      folder.commit("Pick " + std::to_string(i),
                    pick(folder.session(), id, {{i * 300}, {i * 300 + 200}}, LaneNumber{1}));
      states.push_back(folder.session());
    }
    folder.editHistory().undo();
    folder.editHistory().undo();
    folder.save();
  }
  [[nodiscard]] const Session& present() const { return states[picks - 2]; }
  [[nodiscard]] fs::path log() const { return path / "steps.log"; }

  TemporaryFolder temporary;
  fs::path path = temporary / "s";
  std::vector<Session> states;
};

void putLog(const Worked& worked, const std::string& log) {
  std::ofstream(worked.log(), std::ios::binary | std::ios::trunc) << log;
}

/// Undoes all that can be; each state must be the one that was.
std::size_t undoAll(SessionFolder& folder, const Worked& worked, std::size_t from) {
  std::size_t at = from;
  while (folder.history().undoLabel() && folder.history().undoLabel() != "Set up") {
    folder.editHistory().undo();
    --at;
    REQUIRE((butForPool(folder.session()) == butForPool(worked.states[at])));
  }
  return at;
}

}  // namespace

TEST_CASE("One bad byte in the log costs the steps behind it, is said, and is never written over") {
  const Worked worked;
  const std::string good = content(worked.log());
  std::vector<std::size_t> records;
  for (std::size_t at = good.find('\x1e'); at != std::string::npos; at = good.find('\x1e', at + 1))
    records.push_back(at);
  REQUIRE(records.size() == picks + 2);  // the state it began with, "Set up", and each pick
  const std::string document = content(worked.path / "session.json");
  for (std::size_t at = 20; at < good.size(); at += 37) {
    const std::size_t record =
        static_cast<std::size_t>(std::upper_bound(records.begin(), records.end(), at) - records.begin()) - 1;
    INFO("byte " << at << ", in record " << record);
    std::string bad = good;
    bad[at] = static_cast<char>(bad[at] ^ 0x10);
    putLog(worked, bad);
    std::ofstream(worked.path / "session.json", std::ios::trunc) << document;
    {
      SessionFolder folder = SessionFolder::open(worked.path, Access::Write);
      REQUIRE((folder.session() == worked.present()));
      // Record 0 is a whole state, 1 is "Set up", record k + 2 is "Pick k".
      const std::size_t damaged = record < 2 ? 0 : record - 1;  // the state that its step made
      const bool redoHarmed = damaged > picks - 2;
      if (record == 0) {
        CHECK(folder.notices().empty());
      } else {
        REQUIRE(folder.notices().size() == 1);
        const std::string notice = folder.notices()[0].english();
        CHECK_THAT(notice, Catch::Contains("damaged"));
        CHECK((notice.find("that was undone can be done again") != std::string::npos) == redoHarmed);
      }
      const std::size_t reached = undoAll(folder, worked, picks - 2);
      CHECK(reached == (redoHarmed ? 0 : damaged));
      const std::string made = "After the damage";
      folder.commit(made, setLoop(folder.session(), Span{{0}, {1000 + static_cast<std::int64_t>(at)}}));
    }
    CHECK(content(worked.log()).rfind(bad, 0) == 0);
    SessionFolder again = SessionFolder::open(worked.path, Access::Write);
    CHECK(again.notices().empty());
    CHECK(again.history().undoLabel() == "After the damage");
    again.editHistory().undo();
    CHECK_FALSE(again.session().loop);
  }
}

TEST_CASE("Where session.json is gone or damaged it is rebuilt from the log, and the damaged one is kept") {
  for (const std::string& damage :
       {std::string("gone"), std::string("{ broken"),
        std::string(R"({"format":"yewdrift-session","version":2,"session":{}})")}) {
    INFO(damage);
    const Worked worked;
    const fs::path document = worked.path / "session.json";
    fs::remove(document);
    if (damage != "gone") std::ofstream(document) << damage;
    {
      SessionFolder folder = SessionFolder::open(worked.path, Access::Write);
      REQUIRE(folder.notices().size() == 1);
      CHECK_THAT(folder.notices()[0].english(),
                 Catch::Contains("rebuilt from its history, up to \"Pick 11\""));
      // All that was done; that some of it was undone only session.json knew.
      CHECK((folder.session() == worked.states.back()));
      CHECK(undoAll(folder, worked, picks) == 0);
    }
    if (damage != "gone") CHECK(content(worked.path / "session-damaged-1.json") == damage);
    const SessionFolder again = SessionFolder::open(worked.path, Access::Read);
    CHECK(again.notices().empty());
    CHECK((again.session() == worked.states.back()));
  }
}

TEST_CASE("A session of another format is refused with a sentence and left as it is") {
  const Worked worked;
  const std::string format = R"({"format":"yewdrift-session","version":)";
  const std::vector<std::pair<std::string, std::string>> others{
      {"[]", "not a Yewdrift session"},
      {format + "1}", "older Yewdrift (format 1; this one reads format 2)"},
      {format + "3}", "newer Yewdrift (format 3; this one reads format 2)"},
      {format + "0}", "impossible version"}};
  for (const auto& [document, sentence] : others) {
    std::ofstream(worked.path / "session.json") << document;
    for (const Access access : {Access::Read, Access::Write})
      CHECK_THROWS_WITH(SessionFolder::open(worked.path, access), Catch::Contains(sentence));
    CHECK(content(worked.path / "session.json") == document);
  }
}

TEST_CASE("Members that this version does not know stay, through edits, undo and saving") {
  const Worked worked;
  json document = json::parse(content(worked.path / "session.json"));
  json& session = document["session"];
  json& track = session["tracks"][0];
  std::vector<json::json_pointer> places;
  for (const char* place : {"", "/session", "/session/pool/1", "/session/recording", "/session/tracks/0",
                            "/session/tracks/0/microphones/0", "/session/tracks/0/lanes/1",
                            "/session/tracks/0/lanes/1/clips/0", "/session/tracks/0/composite/picks/0"})
    places.emplace_back(place);
  for (const auto& place : places) document[place]["someday"] = {{"deep", {1, 2.5, nullptr, "x"}}};
  CHECK(track.contains("someday"));
  fs::remove(worked.log());
  document["history"] = {{"root", 90}, {"at", 90}, {"tip", 90}, {"made", 90}, {"state", stateHash(session)}};
  std::ofstream(worked.path / "session.json", std::ios::trunc) << document.dump();
  {
    SessionFolder folder = SessionFolder::open(worked.path, Access::Write);
    CHECK(folder.notices().empty());
    const TrackId id = folder.session().tracks.front()->id;
    folder.commit("Pick", pick(folder.session(), id, {{8000}, {8500}}, LaneNumber{2}));
    folder.commit("Name", renameTrack(folder.session(), id, "Alto"));
  }
  for (int undone = 0; undone < 3; ++undone) {
    INFO(undone << " undone");
    const json now = json::parse(content(worked.path / "session.json"));
    for (const auto& place : places) {
      INFO(place.to_string());
      CHECK(now[place].value("someday", json()) == json{{"deep", {1, 2.5, nullptr, "x"}}});
    }
    SessionFolder folder = SessionFolder::open(worked.path, Access::Write);
    CHECK(folder.notices().empty());
    if (!folder.history().undoLabel()) break;
    folder.editHistory().undo();
    folder.save();
  }
}

TEST_CASE("The sample session of this version opens as it was made") {
  const TemporaryFolder temporary;
  fs::copy(fs::path(YEWDRIFT_TEST_DATA) / "session-2", temporary / "s", fs::copy_options::recursive);
  SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
  CHECK(folder.notices().empty());
  const Session& s = folder.session();
  CHECK(s.format == SampleFormat::Pcm16);
  CHECK(s.tempo.changes().size() == 2);
  CHECK(s.tempo.changes()[1] == TempoChange{5, 90.5, {6, 8}});
  CHECK(s.recording.passes == 4);
  CHECK(s.recording.result == PassResult::Overdub);
  CHECK(s.recording.preRoll.amount == 1.5);
  REQUIRE(s.tracks.size() == 2);
  CHECK(s.tracks[1]->backing);
  CHECK(s.tracks[0]->lanes[1]->setAside);
  CHECK(s.tracks[0]->composite.joins.size() == 1);
  CHECK(s.tracks[0]->composite.joins[0].shape.value().curve == Curve::S);
  CHECK(folder.history().redoLabel() == "Set the loop");
  CHECK(folder.history().doneCount() == 9);
  int undone = 0;
  for (; folder.history().undoLabel(); ++undone) folder.editHistory().undo();
  CHECK(undone == 9);
  CHECK(folder.session().tracks.empty());
  CHECK(folder.session().recording.passes == 4);
}

TEST_CASE("Most of a log that nothing leads to is dropped, and everything that can be undone stays") {
  const TemporaryFolder temporary;
  std::vector<Session> kept;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)});
    const TrackId id = folder.session().tracks.front()->id;
    std::uintmax_t largest = 0;
    // Names as long as they may be make long steps; each is undone and never done again.
    for (int i = 0; i < 520; ++i) {
      if (i % 30 == 0) {
        kept.push_back(folder.session());
        folder.commit("Keep " + std::to_string(i), setLoop(folder.session(), Span{{0}, {1000 + i}}));
      }
      folder.commit("Name",
                    renameTrack(folder.session(), id, std::string(9000, static_cast<char>('a' + i % 26))));
      folder.editHistory().undo();
      folder.save();
      largest = std::max(largest, fs::file_size(temporary / "s" / "steps.log"));
    }
    kept.push_back(folder.session());
    CHECK(largest > 3U << 20U);
    CHECK(fs::file_size(temporary / "s" / "steps.log") < largest / 2);
  }
  SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
  CHECK(folder.notices().empty());
  for (std::size_t i = kept.size(); i-- > 0;) {
    CHECK((butForPool(folder.session()) == butForPool(kept[i])));
    if (i > 0) folder.editHistory().undo();
  }
}

TEST_CASE(
    "A log that is damaged somewhere is never written anew: what cannot be read now is not thrown away") {
  const TemporaryFolder temporary;
  const fs::path log = temporary / "s" / "steps.log";
  const std::string mark = "Damaged step";
  std::uintmax_t least = 0;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1)});
    folder.commit(mark, setLoop(folder.session(), Span{{0}, {1000}}));
    folder.editHistory().undo();
    folder.commit("Another", setLoop(folder.session(), Span{{0}, {2000}}));
    folder.save();
  }
  std::string bytes = content(log);
  bytes.at(bytes.find(mark) + mark.size() - 1) = 'P';
  std::ofstream(log, std::ios::binary) << bytes;
  SessionFolder folder = SessionFolder::open(temporary / "s", Access::Write);
  const TrackId id = folder.session().tracks.front()->id;
  for (int i = 0; i < 520; ++i) {
    folder.commit("Name",
                  renameTrack(folder.session(), id, std::string(9000, static_cast<char>('a' + i % 26))));
    folder.editHistory().undo();
    folder.save();
    CHECK(fs::file_size(log) > least);
    least = fs::file_size(log);
  }
  CHECK(least > 4U << 20U);
  CHECK(content(log).find("Damaged steP") != std::string::npos);
}

TEST_CASE("Long after, steps are undone from the disk as if they were in memory") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)});
  const TrackId id = folder.session().tracks.front()->id;
  std::vector<Session> states{folder.session()};
  for (int i = 0; i < 500; ++i) {
    Session next = folder.session();
    switch (i % 5) {
      case 0:
        next = pick(next, id, {{i * 10}, {i * 10 + 300}}, LaneNumber{1 + i / 5 % 2});
        break;
      case 1:
        next = addMarker(next, {i * 7}, "M" + std::to_string(i));
        break;
      case 2:
        next = setTrackMix(next, id, {-0.1 * i}, {0.001 * i});
        break;
      case 3:
        next = addLane(next, id, {{{i}, {9000}, {{i}, {i + 9000}}, {{0, 0}}}});
        break;
      default:
        next = setJoin(next, id, {(i - 4) * 10}, {{40}, {50}, Curve::S});
    }
    folder.editHistory().commit("Step " + std::to_string(i), next);
    states.push_back(folder.session());
    if (i % 50 == 49) folder.save();
  }
  int onDisk = 0;
  for (const History::Step& step : folder.history().steps()) onDisk += step->values() ? 0 : 1;
  CHECK(onDisk >= 300);
  const History before = folder.history();
  for (std::size_t i = states.size() - 1; i-- > 0;) {
    folder.editHistory().undo();
    REQUIRE((butForPool(folder.session()) == butForPool(states[i])));
  }
  for (std::size_t i = 1; i < states.size(); ++i) {
    folder.editHistory().redo();
    REQUIRE((butForPool(folder.session()) == butForPool(states[i])));
  }
  CHECK(before.steps().size() == folder.history().steps().size());
}
