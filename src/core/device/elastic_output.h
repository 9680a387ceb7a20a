// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is played, between the clock of what is recorded and the clock of what plays.
#pragma once

#include <atomic>
#include <memory>
#include <vector>

#include "core/time/frames.h"

struct SRC_STATE_tag;

namespace yewdrift {

/// Where source and sink run on clocks of their own, the source's leads: every frame that it delivers is
/// recorded as it is, and what is played is stretched or squeezed by a few millionths to follow. Until a
/// drift is certain nothing is touched. One thread.
class ElasticOutput {
 public:
  ElasticOutput(int channels, SampleRate rate);
  ~ElasticOutput();
  ElasticOutput(const ElasticOutput&) = delete;
  ElasticOutput& operator=(const ElasticOutput&) = delete;

  /// Planar samples of the leading clock. Where the sink had to be given silence in their place before, as
  /// many are left out, so that what comes after is heard when it should be.
  void push(const float* const* channels, int frames) noexcept;
  /// Interleaved samples for the sink; what is missing is silent. Returns how many were there.
  int pull(float* interleaved, int frames) noexcept;
  /// Frames that wait in it, less those it has been in want of.
  [[nodiscard]] std::int64_t level() const {
    return static_cast<std::int64_t>(held_) - static_cast<std::int64_t>(owed_);
  }

  /// True once it has watched both sides for `settleSeconds`, keeps enough for the least level it saw to be
  /// `marginSeconds`, and has seen for as long again what the level then is on average. There it stays. Where
  /// the sink is in want meanwhile, it begins anew with as much more, three times at the most.
  [[nodiscard]] bool settled() const { return settled_.load(std::memory_order_acquire); }
  /// The average level it holds, in frames; 0 until it has settled, and never less.
  [[nodiscard]] double aim() const { return aim_.load(std::memory_order_relaxed); }
  /// How often the sink had to be given silence since it settled.
  [[nodiscard]] std::int64_t gaps() const { return gaps_.load(std::memory_order_relaxed); }
  /// How much faster the sink's clock runs, in millionths; 0 while none is certain.
  [[nodiscard]] double driftMillionths() const { return drift_.load(std::memory_order_relaxed); }
  static constexpr double settleSeconds = 0.5;
  static constexpr double marginSeconds = 0.015;  // for a late wake-up

 private:
  struct Free {
    void operator()(SRC_STATE_tag* state) const noexcept;
  };
  void watch(int frames) noexcept;
  void shift(std::int64_t frames) noexcept;
  void steer(double error) noexcept;
  void beginStretching() noexcept;
  std::size_t stretch(const float* interleaved, std::size_t frames, double ratio) noexcept;
  void append(const float* interleaved, std::size_t frames) noexcept;

  std::size_t channels_;
  int rate_;
  std::vector<float> ring_;
  std::size_t capacity_;  // frames
  std::size_t next_ = 0;  // to be pulled
  std::size_t held_ = 0;
  std::unique_ptr<SRC_STATE_tag, Free> stretch_;
  std::vector<float> part_;
  std::vector<float> stretched_;
  std::vector<float> before_;  // the last that was passed on untouched
  std::size_t owed_ = 0;       // frames that were missing and are left out when they come
  std::int64_t least_ = 0;
  bool pulledOnce_ = false;
  double sum_ = 0.0;
  std::int64_t observed_ = 0;  // frames in sum_
  int beginnings_ = 0;
  int windows_ = 0;  // since it settled
  int outside_ = 0;  // windows in a row with the same large error
  bool steering_ = false;
  std::size_t inFilter_ = 0;  // frames it has taken in and not given out yet, once it steers
  double integral_ = 0.0;     // millionths
  double ratio_ = 1.0;
  std::atomic<bool> settled_{false};
  std::atomic<double> drift_{0.0};
  std::atomic<double> aim_{0.0};
  std::atomic<std::int64_t> gaps_{0};
};

}  // namespace yewdrift
