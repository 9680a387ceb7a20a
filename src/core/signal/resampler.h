// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <memory>
#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// Brings interleaved samples from one rate to another, block by block, at the best quality of libsoxr. One
/// thread at a time. Throws Error where the library refuses.
class Resampler {
 public:
  /// Is given what was made: interleaved samples, frames.
  using Sink = std::function<void(const float*, std::int64_t)>;
  Resampler(SampleRate from, SampleRate to, int channels);
  ~Resampler();
  Resampler(const Resampler&) = delete;
  Resampler& operator=(const Resampler&) = delete;

  void feed(const float* interleaved, std::int64_t frames, const Sink& sink);
  /// Gives out what is still inside.
  void finish(const Sink& sink);

 private:
  struct Handle;
  void process(const float* interleaved, std::size_t frames, const Sink& sink);
  std::unique_ptr<Handle> handle_;
  std::size_t channels_;
  double ratio_;
  std::vector<float> out_;
};

}  // namespace yewdrift
