// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/report.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/edit/edit_composites.h"
#include "core/session/picked_parts.h"
#include "core/session/resolved_composite.h"
#include "core/store/session_names.h"

namespace yewdrift::tool {
namespace {

using nlohmann::json;

json spanReport(Span span) {
  return {{"start", span.start.count}, {"end", span.end.count}};
}

json levelReport(const LevelLine& line) {
  json points = json::array();
  for (const LevelPoint& point : line) points.push_back({{"at", point.at.count}, {"gain", point.gain.value}});
  return points;
}

json laneReport(const Lane& lane) {
  json clips = json::array();
  for (const Clip& clip : lane.clips)
    clips.push_back({{"windowStart", clip.window.start.count},
                     {"windowEnd", clip.window.end.count},
                     {"start", clip.extent().start.count},
                     {"end", clip.extent().end.count}});
  json report{{"number", lane.number.value},
              {"name", lane.name},
              {"setAside", lane.setAside},
              {"brokenOff", lane.brokenOff},
              {"flattened", lane.flattened},
              {"clips", clips},
              {"note", lane.note},
              {"rating", lane.rating},
              {"palette", lane.palette},
              {"muted", lane.muted},
              {"gain", lane.gain.value},
              {"pitch", lane.pitch.value},
              {"shows", nameOf(lane.picture)},
              {"level", levelReport(lane.level)}};
  report["marks"] = json::array();
  for (const TakeMark& mark : lane.marks)
    report["marks"].push_back({{"at", mark.at.count}, {"text", mark.text}});
  report["cells"] = json::array();
  for (const CellNote& cell : lane.cells)
    report["cells"].push_back({{"at", cell.at.count},
                               {"rating", cell.rating},
                               {"note", cell.note},
                               {"chosenBlind", cell.chosenBlind}});
  return report;
}

json pieceReport(const Piece& piece, const Track& track) {
  json report = spanReport(piece.span);
  report["lane"] = piece.lane ? json(piece.lane->value) : json();
  report["slip"] = piece.slip.count;
  report["gain"] = piece.gain.value;
  report["pitch"] = piece.pitch.value;
  report["picked"] = piece.picked;
  report["pickedParts"] = json::array();
  for (const Span part : pickedParts(track, piece)) report["pickedParts"].push_back(spanReport(part));
  report["split"] = piece.split;
  report["rough"] = piece.rough;
  report["level"] = levelReport(piece.level);
  report["overdubs"] = json::array();
  for (const LaneNumber lane : piece.overdubs) report["overdubs"].push_back(lane.value);
  return report;
}

json joinReport(const Join& join) {
  return {{"at", join.at.count},
          {"before", join.shape.before.count},
          {"after", join.shape.after.count},
          {"curve", nameOf(join.shape.curve)},
          {"bend", join.shape.bend},
          {"set", join.set},
          {"found", join.found},
          {"settled", join.settled}};
}

json trackReport(const Track& track, SampleRate rate) {
  const ResolvedComposite composite = resolve(track, rate);
  json report{{"name", track.name},
              {"kind", nameOf(track.kind)},
              {"backing", track.backing},
              {"channels", track.channels()},
              {"gain", track.gain.value},
              {"pan", track.pan.value},
              {"armed", track.armed},
              {"muted", track.muted},
              {"soloed", track.soloed},
              {"monitoring", nameOf(track.monitoring)},
              {"level", levelReport(track.composite.level)},
              {"composites", compositeNames(track)},
              {"fadeIn", track.composite.fadeIn.length.count},
              {"fadeOut", track.composite.fadeOut.length.count},
              {"recordInto", track.recordInto ? json(track.recordInto->value) : json()}};
  for (const char* list : {"microphones", "lanes", "pieces", "joins"}) report[list] = json::array();
  for (const Microphone& m : track.microphones)
    report["microphones"].push_back({{"name", m.name},
                                     {"input", m.input},
                                     {"channels", m.channels},
                                     {"gain", m.gain.value},
                                     {"pan", m.pan.value}});
  for (const auto& lane : track.lanes) report["lanes"].push_back(laneReport(*lane));
  for (const Piece& piece : composite.pieces) report["pieces"].push_back(pieceReport(piece, track));
  for (const Join& join : composite.joins) report["joins"].push_back(joinReport(join));
  return report;
}

const char* wordsFor(ChosenBy who) {
  switch (who) {
    case ChosenBy::Nobody:
      return ", newest take";
    case ChosenBy::InPart:
      return ", picked in part, else newest take";
    case ChosenBy::Ratings:
      return ", rough";
    case ChosenBy::Person:
      break;
  }
  return "";
}

/// Gain and pitch, where they are not as played.
std::string soundWords(Decibels gain, Cents pitch) {
  std::ostringstream out;
  out << std::showpos;
  if (gain.value != 0.0) out << ", " << gain.value << " dB";
  if (pitch.value != 0.0) out << ", " << pitch.value << " cents";
  return out.str();
}

void describe(std::ostringstream& out, const Track& track, const Ruler& ruler) {
  auto at = [&ruler](Frames frames) {
    return barBeatText(frames, ruler) + " (" + std::to_string(frames.count) + "f)";
  };
  out << "\n" << track.name << (track.backing ? ", backing" : "") << (track.armed ? ", armed" : "") << "\n";
  for (const auto& lane : track.lanes) {
    out << "  lane " << lane->number.value << "  " << lane->name
        << (lane->setAside    ? ", set aside"
            : lane->brokenOff ? ", broken off"
                              : "");
    if (lane->rating > 0) out << ", rated " << lane->rating;
    if (lane->muted) out << ", muted";
    out << soundWords(lane->gain, lane->pitch);
    if (!lane->note.empty()) out << ", \"" << lane->note << "\"";
    out << "\n";
    for (const Clip& clip : lane->clips)
      out << "    " << at(clip.window.start) << " .. " << at(clip.window.end) << ", handles "
          << (clip.window.start - clip.extent().start).count << "f before, "
          << (clip.extent().end - clip.window.end).count << "f after\n";
  }
  const ResolvedComposite composite = resolve(track, ruler.rate);
  for (const Piece& piece : composite.pieces) {
    if (!piece.picked && !piece.lane) continue;
    out << "  plays " << (piece.lane ? "lane " + std::to_string(piece.lane->value) : std::string("silence"));
    for (const LaneNumber lane : piece.overdubs) out << " with lane " << lane.value;
    out << "  " << at(piece.span.start) << " .. " << at(piece.span.end) << wordsFor(chosenBy(track, piece))
        << soundWords(piece.gain, piece.pitch);
    if (piece.slip.count != 0) out << ", slipped by " << piece.slip.count << "f";
    out << "\n";
  }
  for (const Join& join : composite.joins)
    out << "  join  " << at(join.at) << ", " << join.shape.before.count << "f before, "
        << join.shape.after.count << "f after, " << nameOf(join.shape.curve) << (join.set ? ", set" : "")
        << "\n";
}

const ImprovedJoin* improvedAt(const std::vector<ImprovedJoin>& improved, Frames at) {
  const auto found = std::find_if(improved.begin(), improved.end(),
                                  [at](const ImprovedJoin& join) { return join.now.at == at; });
  return found == improved.end() ? nullptr : &*found;
}

}  // namespace

json sessionReport(const Session& session) {
  json tempo = json::array();
  for (const TempoChange& change : session.tempo.changes())
    tempo.push_back(
        {{"bar", change.bar},
         {"beatsPerMinute", change.beatsPerMinute},
         {"meter", std::to_string(change.meter.beats) + "/" + std::to_string(change.meter.unit)}});
  json report{{"name", session.name},
              {"rate", session.rate.hertz},
              {"format", nameOf(session.format)},
              {"tempo", tempo},
              {"loop", session.loop ? spanReport(*session.loop) : json()}};
  for (const char* list : {"tracks", "punches", "markers", "pool"}) report[list] = json::array();
  for (const auto& track : session.tracks) report["tracks"].push_back(trackReport(*track, session.rate));
  for (const Punch& punch : session.punches)
    report["punches"].push_back({{"start", punch.in ? json(punch.in->count) : json()},
                                 {"end", punch.out ? json(punch.out->count) : json()}});
  for (const Marker& marker : session.markers)
    report["markers"].push_back({{"at", marker.at.count},
                                 {"name", marker.name},
                                 {"kind", marker.kind == MarkerKind::Dropout ? "dropout" : "plain"}});
  for (const PoolFile& file : *session.pool)
    report["pool"].push_back(
        {{"path", file.path}, {"channels", file.channels}, {"frames", file.length.count}});
  return report;
}

std::string sessionText(const Session& session) {
  std::ostringstream out;
  const TempoChange& first = session.tempo.changes().front();
  out << session.name << ": " << session.rate.hertz << " Hz, " << nameOf(session.format) << ", "
      << first.beatsPerMinute << " bpm in " << first.meter.beats << "/" << first.meter.unit << "\n";
  if (session.loop)
    out << "loop " << barBeatText(session.loop->start, session.ruler()) << " .. "
        << barBeatText(session.loop->end, session.ruler()) << "\n";
  for (const Punch& punch : session.punches)
    out << "punch "
        << (punch.in ? barBeatText(*punch.in, session.ruler()) : std::string("(wherever it starts)"))
        << " .. " << (punch.out ? barBeatText(*punch.out, session.ruler()) : std::string("(until it stops)"))
        << "\n";
  for (std::size_t i = 0; i < session.markers.size(); ++i)
    out << "marker " << i + 1 << "  " << session.markers[i].name << "  "
        << barBeatText(session.markers[i].at, session.ruler()) << "\n";
  for (const auto& track : session.tracks) describe(out, *track, session.ruler());
  out << "\npool\n";
  for (const PoolFile& file : *session.pool)
    out << "  " << file.path << "  " << file.channels << " ch  " << file.length.count << "f\n";
  return out.str();
}

json joinsReport(const std::vector<MeasuredJoin>& joins, const std::vector<ImprovedJoin>& improved) {
  json list = json::array();
  for (const MeasuredJoin& one : joins) {
    json report = joinReport(one.join);
    report["step"] = one.measure.step;
    report["levelDifference"] = one.measure.levelDifference;
    report["correlation"] = one.measure.correlation;
    report["risk"] = one.risk;
    report["nearestOnset"] = one.nearestOnset ? json(one.nearestOnset->count) : json();
    report["pitchDifference"] = one.pitchDifference ? json(one.pitchDifference->value) : json();
    report["reading"] = one.reading.english();
    if (const ImprovedJoin* const better = improvedAt(improved, one.join.at)) {
      report["why"] = better->now.why.english();
      report["slip"] = better->now.slip.count;
      report["was"] = joinReport(better->was);
      report["was"]["risk"] = riskOf(better->before);
    }
    list.push_back(std::move(report));
  }
  return list;
}

std::string joinsText(const std::vector<MeasuredJoin>& joins, const std::vector<ImprovedJoin>& improved,
                      const Ruler& ruler) {
  if (joins.empty()) return "The composite has no joins.\n";
  std::string text;
  for (const MeasuredJoin& one : joins) {
    char line[256];
    std::snprintf(
        line, sizeof line,
        "%-9s %10lldf  %5lld + %-5lld %-12s risk %.2f  step %.3f  level %+.1f dB  correlation %+.2f\n",
        barBeatText(one.join.at, ruler).c_str(), static_cast<long long>(one.join.at.count),
        static_cast<long long>(one.join.shape.before.count),
        static_cast<long long>(one.join.shape.after.count), nameOf(one.join.shape.curve), one.risk,
        one.measure.step, one.measure.levelDifference, one.measure.correlation);
    text += line;
    text += "          " + one.reading.english() + (one.join.settled ? "  Settled." : "") + "\n";
    if (const ImprovedJoin* const better = improvedAt(improved, one.join.at))
      text += "          Was at " + barBeatText(better->was.at, ruler) + " (" +
              std::to_string(better->was.at.count) + "f). " + better->now.why.english() + "\n";
  }
  return text;
}

}  // namespace yewdrift::tool
