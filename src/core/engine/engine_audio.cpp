// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread's half of the engine: no allocation, no lock, no file, no exception.
#include <algorithm>
#include <chrono>
#include <cmath>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"

namespace yewdrift {
namespace {

void raise(std::atomic<float>& peak, float value) noexcept {
  if (value > peak.load(std::memory_order_relaxed)) peak.store(value, std::memory_order_relaxed);
}

float loudest(const float* samples, int count) noexcept {
  float peak = 0.0F;
  for (int i = 0; i < count; ++i) peak = std::max(peak, std::abs(samples[i]));
  return peak;
}

}  // namespace

void Engine::giveBack(Returned item) noexcept {
  (void)queues_->returned.try_enqueue(item);
}

void Engine::takeOrders() noexcept {
  Order order;
  while (queues_->orders.try_dequeue(order)) {
    switch (order.kind) {
      case Order::Kind::Plan:
        if (nextPlan_) giveBack({nextPlan_, nullptr});
        nextPlan_ = order.plan;
        break;
      case Order::Kind::Start:
        if (nextRoll_) {
          if (nextRoll_->capture) nextRoll_->capture->markComplete();
          giveBack({nullptr, nextRoll_});
        }
        nextRoll_ = order.roll;
        break;
      case Order::Kind::Stop:
        if (nextRoll_) {
          if (nextRoll_->capture) nextRoll_->capture->markComplete();
          giveBack({nullptr, nextRoll_});
          nextRoll_ = nullptr;
        }
        if (moving_) {
          stopFadeLeft_ = stopFadeFrames;
          endRoll();
        }
        break;
    }
  }
  adoptPlan();
  adoptRoll();
}

void Engine::adoptPlan() noexcept {
  if (!nextPlan_ || oldPlan_ || !ready(nextPlan_->ticket)) return;
  if (plan_ && (moving_ || stopFadeLeft_ > 0)) {
    oldPlan_ = plan_;
    swapDone_ = 0;
  } else if (plan_) {
    giveBack({plan_, nullptr});
  }
  plan_ = nextPlan_;
  nextPlan_ = nullptr;
}

void Engine::adoptRoll() noexcept {
  if (!nextRoll_ || !ready(nextRoll_->ticket)) return;
  if (moving_ && !roll_->capture) endRoll();  // going on from elsewhere, or recording from here
  if (roll_) return;                          // the old roll still captures what was played to it
  roll_ = nextRoll_;
  nextRoll_ = nullptr;
  moving_ = true;
  rollFrame_ = {};
  rolled_.reset();
  captured_ = {};
  stopFadeLeft_ = 0;
  rolling_.store(true, std::memory_order_relaxed);
  capturing_.store(roll_->capture != nullptr, std::memory_order_release);
}

void Engine::endRoll() noexcept {
  moving_ = false;
  rolled_ = rollFrame_;
  rolling_.store(false, std::memory_order_relaxed);
  if (roll_->capture) return;
  giveBack({nullptr, roll_});
  roll_ = nullptr;
}

void Engine::layOut(int frames) noexcept {
  stretchCount_ = 0;
  if (!moving_) return;
  Frames at = rollFrame_;
  for (int offset = 0; offset < frames && stretchCount_ < stretches_.size();) {
    const RollTimeline::Run run = roll_->timeline.runAt(at);
    if (run.length.count <= 0) break;
    const auto n = static_cast<int>(std::min<std::int64_t>(frames - offset, run.length.count));
    stretches_[stretchCount_++] = {offset, n, run.position, run.jumped, at.count == 0};
    offset += n;
    at += Frames{n};
  }
}

std::span<const PlayedStretch> Engine::prepare(int frames) noexcept {
  audioEpoch_.fetch_add(1);
  takeOrders();
  layOut(frames);
  prepared_ = true;
  audioEpoch_.fetch_add(1);
  return {stretches_.data(), stretchCount_};
}

void Engine::process(const AudioBlock& block) noexcept {
  const auto began = std::chrono::steady_clock::now();
  if (!prepared_) prepare(block.frames);
  prepared_ = false;
  audioEpoch_.fetch_add(1);
  if (block.dropout) dropouts_.fetch_add(1, std::memory_order_relaxed);
  const bool fits = block.frames <= largestBlock_;
  if (fits) {
    render(block);
    capture(block);
    meterInputs(block);
  }
  writeOutputs(block);
  audioEpoch_.fetch_add(1);
  const std::chrono::duration<float> spent = std::chrono::steady_clock::now() - began;
  load_.store(spent.count() * static_cast<float>(rate_.hertz) / static_cast<float>(block.frames),
              std::memory_order_relaxed);
}

void Engine::render(const AudioBlock& block) noexcept {
  std::fill_n(left_.begin(), block.frames, 0.0F);
  std::fill_n(right_.begin(), block.frames, 0.0F);
  trackPeaksNow_.fill(0.0F);
  if (stopFadeLeft_ > 0) renderStopFade(block.frames);
  if (!moving_) return;
  int done = 0;
  for (std::size_t i = 0; i < stretchCount_; ++i) {
    const PlayedStretch& stretch = stretches_[i];
    renderStretch(stretch.position, stretch.offset, stretch.frames);
    done = stretch.offset + stretch.frames;
  }
  for (std::size_t i = 0; i < trackPeaksNow_.size(); ++i) raise(trackPeaks_[i], trackPeaksNow_[i]);
  rollFrame_ += Frames{done};
  const RollTimeline::Run run = roll_->timeline.runAt(rollFrame_);
  position_.store(run.position.count, std::memory_order_relaxed);
  round_.store(run.round, std::memory_order_relaxed);
  rollFrameNow_.store(rollFrame_.count, std::memory_order_relaxed);
}

void Engine::renderStretch(Frames position, int offset, int frames) noexcept {
  if (!plan_) return;
  float* left = left_.data() + offset;
  float* right = right_.data() + offset;
  const std::size_t tracks = plan_->plan->tracks.size();
  bool atHand = renderer_.renderMix(*plan_->plan, position, frames, plan_->files, left, right,
                                    tracks <= mostMeters ? trackPeaksNow_.data() : nullptr);
  if (oldPlan_) {
    // The change is faded in, so that picking and switching lanes never clicks.
    atHand = renderer_.renderMix(*oldPlan_->plan, position, frames, oldPlan_->files, oldLeft_.data(),
                                 oldRight_.data(), nullptr) &&
             atHand;
    for (int i = 0; i < frames; ++i) {
      const float in = std::min(1.0F, (static_cast<float>(swapDone_ + i) + 0.5F) / swapFrames);
      left[i] = in * left[i] + (1.0F - in) * oldLeft_[static_cast<std::size_t>(i)];
      right[i] = in * right[i] + (1.0F - in) * oldRight_[static_cast<std::size_t>(i)];
    }
    swapDone_ += frames;
    if (swapDone_ >= swapFrames) {
      giveBack({oldPlan_, nullptr});
      oldPlan_ = nullptr;
    }
  }
  if (!atHand) underruns_.fetch_add(1, std::memory_order_relaxed);
}

void Engine::renderStopFade(int frames) noexcept {
  const int n = std::min(frames, stopFadeLeft_);
  const Frames gone{stopFadeFrames - stopFadeLeft_};
  renderStretch(Frames{position_.load(std::memory_order_relaxed)} + gone, 0, n);
  for (int i = 0; i < n; ++i) {
    const float gain = static_cast<float>(stopFadeLeft_ - i) / stopFadeFrames;
    left_[static_cast<std::size_t>(i)] *= gain;
    right_[static_cast<std::size_t>(i)] *= gain;
  }
  stopFadeLeft_ -= n;
  if (stopFadeLeft_ == 0 && oldPlan_) {
    giveBack({oldPlan_, nullptr});
    oldPlan_ = nullptr;
  }
}

void Engine::capture(const AudioBlock& block) noexcept {
  if (moving_) {
    const std::optional<Frames> total = roll_->timeline.totalLength();
    if (total && rollFrame_ >= *total && !rolled_) rolled_ = *total;
  }
  if (roll_ && roll_->capture) {
    // What was played at the end arrives one round trip later; until then the capture goes on.
    const Frames target = rolled_ ? *rolled_ + roll_->roundTrip : captured_ + Frames{block.frames};
    const auto n = static_cast<int>(std::clamp<std::int64_t>((target - captured_).count, 0, block.frames));
    roll_->capture->push(block.inputs, block.inputCount, 0, n);
    captured_ += Frames{n};
    if (rolled_ && captured_ >= target) {
      roll_->capture->markComplete();
      giveBack({nullptr, roll_});
      roll_ = nullptr;
      moving_ = false;
      rolling_.store(false, std::memory_order_relaxed);
      capturing_.store(false, std::memory_order_release);
      return;
    }
  }
  if (moving_ && rolled_) endRoll();
}

void Engine::meterInputs(const AudioBlock& block) noexcept {
  const auto count = std::min<std::size_t>(static_cast<std::size_t>(block.inputCount), mostMeters);
  for (std::size_t i = 0; i < count; ++i) raise(inputPeaks_[i], loudest(block.inputs[i], block.frames));
}

void Engine::writeOutputs(const AudioBlock& block) noexcept {
  for (int i = 0; i < block.outputCount; ++i) {
    const bool silent = i > 1 || block.frames > largestBlock_;
    if (silent) {
      std::fill_n(block.outputs[i], block.frames, 0.0F);
      continue;
    }
    const std::vector<float>& side = i == 0 ? left_ : right_;
    if (block.outputCount == 1) {
      for (int f = 0; f < block.frames; ++f)
        block.outputs[0][f] =
            0.5F * (left_[static_cast<std::size_t>(f)] + right_[static_cast<std::size_t>(f)]);
    } else {
      std::copy_n(side.begin(), block.frames, block.outputs[i]);
    }
    raise(outputPeaks_[static_cast<std::size_t>(i)], loudest(block.outputs[i], block.frames));
  }
}

}  // namespace yewdrift
