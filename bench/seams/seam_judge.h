// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a listener may notice of a seam, measured from the sound alone and written without a look at how joins
// are searched (src/core/joins), so that one can be held against the other.
#pragma once

#include <span>
#include <vector>

namespace yewdrift::bench {

/// Each about 1 where it is plainly heard.
struct Badness {
  double click = 0.0;     // the wave bends more sharply than in either take
  double level = 0.0;     // louder, or softer, than both
  double change = 0.0;    // the spectrum moves faster than in either
  double onsets = 0.0;    // attacks too many, or too few
  double exposure = 0.0;  // the takes differ, and it is loud there
  [[nodiscard]] double total() const { return click + level + change + onsets + 0.5 * exposure; }
};

/// `out` and `in`: both takes; `heard`: what became of them; all of one length at 48 kHz, the seam around
/// sample `centre`. `loudest`: the loudest mean square over 10 ms far around.
Badness judgeSeam(std::span<const float> out, std::span<const float> in, std::span<const float> heard,
                  std::size_t centre, double loudest);

}  // namespace yewdrift::bench
