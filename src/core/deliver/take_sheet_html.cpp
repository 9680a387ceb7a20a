// SPDX-License-Identifier: GPL-3.0-or-later
#include <cstdio>
#include <sstream>

#include "core/deliver/take_sheet.h"

namespace yewdrift {
namespace {

constexpr const char* style = R"(
@page { margin: 16mm; }
body { font: 11pt/1.4 "Open Sans", "DejaVu Sans", sans-serif; color: #2a2018; margin: 2em auto; max-width: 60em; }
h1 { font-size: 1.7em; margin: 0; } h2 { font-size: 1.25em; margin: 1.6em 0 .4em; break-after: avoid; }
p.about { color: #5c4a3a; margin: .2em 0 1em; }
table { border-collapse: collapse; width: 100%; margin: .4em 0; }
th { text-align: left; font-weight: 600; border-bottom: 2px solid #8a7560; }
th, td { padding: .2em .6em .2em 0; vertical-align: top; } td { border-bottom: 1px solid #ddd0bd; }
tr { break-inside: avoid; }
td.note { overflow-wrap: anywhere; white-space: pre-line; }
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

std::string cssColour(PaperColour colour) {
  char text[8];
  std::snprintf(text, sizeof text, "#%02x%02x%02x", static_cast<unsigned>(colour.red),
                static_cast<unsigned>(colour.green), static_cast<unsigned>(colour.blue));
  return text;
}

class HtmlSheet {
 public:
  std::string written(const TakeSheet& sheet) {
    out_ << "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>"
         << escaped(sheet.name) << " \u2013 take sheet</title>\n<style>" << style
         << "</style>\n</head>\n<body>\n<h1>" << escaped(sheet.name) << "</h1>\n<p class=\"about\">"
         << escaped(sheet.about) << "</p>\n";
    for (const SheetTrack& track : sheet.tracks) {
      out_ << "<h2>" << escaped(track.name) << "</h2>\n";
      drawMap(track);
      listTakes(track);
      listPieces(track);
    }
    out_ << "</body>\n</html>\n";
    return out_.str();
  }

 private:
  void listTakes(const SheetTrack& track) {
    out_ << "<table>\n<tr><th>Take</th><th>Name</th><th>Rating</th><th>Chosen</th><th>Note</th></tr>\n";
    for (const SheetTake& take : track.takes) {
      out_ << "<tr><td class=\"number\">" << take.number << "</td><td>" << escaped(take.name)
           << (take.setAside ? " (set aside)" : "") << "</td><td>" << ratingDots(take.rating)
           << "</td><td class=\"number\">";
      if (take.percent > 0) out_ << take.percent << " %";
      out_ << "</td><td class=\"note\">" << escaped(take.note);
      bool first = take.note.empty();
      for (const SheetRemark& remark : take.remarks) {
        out_ << (first ? "" : "<br>") << "<span class=\"number\">" << remark.place << "</span>";
        first = false;
        if (remark.mark) out_ << " mark";
        if (remark.rating > 0) out_ << " " << ratingDots(remark.rating);
        if (!remark.text.empty()) out_ << (remark.mark ? ": " : " ") << escaped(remark.text);
      }
      out_ << "</td></tr>\n";
    }
    out_ << "</table>\n";
  }

  void listPieces(const SheetTrack& track) {
    if (track.pieces.empty()) return;
    out_ << "<table>\n<tr><th>From</th><th>To</th><th>Plays</th><th>Chosen</th></tr>\n";
    for (const SheetPiece& piece : track.pieces)
      out_ << "<tr><td class=\"number\">" << piece.from << "</td><td class=\"number\">" << piece.to
           << "</td><td>" << escaped(piece.plays) << "</td><td class=\"note\">" << escaped(piece.chosen)
           << "</td></tr>\n";
    out_ << "</table>\n";
  }

  void drawMap(const SheetTrack& track) {
    constexpr double width = 1000.0;
    if (track.pieces.empty()) return;
    const Frames from = track.pieces.front().span.start;
    const auto length = static_cast<double>((track.pieces.back().span.end - from).count);
    const auto x = [&](Frames at) { return width * static_cast<double>((at - from).count) / length; };
    out_ << "<svg viewBox=\"0 0 1000 46\" role=\"img\" aria-label=\"The composite of " << escaped(track.name)
         << "\">\n";
    for (const SheetPiece& piece : track.pieces) {
      const double left = x(piece.span.start);
      const double wide = std::max(0.5, x(piece.span.end) - left);
      out_ << "<rect x=\"" << left << "\" y=\"4\" width=\"" << wide << "\" height=\"26\" fill=\""
           << cssColour(paperColour(piece.colour)) << "\" stroke=\"#fff\"/>";
      if (wide > 14.0 && piece.take > 0)
        out_ << "<text x=\"" << left + wide / 2.0 << "\" y=\"22\" fill=\"#fff\" font-size=\"14\" "
             << "text-anchor=\"middle\">" << piece.take << "</text>";
      out_ << "\n";
    }
    out_ << "<text x=\"0\" y=\"44\" font-size=\"12\">" << track.pieces.front().from
         << "</text><text x=\"1000\" y=\"44\" font-size=\"12\" text-anchor=\"end\">" << track.pieces.back().to
         << "</text>\n</svg>\n";
  }

  std::ostringstream out_;
};

}  // namespace

std::string takeSheetAsHtml(const TakeSheet& sheet) {
  return HtmlSheet().written(sheet);
}

}  // namespace yewdrift
