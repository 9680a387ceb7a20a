// SPDX-License-Identifier: GPL-3.0-or-later
//
// Damage of every kind, everywhere: each value of a session's document, bytes of its log, each number in a
// WAV header. What comes of it is a sentence, or what is there, taken as it is, and never anything that never
// was.
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

using nlohmann::json;

namespace {

/// Something of everything that a document can hold.
Session rich() {
  Session session;
  session.name = "Rich";
  session = addTrack(session, "Drum", {{"near", 0, 1, {1.5}, {0.25}}, {"room", 1, 2, {}, {}}});
  const TrackId id = session.tracks.front()->id;
  for (int i = 0; i < 3; ++i)
    session = addFileAsLane(session, id, {"audio/" + std::to_string(i) + ".wav", 3, {40000}}, {i * 100}, "");
  session = addTrack(session, "Voice", microphonesFor(1), true);
  session = cutLane(session, id, LaneNumber{1}, {{9000}, {9500}});
  session = keepComposite(session, id, "kept");
  session = pick(session, id, {{5000}, {20000}}, LaneNumber{1});
  session = overdub(session, id, {{8000}, {12000}}, LaneNumber{2});
  session = changePiece(session, id, {15000},
                        {Decibels{2.0}, Cents{50.0}, Frames{10}, LevelLine{{{15000}, {-3.0}}}});
  session = setJoin(session, id, {5000}, {{100}, {200}, Curve::S, 0.5}, true);
  session = settleJoin(session, id, {20000}, true);
  session = setEndFade(session, id, CompositeEnd::End, {{480}, Curve::EqualPower, -0.5});
  session = setLevel(session, id, std::nullopt, {{{0}, {-1.0}}, {{900}, {1.0}}});
  LaneChange change;
  change.note = "note";
  change.rating = 4;
  change.palette = 3;
  change.gain = Decibels{-1.0};
  change.pitch = Cents{-20.0};
  session = changeLane(session, id, LaneNumber{2}, change);
  session = markTake(session, id, LaneNumber{2}, {700}, "spot");
  const std::vector<Phrase> phrases{{{{1000}, {9000}}, true, {{500}, {9500}}},
                                    {{{9800}, {19000}}, false, {{9500}, {19500}}}};
  session = changeCell(session, id, LaneNumber{2}, phrases[0], 5, "sings");
  session = addPhraseEdge(session, id, phrases, {4000});
  session = setPhraseRules(session, id, {0.3, 0.2});
  session = setRecordInto(session, id, LaneNumber{3});
  session = setTempoChange(session, {3, 90.0, {3, 8}});
  session = addMarker(session, {4800}, "dusk");
  session = setLoop(session, Span{{0}, {96000}});
  session = addPunch(session, {{1000}, {2000}});
  return punchInAt(session, {5000});
}

/// A document, a place in it, and what stands there instead.
const std::vector<json>& instead() {
  static const std::vector<json> all{nullptr,
                                     true,
                                     -1,
                                     0,
                                     1,
                                     2,
                                     25,
                                     129,
                                     4000000,
                                     -1e300,
                                     0.5,
                                     std::int64_t{1} << 53,
                                     (std::int64_t{1} << 53) + 1,
                                     "",
                                     "x",
                                     "audio/../x.wav",
                                     std::string(5000, 'y'),
                                     json::array(),
                                     json::array({1, 1}),
                                     json::object()};
  return all;
}

/// What is taken says what the document said, but for what is as good as not said: nothing is added but
/// what holds where nothing is said, and nothing left out but what is none.
void checkTaken(const json& damaged, const json& taken) {
  for (const json& change : json::diff(damaged, taken)) {
    INFO(change.dump());
    CHECK(change["op"] != "replace");
    if (change["op"] != "remove") continue;
    const std::string path = change["path"];
    const json& left = damaged.at(json::json_pointer(path));
    // Half of a crossfade's shape is none.
    CHECK((left.empty() || left == 0 || left == "" || path.find("/joins/") != std::string::npos));
  }
}

/// Calls `check` with the document that has another value at each of its places, or lacks it.
template <typename Check>
void forEachDamage(const json& whole, Check check) {
  const json flat = whole.flatten();
  std::set<std::string> places;  // of all levels
  for (const auto& [place, value] : flat.items())
    for (std::string at = place; !at.empty(); at.erase(at.rfind('/'))) places.insert(at);
  unsigned number = 0;
  for (const std::string& place : places) {
    if (sanitized() && ++number % 5 != 0) continue;
    const json::json_pointer at(place);
    const auto tried = [&](const std::string& what, const json& damaged) {
      INFO(place << what);
      try {
        check(damaged);
      } catch (const Error& error) {
        CHECK(std::string(error.what()).ends_with("."));
      }
    };
    for (const json& value : instead()) {
      json damaged = whole;
      damaged[at] = value;
      tried(" is " + value.dump().substr(0, 80), damaged);
    }
    json without = whole;
    json& parent = without[at.parent_pointer()];
    if (parent.is_object())
      parent.erase(at.back());
    else
      parent.erase(parent.begin());
    tried(" is gone", without);
  }
}

}  // namespace

TEST_CASE("What is written is what the JSON Schema in docs/ describes, member by member") {
  const TemporaryFolder temporary;
  SessionFolder::create(temporary / "s", rich());
  const ToolResult checked =
      shell("/usr/bin/python3 -W ignore -m jsonschema -i " + (temporary / "s" / "session.json").string() +
            " " YEWDRIFT_TEST_DATA "/../../docs/session.schema.json");
  INFO(checked.err);
  CHECK(checked.status == 0);
}

TEST_CASE("Any value of a document that is another is refused with a sentence, or taken as it is") {
  forEachDamage(toJson(rich()), [](const json& damaged) {
    const Session taken = sessionFromJson(damaged);
    checkInvariants(taken);
    checkTaken(damaged, toJson(taken));
    CHECK((sessionFromJson(toJson(taken)) == taken));
  });
}

TEST_CASE("Any value of a step that is another is refused with a sentence, or leads to a session") {
  const Session before = addTrack(Session{}, "Drum", microphonesFor(2));
  forEachDamage(sessionDelta(before, rich()), [&](const json& damaged) {
    const Session after = applyDelta(before, damaged, HistoryStep::Direction::Forth);
    checkInvariants(after);
    CHECK((applyDelta(before, sessionDelta(before, after), HistoryStep::Direction::Forth) == after));
  });
}

TEST_CASE(
    "Any number in a WAV header that is another is refused with a sentence, or read within what is there") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "a.wav";
  for (const auto format : {SampleFormat::Pcm16, SampleFormat::Float32})
    for (const bool longSizes : {false, true}) {
      AudioFileKind kind;
      kind.format = format;
      kind.timeStamp = TimeStamp{{4800}, "stamp"};
      kind.cues = {{{100}, "dusk"}};
      AudioWriter writer(createAnywhere(path), 2, {48000}, kind);
      writer.write(noise(1200, 3).data(), 600);
      writer.close();
      std::string whole = content(path);
      if (longSizes) {
        const std::uint32_t elsewhere = 0xFFFFFFFFU;
        std::string sizes("ds64\x1C\0\0\0", 8);
        for (const std::uint64_t size :
             {whole.size() + 28, whole.size() - whole.find("data") - 8, std::size_t{600}})
          sizes.append(reinterpret_cast<const char*>(&size), sizeof size);
        sizes.append(4, '\0');
        whole.insert(12, sizes);
        whole.replace(0, 4, "RF64");
        std::memcpy(&whole[4], &elsewhere, 4);
        std::memcpy(&whole[whole.find("data") + 4], &elsewhere, 4);
      }
      const std::size_t head = whole.find("data") + 8;
      for (std::size_t at = 0; at < head + 8; at += 4)
        for (const std::uint32_t value : {0U, 1U, 16U, 0x7FFFFFFFU, 0xFFFFFFFFU, 600U, 2400U, 4801U}) {
          std::string damaged = whole;
          std::memcpy(&damaged[at], &value, 4);
          if (value == 4801U) damaged = whole.substr(0, at + 2);  // cut off
          std::ofstream(path, std::ios::binary) << damaged;
          INFO(value << " at " << at << " of " << head);
          for (const auto header : {AudioReader::Header::AsItIs, AudioReader::Header::PutRight}) try {
              AudioReader reader(openAnywhere(path), header);
              const auto& info = reader.info();
              CHECK((info.channels > 0 && info.rate.hertz > 0 && info.length >= Frames{}));
              Samples first(static_cast<std::size_t>(info.channels) * 8);
              Samples again(first.size());
              const std::int64_t got = reader.readAt({1}, 8, first.data());
              CHECK((got >= 0 && got <= 8 && Frames{1 + got} <= std::max(info.length, Frames{1})));
              CHECK(AudioReader(openAnywhere(path), header).readAt({1}, 8, again.data()) == got);
              CHECK(std::memcmp(first.data(), again.data(), first.size() * sizeof(float)) == 0);
            } catch (const Error& error) {
              CHECK(std::string(error.what()).ends_with("."));
            }
        }
    }
}

TEST_CASE("Whatever becomes of a log, a history that is told of is one that was, each of its sessions too") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "logged";
  std::map<std::string, std::string> were;  // by the step that made it
  {
    SessionFolder folder = sessionWithLanes(path, {noise(900, 1), noise(900, 2)});
    const TrackId id = folder.session().tracks.front()->id;
    for (int i = 0; i < 6; ++i) {
      folder.commit("Pick " + std::to_string(i),
                    pick(folder.session(), id, {{i * 30}, {i * 30 + 20}}, LaneNumber{1}));
    }
    folder.editHistory().undo();
    folder.save();
    History history = folder.history();
    while (history.redoLabel()) history.redo();
    for (;; history.undo()) {
      were[history.undoLabel().value_or("")] = stateHash(toJson(history.now()));
      if (!history.undoLabel()) break;
    }
  }
  const std::string whole = content(path / "steps.log");
  const std::string document = content(path / "session.json");
  std::size_t steps = 0;
  const auto check = [&](const std::string& log, bool withDocument) {
    std::ofstream(path / "steps.log", std::ios::binary) << log;
    std::ofstream(path / "session.json", std::ios::binary) << (withDocument ? document : "{");
    try {
      SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Read);
      for (const Sentence& notice : folder.notices()) CHECK(notice.english().ends_with("."));
      History history = folder.history();
      while (history.redoLabel()) history.redo();
      for (; history.undoLabel(); history.undo(), ++steps)
        CHECK(were.at(*history.undoLabel()) == stateHash(toJson(history.now())));
    } catch (const Error& error) {
      CHECK(std::string(error.what()).ends_with("."));
    }
  };
  for (std::size_t at = 0; at < whole.size(); at += sanitized() ? 185 : 37) {
    INFO("at " << at << " of " << whole.size());
    for (const char byte : {'\n', '{', '0', '\xff'}) {
      std::string damaged = whole;
      damaged[at] = byte;
      check(damaged, byte != '0');
    }
    check(whole.substr(0, at), at % 2 == 0);
    check(whole.substr(0, at) + whole.substr(at + 1), at % 2 == 1);
  }
  // Most of it is still told of.
  CHECK(steps > whole.size() / 37);
}
