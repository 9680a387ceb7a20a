// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread again: a block from the transport's frames to what sounds.
#include <algorithm>
#include <chrono>
#include <utility>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"
#include "core/engine/peak_meter.h"

namespace yewdrift {

void Engine::waitFor(WaitingPlan waiting) noexcept {
  const auto end = waitingPlans_.begin() + static_cast<std::ptrdiff_t>(waitingPlanCount_);
  const auto place = std::find_if(waitingPlans_.begin(), end,
                                  [&](const WaitingPlan& each) { return each.at >= waiting.at; });
  if (place != end && place->at == waiting.at)
    return giveBack({Order::Kind::Plan, std::exchange(place->plan, waiting.plan)});
  if (waitingPlanCount_ == waitingPlans_.size()) return giveBack({Order::Kind::Plan, waiting.plan});
  std::move_backward(place, end, end + 1);
  *place = waiting;
  ++waitingPlanCount_;
}

void Engine::waitFor(Switch waiting) noexcept {
  const auto end = switches_.begin() + static_cast<std::ptrdiff_t>(switchCount_);
  const auto place =
      std::find_if(switches_.begin(), end, [&](const Switch& each) { return each.at >= waiting.at; });
  if (place == end || place->at != waiting.at) {
    if (switchCount_ == switches_.size()) return;
    std::move_backward(place, end, end + 1);
    ++switchCount_;
  }
  *place = waiting;
}

/// What was to change at the frame where the roll is, changes.
void Engine::switchNow() noexcept {
  while (waitingPlanCount_ > 0 && waitingPlans_[0].at <= rollFrame_ && ready(waitingPlans_[0].plan->ticket)) {
    letGo(std::exchange(plan_, waitingPlans_[0].plan));
    std::move(waitingPlans_.begin() + 1,
              waitingPlans_.begin() + static_cast<std::ptrdiff_t>(waitingPlanCount_), waitingPlans_.begin());
    --waitingPlanCount_;
  }
  while (switchCount_ > 0 && switches_[0].at <= rollFrame_) {
    const Switch due = switches_[0];
    std::move(switches_.begin() + 1, switches_.begin() + static_cast<std::ptrdiff_t>(switchCount_),
              switches_.begin());
    --switchCount_;
    if (const auto choice = plan_ ? plan_->plan->choiceOf(due.track, due.lane) : std::nullopt)
      plan_->heard.store(*choice, std::memory_order_relaxed);
  }
}

void Engine::forgetSwitches() noexcept {
  while (waitingPlanCount_ > 0) giveBack({Order::Kind::Plan, waitingPlans_[--waitingPlanCount_].plan});
  switchCount_ = 0;
}

void Engine::layOut(int frames) noexcept {
  stretchCount_ = 0;
  if (!moving_) return;
  Frames at = rollFrame_;
  for (int offset = 0; offset < frames && stretchCount_ < stretches_.size();) {
    const RollTimeline::Run run = roll_->setup.timeline.runAt(at);
    if (run.length.count <= 0) break;
    Frames length = std::min(run.length, Frames{frames - offset});
    // A change in it begins a stretch of its own.
    for (std::size_t i = 0; i < waitingPlanCount_; ++i)
      if (waitingPlans_[i].at > at) length = std::min(length, waitingPlans_[i].at - at);
    for (std::size_t i = 0; i < switchCount_; ++i)
      if (switches_[i].at > at) length = std::min(length, switches_[i].at - at);
    const auto n = static_cast<int>(length.count);
    stretches_[stretchCount_++] = {offset, n, run.position, run.jumped, at.count == 0, run.counting};
    offset += n;
    at += length;
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
    if (roll_) report(EngineEvent::Kind::Dropout);
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
  trackPeaksNow_.fill(0.0F);
  int done = 0;
  if (moving_) {
    for (std::size_t i = 0; i < stretchCount_; ++i) {
      renderStretch(stretches_[i]);
      done = stretches_[i].offset + stretches_[i].frames;
    }
  }
  if (const int left = block.frames - done; left > 0) {
    strands_.follow({}, gate_.level());
    gate_.rest(left, gateGain_.data() + done);
    if (!strands_.render(left, gateGain_.data() + done, left_.data() + done, right_.data() + done, nullptr))
      underruns_.fetch_add(1, std::memory_order_relaxed);
  }
  click_.ring(block.frames, left_.data(), right_.data());
  for (PreparedPlan*& plan : leaving_)
    if (plan && !strands_.holds(plan)) giveBack({Order::Kind::Plan, std::exchange(plan, nullptr)});
  gateOpen_.store(gate_.open(), std::memory_order_relaxed);
  if (moving_) showRoll();
}

void Engine::renderStretch(const PlayedStretch& stretch) noexcept {
  switchNow();
  const RollTimeline::Run run = roll_->setup.timeline.runAt(rollFrame_);
  float* const gate = gateGain_.data() + stretch.offset;
  Strand next;
  if (plan_ && !run.counting) next = {plan_, plan_->heard.load(std::memory_order_relaxed), stretch.position};
  strands_.follow(next, gate_.level());
  if (roll_->capture)
    gate_.follow(run, rollFrame_, stretch.frames, gate);
  else
    gate_.rest(stretch.frames, gate);
  const bool meters = plan_ && plan_->plan->tracks.size() <= mostMeters;
  if (!strands_.render(stretch.frames, gate, left_.data() + stretch.offset, right_.data() + stretch.offset,
                       meters ? trackPeaksNow_.data() : nullptr))
    underruns_.fetch_add(1, std::memory_order_relaxed);
  if (plan_) strikeClicks(run, stretch);
  rollFrame_ += Frames{stretch.frames};
}

void Engine::strikeClicks(const RollTimeline::Run& run, const PlayedStretch& stretch) noexcept {
  const PlaybackPlan& plan = *plan_->plan;
  if (run.counting)
    click_.strikeCountIn(plan.tempo, plan.click, roll_->setup.timeline, rollFrame_, stretch.frames,
                         stretch.offset);
  else if (roll_->records() ? plan.click.recording : plan.click.playing)
    click_.strikeBeats(plan.tempo, plan.click, stretch.position, stretch.frames, stretch.offset);
  if (roll_->records())
    click_.strikeCue(roll_->setup, plan.tempo, plan.click, plan.grid, rollFrame_, stretch.frames,
                     stretch.offset);
}

/// For whoever asks for the state.
void Engine::showRoll() noexcept {
  for (std::size_t i = 0; i < trackPeaksNow_.size(); ++i) raisePeak(trackPeaks_[i], trackPeaksNow_[i]);
  const RollTimeline& timeline = roll_->setup.timeline;
  const RollTimeline::Run run = timeline.runAt(rollFrame_);
  position_.store(run.counting ? timeline.start.count : run.position.count, std::memory_order_relaxed);
  countInLeft_.store(run.counting ? run.length.count : 0, std::memory_order_relaxed);
  round_.store(run.round, std::memory_order_relaxed);
  rollFrameNow_.store(rollFrame_.count, std::memory_order_relaxed);
}

}  // namespace yewdrift
