// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/track_json.h"

#include <nlohmann/json.hpp>

#include "core/store/json_values.h"
#include "core/store/session_names.h"

namespace yewdrift {
namespace {

using nlohmann::json;

json toJson(const Microphone& microphone) {
  json value{{"name", microphone.name},
             {"input", microphone.input},
             {"channels", microphone.channels},
             {"gain", microphone.gain.value},
             {"pan", microphone.pan.value}};
  addUnknown(value, microphone.unknown);
  return value;
}

Microphone microphoneFrom(const json& value) {
  return {text(member(value, "name")),
          smallNumber(member(value, "input")),
          smallNumber(member(value, "channels")),
          {realNumber(member(value, "gain"))},
          {realNumber(member(value, "pan"))},
          unknownIn(value, {"name", "input", "channels", "gain", "pan"})};
}

json toJson(const KeptComposite& kept);
json toJson(const TakeMark& mark) {
  json value{{"at", mark.at.count}, {"text", mark.text}};
  addUnknown(value, mark.unknown);
  return value;
}
TakeMark takeMarkFrom(const json& value) {
  return {frames(member(value, "at")), text(member(value, "text")), unknownIn(value, {"at", "text"})};
}
json toJson(const CellNote& cell) {
  json value{{"at", cell.at.count}};
  if (cell.rating != 0) value["rating"] = cell.rating;
  if (!cell.note.empty()) value["note"] = cell.note;
  if (cell.chosenBlind) value["chosenBlind"] = true;
  addUnknown(value, cell.unknown);
  return value;
}
CellNote cellFrom(const json& value) {
  CellNote cell{
      frames(member(value, "at")), 0, {}, false, unknownIn(value, {"at", "rating", "note", "chosenBlind"})};
  if (value.contains("rating")) cell.rating = smallNumber(value["rating"]);
  if (value.contains("note")) cell.note = text(value["note"]);
  if (value.contains("chosenBlind")) cell.chosenBlind = truth(value["chosenBlind"]);
  return cell;
}
json toJson(const LevelPoint& point) {
  return json::array({point.at.count, point.gain.value});
}
LevelLine levelFrom(const json& value) {
  LevelLine line;
  for (const json& point : list(value))
    line.push_back({frames(element(point, 0)), {realNumber(element(point, 1))}});
  return line;
}

template <typename Sequence>
json listOf(const Sequence& sequence) {
  json values = json::array();
  for (const auto& each : sequence) values.push_back(toJson(each));
  return values;
}

json toJson(const EndFade& fade) {
  json value{{"length", fade.length.count}, {"curve", nameOf(fade.curve)}};
  if (fade.bend != 0.0) value["bend"] = fade.bend;
  return value;
}
EndFade endFadeFrom(const json& value) {
  return {frames(member(value, "length")), curveNamed(text(member(value, "curve"))),
          value.contains("bend") ? realNumber(value["bend"]) : 0.0};
}

json toJson(const Composite& composite) {
  json value{{"picks", listOf(composite.picks)}, {"joins", listOf(composite.joins)}};
  if (!composite.level.empty()) value["level"] = listOf(composite.level);
  value.update(endFadesJson(composite));
  return value;
}

Composite compositeFrom(const json& value) {
  std::vector<Piece> picks;
  for (const json& piece : list(member(value, "picks"))) picks.push_back(pieceFrom(piece));
  std::vector<JoinSetting> joins;
  for (const json& join : list(member(value, "joins"))) joins.push_back(joinFrom(join));
  Composite composite{SharedSequence<Piece>(picks), SharedSequence<JoinSetting>(joins)};
  if (value.contains("level")) composite.level = levelFrom(value["level"]);
  readEndFades(composite, value);
  return composite;
}

json toJson(const KeptComposite& kept) {
  json value = toJson(kept.composite);
  value["name"] = kept.name;
  addUnknown(value, kept.unknown);
  return value;
}

KeptComposite keptFrom(const json& value) {
  return {text(member(value, "name")), compositeFrom(value),
          unknownIn(value, {"name", "picks", "joins", "level", "fadeIn", "fadeOut"})};
}

LaneNumber laneNumber(const json& value) {
  return {smallNumber(value)};
}

}  // namespace

json endFadesJson(const Composite& composite) {
  json value = json::object();
  if (composite.fadeIn != EndFade{}) value["fadeIn"] = toJson(composite.fadeIn);
  if (composite.fadeOut != EndFade{}) value["fadeOut"] = toJson(composite.fadeOut);
  return value;
}

void readEndFades(Composite& composite, const json& value) {
  composite.fadeIn = value.contains("fadeIn") ? endFadeFrom(value["fadeIn"]) : EndFade{};
  composite.fadeOut = value.contains("fadeOut") ? endFadeFrom(value["fadeOut"]) : EndFade{};
}

json toJson(const Clip& clip) {
  json channels = json::array();
  for (const ChannelSource& source : clip.channels)
    channels.push_back(json::array({source.file, source.channel}));
  json value{{"origin", clip.origin.count},
             {"length", clip.sourceLength.count},
             {"window", spanJson(clip.window)},
             {"channels", channels}};
  if (clip.part) value["part"] = spanJson(*clip.part);
  addUnknown(value, clip.unknown);
  return value;
}

Clip clipFrom(const json& value) {
  Clip clip{frames(member(value, "origin")),
            frames(member(value, "length")),
            spanFrom(member(value, "window")),
            {},
            value.contains("part") ? std::optional(spanFrom(value["part"])) : std::nullopt,
            unknownIn(value, {"origin", "length", "window", "channels", "part"})};
  for (const json& source : list(member(value, "channels")))
    clip.channels.push_back({smallNumber(element(source, 0)), smallNumber(element(source, 1))});
  return clip;
}

json laneHead(const Lane& lane) {
  json value{{"number", lane.number.value}, {"name", lane.name}};
  if (lane.setAside) value["setAside"] = true;
  if (lane.brokenOff) value["brokenOff"] = true;
  if (lane.flattened) value["flattened"] = true;
  if (!lane.cutAway.empty()) value["cutAway"] = listOf(lane.cutAway);
  if (!lane.note.empty()) value["note"] = lane.note;
  if (lane.rating != 0) value["rating"] = lane.rating;
  if (lane.palette != 0) value["palette"] = lane.palette;
  if (lane.muted) value["muted"] = true;
  if (lane.gain.value != 0.0) value["gain"] = lane.gain.value;
  if (lane.pitch.value != 0.0) value["pitch"] = lane.pitch.value;
  if (!lane.level.empty()) value["level"] = listOf(lane.level);
  if (lane.picture != LanePicture::Waveform) value["shows"] = nameOf(lane.picture);
  if (!lane.marks.empty()) value["marks"] = listOf(lane.marks);
  if (!lane.cells.empty()) value["cells"] = listOf(lane.cells);
  addUnknown(value, lane.unknown);
  return value;
}

Lane laneFromHead(const json& value) {
  Lane lane{laneNumber(member(value, "number")), text(member(value, "name")), {}};
  if (value.contains("setAside")) lane.setAside = truth(value["setAside"]);
  if (value.contains("brokenOff")) lane.brokenOff = truth(value["brokenOff"]);
  if (value.contains("flattened")) lane.flattened = truth(value["flattened"]);
  if (value.contains("cutAway"))
    for (const json& clip : list(value["cutAway"])) lane.cutAway.push_back(clipFrom(clip));
  if (value.contains("note")) lane.note = text(value["note"]);
  if (value.contains("rating")) lane.rating = smallNumber(value["rating"]);
  if (value.contains("palette")) lane.palette = smallNumber(value["palette"]);
  if (value.contains("muted")) lane.muted = truth(value["muted"]);
  if (value.contains("gain")) lane.gain = {realNumber(value["gain"])};
  if (value.contains("pitch")) lane.pitch = {realNumber(value["pitch"])};
  if (value.contains("level")) lane.level = levelFrom(value["level"]);
  if (value.contains("shows")) lane.picture = lanePictureNamed(text(value["shows"]));
  if (value.contains("marks"))
    for (const json& mark : list(value["marks"])) lane.marks.push_back(takeMarkFrom(mark));
  if (value.contains("cells"))
    for (const json& cell : list(value["cells"])) lane.cells.push_back(cellFrom(cell));
  lane.unknown =
      unknownIn(value, {"number", "name", "setAside", "brokenOff", "flattened", "cutAway", "note", "rating",
                        "palette", "muted", "gain", "pitch", "level", "shows", "marks", "cells", "clips"});
  return lane;
}

json toJson(const Lane& lane) {
  json value = laneHead(lane);
  value["clips"] = listOf(lane.clips);
  return value;
}

Lane laneFrom(const json& value) {
  Lane lane = laneFromHead(value);
  for (const json& clip : list(member(value, "clips"))) lane.clips.push_back(clipFrom(clip));
  return lane;
}

json toJson(const Piece& piece) {
  json value{{"span", spanJson(piece.span)}, {"lane", piece.lane ? json(piece.lane->value) : json()}};
  if (!piece.overdubs.empty()) {
    value["overdubs"] = json::array();
    for (const LaneNumber lane : piece.overdubs) value["overdubs"].push_back(lane.value);
  }
  if (piece.slip != Frames{}) value["slip"] = piece.slip.count;
  if (piece.gain.value != 0.0) value["gain"] = piece.gain.value;
  if (piece.pitch.value != 0.0) value["pitch"] = piece.pitch.value;
  if (!piece.level.empty()) value["level"] = listOf(piece.level);
  if (piece.split) value["split"] = true;
  if (!piece.picked) value["picked"] = false;
  if (piece.rough) value["rough"] = true;
  addUnknown(value, piece.unknown);
  return value;
}

Piece pieceFrom(const json& value) {
  Piece piece;
  piece.span = spanFrom(member(value, "span"));
  if (const json& lane = member(value, "lane"); !lane.is_null()) piece.lane = laneNumber(lane);
  if (value.contains("overdubs"))
    for (const json& lane : list(value["overdubs"])) piece.overdubs.push_back(laneNumber(lane));
  if (value.contains("slip")) piece.slip = frames(value["slip"]);
  if (value.contains("gain")) piece.gain = {realNumber(value["gain"])};
  if (value.contains("pitch")) piece.pitch = {realNumber(value["pitch"])};
  if (value.contains("level")) piece.level = levelFrom(value["level"]);
  if (value.contains("split")) piece.split = truth(value["split"]);
  if (value.contains("picked")) piece.picked = truth(value["picked"]);
  if (value.contains("rough")) piece.rough = truth(value["rough"]);
  piece.unknown = unknownIn(
      value, {"span", "lane", "overdubs", "slip", "gain", "pitch", "level", "split", "picked", "rough"});
  return piece;
}

json toJson(const JoinSetting& join) {
  json value{{"at", join.at.count}};
  if (join.shape) {
    value["before"] = join.shape->before.count;
    value["after"] = join.shape->after.count;
    value["curve"] = nameOf(join.shape->curve);
    if (join.shape->bend != 0.0) value["bend"] = join.shape->bend;
  }
  if (join.found) value["found"] = true;
  if (join.settled) value["settled"] = true;
  addUnknown(value, join.unknown);
  return value;
}

JoinSetting joinFrom(const json& value) {
  JoinSetting join;
  join.at = frames(member(value, "at"));
  if (value.contains("curve")) {
    join.shape = JoinShape{frames(member(value, "before")), frames(member(value, "after")),
                           curveNamed(text(value["curve"]))};
    if (value.contains("bend")) join.shape->bend = realNumber(value["bend"]);
  }
  if (value.contains("found")) join.found = truth(value["found"]);
  if (value.contains("settled")) join.settled = truth(value["settled"]);
  join.unknown = unknownIn(value, {"at", "before", "after", "curve", "bend", "found", "settled"});
  return join;
}

json trackHead(const Track& track) {
  json value{{"id", track.id.value},
             {"name", track.name},
             {"kind", nameOf(track.kind)},
             {"backing", track.backing},
             {"microphones", listOf(track.microphones)},
             {"lanesMade", track.lanesMade},
             {"gain", track.gain.value},
             {"pan", track.pan.value},
             {"armed", track.armed},
             {"muted", track.muted},
             {"soloed", track.soloed},
             {"monitoring", nameOf(track.monitoring)},
             {"recordInto", track.recordInto ? json(track.recordInto->value) : json()}};
  if (!track.compositeName.empty()) value["compositeName"] = track.compositeName;
  if (!track.phrases.empty()) {
    value["phrases"] = json::array();
    for (const Span phrase : track.phrases) value["phrases"].push_back(spanJson(phrase));
  }
  if (track.phraseRules != PhraseRules{})
    value["phraseRules"] = {{"shortestRest", track.phraseRules.shortestRest},
                            {"shortestPhrase", track.phraseRules.shortestPhrase}};
  addUnknown(value, track.unknown);
  return value;
}

Track trackFromHead(const json& value) {
  Track track;
  track.id = {smallNumber(member(value, "id"))};
  track.name = text(member(value, "name"));
  track.kind = trackKindNamed(text(member(value, "kind")));
  track.backing = truth(member(value, "backing"));
  for (const json& microphone : list(member(value, "microphones")))
    track.microphones.push_back(microphoneFrom(microphone));
  track.lanesMade = smallNumber(member(value, "lanesMade"));
  track.gain = {realNumber(member(value, "gain"))};
  track.pan = {realNumber(member(value, "pan"))};
  track.armed = truth(member(value, "armed"));
  track.muted = truth(member(value, "muted"));
  track.soloed = truth(member(value, "soloed"));
  if (value.contains("monitoring")) track.monitoring = monitoringNamed(text(value["monitoring"]));
  if (value.contains("recordInto") && !value["recordInto"].is_null())
    track.recordInto = laneNumber(value["recordInto"]);
  if (value.contains("compositeName")) track.compositeName = text(value["compositeName"]);
  if (value.contains("phrases"))
    for (const json& phrase : list(value["phrases"])) track.phrases.push_back(spanFrom(phrase));
  if (value.contains("phraseRules")) {
    track.phraseRules.shortestRest = realNumber(member(value["phraseRules"], "shortestRest"));
    track.phraseRules.shortestPhrase = realNumber(member(value["phraseRules"], "shortestPhrase"));
  }
  track.unknown = unknownIn(value, {"id", "name", "kind", "backing", "microphones", "lanes", "lanesMade",
                                    "composite", "gain", "pan", "armed", "muted", "soloed", "monitoring",
                                    "recordInto", "compositeName", "composites", "phrases", "phraseRules"});
  return track;
}

json levelJson(const LevelLine& line) {
  return listOf(line);
}

LevelLine levelLineFrom(const json& value) {
  return levelFrom(value);
}

json toJson(const Track& track) {
  json value = trackHead(track);
  json lanes = json::array();
  for (const auto& lane : track.lanes) lanes.push_back(toJson(*lane));
  value["lanes"] = std::move(lanes);
  value["composite"] = toJson(track.composite);
  if (!track.keptComposites.empty()) value["composites"] = listOf(track.keptComposites);
  return value;
}

Track trackFrom(const json& value) {
  Track track = trackFromHead(value);
  for (const json& lane : list(member(value, "lanes"))) track.lanes.emplace_back(laneFrom(lane));
  track.composite = compositeFrom(member(value, "composite"));
  if (value.contains("composites")) track.keptComposites = keptCompositesFrom(value["composites"]);
  return track;
}

json keptCompositesJson(const Track& track) {
  return listOf(track.keptComposites);
}

std::vector<KeptComposite> keptCompositesFrom(const json& value) {
  std::vector<KeptComposite> composites;
  for (const json& kept : list(value)) composites.push_back(keptFrom(kept));
  return composites;
}

json toJson(const Marker& marker) {
  json value{{"at", marker.at.count}, {"name", marker.name}, {"kind", nameOf(marker.kind)}};
  addUnknown(value, marker.unknown);
  return value;
}

Marker markerFrom(const json& value) {
  return {frames(member(value, "at")), text(member(value, "name")),
          value.contains("kind") ? markerKindNamed(text(value["kind"])) : MarkerKind::Plain,
          unknownIn(value, {"at", "name", "kind"})};
}

}  // namespace yewdrift
