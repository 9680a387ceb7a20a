// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a take sheet tells of a session, before it is drawn.
#include "core/core_tests.h"

#include "core/deliver/take_sheet.h"

namespace {

constexpr TrackId sheetTrack{1};

/// At 120 bpm in 4/4 a beat is 24,000 frames: takes of five bars.
Session sheetSong() {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  session.name = "The ferry\tat\x7fnight";
  for (const char* file : {"audio/a.wav", "audio/b.wav", "audio/c.wav"})
    session = addFileAsLane(session, sheetTrack, {file, 1, {480000}}, {}, "take");
  return session;
}

}  // namespace

TEST_CASE("A sheet has the tracks that were recorded, and neither backing tracks nor empty ones") {
  Session session = sheetSong();
  session = addTrack(session, "Empty", microphonesFor(1));
  session = addTrack(session, "Harp", microphonesFor(1), true);
  session = addFileAsLane(session, session.tracks.back()->id, {"audio/d.wav", 1, {480000}}, {}, "harp");
  session = addTrack(session, "Drum", microphonesFor(1));
  session = addFileAsLane(session, session.tracks.back()->id, {"audio/e.wav", 1, {480000}}, {}, "hit");
  const TakeSheet sheet = takeSheet(session);
  REQUIRE(sheet.tracks.size() == 2);
  CHECK(sheet.tracks[0].name == "Viola");
  CHECK(sheet.tracks[1].name == "Drum");
  CHECK(sheet.name == "The ferry at night");
  CHECK(sheet.about == "Take sheet. 48000 Hz, 120 bpm in 4/4.");
  CHECK(takeSheet(Session{}).tracks.empty());
}

TEST_CASE("A sheet tells of each take how much of the composite it plays, to the nearest per cent") {
  Session session = sheetSong();
  const auto percent = [&] {
    std::vector<int> shares;
    const TakeSheet sheet = takeSheet(session);
    for (const SheetTake& take : sheet.tracks.front().takes) shares.push_back(take.percent);
    return shares;
  };
  using Shares = std::vector<int>;
  CHECK(percent() == Shares{0, 0, 100});
  session = pick(session, sheetTrack, {{0}, {2400}}, LaneNumber{1});  // half a per cent
  CHECK(percent() == Shares{1, 0, 100});
  session = pick(session, sheetTrack, {{0}, {2399}}, LaneNumber{2});
  CHECK(percent() == Shares{0, 0, 100});
  session = pick(session, sheetTrack, {{0}, {120000}}, LaneNumber{1});
  session = overdub(session, sheetTrack, {{0}, {48000}}, LaneNumber{2});
  CHECK(percent() == Shares{25, 10, 75});
  // Silence that somebody chose is a part of it, what nobody played is none.
  session = pick(session, sheetTrack, {{0}, {240000}}, std::nullopt);
  CHECK(percent() == Shares{0, 0, 50});
  session = setLaneAside(cutLane(session, sheetTrack, LaneNumber{3}, {{240000}, {360000}}), sheetTrack,
                         LaneNumber{2}, true);
  session = setLaneAside(session, sheetTrack, LaneNumber{1}, true);
  CHECK(percent() == Shares{0, 0, 33});
}

TEST_CASE("A sheet tells piece by piece what plays, who chose it, and what was noted of it there") {
  Session session = sheetSong();
  session = pick(session, sheetTrack, {{96000}, {192000}}, LaneNumber{1});
  session = overdub(session, sheetTrack, {{96000}, {192000}}, LaneNumber{2});
  session = pick(session, sheetTrack, {{192000}, {288000}}, std::nullopt);
  const auto phrase = [](std::int64_t from, std::int64_t to) {
    return Phrase{{{from}, {to}}, true, {{from}, {to}}};
  };
  session = changeCell(session, sheetTrack, LaneNumber{1}, phrase(96000, 192000), 4, "warm\x01 end");
  session = changeCell(session, sheetTrack, LaneNumber{1}, phrase(192000, 288000), 1, "elsewhere");
  session = noteChosenBlind(session, sheetTrack, LaneNumber{3}, phrase(288000, 384000));
  session = markTake(session, sheetTrack, LaneNumber{3}, {24000}, "cough");
  session = changeLane(session, sheetTrack, LaneNumber{1}, {.name = "low\nwind", .rating = 3, .palette = 7});
  Piece rough;
  rough.span = {{384000}, {432000}};
  rough.lane = LaneNumber{2};
  session = playRough(session, sheetTrack, {rough});
  const SheetTrack sheet = takeSheet(session).tracks.front();
  REQUIRE(sheet.pieces.size() == 6);
  const auto is = [&](std::size_t i, const char* from, const char* to, int take, int colour,
                      const char* plays, const char* chosen) {
    INFO(i);
    const SheetPiece& piece = sheet.pieces[i];
    CHECK(piece.from == from);
    CHECK(piece.to == to);
    CHECK(piece.take == take);
    CHECK(piece.colour == colour);
    CHECK(piece.plays == plays);
    CHECK(piece.chosen == chosen);
  };
  is(0, "1|1", "2|1", 3, 3, "3 take", "newest take");
  is(1, "2|1", "3|1", 1, 7, "1 low\nwind + 2", "by hand, \u25CF\u25CF\u25CF\u25CF\u25CB, warm  end");
  is(2, "3|1", "4|1", 0, 0, "silence", "by hand");
  is(3, "4|1", "5|1", 3, 3, "3 take", "newest take, chosen blind");
  is(4, "5|1", "5|3", 2, 2, "2 take", "by the ratings");
  is(5, "5|3", "6|1", 3, 3, "3 take", "newest take");
  const SheetTake& third = sheet.takes[2];
  REQUIRE(third.remarks.size() == 2);
  CHECK_FALSE(third.remarks[0].mark);
  CHECK(third.remarks[1].mark);
  CHECK(third.remarks[1].place == "1|2");
  CHECK(third.remarks[1].text == "cough");
  CHECK(sheet.takes[0].rating == 3);
  CHECK(sheet.takes[0].colour == 7);
}
