// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/elastic_output.h"

#include <samplerate.h>

#include <algorithm>
#include <cmath>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr std::size_t partFrames = 1024;
constexpr std::size_t beforeFrames = 256;  // more than the filter reaches back and ahead
constexpr int mostBeginnings = 4;          // then it makes do with what it has: what starves is recorded, too
constexpr double windowSeconds = 1.0;      // so windows count seconds
/// An error is a drift once it has been as large as this in so many windows one after the other.
constexpr double certainSeconds = 0.001;
constexpr int certainWindows = 3;
constexpr double mostMillionths = 2000.0;  // clocks of sound cards differ by a tenth of that at most
constexpr double correctionSeconds = 8.0;  // in which an error is worked off
constexpr double integralSeconds = 60.0;

}  // namespace

void ElasticOutput::Free::operator()(SRC_STATE_tag* state) const noexcept {
  src_delete(state);
}

ElasticOutput::ElasticOutput(int channels, SampleRate rate)
    : channels_(static_cast<std::size_t>(std::max(1, channels))),
      rate_(rate.hertz),
      ring_(static_cast<std::size_t>(rate.hertz) * 4 * channels_),
      capacity_(static_cast<std::size_t>(rate.hertz) * 4),
      part_(partFrames * channels_),
      stretched_((partFrames + 64) * channels_),
      before_(beforeFrames * channels_) {
  int failed = 0;
  stretch_.reset(src_new(SRC_SINC_MEDIUM_QUALITY, static_cast<int>(channels_), &failed));
  if (!stretch_) throw Error("The clocks cannot be matched: %1.", src_strerror(failed));
}

ElasticOutput::~ElasticOutput() = default;

void ElasticOutput::append(const float* interleaved, std::size_t frames) noexcept {
  const std::size_t late = std::min(owed_, frames);
  owed_ -= late;
  interleaved += late * channels_;
  frames = std::min(frames - late, capacity_ - held_);
  for (std::size_t i = 0; i < frames; ++i)
    std::copy_n(interleaved + i * channels_, channels_,
                ring_.begin() + static_cast<std::ptrdiff_t>((next_ + held_ + i) % capacity_ * channels_));
  held_ += frames;
}

void ElasticOutput::push(const float* const* channels, int frames) noexcept {
  for (std::size_t done = 0; done < static_cast<std::size_t>(frames); done += partFrames) {
    const std::size_t n = std::min(partFrames, static_cast<std::size_t>(frames) - done);
    for (std::size_t i = 0; i < n; ++i)
      for (std::size_t c = 0; c < channels_; ++c) part_[i * channels_ + c] = channels[c][done + i];
    if (steering_) {
      const std::size_t made = stretch(part_.data(), n, ratio_);
      append(stretched_.data(), made);
      continue;
    }
    append(part_.data(), n);
    const std::size_t kept = std::min(n, beforeFrames);
    std::copy(before_.begin() + static_cast<std::ptrdiff_t>(kept * channels_), before_.end(),
              before_.begin());
    std::copy_n(part_.begin() + static_cast<std::ptrdiff_t>((n - kept) * channels_), kept * channels_,
                before_.end() - static_cast<std::ptrdiff_t>(kept * channels_));
  }
  watch(frames);
}

std::size_t ElasticOutput::stretch(const float* interleaved, std::size_t frames, double ratio) noexcept {
  SRC_DATA data{};
  data.data_in = interleaved;
  data.input_frames = static_cast<long>(frames);
  data.data_out = stretched_.data();
  data.output_frames = static_cast<long>(stretched_.size() / channels_);
  data.src_ratio = ratio;
  return src_process(stretch_.get(), &data) == 0 ? static_cast<std::size_t>(data.output_frames_gen) : 0;
}

/// The filter takes over in the middle of what sounds: it is given what came before, and what it makes of the
/// part that was passed on already is left out.
void ElasticOutput::beginStretching() noexcept {
  src_reset(stretch_.get());
  src_set_ratio(stretch_.get(), 1.0);
  inFilter_ = beforeFrames - stretch(before_.data(), beforeFrames, 1.0);
  owed_ += inFilter_;
  steering_ = true;
}

int ElasticOutput::pull(float* interleaved, int frames) noexcept {
  const std::size_t n = std::min(held_, static_cast<std::size_t>(frames));
  for (std::size_t i = 0; i < n; ++i)
    std::copy_n(ring_.begin() + static_cast<std::ptrdiff_t>((next_ + i) % capacity_ * channels_), channels_,
                interleaved + i * channels_);
  std::fill(interleaved + n * channels_, interleaved + static_cast<std::size_t>(frames) * channels_, 0.0F);
  next_ = (next_ + n) % capacity_;
  held_ -= n;
  const std::size_t missing = static_cast<std::size_t>(frames) - n;
  owed_ += missing;
  if (missing > 0 && settled()) gaps_.fetch_add(1, std::memory_order_relaxed);
  least_ = pulledOnce_ ? std::min(least_, level()) : level();
  pulledOnce_ = true;
  return static_cast<int>(n);
}

void ElasticOutput::shift(std::int64_t frames) noexcept {
  if (frames < 0) {
    const std::size_t dropped = std::min(held_, static_cast<std::size_t>(-frames));
    next_ = (next_ + dropped) % capacity_;
    held_ -= dropped;
    owed_ += static_cast<std::size_t>(-frames) - dropped;
    return;
  }
  const std::size_t forgiven = std::min(owed_, static_cast<std::size_t>(frames));
  owed_ -= forgiven;
  const std::size_t silent = std::min(capacity_ - held_, static_cast<std::size_t>(frames) - forgiven);
  next_ = (next_ + capacity_ - silent) % capacity_;
  for (std::size_t i = 0; i < silent; ++i)
    std::fill_n(ring_.begin() + static_cast<std::ptrdiff_t>((next_ + i) % capacity_ * channels_), channels_,
                0.0F);
  held_ += silent;
}

void ElasticOutput::watch(int frames) noexcept {
  if (!pulledOnce_) return;
  sum_ += static_cast<double>(level()) * frames;
  observed_ += frames;
  const double window = settled() ? windowSeconds : settleSeconds;
  if (static_cast<double>(observed_) < window * rate_) return;
  const double average = sum_ / static_cast<double>(observed_);
  sum_ = 0.0;
  observed_ = 0;
  // In want again although it had its margin, it was held up for longer than before: what it would hold is
  // too little, and less than nothing on average where it starves.
  if (!settled() && (beginnings_ == 0 || (least_ < 0 && beginnings_ < mostBeginnings))) {
    shift(std::llround(marginSeconds * rate_) - least_);
    least_ = level();
    ++beginnings_;
    return;
  }
  if (!settled()) {
    aim_.store(std::max(0.0, average), std::memory_order_relaxed);
    settled_.store(true, std::memory_order_release);
    return;
  }
  steer(average + static_cast<double>(inFilter_) - aim());
}

void ElasticOutput::steer(double error) noexcept {
  ++windows_;
  if (!steering_) {
    const bool same = outside_ == 0 || (outside_ > 0) == (error > 0.0);
    if (std::abs(error) < certainSeconds * rate_ || !same) {
      outside_ = 0;
      return;
    }
    outside_ += error > 0.0 ? 1 : -1;
    if (std::abs(outside_) < certainWindows) return;
    beginStretching();
    // What it has drifted by until now tells how fast it drifts.
    integral_ = error / windows_ / rate_ * 1e6;
  }
  // Too much is waiting: fewer frames are made of what comes.
  const double proportional = error / correctionSeconds / rate_ * 1e6;
  integral_ += proportional / integralSeconds;
  const double millionths = std::clamp(integral_ + proportional, -mostMillionths, mostMillionths);
  ratio_ = 1.0 - millionths * 1e-6;
  drift_.store(-integral_, std::memory_order_relaxed);
}

}  // namespace yewdrift
