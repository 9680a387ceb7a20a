// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/deliver/take_sheet.h"

#include <array>

#include "core/deliver/played.h"
#include "core/session/picked_parts.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

/// Without what no page can show: control characters, but for line breaks.
std::string printable(std::string text) {
  for (char& c : text)
    if ((static_cast<unsigned char>(c) < 0x20 && c != '\n') || c == 0x7F) c = ' ';
  return text;
}

/// How much of the composite it plays, in per cent.
int shareOf(const ResolvedComposite& composite, LaneNumber lane) {
  std::int64_t all = 0;
  std::int64_t own = 0;
  for (const Piece& piece : composite.pieces) {
    if (isPause(piece)) continue;
    all += piece.span.length().count;
    if (piece.plays(lane)) own += piece.span.length().count;
  }
  return own == 0 ? 0 : static_cast<int>((own * 100 + all / 2) / all);
}

SheetTake takeOf(const Lane& lane, const ResolvedComposite& composite, const Ruler& ruler) {
  SheetTake take{lane.number.value,    lane.colour(),
                 printable(lane.name), lane.setAside,
                 lane.rating,          shareOf(composite, lane.number),
                 printable(lane.note), {}};
  for (const CellNote& cell : lane.cells)
    take.remarks.push_back({positionText(cell.at, ruler), cell.rating, printable(cell.note), false});
  for (const TakeMark& mark : lane.marks)
    take.remarks.push_back({positionText(mark.at, ruler), 0, printable(mark.text), true});
  return take;
}

/// What was noted of that take there.
std::string reasons(const Piece& piece, const Lane* lane) {
  std::string text;
  if (!lane) return text;
  for (const CellNote& cell : lane->cells) {
    if (!piece.span.contains(cell.at)) continue;
    if (cell.chosenBlind) text += ", chosen blind";
    if (cell.rating > 0) text += ", " + ratingDots(cell.rating);
    if (!cell.note.empty()) text += ", " + printable(cell.note);
  }
  return text;
}

const char* wordsFor(ChosenBy who) {
  switch (who) {
    case ChosenBy::Nobody:
      return "newest take";
    case ChosenBy::InPart:
      return "picked in part, else newest take";
    case ChosenBy::Ratings:
      return "by the ratings";
    case ChosenBy::Person:
      break;
  }
  return "by hand";
}

SheetPiece pieceOf(const Piece& piece, const Track& track, const Ruler& ruler) {
  SheetPiece shown;
  shown.span = piece.span;
  shown.from = positionText(piece.span.start, ruler);
  shown.to = positionText(piece.span.end, ruler);
  const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr;
  if (piece.lane) {
    shown.take = piece.lane->value;
    shown.colour = track.colourOf(*piece.lane);
  }
  shown.plays = lane ? std::to_string(lane->number.value) + " " + printable(lane->name) : "silence";
  for (const LaneNumber with : piece.overdubs) shown.plays += " + " + std::to_string(with.value);
  shown.chosen = wordsFor(chosenBy(track, piece));
  shown.chosen += reasons(piece, lane);
  return shown;
}

}  // namespace

TakeSheet takeSheet(const Session& session) {
  const Ruler ruler = session.ruler();
  const TempoChange& tempo = session.tempo.changes().front();
  TakeSheet sheet{printable(session.name),
                  Sentence("Take sheet. %1 Hz, %2 bpm in %3/%4.", session.rate.hertz,
                           Decimal{tempo.beatsPerMinute, 2}, tempo.meter.beats, tempo.meter.unit)
                      .english(),
                  {}};
  for (const auto& track : session.tracks) {
    if (track->backing || track->lanes.empty()) continue;
    const ResolvedComposite composite = resolve(*track, session.rate);
    SheetTrack shown{printable(track->name), {}, {}};
    for (const auto& lane : track->lanes) shown.takes.push_back(takeOf(*lane, composite, ruler));
    for (const Piece& piece : composite.pieces)
      if (!isPause(piece)) shown.pieces.push_back(pieceOf(piece, *track, ruler));
    sheet.tracks.push_back(std::move(shown));
  }
  return sheet;
}

std::string ratingDots(int rating) {
  std::string text;
  for (int i = 0; i < 5 && rating > 0; ++i) text += i < rating ? "\u25CF" : "\u25CB";
  return text;
}

PaperColour paperColour(int colour) {
  // Spaced in lightness as well as in hue; the number beside tells them apart without colour.
  static constexpr std::array<PaperColour, 8> palette{{{0x1f, 0x5f, 0x8b},
                                                       {0xb0, 0x62, 0x1c},
                                                       {0x7a, 0x4a, 0x86},
                                                       {0x5a, 0x7a, 0x1f},
                                                       {0x0f, 0x7f, 0x7a},
                                                       {0xa8, 0x48, 0x5f},
                                                       {0x8a, 0x6d, 0x1f},
                                                       {0x4a, 0x5a, 0x9c}}};
  if (colour <= 0) return {0xcf, 0xc3, 0xb2};
  return palette[static_cast<std::size_t>(colour - 1) % palette.size()];
}

}  // namespace yewdrift
