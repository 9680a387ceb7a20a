// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every edit, one after the other at random on a coarse grid where edges meet all the time: what holds of
// every session, whatever was done.
#include <nlohmann/json.hpp>
#include "core/core_tests.h"

namespace {

constexpr std::int64_t cell = 240;  // half of a join as it is made
constexpr int cells = 60;

class PlainMeter : public CorrelationMeter {
 public:
  float correlation(const std::vector<ChannelSource>& a, Frames aOrigin, const std::vector<ChannelSource>& b,
                    Frames bOrigin, Span over) override {
    const std::int64_t mixed = a.front().file * 7 + b.front().file * 13 + aOrigin.count * 3 +
                               bOrigin.count * 5 + over.start.count * 11 + over.length().count;
    return static_cast<float>(std::abs(mixed) % 101) / 101.0F;
  }
};

/// What a step is about, drawn one after the other.
struct Draw {
  Frames at, to, length;
  Span span;
  LaneNumber lane;
  Frames boundary;
  Decibels gain;
  Cents pitch;
  double bend = 0.0;
  std::string text, other;
  LevelLine line;
  int n = 0, m = 0;
  bool yes = false;
  std::vector<bool> some;
  [[nodiscard]] std::optional<LaneNumber> laneOrNone() const {
    return some[0] && some[1] ? std::nullopt : std::optional(lane);
  }
  [[nodiscard]] Curve curve() const { return static_cast<Curve>(n % 4); }
  /// Some of the values that an edit can change, and not the others.
  template <typename Value>
  std::optional<Value> maybe(std::size_t which, Value value) const {
    return some[which] ? std::optional(value) : std::nullopt;
  }
};

struct Editor {
  explicit Editor(unsigned seed) : random(seed) {
    session.rate = SampleRate{48000};
    session = addTrack(session, "Viola", microphonesFor(1 + below(2)));
    session = addTrack(session, "Frame drum", microphonesFor(1 + below(3)));
  }
  int below(int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); }
  bool oneIn(int so) { return below(so) == 0; }
  Frames at() {
    const int off = oneIn(6) ? below(5) - 2 : 0;
    return Frames{cell * (below(cells + 4) - 2) + off};
  }
  std::string text() {
    std::string made(static_cast<std::size_t>(below(4)), 'a');
    return oneIn(9) ? made + "\n" : made;
  }
  Decibels gain() { return {oneIn(12) ? 1000.0 : 3.0 * (below(7) - 3)}; }
  Shared<Track> track() {
    const bool any = oneIn(3);
    return session.tracks[any ? static_cast<std::size_t>(below(static_cast<int>(session.tracks.size()))) : 0];
  }
  Draw draw(const Track& of) {
    Draw made;
    made.at = at();
    made.to = at();
    made.length = Frames{cell * below(8)};
    made.span = {made.to, made.to + Frames{cell * (1 + below(20))}};
    made.lane = LaneNumber{below(9)};
    if (!of.lanes.empty() && !oneIn(15))
      made.lane = of.lanes[static_cast<std::size_t>(below(static_cast<int>(of.lanes.size())))]->number;
    const auto joins = resolve(of, session.rate).joins;
    made.boundary = at();
    if (!joins.empty() && !oneIn(5))
      made.boundary = joins[static_cast<std::size_t>(below(static_cast<int>(joins.size())))].at;
    made.gain = gain();
    made.pitch = Cents{50.0 * (below(3) - 1)};
    made.bend = 0.5 * (below(7) - 3);
    made.text = text();
    made.other = text();
    for (int i = below(4); i > 0; --i) {
      const Frames where = at();
      made.line = withPoint(std::move(made.line), {where, gain()});
    }
    made.n = below(720);
    made.m = below(720);
    made.yes = oneIn(2);
    for (int i = 0; i < 8; ++i) made.some.push_back(oneIn(3));
    return made;
  }
  [[nodiscard]] std::vector<Phrase> phrases(const Track& of, bool grid) const {
    const std::vector<Span> found{
        {{cell}, {cell * 8}}, {{cell * 9}, {cell * 20}}, {{cell * 30}, {cell * 50}}};
    return resolvePhrases(of, found, session.ruler(), grid);
  }
  std::vector<Clip> clips(const Track& of, const Draw& drawn) {
    std::vector<Clip> made;
    Frames from = drawn.at;
    for (int i = 1 + drawn.n % 3; i > 0; --i) {
      Clip clip;
      clip.origin = from;
      int channels = 0;
      for (const Microphone& each : of.microphones) channels += each.channels;
      const std::string name = "audio/" + std::to_string(session.pool->size()) + ".wav";
      clip.sourceLength = Frames{cell * (4 + below(30))};
      session = addPoolFile(session, {name, channels, clip.sourceLength});
      const int file = static_cast<int>(session.pool->size()) - 1;
      for (int c = 0; c < channels; ++c) clip.channels.push_back({file, c});
      clip.window.start = from + Frames{cell * below(2)};
      clip.window.end = clip.extent().end - Frames{cell * below(2)};
      from = clip.window.end + Frames{cell * below(3)};
      made.push_back(clip);
    }
    return made;
  }

  Session takes(const Track& of, const Draw& d);
  [[nodiscard]] Session composite(const Track& of, const Draw& d, int kind) const;
  [[nodiscard]] Session tracks(const Track& of, const Draw& d, int kind, TrackId other) const;
  [[nodiscard]] Session song(const Draw& d, int kind) const;

  std::mt19937 random;
  Session session;
};

Session Editor::takes(const Track& of, const Draw& d) {
  const TrackId id = of.id;
  const int kind = below(18);
  if (kind < 2) {
    const std::vector<Clip> material = clips(of, d);
    return kind == 0 ? addLane(session, id, material, d.text) : placeInLane(session, id, d.lane, material);
  }
  switch (kind) {
    case 2:
      return setLaneAside(session, id, d.lane, d.yes);
    case 3:
      return d.some[0] ? removeLane(session, id, d.lane) : session;
    case 4:
      return endLaneAt(session, id, d.lane, d.at);
    case 5:
      return placeLane(session, id, d.lane, d.n % 6);
    case 6:
      return nudgeLane(session, id, d.lane, Frames{cell * (d.n % 7 - 3)});
    case 7:
      return cutLane(session, id, d.lane, d.span);
    case 8:
      return restoreLane(session, id, d.lane, d.span);
    case 9:
      return setLevel(session, id, d.laneOrNone(), d.line);
    case 10:
      return markTake(session, id, d.lane, d.at, d.text);
    case 11:
      return removeTakeMark(session, id, d.lane, static_cast<std::size_t>(d.n % 3));
    case 12:
      return pullWindow(session, id, d.lane, d.span);
    case 13:
      return changeLane(session, id, d.lane,
                        {d.maybe(0, d.text), d.maybe(1, d.other), d.maybe(2, d.n % 8 - 1),
                         d.maybe(3, d.m % 10), d.maybe(4, d.yes), d.maybe(5, d.gain), d.maybe(6, d.pitch),
                         d.maybe(7, static_cast<LanePicture>(d.n % 4))});
    default:
      break;
  }
  const auto known = phrases(of, d.yes);
  const Phrase& phrase = known[static_cast<std::size_t>(d.m) % known.size()];
  switch (d.n % 7) {
    case 0:
      return changeCell(session, id, d.lane, phrase, d.maybe(0, d.m % 7), d.maybe(1, d.text));
    case 1:
      return noteChosenBlind(session, id, d.lane, phrase);
    case 2:
      return addPhraseEdge(session, id, known, d.at);
    case 3:
      return removePhraseEdge(session, id, known, d.at);
    case 4:
      return movePhraseEdge(session, id, known, d.at, d.to);
    case 5:
      return d.some[0] ? forgetPhrases(session, id) : session;
    default:
      return setPhraseRules(session, id, {0.1 * (d.m % 4), 0.1 * (d.m % 5)});
  }
}

Session Editor::composite(const Track& of, const Draw& d, int kind) const {
  const TrackId id = of.id;
  const JoinShape shape{d.length, Frames{cell * (d.m % 8)}, d.curve(), d.bend};
  switch (kind) {
    case 3:
      return overdub(session, id, d.span, d.lane);
    case 4:
      return moveBoundary(session, id, d.boundary, d.at);
    case 5:
      return setJoin(session, id, d.boundary, shape, d.yes);
    case 6:
      return changeJoins(session, id,
                         {d.maybe(0, shape.before), d.maybe(1, shape.after), d.maybe(2, shape.curve),
                          d.maybe(3, shape.bend)},
                         d.maybe(4, d.span));
    case 7:
      return settleJoin(session, id, d.boundary, !d.some[0]);
    case 8:
      return resetJoin(session, id, d.boundary);
    case 9:
      return setEndFade(session, id, d.yes ? CompositeEnd::Start : CompositeEnd::End,
                        {d.length * 3, d.curve(), d.bend});
    case 10:
    case 11:
      return changePiece(session, id, d.at,
                         {d.maybe(0, d.gain), d.maybe(1, d.pitch),
                          d.maybe(2, Frames{cell / 2 * (d.n % 9 - 4)}), d.maybe(3, d.line)});
    case 12:
      return splitPiece(session, id, d.at);
    case 13:
      return mergePieces(session, id, d.boundary);
    case 14:
      return keepComposite(session, id, d.text);
    case 15:
      return useComposite(session, id, d.text);
    case 16:
      return renameComposite(session, id, d.text, d.other);
    case 17:
      return removeComposite(session, id, d.text);
    case 18: {
      std::vector<Piece> pieces;
      for (std::int64_t i = d.m % 20; i < cells; i += 3 + (d.n + i) % 9) {
        Piece piece;
        piece.span = {{cell * i}, {cell * (i + 1 + (d.m + i) % 3)}};
        if ((d.n + i) % 6 != 0) piece.lane = d.some[static_cast<std::size_t>(i % 8)] ? d.lane : LaneNumber{1};
        piece.rough = true;
        pieces.push_back(piece);
      }
      return playRough(session, id, pieces, d.yes);
    }
    case 19: {
      const PoolFile file{"audio/flat.wav", of.channels(), d.yes ? d.span.length() : Frames{cell * 40}};
      if (d.yes) return takePlaceInComposite(session, id, file, d.span.start, d.span);
      return takePlaceOfComposite(session, id, file, d.at, static_cast<OtherLanes>(d.n % 3));
    }
    default:
      return pick(session, id, d.span, d.laneOrNone());
  }
}

Session Editor::tracks(const Track& of, const Draw& d, int kind, TrackId other) const {
  const TrackId id = of.id;
  const bool few = session.tracks.size() < 5;
  const bool many = session.tracks.size() > 2;
  switch (kind) {
    case 0:
      return setTrackMix(session, id, d.gain, {0.5 * (d.n % 5 - 2)});
    case 1:
      return setTrackSwitch(session, id, static_cast<TrackSwitch>(d.n % 3), d.yes);
    case 2:
      return renameTrack(session, id, d.text);
    case 3:
      return setMonitoring(session, id, static_cast<Monitoring>(d.n % 3));
    case 4:
      return setRecordInto(session, id, d.laneOrNone());
    case 5:
      return setMicrophones(session, id, microphonesFor(1 + d.n % 2));
    case 6:
      return many ? removeTrack(session, id) : session;
    case 7:
      return placeTrack(session, id, d.n % 5);
    case 8:
      return few ? duplicateTrack(session, id) : session;
    case 9:
      return few ? spreadTakes(session, id, spreadEvenly(requireTrack(session, id), 0.5 * (d.n % 3)))
                 : session;
    case 10:
      return many ? absorbTracks(session, id, {other}) : session;
    case 11:
      return many ? gatherMicrophones(session, id, {other}) : session;
    case 12:
      return few ? separateMicrophones(session, id) : session;
    case 13: {
      std::vector<Microphone> microphones = of.microphones;
      microphones.front().gain = d.gain;
      microphones.front().input = d.n % 4;
      if (d.some[0]) microphones.push_back({d.text, d.m % 4, 1 + d.n % 2, {}, {}});
      return setMicrophones(session, id, microphones);
    }
    case 14:
      return few ? addTrack(session, d.text, microphonesFor(1 + d.n % 3)) : session;
    default: {
      const int channels = 1 + d.n % 3;
      const PoolFile file{"audio/added" + d.text + std::to_string(channels) + ".wav", channels,
                          d.span.length()};
      return addFileAsLane(session, id, file, d.at, d.text);
    }
  }
}

Session Editor::song(const Draw& d, int kind) const {
  switch (kind) {
    case 0:
      return setTempoChange(session, {1 + d.n % 3, 60.0 * (1 + d.m % 18), {1 + d.m % 6, 1 << (d.n % 4)}});
    case 1:
      return removeTempoChange(session, 1 + d.n % 3);
    case 2:
      return addMarker(session, d.at, d.text);
    case 3:
      return renameMarker(session, static_cast<std::size_t>(d.n % 3), d.text);
    case 4:
      return removeMarkers(session, {static_cast<std::size_t>(d.n % 3)});
    case 5:
      return setLoop(session, d.some[0] ? std::nullopt : std::optional(d.span));
    case 6:
      return widenLoop(session, 0.25 * (d.n % 8), 0.25 * (d.m % 8));
    case 7:
      return d.some[0] ? setPunches(session, {}) : addPunch(session, d.span);
    case 8:
      return punchInAt(session, d.at);
    case 9:
      return punchOutAt(session, d.at);
    default: {
      RecordingOptions options = session.recording;
      const auto unit = [&](std::size_t i) { return d.some[i] ? LengthUnit::Seconds : LengthUnit::Bars; };
      options.preRoll = {0.5 * (d.n % 5), unit(0)};
      options.postRoll = {0.5 * (d.m % 5), unit(1)};
      options.countInBars = d.n % 4;
      options.loop = d.yes;
      options.punch = d.some[2];
      options.passes = d.m % 4;
      options.result = static_cast<PassResult>(d.n % 3);
      options.hush = d.some[3];
      options.playBack = d.some[4];
      options.backUpSeconds = 0.1 * (d.n % 9);
      options.leadSeconds = 0.1 * (d.m % 9);
      return setRecordingOptions(session, options);
    }
  }
}

/// Pieces one after the other, at least a frame long; crossfades that do not overlap and lie on material.
void requireWhole(const Session& session, const Track& track) {
  const ResolvedComposite composite = resolve(track, session.rate);
  Frames reached = -maximumPosition;
  for (std::size_t i = 0; i < composite.pieces.size(); ++i) {
    const Piece& piece = composite.pieces[i];
    REQUIRE_FALSE(piece.span.empty());
    if (i > 0) REQUIRE(piece.span.start == composite.pieces[i - 1].span.end);
    if (piece.lane) REQUIRE(track.lane(*piece.lane));
    // Around any place the pieces are those of the whole composite.
    for (const Piece& near : piecesAround(track, piece.span.start))
      if (near.span.contains(piece.span.start)) CHECK(near == piece);
  }
  for (const Join& join : composite.joins) {
    REQUIRE(join.shape.before >= Frames{});
    REQUIRE(join.shape.after >= Frames{});
    REQUIRE(join.at - join.shape.before >= reached);
    reached = join.at + join.shape.after;
  }
}

/// The plan plays what its pieces and takes hold: every segment inside its clip's material, fades as long as
/// their tables, and the latest end never too early to be looked for.
void requirePlayable(const Session& session, const Track& track) {
  PlainMeter meter;
  const TrackPlan plan = compileTrack(session, track, meter);
  REQUIRE(plan.latestEnd.size() == plan.segments.size());
  Frames latest = -maximumPosition;
  for (std::size_t i = 0; i < plan.segments.size(); ++i) {
    const Segment& segment = plan.segments[i];
    REQUIRE_FALSE(segment.span.empty());
    REQUIRE(static_cast<int>(segment.channels.size()) == track.channels());
    for (const ChannelSource& source : segment.channels) {
      const PoolFile& file = (*session.pool)[static_cast<std::size_t>(source.file)];
      REQUIRE(source.channel < file.channels);
      REQUIRE(segment.span.start >= segment.origin);
      REQUIRE(segment.span.end <= segment.origin + file.length);
    }
    for (const auto* fade : {&segment.fadeIn, &segment.fadeOut})
      if (*fade) REQUIRE((*fade)->span.length().count == std::ssize(*(*fade)->table));
    latest = std::max(latest, segment.span.end);
    REQUIRE(plan.latestEnd[i] == latest);
  }
  // What is copied as it is lies in the material of one segment, bit for bit.
  for (const Verbatim& stretch : verbatimStretches(plan, *session.pool, {{cell}, {cell * 50}}))
    CHECK(std::ranges::any_of(plan.segments, [&](const Segment& segment) {
      return segment.origin == stretch.origin && segment.span.start <= stretch.span.start &&
             segment.span.end >= stretch.span.end;
    }));
}

/// Phrases lie one after the other, and each is found by every place in it.
void requirePhrases(const Editor& editor, const Track& track, const Draw& d) {
  const auto phrases = editor.phrases(track, !d.yes);
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    REQUIRE_FALSE(phrases[i].span.empty());
    if (i > 0) REQUIRE(phrases[i].span.start >= phrases[i - 1].span.end);
    CHECK(phraseAt(phrases, phrases[i].span.start) == &phrases[i]);
    CHECK(phraseAt(phrases, phrases[i].span.end - Frames{1}) == &phrases[i]);
  }
}

/// Whatever is only asked changes nothing, and refuses with a sentence where it cannot answer.
void askAll(const Session& session, const Track& track, const Draw& d) {
  const auto ask = [](const auto& what) {
    try {
      what();
    } catch (const Error& error) {
      CHECK(std::string_view(error.what()).ends_with('.'));
    }
  };
  ask([&] {
    const PickRequest request{.track = track.id, .over = {PickOver::Kind::Span, d.span}, .lane = d.lane};
    checkInvariants(pickOver(session, request, {}, {}).session);
  });
  ask([&] {
    // What can be reached is what is done.
    const Frames reached = reachableBoundary(session, track.id, d.boundary, d.at);
    CHECK(resolve(*moveBoundary(session, track.id, d.boundary, d.at).track(track.id), session.rate)
              .joinAt(reached));
  });
  ask([&] {
    if (slipNotice(session, track.id, d.at)) return;  // it has not all its material now: it goes anywhere
    const auto whole = [&](Frames slip) {
      try {
        return !slipNotice(changePiece(session, track.id, d.at, {.slip = slip}), track.id, d.at);
      } catch (const Error&) {
        return false;
      }
    };
    const Frames wished{cell * (d.n % 9 - 4)};
    const Frames reached = reachableSlip(session, track.id, d.at, wished);
    CHECK(whole(reached));
    // A frame further it would lack some.
    if (reached != wished) CHECK_FALSE(whole(reached + Frames{wished > reached ? 1 : -1}));
  });
  ask([&] {
    const RecordRequest request{d.at, Frames{100L * (d.n % 3)}};
    const RecordSetup setup =
        d.some[0] ? planPickUp(session, request, d.maybe(1, d.span)) : planRecording(session, request);
    CHECK_FALSE(describeRecording(setup, armedTracks(session), session.ruler()).empty());
    Frames at = setup.timeline.start;
    for (const PlannedStretch& stretch : firstTimeRound(setup)) {
      CHECK(stretch.span.start == at);  // nothing is left out between
      at = stretch.span.end;
    }
  });
}

}  // namespace

TEST_CASE(
    "Whatever is edited, in any order: the session is valid, whole, playable, and kept and undone as it is") {
  for (unsigned scene = 1; scene <= (sanitized() ? 24U : 120U); ++scene) {
    Editor editor(scene);
    for (int step = 0; step < 60; ++step) {
      INFO("scene " << scene << ", step " << step);
      const Session before = editor.session;
      const Shared<Track> track = editor.track();
      const TrackId other = editor.track()->id;
      const Draw drawn = editor.draw(*track);
      const int of = editor.below(10);
      const int kind = editor.below(720);
      try {
        Session next;
        if (step < 6) {
          const std::vector<Clip> material = editor.clips(*track, drawn);
          next = addLane(editor.session, track->id, material);
        } else if (of < 3)
          next = editor.takes(*track, drawn);
        else if (of < 7)
          next = editor.composite(*track, drawn, kind % 20);
        else if (of < 8)
          next = editor.tracks(*track, drawn, kind % 16, other);
        else
          next = editor.song(drawn, kind % 12);
        checkInvariants(next);
        editor.session = next;
      } catch (const Error& error) {
        INFO(of << " " << kind % 20 << " " << kind % 16);
        CHECK_THAT(error.what(), !Catch::Contains("damaged"));
      }
      const auto delta = sessionDelta(before, editor.session);
      Session back = applyDelta(editor.session, delta, HistoryStep::Direction::Back);
      back.recording = before.recording;  // what undo leaves alone
      REQUIRE((butForPool(back) == butForPool(before)));
      Session forth = applyDelta(back, delta, HistoryStep::Direction::Forth);
      forth.recording = editor.session.recording;
      REQUIRE((butForPool(forth) == butForPool(editor.session)));
      // Done twice, or taken back before it was done, it does not fit: what it says was there is not.
      const auto refused = [&](const Session& session, HistoryStep::Direction way) {
        return !refusal([&] { applyDelta(session, delta, way); }).empty();
      };
      back.recording = forth.recording;
      if (!(butForPool(back) == butForPool(forth)) && delta.dump().find("order") == std::string::npos)
        CHECK((refused(editor.session, HistoryStep::Direction::Forth) ||
               refused(before, HistoryStep::Direction::Back)));
      if (step % 4 != 3) continue;
      REQUIRE(sessionFromJson(toJson(editor.session)) == editor.session);
      for (const auto& each : editor.session.tracks) {
        requireWhole(editor.session, *each);
        requirePlayable(editor.session, *each);
        requirePhrases(editor, *each, drawn);
        askAll(editor.session, *each, drawn);
      }
    }
  }
}
