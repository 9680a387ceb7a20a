// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/deliver/take_sheet.h"

#include <array>
#include <sstream>

#include "core/deliver/played.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

/// Spaced in lightness as well as in hue; the number beside tells them apart without colour.
constexpr std::array<const char*, 8> palette{"#1f5f8b", "#c8772c", "#7a4a86", "#6b8f2a",
                                             "#0f7f7a", "#a8485f", "#8a6d1f", "#4a5a9c"};

constexpr const char* style = R"(
@page { margin: 16mm; }
body { font: 11pt/1.4 "Open Sans", "DejaVu Sans", sans-serif; color: #2a2018; margin: 2em auto; max-width: 60em; }
h1 { font-size: 1.7em; margin: 0; } h2 { font-size: 1.25em; margin: 1.6em 0 .4em; break-after: avoid; }
p.about { color: #5c4a3a; margin: .2em 0 1em; }
table { border-collapse: collapse; width: 100%; margin: .4em 0; }
th { text-align: left; font-weight: 600; border-bottom: 2px solid #8a7560; }
th, td { padding: .2em .6em .2em 0; vertical-align: top; } td { border-bottom: 1px solid #ddd0bd; }
tr { break-inside: avoid; }
.number { font-variant-numeric: tabular-nums; white-space: nowrap; }
svg { width: 100%; height: auto; margin: .3em 0; }
)";

std::string escaped(const std::string& text) {
  std::string safe;
  for (const char c : text) switch (c) {
      case '&':
        safe += "&amp;";
        break;
      case '<':
        safe += "&lt;";
        break;
      case '>':
        safe += "&gt;";
        break;
      case '"':
        safe += "&quot;";
        break;
      default:
        safe += c;
    }
  return safe;
}

std::string stars(int rating) {
  std::string text;
  for (int i = 0; i < 5 && rating > 0; ++i) text += i < rating ? "\u25CF" : "\u25CB";
  return text;
}

class Sheet {
 public:
  explicit Sheet(const Session& session) : session_(session), ruler_(session.ruler()) {}

  std::string html() {
    out_ << "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>"
         << escaped(session_.name) << " \u2013 take sheet</title>\n<style>" << style
         << "</style>\n</head>\n<body>\n";
    const TempoChange& tempo = session_.tempo.changes().front();
    out_ << "<h1>" << escaped(session_.name) << "</h1>\n<p class=\"about\">Take sheet. "
         << session_.rate.hertz << " Hz, " << tempo.beatsPerMinute << " bpm in " << tempo.meter.beats << "/"
         << tempo.meter.unit << ".</p>\n";
    for (const auto& track : session_.tracks)
      if (!track->backing && !track->lanes.empty()) describe(*track);
    out_ << "</body>\n</html>\n";
    return out_.str();
  }

 private:
  void describe(const Track& track) {
    const ResolvedComposite composite = resolve(track, session_.rate);
    out_ << "<h2>" << escaped(track.name) << "</h2>\n";
    drawMap(track, composite);
    out_ << "<table>\n<tr><th>Take</th><th>Name</th><th>Rating</th><th>Chosen</th><th>Note</th></tr>\n";
    for (const auto& lane : track.lanes) {
      out_ << "<tr><td class=\"number\">" << lane->number.value << "</td><td>" << escaped(lane->name)
           << (lane->setAside ? " (set aside)" : "") << "</td><td>" << stars(lane->rating)
           << "</td><td class=\"number\">" << share(composite, lane->number) << "</td><td>"
           << escaped(lane->note);
      for (const CellNote& cell : lane->cells) {
        out_ << "<br><span class=\"number\">" << barBeatText(cell.at, ruler_) << "</span> "
             << stars(cell.rating);
        if (!cell.note.empty()) out_ << " " << escaped(cell.note);
      }
      for (const TakeMark& mark : lane->marks)
        out_ << "<br><span class=\"number\">" << barBeatText(mark.at, ruler_) << "</span> mark"
             << (mark.text.empty() ? "" : ": ") << escaped(mark.text);
      out_ << "</td></tr>\n";
    }
    out_ << "</table>\n";
    describePieces(track, composite);
  }

  /// How much of the composite it plays.
  static std::string share(const ResolvedComposite& composite, LaneNumber lane) {
    std::int64_t all = 0;
    std::int64_t own = 0;
    for (const Piece& piece : composite.pieces) {
      if (isPause(piece)) continue;
      all += piece.span.length().count;
      if (piece.plays(lane)) own += piece.span.length().count;
    }
    return own == 0 ? "" : std::to_string((own * 100 + all / 2) / all) + " %";
  }

  void describePieces(const Track& track, const ResolvedComposite& composite) {
    out_ << "<table>\n<tr><th>From</th><th>To</th><th>Plays</th><th>Chosen</th></tr>\n";
    for (const Piece& piece : composite.pieces) {
      if (isPause(piece)) continue;
      out_ << "<tr><td class=\"number\">" << barBeatText(piece.span.start, ruler_)
           << "</td><td class=\"number\">" << barBeatText(piece.span.end, ruler_) << "</td><td>";
      const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr;
      if (lane)
        out_ << lane->number.value << " " << escaped(lane->name);
      else
        out_ << "silence";
      for (const LaneNumber with : piece.overdubs) out_ << " + " << with.value;
      out_ << "</td><td>"
           << (!piece.picked ? "newest take"
               : piece.rough ? "by the ratings"
                             : "by hand")
           << why(piece, lane) << "</td></tr>\n";
    }
    out_ << "</table>\n";
  }

  /// What was noted of that take there.
  static std::string why(const Piece& piece, const Lane* lane) {
    std::string text;
    if (!lane) return text;
    for (const CellNote& cell : lane->cells) {
      if (!piece.span.contains(cell.at)) continue;
      if (cell.chosenBlind) text += ", chosen blind";
      if (cell.rating > 0) text += ", " + stars(cell.rating);
      if (!cell.note.empty()) text += ", " + escaped(cell.note);
    }
    return text;
  }

  void drawMap(const Track& track, const ResolvedComposite& composite) {
    constexpr double width = 1000.0;
    if (composite.pieces.empty()) return;
    const Frames from = composite.pieces.front().span.start;
    const auto length = static_cast<double>((composite.pieces.back().span.end - from).count);
    const auto x = [&](Frames at) { return width * static_cast<double>((at - from).count) / length; };
    out_ << "<svg viewBox=\"0 0 1000 46\" role=\"img\" aria-label=\"The composite of " << escaped(track.name)
         << "\">\n";
    for (const Piece& piece : composite.pieces) {
      if (isPause(piece)) continue;
      const double left = x(piece.span.start);
      const double wide = std::max(0.5, x(piece.span.end) - left);
      const char* const colour =
          piece.lane ? palette[static_cast<std::size_t>(track.colourOf(*piece.lane) - 1) % palette.size()]
                     : "#cfc3b2";
      out_ << "<rect x=\"" << left << "\" y=\"4\" width=\"" << wide << "\" height=\"26\" fill=\"" << colour
           << "\" stroke=\"#fff\"/>";
      if (wide > 14.0 && piece.lane)
        out_ << "<text x=\"" << left + wide / 2.0 << "\" y=\"22\" fill=\"#fff\" font-size=\"14\" "
             << "text-anchor=\"middle\">" << piece.lane->value << "</text>";
      out_ << "\n";
    }
    out_ << "<text x=\"0\" y=\"44\" font-size=\"12\">" << barBeatText(from, ruler_)
         << "</text><text x=\"1000\" y=\"44\" font-size=\"12\" text-anchor=\"end\">"
         << barBeatText(composite.pieces.back().span.end, ruler_) << "</text>\n</svg>\n";
  }

  const Session& session_;
  Ruler ruler_;
  std::ostringstream out_;
};

}  // namespace

std::string takeSheet(const Session& session) {
  return Sheet(session).html();
}

}  // namespace yewdrift
