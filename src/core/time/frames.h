// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <compare>
#include <cstdint>

namespace yewdrift {

/// A position or a length in sample frames at the session's rate.
struct Frames {
  std::int64_t count = 0;

  constexpr auto operator<=>(const Frames&) const = default;
  constexpr Frames operator-() const { return {-count}; }
  constexpr Frames& operator+=(Frames other) { return count += other.count, *this; }
  constexpr Frames& operator-=(Frames other) { return count -= other.count, *this; }
  friend constexpr Frames operator+(Frames a, Frames b) { return {a.count + b.count}; }
  friend constexpr Frames operator-(Frames a, Frames b) { return {a.count - b.count}; }
  friend constexpr Frames operator*(Frames a, std::int64_t n) { return {a.count * n}; }
};

/// Positions beyond this are refused: nine months of 192 kHz. A window can show any position up to here, and
/// sums of some of them are far from what 64 bits, or a double, hold exactly.
inline constexpr Frames maximumPosition{std::int64_t{1} << 42};

/// A half-open stretch of time [start, end).
struct Span {
  Frames start;
  Frames end;

  constexpr bool operator==(const Span&) const = default;
  [[nodiscard]] constexpr Frames length() const { return end - start; }
  [[nodiscard]] constexpr bool empty() const { return end <= start; }
  [[nodiscard]] constexpr bool contains(Frames at) const { return start <= at && at < end; }
  [[nodiscard]] constexpr bool overlaps(Span other) const { return start < other.end && other.start < end; }
  [[nodiscard]] constexpr Span intersect(Span other) const {
    return {std::max(start, other.start), std::min(end, other.end)};
  }
  [[nodiscard]] constexpr Span shifted(Frames by) const { return {start + by, end + by}; }
};

struct SampleRate {
  int hertz = 48000;
  constexpr bool operator==(const SampleRate&) const = default;
};

inline constexpr int lowestRate = 44100;
inline constexpr int highestRate = 192000;

/// Nearest frame to a time in seconds; half-way cases away from zero.
Frames framesFromSeconds(double seconds, SampleRate rate);
double secondsFromFrames(Frames frames, SampleRate rate);

}  // namespace yewdrift
