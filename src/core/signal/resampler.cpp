// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/resampler.h"

#include <soxr.h>

#include "core/error.h"

namespace yewdrift {

struct Resampler::Handle {
  soxr* resampler = nullptr;
  ~Handle() { soxr_delete(resampler); }
};

Resampler::Resampler(SampleRate from, SampleRate to, int channels)
    : handle_(std::make_unique<Handle>()),
      channels_(static_cast<std::size_t>(channels)),
      ratio_(static_cast<double>(to.hertz) / from.hertz) {
  const soxr_quality_spec_t quality = soxr_quality_spec(SOXR_VHQ, SOXR_ROLLOFF_NONE);
  soxr_error_t error = nullptr;
  handle_->resampler =
      soxr_create(from.hertz, to.hertz, static_cast<unsigned>(channels), &error, nullptr, &quality, nullptr);
  if (error) throw Error("From %1 to %2 Hz nothing can be converted.", from.hertz, to.hertz);
}

Resampler::~Resampler() = default;

void Resampler::feed(const float* interleaved, std::int64_t frames, const Sink& sink) {
  if (frames > 0) process(interleaved, static_cast<std::size_t>(frames), sink);
}

void Resampler::finish(const Sink& sink) {
  process(nullptr, 0, sink);
}

void Resampler::process(const float* interleaved, std::size_t frames, const Sink& sink) {
  out_.resize((static_cast<std::size_t>(static_cast<double>(frames) * ratio_) + 1024) * channels_);
  std::size_t fed = 0;
  for (;;) {
    std::size_t consumed = 0;
    std::size_t made = 0;
    // No input means: give out what is still inside.
    if (soxr_process(handle_->resampler, interleaved ? interleaved + fed * channels_ : nullptr, frames - fed,
                     &consumed, out_.data(), out_.size() / channels_, &made))
      throw Error("The file could not be brought to another rate.");
    sink(out_.data(), static_cast<std::int64_t>(made));
    fed += consumed;
    if (interleaved ? fed >= frames : made == 0) return;
  }
}

}  // namespace yewdrift
