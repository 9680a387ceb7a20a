// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a session has to be, and at which limit it ceases to be one. Every edit and every file is checked
// against it.
#include "core/core_tests.h"

namespace {

/// A session in which everything is there to be broken.
Session sound() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  const TrackId id = session.tracks.front()->id;
  for (int i = 0; i < 2; ++i) {
    session = addPoolFile(session, {"audio/x" + std::to_string(i) + ".wav", 1, {1000}});
    session = addLane(session, id,
                      {{{0}, {1000}, {{0}, {400}}, {{i, 0}}}, {{0}, {1000}, {{400}, {900}}, {{i, 0}}}});
  }
  session = pick(session, id, {{100}, {200}}, LaneNumber{1});
  session = pick(session, id, {{300}, {500}}, LaneNumber{1});
  session = overdub(session, id, {{300}, {350}}, LaneNumber{2});
  session = setJoin(session, id, {100}, {{10}, {20}, Curve::S});
  session = setJoin(session, id, {200}, {{10}, {20}, Curve::S});
  session = setRecordInto(session, id, LaneNumber{2});
  session = setLoop(session, Span{{0}, {500}});
  session = setPunches(session, {{Frames{0}, Frames{100}}, {Frames{100}, Frames{200}}});
  session = addMarker(session, {50}, "Tide");
  session = addTrack(session, "Drum", microphonesFor(2));
  checkInvariants(session);
  return session;
}

std::string whyBroken(const std::function<void(Session&, Track&)>& change) {
  Session session = sound();
  change(session, session.tracks.front().edit());
  try {
    checkInvariants(session);
    return {};
  } catch (const Error& e) {
    return e.what();
  }
}

void breaks(const std::string& words, const std::function<void(Session&, Track&)>& change) {
  const std::string reason = whyBroken(change);
  CHECK_THAT(reason, Catch::Contains(words));
  CHECK(reason.back() == '.');
}

void holds(const std::function<void(Session&, Track&)>& change) {
  CHECK(whyBroken(change).empty());
}

template <typename Change>
void changePiece(Track& track, std::size_t index, Change change) {
  std::vector<Piece> picks(track.composite.picks.begin(), track.composite.picks.end());
  change(picks.at(index));
  track.composite.picks = SharedSequence<Piece>(picks);
}

template <typename Change>
void changeJoin(Track& track, std::size_t index, Change change) {
  std::vector<JoinSetting> joins(track.composite.joins.begin(), track.composite.joins.end());
  change(joins.at(index));
  track.composite.joins = SharedSequence<JoinSetting>(joins);
}

constexpr Frames beyond{maximumPosition + Frames{1}};

}  // namespace

TEST_CASE("A session runs at a rate that sound has, from files that can be") {
  for (const int rate : {44100, 48000, 192000}) holds([rate](Session& s, Track&) { s.rate = {rate}; });
  breaks("not at 44099", [](Session& s, Track&) { s.rate = {44099}; });
  breaks("not at 192001", [](Session& s, Track&) { s.rate = {192001}; });
  breaks("described wrongly", [](Session& s, Track&) { s.pool.edit()[0].channels = 0; });
  holds([](Session& s, Track&) { s.pool.edit()[0].channels = 256; });
  breaks("described wrongly", [](Session& s, Track&) { s.pool.edit()[0].channels = 257; });
  breaks("described wrongly", [](Session& s, Track&) { s.pool.edit()[0].length = {-1}; });
  holds([](Session& s, Track&) { s.pool.edit()[0].length = {0}; });
  holds([](Session& s, Track&) { s.pool.edit()[0].length = maximumPosition; });
  breaks("longest session", [](Session& s, Track&) { s.pool.edit()[0].length = beyond; });
}

TEST_CASE("Tracks and lanes have numbers of their own, microphones have inputs") {
  breaks("two tracks share", [](Session& s, Track& t) { t.id = s.tracks.back()->id; });
  breaks("two tracks share", [](Session&, Track& t) { t.id = {0}; });
  breaks("two tracks share", [](Session& s, Track&) { s.tracksMade = 1; });
  holds([](Session& s, Track&) { s.tracksMade = 2; });
  breaks("no microphone", [](Session&, Track& t) { t.microphones.clear(); });
  breaks("impossible input", [](Session&, Track& t) { t.microphones[0].input = -1; });
  holds([](Session&, Track& t) { t.microphones[0].input = 0; });
  holds([](Session&, Track& t) { t.microphones[0].input = 4096; });
  breaks("impossible input", [](Session&, Track& t) { t.microphones[0].input = 4097; });
  breaks("impossible input", [](Session&, Track& t) { t.microphones[0].channels = 0; });
  breaks("impossible input", [](Session&, Track& t) { t.microphones[0].channels = 3; });
  breaks("impossible number", [](Session&, Track& t) { t.lanes[0].edit().number = {0}; });
  breaks("impossible number", [](Session&, Track& t) { t.lanes[0].edit().number = {2}; });
  breaks("impossible number", [](Session&, Track& t) { t.lanesMade = 1; });
  holds([](Session&, Track& t) { t.lanesMade = 2; });
  breaks("records into a lane", [](Session&, Track& t) { t.recordInto = LaneNumber{3}; });
  holds([](Session&, Track& t) { t.recordInto.reset(); });
}

TEST_CASE("Clips have material where they are audible, a source for every channel, and do not overlap") {
  const auto clip = [](Track& t) -> Clip& { return t.lanes[0].edit().clips[0]; };
  breaks("longest session", [&](Session&, Track& t) { clip(t).origin = beyond; });
  breaks("longest session", [&](Session&, Track& t) { clip(t).origin = -beyond; });
  breaks("longest session", [&](Session&, Track& t) { clip(t).sourceLength = beyond; });
  breaks("negative length", [&](Session&, Track& t) { clip(t).sourceLength = {-1}; });
  breaks("no material", [&](Session&, Track& t) { clip(t).sourceLength = {399}; });
  holds([&](Session&, Track& t) { clip(t).sourceLength = {400}; });
  breaks("no material", [&](Session&, Track& t) { clip(t).origin = {1}; });
  holds([&](Session&, Track& t) { clip(t).origin = {-1}; });
  breaks("empty or backwards", [&](Session&, Track& t) { clip(t).window = {{50}, {50}}; });
  holds([&](Session&, Track& t) { clip(t).window = {{50}, {51}}; });
  breaks("overlaps itself", [&](Session&, Track& t) { clip(t).window.end = {401}; });
  breaks("a source for every channel", [&](Session&, Track& t) { clip(t).channels.push_back({0, 0}); });
  breaks("not in the pool", [&](Session&, Track& t) { clip(t).channels[0].file = 2; });
  breaks("not in the pool", [&](Session&, Track& t) { clip(t).channels[0].file = -1; });
  breaks("does not have", [&](Session&, Track& t) { clip(t).channels[0].channel = 1; });
  breaks("does not have", [&](Session&, Track& t) { clip(t).channels[0].channel = -1; });
}

TEST_CASE("Pieces and joins lie in order and name lanes that are there") {
  breaks("a piece of",
         [](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.span.end = p.span.start; }); });
  breaks("pieces of", [](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.span.end = {301}; }); });
  holds([](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.span.end = {300}; }); });
  breaks("a slip in", [](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.slip = beyond; }); });
  breaks("not there",
         [](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.lane = LaneNumber{3}; }); });
  holds([](Session&, Track& t) { changePiece(t, 0, [](Piece& p) { p.lane.reset(); }); });
  breaks("not there", [](Session&, Track& t) { changePiece(t, 1, [](Piece& p) { p.overdubs = {{3}}; }); });
  breaks("out of order", [](Session&, Track& t) { changeJoin(t, 1, [](JoinSetting& j) { j.at = {100}; }); });
  breaks("out of order", [](Session&, Track& t) { changeJoin(t, 0, [](JoinSetting& j) { j.at = {201}; }); });
  // Also behind one of which only the place is known.
  breaks("out of order", [](Session&, Track& t) {
    changeJoin(t, 0, [](JoinSetting& j) { j.shape.reset(); });
    changeJoin(t, 1, [](JoinSetting& j) { j.at = {100}; });
  });
  breaks("negative length", [](Session&, Track& t) {
    changeJoin(t, 0, [](JoinSetting& j) { j.shape.reset(); });
    changeJoin(t, 1, [](JoinSetting& j) { j.shape->after = {-1}; });
  });
  breaks("negative length",
         [](Session&, Track& t) { changeJoin(t, 0, [](JoinSetting& j) { j.shape->before = {-1}; }); });
  breaks("negative length",
         [](Session&, Track& t) { changeJoin(t, 0, [](JoinSetting& j) { j.shape->after = {-1}; }); });
  holds([](Session&, Track& t) {
    changeJoin(t, 0, [](JoinSetting& j) { j.shape = JoinShape{{0}, {0}, Curve::S}; });
  });
  breaks("a join of",
         [](Session&, Track& t) { changeJoin(t, 0, [](JoinSetting& j) { j.shape->before = beyond; }); });
  breaks("a join of",
         [](Session&, Track& t) { changeJoin(t, 1, [](JoinSetting& j) { j.shape->after = beyond; }); });
  breaks("a join of", [](Session&, Track& t) { changeJoin(t, 1, [](JoinSetting& j) { j.at = beyond; }); });
  holds([](Session&, Track& t) { changeJoin(t, 1, [](JoinSetting& j) { j.shape.reset(); }); });
  for (const double bend : {-1.01, 1.01, std::nan("")}) {
    breaks("bends by more", [bend](Session&, Track& t) {
      changeJoin(t, 1, [bend](JoinSetting& j) { j.shape->bend = bend; });
    });
    breaks("bends by more", [bend](Session&, Track& t) { t.composite.fadeOut.bend = bend; });
  }
  holds([](Session&, Track& t) { changeJoin(t, 1, [](JoinSetting& j) { j.shape->bend = -1.0; }); });
  breaks("a fade of", [](Session&, Track& t) { t.composite.fadeIn.length = {-1}; });
  breaks("a fade of", [](Session&, Track& t) { t.composite.fadeOut.length = beyond; });
  breaks("a level", [](Session&, Track& t) {
    changePiece(t, 0, [](Piece& p) { p.level = {{{5}, {0.0}}, {{4}, {0.0}}}; });
  });
}

TEST_CASE("Loop, punches, markers and options lie within what there can be") {
  breaks("the loop", [](Session& s, Track&) { s.loop = Span{{5}, {5}}; });
  breaks("the loop", [](Session& s, Track&) { s.loop = Span{{5}, beyond}; });
  breaks("a punch", [](Session& s, Track&) { s.punches[0].out = Frames{0}; });
  breaks("punch spans overlap", [](Session& s, Track&) { s.punches[0].out = Frames{101}; });
  holds([](Session& s, Track&) { s.punches[1].out.reset(); });
  holds([](Session& s, Track&) { s.punches[0].in.reset(); });
  breaks("a marker", [](Session& s, Track&) { s.markers[0].at = beyond; });
  const auto option = [](const std::string& words, double least, double most, auto set) {
    for (const double good : {least, most}) holds([&](Session& s, Track&) { set(s.recording, good); });
    breaks(words, [&](Session& s, Track&) { set(s.recording, least - 1); });
    breaks(words, [&](Session& s, Track&) { set(s.recording, most + 1); });
  };
  option("A pre-roll", 0, 1000, [](RecordingOptions& o, double v) { o.preRoll.amount = v; });
  option("A post-roll", 0, 1000, [](RecordingOptions& o, double v) { o.postRoll.amount = v; });
  option("A count-in", 0, 16, [](RecordingOptions& o, double v) { o.countInBars = static_cast<int>(v); });
  option("The number of passes", 0, 100000,
         [](RecordingOptions& o, double v) { o.passes = static_cast<int>(v); });
  option("The way back", 0, 60, [](RecordingOptions& o, double v) { o.backUpSeconds = v; });
  option("What plays before", 0, 60, [](RecordingOptions& o, double v) { o.leadSeconds = v; });
  option("The air", 0.25, 64, [](RecordingOptions& o, double v) { o.airBars = v; });
  option("The level of the click", -60, 6, [](RecordingOptions& o, double v) { o.click.level.value = v; });
  option("The division", 2, 16, [](RecordingOptions& o, double v) { o.divisions = static_cast<int>(v); });
}

TEST_CASE("Phrases that a person set lie in order") {
  holds([](Session&, Track& t) { t.phrases = {{{5}, {6}}, {{6}, {9}}}; });
  breaks("phrases of \"Viola\" overlap", [](Session&, Track& t) { t.phrases = {{{5}, {7}}, {{6}, {9}}}; });
  breaks("a phrase of \"Viola\" is empty", [](Session&, Track& t) { t.phrases = {{{5}, {5}}}; });
  breaks("shortest rest or phrase", [](Session&, Track& t) { t.phraseRules.shortestRest = 60.1; });
  breaks("shortest rest or phrase", [](Session&, Track& t) { t.phraseRules.shortestPhrase = -0.1; });
  holds([](Session&, Track& t) { t.phraseRules = {0.0, 60.0}; });
}
