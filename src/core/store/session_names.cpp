// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_names.h"

#include <array>
#include <utility>

#include "core/error.h"

namespace yewdrift {
namespace {

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
constexpr Names<Cue, 3> cues{
    {{Cue::Off, "off"}, {Cue::Punches, "punches"}, {Cue::PunchesAndWraps, "punches-and-wraps"}}};
constexpr Names<PoolKind, 2> poolKinds{{{PoolKind::Audio, "audio"}, {PoolKind::Notes, "notes"}}};
constexpr Names<LanePicture, 4> lanePictures{{{LanePicture::Waveform, "waveform"},
                                              {LanePicture::Onsets, "onsets"},
                                              {LanePicture::Level, "level"},
                                              {LanePicture::Pitch, "pitch"}}};
constexpr Names<MarkerKind, 2> markerKinds{{{MarkerKind::Plain, "plain"}, {MarkerKind::Dropout, "dropout"}}};
constexpr Names<TrackKind, 2> kinds{{{TrackKind::Audio, "audio"}, {TrackKind::Midi, "midi"}}};

template <typename Table, typename Enum>
const char* nameIn(const Table& table, Enum value) {
  for (const auto& [candidate, name] : table)
    if (candidate == value) return name;
  return "";
}

template <typename Table>
auto valueIn(const Table& table, const std::string& name, Pattern<std::string> unknown) {
  for (const auto& [candidate, known] : table)
    if (name == known) return candidate;
  throw Error(unknown, name);
}

}  // namespace

const char* nameOf(Curve curve) {
  return nameIn(curves, curve);
}
Curve curveNamed(const std::string& name) {
  return valueIn(curves, name,
                 "\"%1\" is not a crossfade curve; there are equal-gain, equal-power, s and matched.");
}
const char* nameOf(SampleFormat format) {
  return nameIn(formats, format);
}
SampleFormat sampleFormatNamed(const std::string& name) {
  return valueIn(formats, name, "\"%1\" is not a file format; there are pcm16, pcm24 and float.");
}
const char* nameOf(PassResult result) {
  return nameIn(results, result);
}
PassResult passResultNamed(const std::string& name) {
  return valueIn(results, name, "\"%1\" is not a result of a pass; there are new-lane, replace and overdub.");
}
const char* nameOf(TrackKind kind) {
  return nameIn(kinds, kind);
}
TrackKind trackKindNamed(const std::string& name) {
  return valueIn(kinds, name, "\"%1\" is not a kind of track.");
}
const char* nameOf(PoolKind kind) {
  return nameIn(poolKinds, kind);
}
PoolKind poolKindNamed(const std::string& name) {
  return valueIn(poolKinds, name, "\"%1\" is not a kind of file.");
}
const char* nameOf(Monitoring monitoring) {
  return nameIn(monitorings, monitoring);
}
Monitoring monitoringNamed(const std::string& name) {
  return valueIn(monitorings, name,
                 "\"%1\" is not a way of monitoring; there are off, always and automatic.");
}
const char* nameOf(LengthUnit unit) {
  return nameIn(lengthUnits, unit);
}
LengthUnit lengthUnitNamed(const std::string& name) {
  return valueIn(lengthUnits, name, "\"%1\" is not a unit of length.");
}
const char* nameOf(Snap snap) {
  return nameIn(snaps, snap);
}
Snap snapNamed(const std::string& name) {
  return valueIn(snaps, name, "\"%1\" is not a way to snap.");
}
const char* nameOf(Cue cue) {
  return nameIn(cues, cue);
}
Cue cueNamed(const std::string& name) {
  return valueIn(cues, name, "\"%1\" is not a cue; there are off, punches and punches-and-wraps.");
}
const char* nameOf(LanePicture picture) {
  return nameIn(lanePictures, picture);
}
LanePicture lanePictureNamed(const std::string& name) {
  return valueIn(lanePictures, name,
                 "\"%1\" is nothing that a lane shows; there are waveform, onsets, level and pitch.");
}
const char* nameOf(MarkerKind kind) {
  return nameIn(markerKinds, kind);
}
MarkerKind markerKindNamed(const std::string& name) {
  return valueIn(markerKinds, name, "\"%1\" is not a kind of marker.");
}

}  // namespace yewdrift
