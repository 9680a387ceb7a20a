// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/standby_tape.h"

namespace yewdrift {
namespace {

constexpr std::size_t chunkFrames = 4096;

}  // namespace

StandbyTape::StandbyTape(std::vector<int> inputs, SampleRate rate, double seconds)
    : inputs_(std::move(inputs)),
      capacity_(static_cast<std::size_t>(framesFromSeconds(seconds, rate).count)),
      ring_(static_cast<std::size_t>(rate.hertz) * inputs_.size()),
      chunk_(chunkFrames * inputs_.size()),
      channels_(inputs_.size()) {}

void StandbyTape::push(const float* const* inputs, int inputCount, int frames) noexcept {
  const std::size_t channels = inputs_.size();
  if (channels == 0 || ring_.writable() < channels * static_cast<std::size_t>(frames)) return;
  for (std::size_t c = 0; c < channels; ++c) {
    const bool there = inputs_[c] < inputCount;
    for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i)
      ring_.slot(i * channels + c) = there ? inputs[inputs_[c]][i] : 0.0F;
  }
  ring_.publish(channels * static_cast<std::size_t>(frames));
}

void StandbyTape::drain() {
  const std::size_t channels = inputs_.size();
  if (channels == 0) return;
  while (ring_.readable() >= channels) {
    const std::size_t frames = std::min(chunkFrames, ring_.readable() / channels);
    ring_.read(chunk_.data(), frames * channels);
    const std::lock_guard guard(mutex_);
    for (std::size_t c = 0; c < channels; ++c) {
      std::vector<float>& tape = channels_[c];
      if (tape.empty()) tape.resize(capacity_);
      for (std::size_t i = 0; i < frames; ++i) tape[(next_ + i) % capacity_] = chunk_[i * channels + c];
    }
    next_ = (next_ + frames) % capacity_;
    held_ = std::min(capacity_, held_ + frames);
  }
}

std::vector<std::vector<float>> StandbyTape::take() const {
  const std::lock_guard guard(mutex_);
  std::vector<std::vector<float>> taken(channels_.size(), std::vector<float>(held_));
  const std::size_t oldest = (next_ + capacity_ - held_) % capacity_;
  for (std::size_t c = 0; c < channels_.size(); ++c)
    for (std::size_t i = 0; i < held_; ++i) taken[c][i] = channels_[c][(oldest + i) % capacity_];
  return taken;
}

Frames StandbyTape::held() const {
  const std::lock_guard guard(mutex_);
  return {static_cast<std::int64_t>(held_)};
}

void StandbyTape::clear() {
  const std::lock_guard guard(mutex_);
  held_ = 0;
}

}  // namespace yewdrift
