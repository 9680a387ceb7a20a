// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <iterator>

#include "core/time/frames.h"

namespace yewdrift {

/// How much of a span lies before `at`, from 0 to 1.
[[nodiscard]] constexpr double shareBefore(Span whole, Frames at) {
  return static_cast<double>((at - whole.start).count) / static_cast<double>(whole.length().count);
}

/// A span in parts of at most that many frames, one after the other: `for (Span part : SpanParts(all,
/// {4096}))`. An empty span has none.
class SpanParts {
 public:
  constexpr SpanParts(Span whole, Frames atMost) : whole_(whole), atMost_(atMost) {}

  class Iterator {
   public:
    constexpr Iterator(Frames at, const SpanParts& of) : at_(at), of_(of) {}
    constexpr Span operator*() const { return {at_, std::min(at_ + of_.atMost_, of_.whole_.end)}; }
    constexpr Iterator& operator++() {
      at_ += of_.atMost_;
      return *this;
    }
    constexpr bool operator==(std::default_sentinel_t) const { return at_ >= of_.whole_.end; }

   private:
    Frames at_;
    const SpanParts& of_;
  };

  [[nodiscard]] constexpr Iterator begin() const { return {whole_.start, *this}; }
  [[nodiscard]] static constexpr std::default_sentinel_t end() { return {}; }

 private:
  Span whole_;
  Frames atMost_;
};

}  // namespace yewdrift
