// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/take_report.h"

#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <sstream>

namespace yewdrift::tool {
namespace {

using nlohmann::json;

json orNull(const std::optional<double>& value) {
  return value && std::isfinite(*value) ? json(*value) : json();
}

json cellReport(const CellEvidence& cell) {
  return {{"lane", cell.lane.value},
          {"chosen", cell.chosen},
          {"rating", cell.rating},
          {"chosenBlind", cell.chosenBlind},
          {"note", cell.note},
          {"marks", cell.marks},
          {"loudness", orNull(cell.loudness)},
          {"peak", orNull(cell.peak)},
          {"overs", cell.there ? json(cell.overs) : json()},
          {"clicks", cell.there ? json(cell.clicks) : json()},
          {"noise", orNull(cell.noise)},
          {"pitch", orNull(cell.pitch)},
          {"pitchSpread", orNull(cell.pitchSpread)},
          {"intonation", orNull(cell.intonation)},
          {"drift", orNull(cell.drift)},
          {"timing", orNull(cell.timing)},
          {"timingSpread", orNull(cell.timingSpread)},
          {"grid", orNull(cell.grid)},
          {"sounding", cell.there ? json(cell.sounding.count) : json()}};
}

/// A number in so many columns, or a dash where there is none.
std::string column(const std::optional<double>& value, const char* format, const char* none) {
  if (!value) return none;
  char text[32];
  std::snprintf(text, sizeof text, format, *value);
  return text;
}

}  // namespace

json phrasesReport(const std::vector<Phrase>& phrases) {
  json list = json::array();
  for (const Phrase& phrase : phrases)
    list.push_back({{"start", phrase.span.start.count}, {"end", phrase.span.end.count}, {"set", phrase.set}});
  return {{"phrases", list}};
}

std::string phrasesText(const std::vector<Phrase>& phrases, const Ruler& ruler) {
  if (phrases.empty()) return "There are no phrases: nothing sounds yet.\n";
  std::ostringstream out;
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    const Span span = phrases[i].span;
    out << "phrase " << i + 1 << "  " << barBeatText(span.start, ruler) << " .. "
        << barBeatText(span.end, ruler) << "  (" << span.start.count << "f.." << span.end.count << "f)"
        << (phrases[i].set ? ", set" : "") << "\n";
  }
  return out.str();
}

json evidenceReport(const std::vector<PhraseEvidence>& phrases) {
  json list = json::array();
  for (const PhraseEvidence& phrase : phrases) {
    json takes = json::array();
    for (const CellEvidence& cell : phrase.takes) takes.push_back(cellReport(cell));
    list.push_back({{"start", phrase.phrase.span.start.count},
                    {"end", phrase.phrase.span.end.count},
                    {"set", phrase.phrase.set},
                    {"decided", phrase.decided},
                    {"takes", takes}});
  }
  return {{"phrases", list}};
}

std::string evidenceText(const std::vector<PhraseEvidence>& phrases, const Ruler& ruler) {
  if (phrases.empty()) return "There are no phrases: nothing sounds yet.\n";
  std::ostringstream out;
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    const PhraseEvidence& phrase = phrases[i];
    out << "phrase " << i + 1 << "  " << barBeatText(phrase.phrase.span.start, ruler) << " .. "
        << barBeatText(phrase.phrase.span.end, ruler) << (phrase.decided ? ", decided" : "") << "\n";
    for (const CellEvidence& cell : phrase.takes) {
      out << "  lane " << cell.lane.value << (cell.chosen ? " *" : "");
      if (!cell.there) {
        out << "  nothing\n";
        continue;
      }
      out << "  rated " << cell.rating << "  " << column(cell.loudness, "%.1f LUFS", "- LUFS") << "  peak "
          << column(cell.peak, "%.1f dBFS", "-") << "  overs " << cell.overs << "  clicks " << cell.clicks
          << "  noise " << column(cell.noise, "%.0f dB", "-") << "  pitch "
          << column(cell.pitch, "%+.0f", "-") << " +/- " << column(cell.pitchSpread, "%.0f cents", "-")
          << "  timing " << column(cell.timing, "%+.0f", "-") << " +/- "
          << column(cell.timingSpread, "%.0f ms", "-");
      if (cell.marks > 0) out << "  marks " << cell.marks;
      if (!cell.note.empty()) out << "  \"" << cell.note << "\"";
      out << "\n";
    }
  }
  return out.str();
}

json lineUpReport(const LineUp& found) {
  return {{"offset", found.offset.count},
          {"sureness", found.sureness},
          {"samePerformance", found.samePerformance}};
}

std::string lineUpText(LaneNumber take, LaneNumber reference, const LineUp& found, SampleRate rate) {
  char text[256];
  const char* const how = found.offset.count > 0 ? "early" : found.offset.count < 0 ? "late" : "";
  if (found.offset.count == 0)
    std::snprintf(text, sizeof text, "Lane %d lies with lane %d; sureness %.2f.\n", take.value,
                  reference.value, found.sureness);
  else
    std::snprintf(text, sizeof text,
                  "Lane %d lies %lld frames (%.1f ms) %s against lane %d; sureness %.2f%s.\n", take.value,
                  static_cast<long long>(std::abs(found.offset.count)),
                  std::abs(secondsFromFrames(found.offset, rate)) * 1000.0, how, reference.value,
                  found.sureness, found.samePerformance ? ", the same performance" : "");
  return text;
}

}  // namespace yewdrift::tool
