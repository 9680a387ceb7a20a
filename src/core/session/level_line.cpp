// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/level_line.h"

#include <algorithm>

namespace yewdrift {
namespace {

/// The first point behind `at`.
auto behind(std::span<const LevelPoint> line, Frames at) {
  return std::ranges::upper_bound(line, at, {}, &LevelPoint::at);
}

double between(const LevelPoint& left, const LevelPoint& right, Frames at) {
  const double share =
      static_cast<double>((at - left.at).count) / static_cast<double>((right.at - left.at).count);
  return left.gain.value + share * (right.gain.value - left.gain.value);
}

}  // namespace

Decibels levelAt(const LevelLine& line, Frames at) {
  if (line.empty()) return {};
  const auto next = behind(line, at);
  if (next == std::span<const LevelPoint>(line).begin()) return line.front().gain;
  if (next == std::span<const LevelPoint>(line).end()) return line.back().gain;
  return {between(*(next - 1), *next, at)};
}

void multiplyByLevel(std::span<const LevelPoint> line, Frames from, std::span<float> gains) noexcept {
  if (line.empty()) return;
  auto next = behind(line, from);
  for (std::size_t i = 0; i < gains.size();) {
    const Frames at = from + Frames{static_cast<std::int64_t>(i)};
    const Frames end = from + Frames{static_cast<std::int64_t>(gains.size())};
    if (next == line.begin() || next == line.end()) {
      const float factor = factorOf(next == line.begin() ? line.front().gain : line.back().gain);
      const Frames until = next == line.begin() ? std::min(end, next->at) : end;
      for (; Frames{static_cast<std::int64_t>(i)} + from < until; ++i) gains[i] *= factor;
    } else {
      const LevelPoint& left = *(next - 1);
      const Frames until = std::min(end, next->at);
      for (Frames now = at; now < until; now += Frames{1}, ++i)
        gains[i] *= factorOf({between(left, *next, now)});
    }
    if (next != line.end()) ++next;
  }
}

LevelLine shifted(LevelLine line, Frames by) {
  for (LevelPoint& point : line) point.at += by;
  return line;
}

}  // namespace yewdrift
