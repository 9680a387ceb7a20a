// SPDX-License-Identifier: GPL-3.0-or-later
//
// A piece's slip and gain, wherever they count: in what is rendered, in how far its handles reach, in
// boundaries, joins, the close-up and the session's file. And what the correlation at a join is measured
// over.
#include "core/core_tests.h"

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
