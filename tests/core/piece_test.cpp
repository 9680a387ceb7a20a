// SPDX-License-Identifier: GPL-3.0-or-later
//
// A piece's slip and gain, wherever they count: in what is rendered, in how far its handles reach, in
// boundaries, joins, the close-up and the session's file. And what the correlation at a join is measured
// over.
#include <catch2/catch.hpp>
#include <cmath>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/join_close_up.h"
#include "core/plan/playback_plan.h"
#include "core/session/resolved_composite.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr std::int64_t length = 20000;

Piece pieceOf(Span span, int lane, std::int64_t slip = 0, double gain = 0.0) {
  Piece piece;
  piece.span = span;
  piece.lane = LaneNumber{lane};
  piece.slip = Frames{slip};
  piece.gain = {gain};
  return piece;
}

/// Two takes, the first heard before frame 10000 and the second from there on.
struct TwoPieces {
  TwoPieces(const Samples& first, const Samples& second, const Piece& left, const Piece& right)
      : folder(sessionWithLanes(temporary / "s", {first, second})), session(folder.session()) {
    session.tracks.front().edit().composite.picks = SharedSequence<Piece>({left, right});
  }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }
  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
};

float greatest(const Samples& samples, std::size_t from, std::size_t to) {
  float peak = 0.0F;
  for (std::size_t i = from; i < to; ++i) peak = std::max(peak, std::abs(samples[i]));
  return peak;
}

/// The correlation that the join at frame 10000 plays with.
float correlationOf(const SessionFolder& folder, const Session& session) {
  FileCorrelationMeter meter(folder.disk());
  meter.setFiles(*session.pool);
  const auto plan = Compiler(meter).compile(session, {});
  std::optional<float> found;
  for (const Segment& segment : plan->tracks.front()->segments)
    if (segment.fadeIn && segment.fadeIn->matched && segment.fadeIn->span.contains({10000}))
      found = segment.fadeIn->correlation;
  REQUIRE(found);
  return *found;
}

}  // namespace

TEST_CASE("A piece plays slipped and with its gain, and nothing else does") {
  const Samples first = noise(length, 1);
  const Samples second = noise(length, 2);
  const TwoPieces two(first, second, pieceOf({{1000}, {10000}}, 1, 300, -6.0),
                      pieceOf({{10000}, {19000}}, 2, -200, 4.0));
  const Samples out = renderTrack(two.folder, two.session, "Viola", Span{{0}, {length}}).front();
  const auto quieter = static_cast<float>(std::pow(10.0, -6.0 / 20.0));
  const auto louder = static_cast<float>(std::pow(10.0, 4.0 / 20.0));
  for (std::size_t i = 1500; i < 9500; ++i) REQUIRE(out[i] == Approx(quieter * first[i - 300]).margin(1e-6));
  for (std::size_t i = 10500; i < 18500; ++i)
    REQUIRE(out[i] == Approx(louder * second[i + 200]).margin(1e-6));
  // Outside the picks the newest take plays as it is.
  for (std::size_t i = 0; i < 500; ++i) REQUIRE(out[i] == second[i]);
}

TEST_CASE("Slip moves the handles: a join shortens to what the slipped take has left") {
  // The first take ends, slipped, 100 frames behind the boundary; the second begins 60 before it.
  const TwoPieces two(noise(9800, 1), noise(length, 2), pieceOf({{1000}, {10000}}, 1, 300),
                      pieceOf({{10000}, {19000}}, 2, 9940));
  const ResolvedComposite composite = resolve(two.track(), two.session.rate);
  const Join* const join = composite.joinAt({10000});
  REQUIRE(join);
  CHECK(join->shape.after == Frames{100});
  CHECK(join->shape.before == Frames{60});
}

TEST_CASE("A boundary goes as far as the slipped take reaches, not as far as it would unslipped") {
  const TwoPieces two(noise(12000, 1), noise(length, 2), pieceOf({{1000}, {10000}}, 1, 500),
                      pieceOf({{10000}, {19000}}, 2, 4000));
  const TrackId id = two.track().id;
  CHECK(reachableBoundary(two.session, id, {10000}, {18000}) == Frames{12500});
  CHECK(reachableBoundary(two.session, id, {10000}, {2000}) == Frames{4000});
  const Session moved = moveBoundary(two.session, id, {10000}, {12000});
  const ResolvedComposite composite = resolve(*moved.tracks.front(), moved.rate);
  REQUIRE(composite.pieceAt({11999}));
  CHECK(composite.pieceAt({11999})->lane == LaneNumber{1});
  CHECK(composite.pieceAt({11999})->slip == Frames{500});
  CHECK(composite.pieceAt({12000})->lane == LaneNumber{2});
  CHECK(composite.pieceAt({12000})->slip == Frames{4000});
  const Samples out = renderTrack(two.folder, moved, "Viola", Span{{0}, {length}}).front();
  const Samples first = noise(12000, 1);
  for (std::size_t i = 10000; i < 11500; ++i) REQUIRE(out[i] == first[i - 500]);
}

TEST_CASE("Where a slipped take has been cut, a boundary pulls its window out, in the take's own time") {
  const TwoPieces two(noise(length, 1), noise(length, 2), pieceOf({{1000}, {10000}}, 1, 500),
                      pieceOf({{10000}, {19000}}, 2, 4000));
  const TrackId id = two.track().id;
  // Take 1 sounds until 10,000 of the session only, take 2 from there on; both have handles.
  Session cut = pullWindow(two.session, id, {1}, {{500}, {9500}});
  cut = pullWindow(cut, id, {2}, {{6000}, {15000}});
  REQUIRE(cut.track(id)->lane({1})->clips[0].window == Span{{500}, {9500}});
  const Session right = moveBoundary(cut, id, {10000}, {11000});
  CHECK(right.track(id)->lane({1})->clips[0].window == Span{{500}, {10500}});
  CHECK(right.track(id)->lane({2})->clips[0].window == Span{{6000}, {15000}});
  const Session left = moveBoundary(cut, id, {10000}, {9000});
  CHECK(left.track(id)->lane({1})->clips[0].window == Span{{500}, {9500}});
  CHECK(left.track(id)->lane({2})->clips[0].window == Span{{5000}, {15000}});
}

TEST_CASE("Pieces of one lane that differ in slip or gain are not one, and have a join") {
  const Samples take = noise(length, 1);
  for (const auto& [slip, gain] : {std::pair{0, -3.0}, {7, 0.0}}) {
    const TwoPieces two(take, noise(length, 2), pieceOf({{1000}, {10000}}, 1),
                        pieceOf({{10000}, {19000}}, 1, slip, gain));
    const ResolvedComposite composite = resolve(two.track(), two.session.rate);
    CHECK(composite.joinAt({10000}));
    const Samples out = renderTrack(two.folder, two.session, "Viola", Span{{0}, {length}}).front();
    const auto level = static_cast<float>(std::pow(10.0, gain / 20.0));
    for (std::size_t i = 1500; i < 9500; ++i) REQUIRE(out[i] == take[i]);
    for (std::size_t i = 10500; i < 18500; ++i)
      REQUIRE(out[i] == Approx(level * take[i - static_cast<std::size_t>(slip)]).margin(1e-6));
  }
  const TwoPieces alike(take, noise(length, 2), pieceOf({{1000}, {10000}}, 1, 7, -3.0),
                        pieceOf({{10000}, {19000}}, 1, 7, -3.0));
  CHECK_FALSE(resolve(alike.track(), alike.session.rate).joinAt({10000}));
}

TEST_CASE("The close-up shows the takes where the pieces play them, and on beyond where they were cut") {
  const Samples first = noise(length, 1);
  const Samples second = noise(length, 2);
  TwoPieces two(first, second, pieceOf({{1000}, {10000}}, 1, 300), pieceOf({{10000}, {19000}}, 2, -200));
  const TrackId id = two.track().id;
  for (const int lane : {1, 2}) two.session = nudgeLane(two.session, id, LaneNumber{lane}, Frames{500});
  // Of each only what plays at the join is left.
  two.session = cutLane(two.session, id, LaneNumber{1}, {{9700}, {10400}});
  two.session = cutLane(two.session, id, LaneNumber{2}, {{9000}, {10200}});
  FileSampleSource source(two.folder.disk(), *two.session.pool);
  const JoinCloseUp shown = closeUp(two.session, two.track(), {10000}, {{9000}, {11000}}, source);
  REQUIRE(shown.outgoing.samples->size() == 2000);
  REQUIRE(shown.incoming.samples->size() == 2000);
  for (std::size_t i = 0; i < 2000; ++i) {
    REQUIRE((*shown.outgoing.samples)[i] == first[9000 + i - 300 - 500]);
    REQUIRE((*shown.incoming.samples)[i] == second[9000 + i + 200 - 500]);
  }
}

TEST_CASE("Slip and gain of a piece are in the session's file") {
  const TemporaryFolder temporary;
  Session kept;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(length, 1), noise(length, 2)});
    kept = folder.session();
    Piece piece = pieceOf({{1000}, {10000}}, 1, -321, -4.25);
    piece.overdubs = {LaneNumber{2}};
    kept.tracks.front().edit().composite.picks = SharedSequence<Piece>({piece});
    folder.commit("Slip", kept);
  }
  const SessionFolder folder = SessionFolder::open(temporary / "s", SessionFolder::Access::Read);
  const Piece& piece = folder.session().tracks.front()->composite.picks[0];
  CHECK(piece.slip == Frames{-321});
  CHECK(piece.gain.value == -4.25);
  CHECK(piece.overdubs == std::vector{LaneNumber{2}});
  CHECK(folder.session() == kept);
}

TEST_CASE("Everything of pieces, joins and composites is in the session's file, and undo gives it back") {
  const TemporaryFolder temporary;
  Session before;
  Session kept;
  {
    SessionFolder folder = sessionWithLanes(temporary / "s", {noise(length, 1), noise(length, 2)});
    before = folder.session();
    const TrackId id = before.tracks.front()->id;
    kept = pick(before, id, {{1000}, {9000}}, LaneNumber{1});
    kept = splitPiece(kept, id, {4000});
    kept = changePiece(kept, id, {2000}, {.level = LevelLine{{{1500}, {-3.0}}, {{1600}, {2.5}}}});
    kept = setJoin(kept, id, {1000}, {{11}, {22}, Curve::S, -0.25}, true);
    kept = settleJoin(kept, id, {1000}, true);
    kept = settleJoin(kept, id, {9000}, true);
    kept = setEndFade(kept, id, CompositeEnd::Start, {{480}, Curve::S, 0.5});
    kept = setEndFade(kept, id, CompositeEnd::End, {{960}, Curve::EqualGain, -1.0});
    kept = keepComposite(kept, id, "Calm");
    kept = setEndFade(kept, id, CompositeEnd::Start, {});
    kept = pick(kept, id, {{2000}, {3000}}, std::nullopt);
    folder.commit("All of it", kept);
  }
  SessionFolder folder = SessionFolder::open(temporary / "s", SessionFolder::Access::Write);
  CHECK(folder.session() == kept);
  const Track& track = *folder.session().tracks.front();
  CHECK(track.composite.fadeOut == EndFade{{960}, Curve::EqualGain, -1.0});
  CHECK(compositeNamed(track, "Calm").fadeIn == EndFade{{480}, Curve::S, 0.5});
  CHECK(compositeNamed(track, "Calm").joins[0].shape == JoinShape{{11}, {22}, Curve::S, -0.25});
  folder.commit("Use the other", useComposite(folder.session(), track.id, "Calm"));
  const Session used = folder.session();
  folder.editHistory().undo();
  CHECK(folder.session() == kept);
  folder.editHistory().undo();
  CHECK(folder.session() == before);
  folder.editHistory().redo();
  CHECK(folder.session() == kept);
  folder.editHistory().redo();
  CHECK(folder.session() == used);
}

TEST_CASE(
    "A split changes no sample; a line rides its piece and no other; the composite fades at its ends only "
    "where it is to") {
  const Samples first = noise(length, 1);
  const TwoPieces two(first, noise(length, 2), pieceOf({{1000}, {10000}}, 1), pieceOf({{10000}, {19000}}, 2));
  const TrackId id = two.track().id;
  const auto render = [&](const Session& session) {
    return renderTrack(two.folder, session, "Viola", Span{{0}, {length}}).front();
  };
  const Samples plain = render(two.session);
  Session session = splitPiece(two.session, id, {5000});
  session = setJoin(session, id, {5000}, {{900}, {700}, Curve::EqualPower, 0.8});
  CHECK(render(session) == plain);

  const LevelLine line{{{2000}, {0.0}}, {{3000}, {-12.0}}, {{8000}, {-6.0}}};
  const Samples ridden = render(changePiece(session, id, {2000}, {.level = line}));
  for (std::size_t i = 1500; i < 4100; ++i)
    REQUIRE(ridden[i] ==
            Approx(plain[i] * factorOf(levelAt(line, {static_cast<std::int64_t>(i)}))).margin(1e-6));
  for (std::size_t i = 5800; i < length; ++i) REQUIRE(ridden[i] == plain[i]);

  session = setEndFade(two.session, id, CompositeEnd::Start, {{800}, Curve::EqualGain, 0.0});
  session = setEndFade(session, id, CompositeEnd::End, {{600}, Curve::EqualPower, 0.0});
  const Samples faded = render(session);
  for (std::size_t i = 0; i < 800; ++i)
    REQUIRE(faded[i] == Approx(plain[i] * (static_cast<float>(i) + 0.5F) / 800.0F).margin(1e-6));
  for (std::size_t i = 800; i < length - 600; ++i) REQUIRE(faded[i] == plain[i]);
  for (std::size_t i = 0; i < 600; ++i) {
    const double x = (static_cast<double>(i) + 0.5) / 600.0;
    REQUIRE(faded[length - 600 + i] ==
            Approx(plain[length - 600 + i] * std::cos(x * M_PI / 2.0)).margin(1e-6));
  }
  // Bent, what comes in is there early, and what goes stays long: the one is the other's mirror.
  session = setEndFade(session, id, CompositeEnd::Start, {{600}, Curve::EqualGain, 1.0});
  session = setEndFade(session, id, CompositeEnd::End, {{600}, Curve::EqualGain, 1.0});
  const Samples bent = render(session);
  for (std::size_t i = 0; i < 600; ++i) {
    const double x = (static_cast<double>(i) + 0.5) / 600.0;
    REQUIRE(bent[i] == Approx(plain[i] * std::pow(x, 1.0 / 3.0)).margin(1e-6));
    REQUIRE(bent[length - 1 - i] == Approx(plain[length - 1 - i] * std::pow(x, 1.0 / 3.0)).margin(1e-6));
  }
}

TEST_CASE("The correlation at a join is that of what is faded, slip included") {
  // The second take is the first, 250 frames later.
  const Samples first = noise(length, 1);
  Samples second(length, 0.0F);
  std::copy(first.begin(), first.end() - 250, second.begin() + 250);
  const auto between = [&](std::int64_t leftSlip, std::int64_t rightSlip) {
    const TwoPieces two(first, second, pieceOf({{1000}, {10000}}, 1, leftSlip),
                        pieceOf({{10000}, {19000}}, 2, rightSlip));
    return correlationOf(two.folder, two.session);
  };
  CHECK(between(0, -250) == Approx(1.0).margin(1e-3));
  CHECK(between(250, 0) == Approx(1.0).margin(1e-3));
  CHECK(std::abs(between(0, 0)) < 0.2F);
  CHECK(std::abs(between(0, 250)) < 0.2F);
}

TEST_CASE("Takes at another pitch have nothing in common, and plain ones have where the pitches cancel out") {
  const Samples played = noise(length, 7);
  TwoPieces two(played, played, pieceOf({{0}, {10000}}, 1), pieceOf({{10000}, {length}}, 2));
  const auto pitched = [&](double left, double right, double lane) {
    Session session = two.session;
    Track& track = session.tracks.front().edit();
    std::vector<Piece> pieces(track.composite.picks.begin(), track.composite.picks.end());
    pieces[0].pitch = {left};
    pieces[1].pitch = {right};
    track.composite.picks = SharedSequence<Piece>(pieces);
    for (auto& each : track.lanes) each.edit().pitch = {lane};
    return correlationOf(two.folder, session);
  };
  CHECK(pitched(0.0, 0.0, 0.0) == Approx(1.0).margin(1e-3));
  CHECK(pitched(50.0, 50.0, -50.0) == Approx(1.0).margin(1e-3));
  CHECK(pitched(50.0, 0.0, 0.0) == 0.0F);
  CHECK(pitched(0.0, 50.0, 0.0) == 0.0F);
  CHECK(pitched(0.0, 0.0, 50.0) == 0.0F);
}

TEST_CASE("The correlation at a join is measured over all microphones together") {
  const TemporaryFolder temporary;
  Session session;
  SessionFolder folder = SessionFolder::create(temporary / "s", session);
  session = addTrack(session, "Drum", microphonesFor(2));
  const TrackId id = session.tracks.front()->id;
  const Samples one = noise(length, 1);
  const Samples other = noise(length, 2);
  Samples inverted(other);
  for (float& sample : inverted) sample = -sample;
  // The first microphone hears the same in both takes, the second the opposite: together nothing in common.
  for (const auto& [name, second] : {std::pair{"audio/a.wav", other}, {"audio/b.wav", inverted}}) {
    writeWave((folder.path() / name), {one, second});
    session = addFileAsLane(session, id, {name, 2, {length}}, {}, "");
  }
  session = pick(session, id, {{1000}, {10000}}, LaneNumber{1});
  CHECK(std::abs(correlationOf(folder, session)) < 0.1F);
}

TEST_CASE("Samples off a format's grid are rounded to its nearest step, half a step at the most") {
  const TemporaryFolder temporary;
  const Samples signal = sine(9000, 997.0, 48000.0, 0.37F, 0.1);
  for (const auto& [format, steps] :
       {std::pair{SampleFormat::Pcm16, 32768.0}, {SampleFormat::Pcm24, 8388608.0}}) {
    writeWave(temporary / "a.wav", {signal}, 48000, format);
    const Samples read = readWave(temporary / "a.wav").front();
    REQUIRE(read.size() == signal.size());
    bool between = false;
    for (std::size_t i = 0; i < signal.size(); ++i) {
      REQUIRE(std::abs(static_cast<double>(read[i]) - signal[i]) <= 0.5 / steps + 1e-12);
      REQUIRE(read[i] * steps == std::rint(read[i] * steps));
      between = between || read[i] != signal[i];
    }
    CHECK(between);
  }
  CHECK(greatest(signal, 0, 9000) > 0.36F);
}
