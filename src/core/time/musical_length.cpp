// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/musical_length.h"

#include <charconv>
#include <cmath>

#include "core/error.h"

namespace yewdrift {
namespace {

Frames shifted(Frames at, double amount, LengthUnit unit, const Ruler& ruler) {
  return unit == LengthUnit::Seconds ? at + framesFromSeconds(amount, ruler.rate)
                                     : ruler.tempo.shiftedByBars(at, amount, ruler.rate);
}

}  // namespace

Frames positionBefore(Frames at, MusicalLength length, const Ruler& ruler) {
  return shifted(at, -length.amount, length.unit, ruler);
}

Frames positionBehind(Frames at, MusicalLength length, const Ruler& ruler) {
  return shifted(at, length.amount, length.unit, ruler);
}

Sentence lengthText(MusicalLength length) {
  const bool bars = length.unit == LengthUnit::Bars;
  if (const double whole = std::round(length.amount); whole == length.amount) {
    const Count count{static_cast<std::int64_t>(whole)};
    return bars ? Sentence("%n bar(s)", count) : Sentence("%n second(s)", count);
  }
  const Decimal amount{length.amount, 3};
  return bars ? Sentence("%1 bars", amount) : Sentence("%1 seconds", amount);
}

MusicalLength parseMusicalLength(std::string_view text) {
  const std::string_view whole = text;
  double scale = 1.0;
  LengthUnit unit = LengthUnit::Bars;
  auto take = [&text](std::string_view suffix) {
    if (!text.ends_with(suffix)) return false;
    text.remove_suffix(suffix.size());
    return true;
  };
  if (take("ms")) {
    unit = LengthUnit::Seconds;
    scale = 0.001;
  } else if (!take("bars") && !take("bar") && take("s")) {
    unit = LengthUnit::Seconds;
  }
  double value = -1.0;
  const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
  if (result.ec != std::errc{} || result.ptr != text.data() + text.size() || !(value >= 0.0) ||
      value * scale > 1000.0)
    throw Error("\"%1\" is not a length; write 2bars, 1.5s or 250ms, up to 1000.", std::string(whole));
  return {value * scale, unit};
}

}  // namespace yewdrift
