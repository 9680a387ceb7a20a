// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread's half of the engine: no allocation, no lock, no file, no exception.
#include <algorithm>
#include <chrono>
#include <utility>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"
#include "core/engine/peak_meter.h"

namespace yewdrift {
void Engine::giveBack(const Order& item) noexcept {
  (void)queues_->returned.push(item);
}

void Engine::report(EngineEvent::Kind kind) noexcept {
  // Where nobody takes the events, dropouts leave room for punches; they are counted anyway.
  if (kind == EngineEvent::Kind::Dropout && queues_->events.write_available() < Queues::roomForPunches)
    return;
  (void)queues_->events.push({kind, rollFrame_, {position_.load(std::memory_order_relaxed)}});
}

void Engine::refuseNextRoll() noexcept {
  nextPunches_ = 0;
  if (!nextRoll_) return;
  if (nextRoll_->capture) nextRoll_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, nextRoll_});
  nextRoll_ = nullptr;
}

void Engine::takeOrders() noexcept {
  if (PreparedPlan* newest = queues_->plan.exchange(nullptr, std::memory_order_acquire)) {
    if (nextPlan_) giveBack({Order::Kind::Plan, nextPlan_});
    nextPlan_ = newest;
  }
  Order order;
  while (queues_->orders.pop(order)) {
    switch (order.kind) {
      case Order::Kind::Plan:
        break;  // comes back this way, but does not go this way
      case Order::Kind::Start:
        refuseNextRoll();
        nextRoll_ = order.roll;
        break;
      case Order::Kind::Stop:
        refuseNextRoll();
        if (moving_) {
          stopFadeLeft_ = countInLeft_.load(std::memory_order_relaxed) > 0 ? 0 : stopFadeFrames;
          endRoll();
        }
        break;
      case Order::Kind::Punch:
        // A roll that waits to begin is the one that was meant.
        if (nextRoll_)
          ++nextPunches_;
        else
          punchNow();
        break;
      case Order::Kind::Standby:
        if (tape_) giveBack({Order::Kind::Standby, nullptr, nullptr, tape_});
        tape_ = order.tape;
        break;
      case Order::Kind::Probe:
        if (probe_) giveBack({Order::Kind::Probe, nullptr, nullptr, nullptr, probe_});
        probe_ = order.probe;
        break;
    }
  }
  adoptPlan();
  adoptRoll();
}

void Engine::punchNow() noexcept {
  if (!moving_ || !roll_->capture || !roll_->setup.byHand) return;
  const bool in = gate_.toggle(rollFrame_);
  standby_.store(false, std::memory_order_relaxed);
  report(in ? EngineEvent::Kind::PunchIn : EngineEvent::Kind::PunchOut);
}

void Engine::adoptPlan() noexcept {
  // Where nothing sounds, as in a count-in, there is nothing to fade from.
  const bool sounds = stopFadeLeft_ > 0 || (moving_ && countInLeft_.load(std::memory_order_relaxed) == 0);
  if (oldPlan_ && !sounds) giveBack({Order::Kind::Plan, std::exchange(oldPlan_, nullptr)});
  if (!nextPlan_ || oldPlan_ || !ready(nextPlan_->ticket)) return;
  if (plan_ && sounds) {
    oldPlan_ = plan_;
    swapDone_ = 0;
  } else if (plan_) {
    giveBack({Order::Kind::Plan, plan_});
  }
  plan_ = nextPlan_;
  nextPlan_ = nullptr;
}

void Engine::tearStandby() noexcept {
  roll_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, roll_});
  roll_ = nullptr;
  moving_ = false;
  gate_.end();
  standby_.store(false, std::memory_order_relaxed);
  capturing_.store(false, std::memory_order_release);
}

void Engine::adoptRoll() noexcept {
  if (!nextRoll_ || !ready(nextRoll_->ticket)) return;
  if (roll_ && roll_->capture && standby_.load(std::memory_order_relaxed)) tearStandby();
  if (moving_ && !roll_->capture) endRoll();  // going on from elsewhere, or recording from here
  if (roll_) return;                          // the old roll still captures what was played to it
  roll_ = nextRoll_;
  nextRoll_ = nullptr;
  moving_ = true;
  rollFrame_ = {};
  rolled_.reset();
  captured_ = {};
  stopFadeLeft_ = 0;
  const bool captures = roll_->capture != nullptr;
  if (captures) gate_.begin(roll_->setup);
  standby_.store(captures && !roll_->records(), std::memory_order_relaxed);
  rolling_.store(true, std::memory_order_relaxed);
  capturing_.store(captures, std::memory_order_release);
  for (; nextPunches_ > 0; --nextPunches_) punchNow();
}

void Engine::endRoll() noexcept {
  moving_ = false;
  rolled_ = rollFrame_;
  gate_.end();
  rolling_.store(false, std::memory_order_relaxed);
  countInLeft_.store(0, std::memory_order_relaxed);
  if (roll_->capture) {
    if (standby_.load(std::memory_order_relaxed)) tearStandby();  // nothing of it will be heard
    return;
  }
  giveBack({Order::Kind::Start, nullptr, roll_});
  roll_ = nullptr;
}

void Engine::deviceClosed() {
  takeOrders();
  refuseNextRoll();
  if (moving_) endRoll();
  if (roll_) tearStandby();
  stopFadeLeft_ = 0;
}

void Engine::layOut(int frames) noexcept {
  stretchCount_ = 0;
  if (!moving_) return;
  Frames at = rollFrame_;
  for (int offset = 0; offset < frames && stretchCount_ < stretches_.size();) {
    const RollTimeline::Run run = roll_->setup.timeline.runAt(at);
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
  if (block.frames <= largestBlock_) return processPart(block);
  // A device may deliver more than it announced: it is worked on in parts.
  std::array<const float*, mostPartChannels> inputs{};
  std::array<float*, mostPartChannels> outputs{};
  AudioBlock part = block;
  part.inputCount = std::min(block.inputCount, static_cast<int>(inputs.size()));
  part.outputCount = std::min(block.outputCount, static_cast<int>(outputs.size()));
  part.inputs = inputs.data();
  part.outputs = outputs.data();
  prepared_ = false;
  for (int done = 0; done < block.frames; done += part.frames) {
    part.frames = std::min(largestBlock_, block.frames - done);
    for (int i = 0; i < part.inputCount; ++i) inputs[static_cast<std::size_t>(i)] = block.inputs[i] + done;
    for (int i = 0; i < part.outputCount; ++i) outputs[static_cast<std::size_t>(i)] = block.outputs[i] + done;
    processPart(part);
    part.dropout = false;
  }
  for (int i = part.outputCount; i < block.outputCount; ++i)
    std::fill_n(block.outputs[i], block.frames, 0.0F);
}

void Engine::processPart(const AudioBlock& block) noexcept {
  const auto began = std::chrono::steady_clock::now();
  if (!prepared_) prepare(block.frames);
  prepared_ = false;
  audioEpoch_.fetch_add(1);
  if (block.dropout) {
    dropouts_.fetch_add(1, std::memory_order_relaxed);
    if (moving_) report(EngineEvent::Kind::Dropout);
  }
  render(block);
  monitor(block);
  probe(block);
  tone_.add(block.frames, left_.data(), right_.data());
  capture(block);
  meterInputs(block);
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
  int done = 0;
  if (moving_) {
    renderRoll();
    if (stretchCount_ > 0) done = stretches_[stretchCount_ - 1].offset + stretches_[stretchCount_ - 1].frames;
  }
  gate_.rest(block.frames - done, gateGain_.data() + done);
  gateOpen_.store(gate_.open(), std::memory_order_relaxed);
  if (!moving_) return;
  for (std::size_t i = 0; i < trackPeaksNow_.size(); ++i) raisePeak(trackPeaks_[i], trackPeaksNow_[i]);
  const RollTimeline& timeline = roll_->setup.timeline;
  const RollTimeline::Run run = timeline.runAt(rollFrame_);
  position_.store(run.counting ? timeline.start.count : run.position.count, std::memory_order_relaxed);
  countInLeft_.store(run.counting ? run.length.count : 0, std::memory_order_relaxed);
  round_.store(run.round, std::memory_order_relaxed);
  rollFrameNow_.store(rollFrame_.count, std::memory_order_relaxed);
}

void Engine::renderRoll() noexcept {
  const RollTimeline& timeline = roll_->setup.timeline;
  for (std::size_t i = 0; i < stretchCount_; ++i) {
    const PlayedStretch& stretch = stretches_[i];
    const RollTimeline::Run run = timeline.runAt(rollFrame_);
    if (roll_->capture)
      gate_.follow(run, rollFrame_, stretch.frames, gateGain_.data() + stretch.offset);
    else
      gate_.rest(stretch.frames, gateGain_.data() + stretch.offset);
    float* left = left_.data() + stretch.offset;
    float* right = right_.data() + stretch.offset;
    if (!run.counting) renderStretch(stretch.position, stretch.offset, stretch.frames);
    if (plan_) {
      const PlaybackPlan& plan = *plan_->plan;
      const bool clicks = roll_->records() ? plan.click.recording : plan.click.playing;
      if (run.counting)
        click_.addCountIn(plan.tempo, plan.click, timeline, rollFrame_, stretch.frames, left, right);
      else if (clicks)
        click_.add(plan.tempo, plan.click, stretch.position, stretch.frames, left, right);
    }
    rollFrame_ += Frames{stretch.frames};
  }
}

bool Engine::renderPlan(PreparedPlan& prepared, Frames position, int frames, const float* gate, float* left,
                        float* right, float* peaks) noexcept {
  const PlaybackPlan& plan = *prepared.plan;
  CachedFiles& files = prepared.files;
  if (!prepared.anyGated) return renderer_.renderMix(plan, position, frames, files, left, right, peaks);
  std::fill_n(left, frames, 0.0F);
  std::fill_n(right, frames, 0.0F);
  bool atHand = true;
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    if (!plan.tracks[t]->audible) continue;
    float peak = 0.0F;
    if (!plan.monitors[t].gated) {
      atHand = renderer_.mixTrack(*plan.tracks[t], position, frames, files, left, right, peak) && atHand;
    } else {
      std::fill_n(gatedLeft_.begin(), frames, 0.0F);
      std::fill_n(gatedRight_.begin(), frames, 0.0F);
      atHand = renderer_.mixTrack(*plan.tracks[t], position, frames, files, gatedLeft_.data(),
                                  gatedRight_.data(), peak) &&
               atHand;
      for (int i = 0; i < frames; ++i) {
        left[i] += (1.0F - gate[i]) * gatedLeft_[static_cast<std::size_t>(i)];
        right[i] += (1.0F - gate[i]) * gatedRight_[static_cast<std::size_t>(i)];
      }
    }
    if (peaks) peaks[t] = std::max(peaks[t], peak);
  }
  return atHand;
}

void Engine::renderStretch(Frames position, int offset, int frames) noexcept {
  if (!plan_) return;
  float* left = left_.data() + offset;
  float* right = right_.data() + offset;
  const float* gate = gateGain_.data() + offset;
  const std::size_t tracks = plan_->plan->tracks.size();
  bool atHand = renderPlan(*plan_, position, frames, gate, left, right,
                           tracks <= mostMeters ? trackPeaksNow_.data() : nullptr);
  if (oldPlan_) {
    // The change is faded in, so that picking and switching lanes never clicks.
    atHand =
        renderPlan(*oldPlan_, position, frames, gate, oldLeft_.data(), oldRight_.data(), nullptr) && atHand;
    for (int i = 0; i < frames; ++i) {
      const float in = std::min(1.0F, (static_cast<float>(swapDone_ + i) + 0.5F) / swapFrames);
      left[i] = in * left[i] + (1.0F - in) * oldLeft_[static_cast<std::size_t>(i)];
      right[i] = in * right[i] + (1.0F - in) * oldRight_[static_cast<std::size_t>(i)];
    }
    swapDone_ += frames;
    if (swapDone_ >= swapFrames) {
      giveBack({Order::Kind::Plan, oldPlan_});
      oldPlan_ = nullptr;
    }
  }
  if (!atHand) underruns_.fetch_add(1, std::memory_order_relaxed);
}

void Engine::renderStopFade(int frames) noexcept {
  const int n = std::min(frames, stopFadeLeft_);
  const Frames gone{stopFadeFrames - stopFadeLeft_};
  std::fill_n(gateGain_.begin(), n, gate_.level());
  renderStretch(Frames{position_.load(std::memory_order_relaxed)} + gone, 0, n);
  for (int i = 0; i < n; ++i) {
    const float gain = static_cast<float>(stopFadeLeft_ - i) / stopFadeFrames;
    left_[static_cast<std::size_t>(i)] *= gain;
    right_[static_cast<std::size_t>(i)] *= gain;
  }
  stopFadeLeft_ -= n;
  if (stopFadeLeft_ == 0 && oldPlan_) {
    giveBack({Order::Kind::Plan, oldPlan_});
    oldPlan_ = nullptr;
  }
}

void Engine::capture(const AudioBlock& block) noexcept {
  if (tape_) tape_->push(block.inputs, block.inputCount, block.frames);
  if (moving_) {
    const std::optional<Frames> total = roll_->setup.timeline.totalLength();
    if (total && rollFrame_ >= *total && !rolled_) rolled_ = *total;
  }
  if (roll_ && roll_->capture) {
    // What was played at the end arrives one round trip later; until then the capture goes on.
    const Frames target = rolled_ ? *rolled_ + roll_->setup.roundTrip : captured_ + Frames{block.frames};
    const auto n = static_cast<int>(std::clamp<std::int64_t>((target - captured_).count, 0, block.frames));
    roll_->capture->push(block.inputs, block.inputCount, 0, n);
    captured_ += Frames{n};
    if (rolled_ && captured_ >= target) {
      roll_->capture->markComplete();
      giveBack({Order::Kind::Start, nullptr, roll_});
      roll_ = nullptr;
      moving_ = false;
      gate_.end();
      rolling_.store(false, std::memory_order_relaxed);
      standby_.store(false, std::memory_order_relaxed);
      capturing_.store(false, std::memory_order_release);
      return;
    }
  }
  if (moving_ && rolled_) endRoll();
}

}  // namespace yewdrift
