// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/position_text.h"

#include <charconv>
#include <cmath>
#include <cstdio>
#include <optional>

#include "core/error.h"

namespace yewdrift {
namespace {

/// An unsigned number that fills the whole text.
template <typename Number>
std::optional<Number> numberIn(std::string_view text) {
  if (text.empty() || (text.front() != '.' && (text.front() < '0' || text.front() > '9')))
    return std::nullopt;
  Number value{};
  const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
  if (result.ec != std::errc{} || result.ptr != text.data() + text.size()) return std::nullopt;
  return value;
}

bool takeSuffix(std::string_view& text, std::string_view suffix) {
  if (text.size() <= suffix.size() || !text.ends_with(suffix)) return false;
  text.remove_suffix(suffix.size());
  return true;
}

Frames checked(double frames, std::string_view text) {
  if (!(frames <= static_cast<double>(maximumPosition.count)))
    throw Error("The position \"%1\" lies beyond the longest session there can be.", std::string(text));
  return {std::llround(frames)};
}

std::optional<Frames> framesOrSeconds(std::string_view text, const Ruler& ruler) {
  const std::string_view whole = text;
  if (takeSuffix(text, "f")) {
    if (text.find_first_not_of("0123456789") != std::string_view::npos) return std::nullopt;
    const auto count = numberIn<std::int64_t>(text);  // empty where it does not even fit an integer
    if (!count || Frames{*count} > maximumPosition) checked(1e300, whole);
    return Frames{*count};
  }
  if (takeSuffix(text, "ms")) {
    if (const auto value = numberIn<double>(text)) return checked(*value / 1000.0 * ruler.rate.hertz, whole);
    return std::nullopt;
  }
  if (takeSuffix(text, "s"))
    if (const auto value = numberIn<double>(text)) return checked(*value * ruler.rate.hertz, whole);
  return std::nullopt;
}

std::optional<Frames> barAndBeat(std::string_view text, const Ruler& ruler) {
  const auto stroke = text.find('|');
  if (stroke == std::string_view::npos) return std::nullopt;
  const auto bar = numberIn<int>(text.substr(0, stroke));
  const auto beat = numberIn<double>(text.substr(stroke + 1));
  if (!bar || !beat || *bar < 1 || *beat < 1.0) return std::nullopt;
  const int beats = ruler.tempo.changeAt(*bar).meter.beats;
  if (*beat >= beats + 1.0)
    throw Error("There is no beat %1 in bar %2, which has %3 beats.", std::string(text.substr(stroke + 1)),
                *bar, beats);
  const Frames at = ruler.tempo.frameOf({*bar, *beat}, ruler.rate);
  return checked(static_cast<double>(at.count), text);
}

}  // namespace

Frames parsePosition(std::string_view text, const Ruler& ruler) {
  if (const auto frames = framesOrSeconds(text, ruler)) return *frames;
  if (const auto frames = barAndBeat(text, ruler)) return *frames;
  throw Error("\"%1\" is not a position; write 123456f, 2.5s or 5|1.", std::string(text));
}

Span parseSpan(std::string_view text, const Ruler& ruler) {
  const auto dots = text.find("..");
  if (dots == std::string_view::npos)
    throw Error("\"%1\" is not a span; write FROM..TO, for example 5|1..9|1.", std::string(text));
  // "1...5s" reads as "1." and "5s": nobody means that, and both halves are checked below.
  const Span span{parsePosition(text.substr(0, dots), ruler), parsePosition(text.substr(dots + 2), ruler)};
  if (span.empty())
    throw Error("The span \"%1\" is empty: its end must lie after its start.", std::string(text));
  return span;
}

Frames parseDuration(std::string_view text, const Ruler& ruler, Frames at) {
  if (const auto frames = framesOrSeconds(text, ruler)) return *frames;
  std::string_view number = text;
  if (takeSuffix(number, "bars") || takeSuffix(number, "bar")) {
    if (const auto bars = numberIn<double>(number); bars && *bars <= 1e6) {
      const TempoChange& change = ruler.tempo.changeAt(ruler.tempo.positionOf(at, ruler.rate).bar);
      return framesFromSeconds(*bars * change.meter.beats * 60.0 / change.beatsPerMinute, ruler.rate);
    }
  }
  throw Error("\"%1\" is not a length; write 480f, 10ms, 0.5s or 2bars.", std::string(text));
}

Frames parseSignedDuration(std::string_view text, const Ruler& ruler, Frames at) {
  if (!text.empty() && text.front() == '-') return -parseDuration(text.substr(1), ruler, at);
  return parseDuration(text, ruler, at);
}

Meter parseMeter(std::string_view text) {
  const auto stroke = text.find('/');
  const auto beats = numberIn<int>(text.substr(0, stroke));
  const auto unit = stroke == std::string_view::npos ? std::nullopt : numberIn<int>(text.substr(stroke + 1));
  if (!beats || !unit || *beats < 1 || *beats > 64 || *unit < 1 || *unit > 32)
    throw Error("\"%1\" is not a meter; write 4/4 or 3/4.", std::string(text));
  return {*beats, *unit};
}

std::string barBeatText(Frames at, const Ruler& ruler) {
  const MusicalPosition position = ruler.tempo.positionOf(at, ruler.rate);
  char text[64];
  const double hundredths = std::floor(position.beat * 100.0 + 1e-6) / 100.0;
  if (hundredths == std::floor(hundredths))
    std::snprintf(text, sizeof text, "%d|%d", position.bar, static_cast<int>(hundredths));
  else
    std::snprintf(text, sizeof text, "%d|%.2f", position.bar, hundredths);
  return text;
}

std::string clockText(Frames at, SampleRate rate) {
  const auto milliseconds =
      static_cast<long long>(std::floor(std::abs(secondsFromFrames(at, rate)) * 1000.0 + 1e-6));
  char text[64];
  std::snprintf(text, sizeof text, "%s%lld:%02lld.%03lld", at.count < 0 ? "-" : "", milliseconds / 60000,
                milliseconds / 1000 % 60, milliseconds % 1000);
  return text;
}

std::string positionText(Frames at, const Ruler& ruler) {
  return ruler.grid ? barBeatText(at, ruler) : clockText(at, ruler.rate);
}

}  // namespace yewdrift
