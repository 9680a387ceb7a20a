// SPDX-License-Identifier: GPL-3.0-or-later
//
// Damage of every kind, everywhere: what becomes of each value of a session's document, of each byte of its
// log and of each number in a WAV header is what it was when it was judged, be it a sentence or what is left.
// See recorded_numbers.h.
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/recorded_numbers.h"
#include "core/store/audio_file.h"
#include "core/store/session_delta.h"
#include "core/store/session_json.h"

using namespace yewdrift;
using namespace yewdrift::test;
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

template <typename Read>
void addOutcomes(Numbers& numbers, const std::string& name, const json& whole, Read read) {
  const json flat = whole.flatten();
  std::set<std::string> places;  // of all levels
  for (const auto& [place, value] : flat.items())
    for (std::string at = place; !at.empty(); at.erase(at.rfind('/'))) places.insert(at);
  int number = 0;
  Digest digest;
  const auto outcome = [&](const json& damaged) {
    try {
      digest.add(read(damaged));
    } catch (const Error& error) {
      digest.add(error.what());
    }
  };
  for (const std::string& place : places) {
    if (number / 10 % static_cast<int>(nextScene()) != 0) {
      ++number;
      continue;
    }
    const json::json_pointer at(place);
    for (const json& value : instead()) {
      json damaged = whole;
      damaged[at] = value;
      outcome(damaged);
    }
    json without = whole;
    json& parent = without[at.parent_pointer()];
    if (parent.is_object())
      parent.erase(at.back());
    else
      parent.erase(parent.begin());
    outcome(without);
    if (++number % 10 == 0) numbers[name + " " + std::to_string(number)] = std::exchange(digest, {}).folded();
  }
}

void addWaves(Numbers& numbers, const TemporaryFolder& temporary) {
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
      const std::string name =
          std::string(longSizes ? "long" : "wave") + (format == SampleFormat::Pcm16 ? " 16 " : " float ");
      const std::size_t head = whole.find("data") + 8;
      Digest digest;
      for (std::size_t at = 0; at < head + 8; at += 4) {
        for (const std::uint32_t value : {0U, 1U, 16U, 0x7FFFFFFFU, 0xFFFFFFFFU, 600U, 2400U, 4801U}) {
          std::string damaged = whole;
          std::memcpy(&damaged[at], &value, 4);
          if (value == 4801U) damaged = whole.substr(0, at + 2);  // cut off
          std::ofstream(path, std::ios::binary) << damaged;
          for (const auto header : {AudioReader::Header::AsItIs, AudioReader::Header::PutRight}) try {
              AudioReader reader(openAnywhere(path), header);
              digest.add(reader.info().length);
              digest.add(std::int64_t{reader.info().channels} * 100000 + reader.info().rate.hertz);
              digest.add(static_cast<std::int64_t>(reader.putRight()));
              Samples read(static_cast<std::size_t>(reader.info().channels) * 8);
              digest.add(reader.readAt({1}, 8, read.data()));
              for (const float sample : read)
                digest.add(static_cast<double>(std::isfinite(sample) ? sample : 9.0F));
            } catch (const Error& error) {
              digest.add(error.what());
            }
        }
        if (at % 32 == 28) numbers[name + std::to_string(at)] = std::exchange(digest, {}).folded();
      }
    }
}

void addLogs(Numbers& numbers, const TemporaryFolder& temporary) {
  const fs::path path = temporary / "logged";
  {
    SessionFolder folder = sessionWithLanes(path, {noise(900, 1), noise(900, 2)});
    const TrackId id = folder.session().tracks.front()->id;
    for (int i = 0; i < 6; ++i)
      folder.commit("Pick " + std::to_string(i),
                    pick(folder.session(), id, {{i * 30}, {i * 30 + 20}}, LaneNumber{1}));
    folder.editHistory().undo();
    folder.save();
  }
  const std::string whole = content(path / "steps.log");
  const std::string document = content(path / "session.json");
  const auto outcome = [&](Digest& digest, const std::string& log, bool withDocument) {
    std::ofstream(path / "steps.log", std::ios::binary) << log;
    std::ofstream(path / "session.json", std::ios::binary) << (withDocument ? document : "{");
    try {
      SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Read);
      for (const Sentence& notice : folder.notices()) digest.add(notice.english());
      History history = folder.history();
      while (history.redoLabel()) {
        digest.add(*history.redoLabel());
        history.redo();
      }
      while (history.undoLabel()) {
        digest.add(*history.undoLabel());
        history.undo();
        digest.add(stateHash(toJson(history.now())));
      }
    } catch (const Error& error) {
      const std::string said = error.what();
      const std::size_t at = said.find(temporary.path().string());
      digest.add(at == std::string::npos ? said : said.substr(0, at));
    }
  };
  int number = 0;
  Digest digest;
  for (std::size_t at = 0; at < whole.size(); at += 37) {
    if (number / 10 % static_cast<int>(nextScene()) != 0) {
      ++number;
      continue;
    }
    for (const char byte : {'\n', '{', '0', '\xff'}) {
      std::string damaged = whole;
      damaged[at] = byte;
      outcome(digest, damaged, byte != '0');
    }
    outcome(digest, whole.substr(0, at), at % 2 == 0);
    outcome(digest, whole.substr(0, at) + whole.substr(at + 1), at % 2 == 1);
    if (++number % 10 == 0) numbers["log " + std::to_string(number)] = std::exchange(digest, {}).folded();
  }
}

}  // namespace

TEST_CASE("Any value of a document that is another is refused, or taken, as it was when that was judged") {
  Numbers now;
  const Session session = rich();
  addOutcomes(now, "document", toJson(session),
              [](const json& damaged) { return stateHash(toJson(sessionFromJson(damaged))); });
  const Session before = addTrack(Session{}, "Drum", microphonesFor(2));
  addOutcomes(now, "delta", sessionDelta(before, session), [&](const json& damaged) {
    return toJson(applyDelta(before, damaged, HistoryStep::Direction::Forth)).dump();
  });
  checkRecorded("documents", now);
}

TEST_CASE("Any damage to a log or to a WAV header leaves what it left when that was judged") {
  const TemporaryFolder temporary;
  Numbers now;
  addWaves(now, temporary);
  addLogs(now, temporary);
  checkRecorded("damage", now);
}
