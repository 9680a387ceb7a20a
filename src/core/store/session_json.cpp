// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_json.h"

#include <xxhash.h>

#include <cstdio>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/store/json_values.h"
#include "core/store/session_names.h"
#include "core/store/track_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;

json spansJson(const std::vector<Span>& spans) {
  json values = json::array();
  for (const Span s : spans) values.push_back(spanJson(s));
  return values;
}

std::vector<Span> spansFrom(const json& value) {
  std::vector<Span> spans;
  for (const json& s : list(value)) spans.push_back(spanFrom(s));
  return spans;
}

json optionalFrames(const std::optional<Frames>& at) {
  return at ? json(at->count) : json();
}
std::optional<Frames> optionalFramesFrom(const json& value) {
  return value.is_null() ? std::nullopt : std::optional(frames(value));
}

json lengthJson(MusicalLength length) {
  return json::array({length.amount, nameOf(length.unit)});
}
MusicalLength lengthFrom(const json& value) {
  return {realNumber(element(value, 0)), lengthUnitNamed(text(element(value, 1)))};
}

json optionsJson(const RecordingOptions& o) {
  json value{{"preRoll", lengthJson(o.preRoll)},
             {"fillPreRoll", o.fillPreRoll},
             {"postRoll", lengthJson(o.postRoll)},
             {"playOn", o.playOn},
             {"countInBars", o.countInBars},
             {"loop", o.loop},
             {"punch", o.punch},
             {"passes", o.passes},
             {"result", nameOf(o.result)},
             {"hush", o.hush},
             {"safeReview", o.safeReview},
             {"playBack", o.playBack},
             {"setAside", o.setAside},
             {"keepWhole", o.keepWhole},
             {"backUpSeconds", o.backUpSeconds},
             {"leadSeconds", o.leadSeconds},
             {"airBars", o.airBars},
             {"click",
              {{"recording", o.click.recording},
               {"playing", o.click.playing},
               {"accent", o.click.accent},
               {"level", o.click.level.value},
               {"cue", nameOf(o.click.cue)}}},
             {"grid", o.grid},
             {"snap", nameOf(o.snap)},
             {"divisions", o.divisions}};
  addUnknown(value, o.unknown);
  return value;
}

/// Reads a member where it is there: sessions made before it existed keep its default.
template <typename Value>
void readInto(Value& into, const json& object, const char* key) {
  if (!object.is_object() || !object.contains(key)) {
    if (!object.is_object()) (void)member(object, key);  // says so
    return;
  }
  if constexpr (std::is_same_v<Value, int>)
    into = smallNumber(object[key]);
  else if constexpr (std::is_same_v<Value, bool>)
    into = truth(object[key]);
  else
    into = realNumber(object[key]);
}

RecordingOptions optionsFrom(const json& value) {
  RecordingOptions o;
  if (value.contains("preRoll")) o.preRoll = lengthFrom(value["preRoll"]);
  if (value.contains("postRoll")) o.postRoll = lengthFrom(value["postRoll"]);
  readInto(o.fillPreRoll, value, "fillPreRoll");
  readInto(o.playOn, value, "playOn");
  readInto(o.countInBars, value, "countInBars");
  readInto(o.loop, value, "loop");
  readInto(o.punch, value, "punch");
  readInto(o.passes, value, "passes");
  if (value.contains("result")) o.result = passResultNamed(text(value["result"]));
  readInto(o.hush, value, "hush");
  readInto(o.safeReview, value, "safeReview");
  readInto(o.playBack, value, "playBack");
  readInto(o.setAside, value, "setAside");
  readInto(o.keepWhole, value, "keepWhole");
  readInto(o.backUpSeconds, value, "backUpSeconds");
  readInto(o.leadSeconds, value, "leadSeconds");
  readInto(o.airBars, value, "airBars");
  if (value.contains("click")) {
    const json& click = value["click"];
    readInto(o.click.recording, click, "recording");
    readInto(o.click.playing, click, "playing");
    readInto(o.click.accent, click, "accent");
    readInto(o.click.level.value, click, "level");
    if (click.contains("cue")) o.click.cue = cueNamed(text(click["cue"]));
  }
  readInto(o.grid, value, "grid");
  if (value.contains("snap")) o.snap = snapNamed(text(value["snap"]));
  readInto(o.divisions, value, "divisions");
  o.unknown =
      unknownIn(value, {"preRoll",  "fillPreRoll", "postRoll",      "playOn",      "countInBars", "loop",
                        "punch",    "passes",      "result",        "hush",        "safeReview",  "playBack",
                        "setAside", "keepWhole",   "backUpSeconds", "leadSeconds", "airBars",     "click",
                        "grid",     "snap",        "divisions"});
  return o;
}

}  // namespace

json toJson(const PoolFile& file) {
  json value{{"path", file.path}, {"channels", file.channels}, {"length", file.length.count}};
  if (file.kind != PoolKind::Audio) value["kind"] = nameOf(file.kind);
  addUnknown(value, file.unknown);
  return value;
}

PoolFile poolFileFrom(const json& value) {
  return {text(member(value, "path")), smallNumber(member(value, "channels")),
          frames(member(value, "length")),
          value.contains("kind") ? poolKindNamed(text(value["kind"])) : PoolKind::Audio,
          unknownIn(value, {"path", "channels", "length", "kind"})};
}

json toJson(const TempoMap& tempo) {
  json values = json::array();
  for (const TempoChange& change : tempo.changes())
    values.push_back({{"bar", change.bar},
                      {"beatsPerMinute", change.beatsPerMinute},
                      {"meter", json::array({change.meter.beats, change.meter.unit})}});
  return values;
}

TempoMap tempoFrom(const json& value) {
  std::vector<TempoChange> tempo;
  for (const json& change : list(value)) {
    const json& meter = member(change, "meter");
    tempo.push_back({smallNumber(member(change, "bar")),
                     realNumber(member(change, "beatsPerMinute")),
                     {smallNumber(element(meter, 0)), smallNumber(element(meter, 1))}});
  }
  return TempoMap(tempo);
}

json toJson(const std::vector<Punch>& punches) {
  json values = json::array();
  for (const Punch& punch : punches)
    values.push_back(json::array({optionalFrames(punch.in), optionalFrames(punch.out)}));
  return values;
}

std::vector<Punch> punchesFrom(const json& value) {
  std::vector<Punch> punches;
  for (const json& punch : list(value))
    punches.push_back({optionalFramesFrom(element(punch, 0)), optionalFramesFrom(element(punch, 1))});
  return punches;
}

json toJson(const Session& session) {
  json pool = json::array();
  for (const PoolFile& file : *session.pool) pool.push_back(toJson(file));
  json tracks = json::array();
  for (const auto& track : session.tracks) tracks.push_back(toJson(*track));
  json markers = json::array();
  for (const Marker& marker : session.markers) markers.push_back(toJson(marker));
  json value{{"name", session.name},
             {"rate", session.rate.hertz},
             {"format", nameOf(session.format)},
             {"tempo", toJson(session.tempo)},
             {"pool", std::move(pool)},
             {"tracks", std::move(tracks)},
             {"tracksMade", session.tracksMade},
             {"loop", session.loop ? spanJson(*session.loop) : json()},
             {"punches", toJson(session.punches)},
             {"markers", std::move(markers)},
             {"recording", optionsJson(session.recording)}};
  addUnknown(value, session.unknown);
  return value;
}

Session sessionFromJson(const json& document) {
  Session session;
  session.name = text(member(document, "name"));
  session.rate = {smallNumber(member(document, "rate"))};
  session.format = sampleFormatNamed(text(member(document, "format")));
  session.tempo = tempoFrom(member(document, "tempo"));
  for (const json& file : list(member(document, "pool"))) session.pool.edit().push_back(poolFileFrom(file));
  for (const json& track : list(member(document, "tracks"))) session.tracks.emplace_back(trackFrom(track));
  session.tracksMade = smallNumber(member(document, "tracksMade"));
  if (const json& loop = member(document, "loop"); !loop.is_null()) session.loop = spanFrom(loop);
  session.punches = punchesFrom(member(document, "punches"));
  for (const json& marker : list(member(document, "markers"))) session.markers.push_back(markerFrom(marker));
  if (document.contains("recording")) session.recording = optionsFrom(document["recording"]);
  session.unknown = unknownIn(document, {"name", "rate", "format", "tempo", "pool", "tracks", "tracksMade",
                                         "loop", "punches", "markers", "recording"});
  checkInvariants(session);
  return session;
}

std::string stateHash(const json& document) {
  std::string compact;
  for (const auto& [key, value] : document.items())
    if (key != "pool" && key != "recording") compact += json(key).dump() + ":" + value.dump() + "\n";
  char digits[17];
  std::snprintf(digits, sizeof digits, "%016llx",
                static_cast<unsigned long long>(XXH3_64bits(compact.data(), compact.size())));
  return digits;
}

json toJson(const RecordSetup& setup) {
  const RollTimeline& timeline = setup.timeline;
  return {{"start", timeline.start.count},
          {"loop", timeline.loop ? spanJson(*timeline.loop) : json()},
          {"passes", timeline.passes},
          {"stopAt", timeline.stopAt ? json(timeline.stopAt->count) : json()},
          {"postRoll", timeline.postRoll.count},
          {"countIn", timeline.countIn.count},
          {"byHand", setup.byHand},
          {"handPunches", spansJson(setup.handPunches)},
          {"hush", setup.hush},
          {"playBack", setup.playBack},
          {"recordFrom", setup.recordFrom.count},
          {"punches", spansJson(setup.punches)},
          {"roundTrip", setup.roundTrip.count},
          {"capturesFrom", setup.capturesFrom.count},
          {"rolled", setup.rolled ? json(setup.rolled->count) : json()},
          {"result", nameOf(setup.result)}};
}

RecordSetup recordSetupFromJson(const json& document) {
  RecordSetup setup;
  setup.timeline.start = frames(member(document, "start"));
  if (const json& loop = member(document, "loop"); !loop.is_null()) setup.timeline.loop = spanFrom(loop);
  setup.timeline.passes = smallNumber(member(document, "passes"));
  setup.timeline.stopAt = optionalFramesFrom(member(document, "stopAt"));
  setup.timeline.postRoll = frames(member(document, "postRoll"));
  if (document.contains("countIn")) setup.timeline.countIn = frames(document["countIn"]);
  if (document.contains("handPunches")) setup.handPunches = spansFrom(document["handPunches"]);
  readInto(setup.byHand, document, "byHand");
  readInto(setup.hush, document, "hush");
  readInto(setup.playBack, document, "playBack");
  setup.recordFrom = frames(member(document, "recordFrom"));
  setup.punches = spansFrom(member(document, "punches"));
  setup.roundTrip = frames(member(document, "roundTrip"));
  if (document.contains("capturesFrom")) setup.capturesFrom = frames(document["capturesFrom"]);
  if (document.contains("rolled")) setup.rolled = optionalFramesFrom(document["rolled"]);
  setup.result = passResultNamed(text(member(document, "result")));
  return setup;
}

}  // namespace yewdrift
