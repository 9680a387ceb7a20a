// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <aubio/aubio.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <new>
#include <span>

#include "core/time/frames.h"

namespace yewdrift::aubio {

template <auto Delete>
struct Deleter {
  template <typename T>
  void operator()(T* thing) const {
    Delete(thing);
  }
};
using Vector = std::unique_ptr<fvec_t, Deleter<del_fvec>>;
using Onset = std::unique_ptr<aubio_onset_t, Deleter<del_aubio_onset>>;
using Pitch = std::unique_ptr<aubio_pitch_t, Deleter<del_aubio_pitch>>;

/// What aubio makes, or bad_alloc: it returns null where there is no memory.
template <typename Handle, typename T>
Handle made(T* thing) {
  if (!thing) throw std::bad_alloc();
  return Handle(thing);
}

/// Its defaults are made for 44.1 and 48 kHz: of higher rates so many samples are heard as one, their mean.
inline unsigned samplesInOne(SampleRate rate) {
  unsigned samples = 1;
  for (int hertz = 64'000; hertz < rate.hertz; hertz *= 2) samples *= 2;
  return samples;
}

/// Hands a signal on in hops of one length; what is left over waits for more.
class Hops {
 public:
  Hops(unsigned length, SampleRate rate)
      : samplesInOne_(aubio::samplesInOne(rate)),
        hertz_(static_cast<unsigned>(rate.hertz) / samplesInOne_),
        hop_(made<Vector>(new_fvec(length))) {}

  /// Of what is handed on.
  [[nodiscard]] unsigned hertz() const { return hertz_; }
  /// Frames of the signal in a hop.
  [[nodiscard]] unsigned frames() const { return hop_->length * samplesInOne_; }
  [[nodiscard]] unsigned samplesInOne() const { return samplesInOne_; }

  template <typename Each>
  void add(std::span<const float> samples, Each each) {
    for (const float sample : samples) {
      sum_ += std::isfinite(sample) ? sample : 0.0F;
      if (++summed_ < samplesInOne_) continue;
      hop_->data[filled_++] = sum_ / static_cast<float>(samplesInOne_);
      sum_ = 0.0F;
      summed_ = 0;
      if (filled_ < hop_->length) continue;
      filled_ = 0;
      each(*hop_);
    }
  }
  /// The rest, with silence behind it, where there is one.
  template <typename Each>
  void finish(Each each) {
    if (filled_ == 0 && summed_ == 0) return;
    std::fill(hop_->data + filled_, hop_->data + hop_->length, 0.0F);
    filled_ = summed_ = 0;
    each(*hop_);
  }

 private:
  unsigned samplesInOne_;
  unsigned hertz_;
  Vector hop_;
  unsigned filled_ = 0;
  unsigned summed_ = 0;
  float sum_ = 0.0F;
};

}  // namespace yewdrift::aubio
