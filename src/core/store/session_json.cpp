// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_json.h"

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <utility>

#include "core/error.h"
#include "core/store/json_numbers.h"

namespace yewdrift {
namespace {

using nlohmann::json;

template <typename Enum, std::size_t N>
using Names = std::array<std::pair<Enum, const char*>, N>;

constexpr Names<Curve, 4> curves{{{Curve::EqualGain, "equal-gain"},
                                  {Curve::EqualPower, "equal-power"},
                                  {Curve::S, "s"},
                                  {Curve::Matched, "matched"}}};
constexpr Names<SampleFormat, 3> formats{
    {{SampleFormat::Pcm16, "pcm16"}, {SampleFormat::Pcm24, "pcm24"}, {SampleFormat::Float32, "float"}}};
constexpr Names<PassResult, 3> results{
    {{PassResult::NewLane, "new-lane"}, {PassResult::Replace, "replace"}, {PassResult::Overdub, "overdub"}}};
constexpr Names<Monitoring, 3> monitorings{
    {{Monitoring::Off, "off"}, {Monitoring::Always, "always"}, {Monitoring::Automatic, "automatic"}}};
constexpr Names<LengthUnit, 2> lengthUnits{{{LengthUnit::Bars, "bars"}, {LengthUnit::Seconds, "seconds"}}};
constexpr Names<Snap, 6> snaps{{{Snap::Off, "off"},
                                {Snap::Bar, "bar"},
                                {Snap::Beat, "beat"},
                                {Snap::Division, "division"},
                                {Snap::PhraseEdge, "phrase-edge"},
                                {Snap::ZeroCrossing, "zero-crossing"}}};
constexpr Names<TrackKind, 2> kinds{{{TrackKind::Audio, "audio"}, {TrackKind::Midi, "midi"}}};

template <typename Table, typename Enum>
const char* nameIn(const Table& table, Enum value) {
  for (const auto& [candidate, name] : table)
    if (candidate == value) return name;
  return "";
}

template <typename Table>
auto valueIn(const Table& table, const std::string& name, const char* what) {
  for (const auto& [candidate, known] : table)
    if (name == known) return candidate;
  throw Error("\"" + name + "\" is not a " + what + ".");
}

Frames frames(const json& value) {
  const Frames at{wholeNumber(value)};
  if (at > maximumPosition || at < -maximumPosition)
    throw Error("The session is damaged: a position lies beyond the longest session there can be.");
  return at;
}

double number(const json& value) {
  const double result = value.get<double>();
  if (!std::isfinite(result)) throw Error("The session is damaged: a number is not finite.");
  return result;
}

json span(Span s) {
  return json::array({s.start.count, s.end.count});
}
Span spanFrom(const json& value) {
  return {frames(value.at(0)), frames(value.at(1))};
}

json clipJson(const Clip& clip) {
  json channels = json::array();
  for (const ChannelSource& source : clip.channels)
    channels.push_back(json::array({source.file, source.channel}));
  return {{"origin", clip.origin.count},
          {"length", clip.sourceLength.count},
          {"window", span(clip.window)},
          {"channels", channels}};
}

Clip clipFrom(const json& value) {
  Clip clip{frames(value.at("origin")), frames(value.at("length")), spanFrom(value.at("window")), {}};
  for (const json& source : value.at("channels"))
    clip.channels.push_back({smallNumber(source.at(0)), smallNumber(source.at(1))});
  return clip;
}

json pieceJson(const Piece& piece) {
  json value{{"span", span(piece.span)}, {"lane", piece.lane ? json(piece.lane->value) : json()}};
  if (!piece.overdubs.empty()) {
    value["overdubs"] = json::array();
    for (const LaneNumber lane : piece.overdubs) value["overdubs"].push_back(lane.value);
  }
  if (piece.slip != Frames{}) value["slip"] = piece.slip.count;
  if (piece.gain.value != 0.0) value["gain"] = piece.gain.value;
  return value;
}

Piece pieceFrom(const json& value) {
  Piece piece;
  piece.span = spanFrom(value.at("span"));
  if (!value.at("lane").is_null()) piece.lane = LaneNumber{smallNumber(value.at("lane"))};
  if (value.contains("overdubs"))
    for (const json& lane : value.at("overdubs")) piece.overdubs.push_back(LaneNumber{smallNumber(lane)});
  if (value.contains("slip")) piece.slip = frames(value.at("slip"));
  if (value.contains("gain")) piece.gain = {number(value.at("gain"))};
  return piece;
}

json compositeJson(const Composite& composite) {
  json picks = json::array();
  for (const Piece& piece : composite.picks) picks.push_back(pieceJson(piece));
  json joins = json::array();
  for (const JoinSetting& join : composite.joins)
    joins.push_back({{"at", join.at.count},
                     {"before", join.shape.before.count},
                     {"after", join.shape.after.count},
                     {"curve", nameOf(join.shape.curve)}});
  return {{"picks", picks}, {"joins", joins}};
}

Composite compositeFrom(const json& value) {
  std::vector<Piece> picks;
  for (const json& piece : value.at("picks")) picks.push_back(pieceFrom(piece));
  std::vector<JoinSetting> joins;
  for (const json& join : value.at("joins"))
    joins.push_back({frames(join.at("at")),
                     {frames(join.at("before")), frames(join.at("after")),
                      curveNamed(join.at("curve").get<std::string>())}});
  return {SharedSequence<Piece>(picks), SharedSequence<JoinSetting>(joins)};
}

json trackJson(const Track& track) {
  json microphones = json::array();
  for (const Microphone& m : track.microphones)
    microphones.push_back({{"name", m.name},
                           {"input", m.input},
                           {"channels", m.channels},
                           {"gain", m.gain.value},
                           {"pan", m.pan.value}});
  json lanes = json::array();
  for (const auto& lane : track.lanes) {
    json clips = json::array();
    for (const Clip& clip : lane->clips) clips.push_back(clipJson(clip));
    lanes.push_back({{"number", lane->number.value}, {"name", lane->name}, {"clips", clips}});
    if (lane->setAside) lanes.back()["setAside"] = true;
  }
  return {{"id", track.id.value},
          {"name", track.name},
          {"kind", nameOf(track.kind)},
          {"backing", track.backing},
          {"microphones", microphones},
          {"lanes", lanes},
          {"lanesMade", track.lanesMade},
          {"composite", compositeJson(track.composite)},
          {"gain", track.gain.value},
          {"pan", track.pan.value},
          {"armed", track.armed},
          {"muted", track.muted},
          {"soloed", track.soloed},
          {"monitoring", nameOf(track.monitoring)},
          {"recordInto", track.recordInto ? json(track.recordInto->value) : json()}};
}

Track trackFrom(const json& value) {
  Track track;
  track.id = TrackId{smallNumber(value.at("id"))};
  track.name = value.at("name").get<std::string>();
  track.kind = valueIn(kinds, value.at("kind").get<std::string>(), "kind of track");
  track.backing = value.at("backing").get<bool>();
  for (const json& m : value.at("microphones"))
    track.microphones.push_back({m.at("name").get<std::string>(),
                                 smallNumber(m.at("input")),
                                 smallNumber(m.at("channels")),
                                 {number(m.at("gain"))},
                                 {number(m.at("pan"))}});
  for (const json& lane : value.at("lanes")) {
    Lane made{LaneNumber{smallNumber(lane.at("number"))}, lane.at("name").get<std::string>(), {}};
    made.setAside = lane.value("setAside", false);
    for (const json& clip : lane.at("clips")) made.clips.push_back(clipFrom(clip));
    track.lanes.emplace_back(std::move(made));
  }
  track.lanesMade = smallNumber(value.at("lanesMade"));
  track.composite = compositeFrom(value.at("composite"));
  track.gain = {number(value.at("gain"))};
  track.pan = {number(value.at("pan"))};
  track.armed = value.at("armed").get<bool>();
  track.muted = value.at("muted").get<bool>();
  track.soloed = value.at("soloed").get<bool>();
  if (value.contains("monitoring"))
    track.monitoring = monitoringNamed(value.at("monitoring").get<std::string>());
  if (value.contains("recordInto") && !value.at("recordInto").is_null())
    track.recordInto = LaneNumber{smallNumber(value.at("recordInto"))};
  return track;
}

json spansJson(const std::vector<Span>& spans) {
  json list = json::array();
  for (const Span s : spans) list.push_back(span(s));
  return list;
}

std::vector<Span> spansFrom(const json& value) {
  std::vector<Span> spans;
  for (const json& s : value) spans.push_back(spanFrom(s));
  return spans;
}

json optionalFrames(const std::optional<Frames>& at) {
  return at ? json(at->count) : json();
}
std::optional<Frames> optionalFramesFrom(const json& value) {
  return value.is_null() ? std::nullopt : std::optional(frames(value));
}

json punchesJson(const std::vector<Punch>& punches) {
  json list = json::array();
  for (const Punch& punch : punches)
    list.push_back(json::array({optionalFrames(punch.in), optionalFrames(punch.out)}));
  return list;
}

std::vector<Punch> punchesFrom(const json& value) {
  std::vector<Punch> punches;
  for (const json& punch : value)
    punches.push_back({optionalFramesFrom(punch.at(0)), optionalFramesFrom(punch.at(1))});
  return punches;
}

json lengthJson(MusicalLength length) {
  return json::array({length.amount, nameIn(lengthUnits, length.unit)});
}
MusicalLength lengthFrom(const json& value) {
  return {number(value.at(0)), valueIn(lengthUnits, value.at(1).get<std::string>(), "unit of length")};
}

json optionsJson(const RecordingOptions& o) {
  return {{"preRoll", lengthJson(o.preRoll)},
          {"postRoll", lengthJson(o.postRoll)},
          {"countInBars", o.countInBars},
          {"loop", o.loop},
          {"punch", o.punch},
          {"passes", o.passes},
          {"result", nameOf(o.result)},
          {"hush", o.hush},
          {"safeReview", o.safeReview},
          {"playBack", o.playBack},
          {"setAside", o.setAside},
          {"backUpSeconds", o.backUpSeconds},
          {"leadSeconds", o.leadSeconds},
          {"airBars", o.airBars},
          {"click",
           {{"recording", o.click.recording},
            {"playing", o.click.playing},
            {"accent", o.click.accent},
            {"level", o.click.level.value}}},
          {"grid", o.grid},
          {"snap", nameIn(snaps, o.snap)},
          {"divisions", o.divisions}};
}

/// Reads a member where it is there: sessions made before it existed keep its default.
template <typename Value>
void readInto(Value& into, const json& object, const char* key) {
  if (!object.contains(key)) return;
  if constexpr (std::is_same_v<Value, int>)
    into = smallNumber(object.at(key));
  else
    into = object.at(key).get<Value>();
}

RecordingOptions optionsFrom(const json& value) {
  RecordingOptions o;
  if (value.contains("preRoll")) o.preRoll = lengthFrom(value.at("preRoll"));
  if (value.contains("postRoll")) o.postRoll = lengthFrom(value.at("postRoll"));
  readInto(o.countInBars, value, "countInBars");
  readInto(o.loop, value, "loop");
  readInto(o.punch, value, "punch");
  readInto(o.passes, value, "passes");
  if (value.contains("result")) o.result = passResultNamed(value.at("result").get<std::string>());
  readInto(o.hush, value, "hush");
  readInto(o.safeReview, value, "safeReview");
  readInto(o.playBack, value, "playBack");
  readInto(o.setAside, value, "setAside");
  readInto(o.backUpSeconds, value, "backUpSeconds");
  readInto(o.leadSeconds, value, "leadSeconds");
  readInto(o.airBars, value, "airBars");
  if (value.contains("click")) {
    const json& click = value.at("click");
    readInto(o.click.recording, click, "recording");
    readInto(o.click.playing, click, "playing");
    readInto(o.click.accent, click, "accent");
    readInto(o.click.level.value, click, "level");
    if (!click.is_object()) throw Error("The session is damaged: the click is described wrongly.");
  }
  readInto(o.grid, value, "grid");
  if (value.contains("snap")) o.snap = valueIn(snaps, value.at("snap").get<std::string>(), "way to snap");
  readInto(o.divisions, value, "divisions");
  return o;
}

}  // namespace

const char* nameOf(Curve curve) {
  return nameIn(curves, curve);
}
Curve curveNamed(const std::string& name) {
  return valueIn(curves, name, "crossfade curve; there are equal-gain, equal-power, s and matched");
}
const char* nameOf(SampleFormat format) {
  return nameIn(formats, format);
}
SampleFormat sampleFormatNamed(const std::string& name) {
  return valueIn(formats, name, "file format; there are pcm16, pcm24 and float");
}
const char* nameOf(PassResult result) {
  return nameIn(results, result);
}
PassResult passResultNamed(const std::string& name) {
  return valueIn(results, name, "result of a pass; there are new-lane, replace and overdub");
}
const char* nameOf(TrackKind kind) {
  return nameIn(kinds, kind);
}
const char* nameOf(Monitoring monitoring) {
  return nameIn(monitorings, monitoring);
}
Monitoring monitoringNamed(const std::string& name) {
  return valueIn(monitorings, name, "way of monitoring; there are off, always and automatic");
}

json toJson(const Session& session) {
  json tempo = json::array();
  for (const TempoChange& change : session.tempo.changes())
    tempo.push_back({{"bar", change.bar},
                     {"beatsPerMinute", change.beatsPerMinute},
                     {"meter", json::array({change.meter.beats, change.meter.unit})}});
  json pool = json::array();
  for (const PoolFile& file : *session.pool)
    pool.push_back({{"path", file.path}, {"channels", file.channels}, {"length", file.length.count}});
  json tracks = json::array();
  for (const auto& track : session.tracks) tracks.push_back(trackJson(*track));
  json markers = json::array();
  for (const Marker& marker : session.markers)
    markers.push_back({{"at", marker.at.count},
                       {"name", marker.name},
                       {"kind", marker.kind == MarkerKind::Dropout ? "dropout" : "plain"}});
  return {{"name", session.name},
          {"rate", session.rate.hertz},
          {"format", nameOf(session.format)},
          {"tempo", tempo},
          {"pool", pool},
          {"tracks", tracks},
          {"tracksMade", session.tracksMade},
          {"loop", session.loop ? span(*session.loop) : json()},
          {"punches", punchesJson(session.punches)},
          {"markers", markers},
          {"recording", optionsJson(session.recording)}};
}

Session sessionFromJson(const json& document) {
  try {
    Session session;
    session.name = document.at("name").get<std::string>();
    session.rate = {smallNumber(document.at("rate"))};
    session.format = sampleFormatNamed(document.at("format").get<std::string>());
    std::vector<TempoChange> tempo;
    for (const json& change : document.at("tempo"))
      tempo.push_back({smallNumber(change.at("bar")),
                       number(change.at("beatsPerMinute")),
                       {smallNumber(change.at("meter").at(0)), smallNumber(change.at("meter").at(1))}});
    session.tempo = TempoMap(tempo);
    for (const json& file : document.at("pool"))
      session.pool.edit().push_back(
          {file.at("path").get<std::string>(), smallNumber(file.at("channels")), frames(file.at("length"))});
    for (const json& track : document.at("tracks")) session.tracks.emplace_back(trackFrom(track));
    session.tracksMade = smallNumber(document.at("tracksMade"));
    if (!document.at("loop").is_null()) session.loop = spanFrom(document.at("loop"));
    session.punches = punchesFrom(document.at("punches"));
    for (const json& marker : document.at("markers"))
      session.markers.push_back(
          {frames(marker.at("at")), marker.at("name").get<std::string>(),
           marker.value("kind", "plain") == "dropout" ? MarkerKind::Dropout : MarkerKind::Plain});
    if (document.contains("recording")) session.recording = optionsFrom(document.at("recording"));
    checkInvariants(session);
    return session;
  } catch (const json::exception& e) {
    throw Error(
        std::string("The session is damaged: a part of session.json is missing or of the wrong kind (") +
        e.what() + ").");
  }
}

json toJson(const RecordSetup& setup) {
  const RollTimeline& timeline = setup.timeline;
  return {{"start", timeline.start.count},
          {"loop", timeline.loop ? span(*timeline.loop) : json()},
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
  setup.timeline.start = frames(document.at("start"));
  if (!document.at("loop").is_null()) setup.timeline.loop = spanFrom(document.at("loop"));
  setup.timeline.passes = smallNumber(document.at("passes"));
  if (!document.at("stopAt").is_null()) setup.timeline.stopAt = frames(document.at("stopAt"));
  setup.timeline.postRoll = frames(document.at("postRoll"));
  if (document.contains("countIn")) setup.timeline.countIn = frames(document.at("countIn"));
  if (document.contains("handPunches")) setup.handPunches = spansFrom(document.at("handPunches"));
  readInto(setup.byHand, document, "byHand");
  readInto(setup.hush, document, "hush");
  readInto(setup.playBack, document, "playBack");
  setup.recordFrom = frames(document.at("recordFrom"));
  setup.punches = spansFrom(document.at("punches"));
  setup.roundTrip = frames(document.at("roundTrip"));
  if (document.contains("capturesFrom")) setup.capturesFrom = frames(document.at("capturesFrom"));
  if (document.contains("rolled") && !document.at("rolled").is_null())
    setup.rolled = frames(document.at("rolled"));
  setup.result = passResultNamed(document.at("result").get<std::string>());
  return setup;
}

}  // namespace yewdrift
