// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/sentence.h"
#include "core/time/position_text.h"

namespace yewdrift {

enum class LengthUnit { Bars, Seconds };

/// A length as people say it: "2 bars", "1.5 seconds". How many frames a bar has depends on where it lies.
struct MusicalLength {
  double amount = 0.0;  // 0..1000
  LengthUnit unit = LengthUnit::Bars;
  bool operator==(const MusicalLength&) const = default;
};

/// The position that lies `length` before (or behind) `at`; bars follow the tempo map, also across its
/// changes. The result may be negative.
Frames positionBefore(Frames at, MusicalLength length, const Ruler& ruler);
Frames positionBehind(Frames at, MusicalLength length, const Ruler& ruler);

/// "1 bar", "2 bars", "1.5 seconds".
Sentence lengthText(MusicalLength length);

/// `10ms`, `0.5s`, `2bars` or `2` (bars). Throws Error for anything else, and beyond 1000.
MusicalLength parseMusicalLength(std::string_view text);

}  // namespace yewdrift
