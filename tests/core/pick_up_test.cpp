// SPDX-License-Identifier: GPL-3.0-or-later
//
// Picking up over and over against a second session, in which only what a person edited is done. Without
// files.
#include "core/edit/pick_up.h"

#include "core/core_tests.h"

namespace {

constexpr TrackId slipTrack{1};
constexpr std::int64_t slipCell = 1000;  // the grid on which edges meet
constexpr int slipCells = 40;

class PickedUpByChance {
 public:
  explicit PickedUpByChance(unsigned seed) : random_(seed) {
    session_ = addTrack(Session{}, "Viola", microphonesFor(1));
    session_ = addPoolFile(std::move(session_), {"audio/a.wav", 1, {slipCell * slipCells}});
    for (int lane = 0; lane < 3; ++lane) session_ = addLane(std::move(session_), slipTrack, {clip(cells())});
    asked_ = session_;
    for (int i = upTo(3); i > 0; --i) edit();
    pickUp_ = {session_, {slipTrack}};
  }

  void slip() {
    for (int attempt = 1 + upTo(3); attempt > 0; --attempt) {
      if (upTo(2) == 0) edit();  // while it is recorded
      record();
      if (upTo(2) == 0) edit();  // between two attempts
      takeBack(upTo(slipCells - 1));
      checkFrom(takenBackFrom_);
      pickUp_.begins(session_, {slipTrack});
    }
    takeBack(0);
    checkFrom(0);
  }

 private:
  int upTo(int most) { return std::uniform_int_distribution<int>(0, most)(random_); }
  Span cells() {
    const int from = upTo(slipCells - 1);
    return {Frames{slipCell * from}, Frames{slipCell * (from + 1 + upTo(slipCells - 1 - from))}};
  }
  static Clip clip(Span window) { return {{}, {slipCell * slipCells}, window, {{0, 0}}}; }

  /// In both sessions; of takes that were there before it slipped.
  void edit() {
    const Span span = cells();
    std::optional<LaneNumber> lane;
    if (upTo(4) != 0) lane = LaneNumber{1 + upTo(2)};
    if (lane && !asked_.track(slipTrack)->lane(*lane)->clips.front().window.overlaps(span)) return;
    for (Session* const each : {&session_, &asked_}) *each = pick(std::move(*each), slipTrack, span, lane);
  }

  /// From where the slip was taken back to some end, or nothing at all.
  void record() {
    if (upTo(3) == 0) return;
    pickUp_.follow(session_);
    const Span window{Frames{slipCell * takenBackFrom_},
                      Frames{slipCell * (takenBackFrom_ + 1 + upTo(slipCells - 1 - takenBackFrom_))}};
    session_ = addLane(std::move(session_), slipTrack, {clip(window)});
    const LaneNumber lane{session_.track(slipTrack)->lanesMade};
    if (upTo(3) != 0) session_ = pick(std::move(session_), slipTrack, window, lane);
    pickUp_.recorded({{slipTrack, lane}}, session_);
  }

  void takeBack(int cell) {
    takenBackFrom_ = cell;
    pickUp_.follow(session_);
    const Session before = session_;
    session_ = pickUp_.takenBack(std::move(session_), Frames{slipCell * cell});
    const auto was = resolve(*before.track(slipTrack), session_.rate);
    const auto is = resolve(*session_.track(slipTrack), session_.rate);
    for (int at = 0; at < cell; ++at) CHECK(playedIn(is, at) == playedIn(was, at));
  }

  static std::optional<Piece> playedIn(const ResolvedComposite& composite, int cell) {
    const Piece* const piece = composite.pieceAt(Frames{slipCell * cell + slipCell / 2});
    if (!piece || (!piece->lane && !piece->picked)) return std::nullopt;
    Piece heard = *piece;
    heard.span = {};
    heard.split = heard.picked = false;  // depend on what plays beside it
    return heard;
  }

  void checkFrom(int cell) {
    const auto is = resolve(*session_.track(slipTrack), session_.rate);
    const auto asked = resolve(*asked_.track(slipTrack), session_.rate);
    for (int at = cell; at < slipCells; ++at) {
      INFO("cell " << at);
      CHECK(playedIn(is, at) == playedIn(asked, at));
    }
  }

  std::mt19937 random_;
  Session session_;
  Session asked_;
  PickUp pickUp_;
  int takenBackFrom_ = upTo(slipCells - 1);
};

}  // namespace

TEST_CASE("However often it is picked up, what an attempt played over comes back, and edits stay") {
  const auto seed = GENERATE(range(0U, 400U));
  INFO("seed " << seed);
  PickedUpByChance(seed).slip();
}

TEST_CASE("An attempt that holds the new start is kept up to there; one after it is set aside") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session = addPoolFile(std::move(session), {"audio/a.wav", 1, {1000}});
  PickUp pickUp(session, {slipTrack});
  for (const Span window : {Span{{100}, {600}}, Span{{500}, {800}}, Span{{500}, {700}}}) {
    session = addLane(std::move(session), slipTrack, {{{}, {1000}, window, {{0, 0}}}});
    pickUp.recorded({{slipTrack, {session.track(slipTrack)->lanesMade}}}, session);
  }
  session = setRecordInto(std::move(session), slipTrack, LaneNumber{3});
  const Session back = pickUp.takenBack(session, Frames{400});
  const Track& track = *back.track(slipTrack);
  CHECK(track.lane({1})->clips.front().window == Span{{100}, {400}});
  CHECK_FALSE(track.lane({1})->setAside);
  CHECK(track.lane({2})->setAside);
  CHECK_FALSE(track.lane({3})->setAside);  // a person chose it to be recorded into
  // What was set aside stays whole, however often it is taken back.
  CHECK(pickUp.takenBack(back, Frames{600}).track(slipTrack)->lane({2})->clips == track.lane({2})->clips);
  CHECK(pickUp.takenBack(session, Frames{500}).track(slipTrack)->lane({2})->setAside);
  CHECK(pickUp.takenBack(session, Frames{900}) == session);
  // A track that was removed meanwhile is none to take anything back in.
  Session gone = session;
  gone.tracks.clear();
  pickUp.follow(gone);
  CHECK(pickUp.takenBack(gone, Frames{400}) == gone);
}
