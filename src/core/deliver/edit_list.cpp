// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/deliver/edit_list.h"

#include <functional>
#include <iomanip>
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/deliver/played.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/pitched_files.h"
#include "core/plan/playback_plan.h"
#include "core/session/resolved_composite.h"
#include "core/signal/fade_curve.h"
#include "core/store/session_names.h"

namespace yewdrift {
namespace {

using nlohmann::json;

/// Its gains frame by frame: whoever reads them needs no formula.
json fadeJson(const Fade& fade, bool in) {
  json gains = json::array();
  for (const FadeGains& both : *fade.table) {
    const float side = in ? both.in : both.out;
    gains.push_back(fade.matched ? side * matchedScale(both.out, both.in, fade.correlation) : side);
  }
  return {
      {"start", fade.span.start.count}, {"length", fade.span.length().count}, {"gains", std::move(gains)}};
}

json segmentJson(const Segment& segment, const std::vector<PoolFile>& pool,
                 const std::vector<PoolFile>& derived) {
  json value{{"start", segment.span.start.count},
             {"end", segment.span.end.count},
             {"sourceStart", (segment.span.start - segment.origin).count},
             {"gain", segment.gain},
             {"sources", json::array()}};
  for (const ChannelSource& source : segment.channels)
    value["sources"].push_back(
        {{"file", fileNamed(source.file, pool, derived).path}, {"channel", source.channel}});
  if (segment.fadeIn) value["fadeIn"] = fadeJson(*segment.fadeIn, true);
  if (segment.fadeOut) value["fadeOut"] = fadeJson(*segment.fadeOut, false);
  if (segment.compositeIn) value["compositeIn"] = fadeJson(*segment.compositeIn, true);
  if (segment.compositeOut) value["compositeOut"] = fadeJson(*segment.compositeOut, false);
  for (const RiddenLevel& level : segment.levels) {
    json points = json::array();
    for (const LevelPoint& point : *level.line)
      points.push_back({{"at", (point.at + level.shift).count}, {"decibels", point.gain.value}});
    value["levels"].push_back(std::move(points));
  }
  return value;
}

json pieceJson(const Piece& piece, const Track& track) {
  json value{{"start", piece.span.start.count},
             {"end", piece.span.end.count},
             {"lane", nullptr},
             {"slip", piece.slip.count},
             {"gainDecibels", piece.gain.value},
             {"pitchCents", piece.pitch.value},
             {"with", json::array()}};
  if (const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr) {
    value["lane"] = lane->number.value;
    value["take"] = lane->name;
  }
  for (const LaneNumber lane : piece.overdubs) value["with"].push_back(lane.value);
  return value;
}

std::string clock(Frames at, SampleRate rate) {
  std::ostringstream text;
  const double seconds = secondsFromFrames(at, rate);
  text << std::fixed << std::setprecision(6) << seconds << " s";
  return text.str();
}

/// Which file it is from, and at which frame, where its beginning is audible.
std::string sourceOf(const Session& session, const Lane& lane, const Piece& piece) {
  const Clip* const clip = clipAt(lane, piece.span.start - piece.slip);
  if (!clip || clip->channels.empty()) return "-";
  return (*session.pool)[static_cast<std::size_t>(clip->channels.front().file)].path + " @ " +
         std::to_string((piece.span.start - piece.slip - clip->origin).count) + "f";
}

/// A line that rides a level, a point in each line of text.
std::string levelText(const std::string& of, const LevelLine& line, Frames shift,
                      const std::function<std::string(Frames)>& place) {
  std::ostringstream text;
  if (!line.empty()) text << "level  of " << of << "\n";
  for (const LevelPoint& point : line)
    text << "       " << place(point.at + shift) << "  " << point.gain.value << " dB\n";
  return text.str();
}

std::string endFadeText(const std::string& name, const EndFade& fade) {
  std::ostringstream text;
  if (fade.length.count == 0) return {};
  text << name << "  " << fade.length.count << "f  " << nameOf(fade.curve);
  if (fade.bend != 0.0) text << "  bend " << fade.bend;
  text << "\n";
  return text.str();
}

}  // namespace

std::string editListAsJson(const SessionDisk& disk, const Session& session) {
  FileCorrelationMeter meter(disk);
  meter.setFiles(*session.pool);
  PitchedFiles pitched(disk);
  json list{{"format", "yewdrift-edits"},
            {"version", 1},
            {"session", session.name},
            {"rate", session.rate.hertz},
            {"tracks", json::array()}};
  for (const auto& track : session.tracks) {
    if (track->kind != TrackKind::Audio) continue;
    const TrackPlan plan = compileTrack(session, *track, meter, &pitched);
    const ResolvedComposite composite = resolve(*track, session.rate);
    json value{{"name", track->name},
               {"channels", track->channels()},
               {"pieces", json::array()},
               {"joins", json::array()},
               {"segments", json::array()}};
    for (const Piece& piece : composite.pieces)
      if (!isPause(piece)) value["pieces"].push_back(pieceJson(piece, *track));
    for (const Join& join : composite.joins)
      value["joins"].push_back({{"at", join.at.count},
                                {"before", join.shape.before.count},
                                {"after", join.shape.after.count},
                                {"curve", nameOf(join.shape.curve)},
                                {"bend", join.shape.bend}});
    for (const Segment& segment : plan.segments)
      value["segments"].push_back(segmentJson(segment, *session.pool, pitched.files()));
    list["tracks"].push_back(std::move(value));
  }
  return list.dump(1) + "\n";
}

std::string editListAsText(const Session& session) {
  std::ostringstream text;
  const Ruler ruler = session.ruler();
  const auto place = [&](Frames at) {
    return std::to_string(at.count) + "f  " + barBeatText(at, ruler) + "  " + clock(at, session.rate);
  };
  text << session.name << ", " << session.rate.hertz << " Hz\n";
  for (const auto& track : session.tracks) {
    const ResolvedComposite composite = resolve(*track, session.rate);
    text << "\n"
         << track->name << ", " << track->channels() << " channel" << (track->channels() == 1 ? "" : "s")
         << "\n";
    for (const Piece& piece : composite.pieces) {
      if (isPause(piece)) continue;
      text << "piece  " << place(piece.span.start) << "  ..  " << place(piece.span.end) << "\n       ";
      const Lane* const lane = piece.lane ? track->lane(*piece.lane) : nullptr;
      if (lane)
        text << "lane " << lane->number.value << " \"" << lane->name << "\"  "
             << sourceOf(session, *lane, piece);
      else
        text << "silence";
      for (const LaneNumber with : piece.overdubs) text << "  with lane " << with.value;
      if (piece.slip.count != 0) text << "  slip " << piece.slip.count << "f";
      if (piece.gain.value != 0.0) text << "  gain " << piece.gain.value << " dB";
      if (piece.pitch.value != 0.0) text << "  pitch " << piece.pitch.value << " cents";
      if (lane && lane->gain.value != 0.0) text << "  gain of the lane " << lane->gain.value << " dB";
      if (lane && lane->pitch.value != 0.0) text << "  pitch of the lane " << lane->pitch.value << " cents";
      text << "\n" << levelText("the piece", piece.level, {}, place);
      if (lane)
        text << levelText("lane " + std::to_string(lane->number.value), lane->level, piece.slip, place);
    }
    for (const Join& join : composite.joins) {
      text << "join   " << place(join.at) << "  " << join.shape.before.count << "f + "
           << join.shape.after.count << "f  " << nameOf(join.shape.curve);
      if (join.shape.bend != 0.0) text << "  bend " << join.shape.bend;
      text << "\n";
    }
    text << endFadeText("fade in ", track->composite.fadeIn)
         << endFadeText("fade out", track->composite.fadeOut)
         << levelText("the composite", track->composite.level, {}, place);
  }
  return text.str();
}

}  // namespace yewdrift
