// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>

#include "core/time/frames.h"

namespace yewdrift {

/// Where the renderer gets its samples: from disk when flattening, from pages read ahead when live.
class SampleSource {
 public:
  virtual ~SampleSource() = default;
  /// `count` samples of one channel of a pool file from `at`; silence where the file has none or where they
  /// are not at hand (then false). Live implementations neither wait nor allocate.
  virtual bool read(int file, int channel, Frames at, int count, float* out) noexcept = 0;
};

}  // namespace yewdrift
