// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread's half of the engine: no allocation, no lock, no file, no exception. Here: what is
// ordered, and rolls from their first frame to the last that is captured.
#include <algorithm>
#include <utility>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"

namespace yewdrift {
void Engine::giveBack(const Order& item) noexcept {
  (void)queues_->returned.push(item);
}

void Engine::letGo(PreparedPlan* plan) noexcept {
  if (!plan) return;
  if (!strands_.holds(plan)) return giveBack({Order::Kind::Plan, plan});
  const auto place = std::find(leaving_.begin(), leaving_.end(), nullptr);
  if (place != leaving_.end()) *place = plan;
}

void Engine::report(EngineEvent::Kind kind) noexcept {
  // Where nobody takes the events, dropouts leave room for punches; they are counted anyway.
  if (kind == EngineEvent::Kind::Dropout && queues_->events.write_available() < Queues::roomForPunches)
    return;
  const bool captured = kind == EngineEvent::Kind::Relayed || kind == EngineEvent::Kind::Dropout;
  (void)queues_->events.push({kind,
                              captured ? captured_ : rollFrame_,
                              {position_.load(std::memory_order_relaxed)},
                              kind == EngineEvent::Kind::Relayed ? relay_->number : roll_->number});
}

void Engine::refuseNextRoll() noexcept {
  nextPunches_ = 0;
  if (!nextRoll_) return;
  if (nextRoll_->capture) nextRoll_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, std::exchange(nextRoll_, nullptr)});
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
        waitFor(WaitingPlan{order.at, order.plan});
        break;
      case Order::Kind::Hear:
        waitFor(Switch{order.at, order.track, order.lane});
        break;
      case Order::Kind::Probe:
        if (probe_) giveBack({Order::Kind::Probe, nullptr, nullptr, probe_});
        probe_ = order.probe;
        break;
      default:
        takeRollOrder(order);
    }
  }
  adoptPlan();
  adoptRoll();
}

void Engine::takeRollOrder(const Order& order) noexcept {
  switch (order.kind) {
    case Order::Kind::Start:
      refuseNextRoll();
      nextRoll_ = order.roll;
      break;
    case Order::Kind::Stop:
      refuseNextRoll();
      if (moving_) endRoll();
      break;
    case Order::Kind::Punch:
      // A roll that waits to begin is the one that was meant.
      if (nextRoll_)
        ++nextPunches_;
      else
        punchNow();
      break;
    case Order::Kind::Relay:
      relayNow(order.roll);
      break;
    case Order::Kind::Relieve:
      relieveNow();
      break;
    case Order::Kind::DropRelay:
      dropRelayNow();
      break;
    case Order::Kind::EndTail:
      endTailNow();
      break;
    default:
      break;
  }
}

void Engine::punchNow() noexcept {
  if (!moving_ || !roll_->capture || !roll_->setup.byHand) return;
  const bool in = gate_.toggle(rollFrame_);
  standby_.store(false, std::memory_order_relaxed);
  report(in ? EngineEvent::Kind::PunchIn : EngineEvent::Kind::PunchOut);
}

void Engine::adoptPlan() noexcept {
  if (!nextPlan_ || strands_.crowded() || !ready(nextPlan_->ticket)) return;
  letGo(std::exchange(plan_, std::exchange(nextPlan_, nullptr)));
}

void Engine::tearStandby() noexcept {
  dropRelayNow();
  roll_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, std::exchange(roll_, nullptr)});
  moving_ = false;
  gate_.end();
  standby_.store(false, std::memory_order_relaxed);
  capturing_.store(false, std::memory_order_release);
}

void Engine::adoptRoll() noexcept {
  if (!nextRoll_ || !ready(nextRoll_->number) || strands_.crowded()) return;
  const bool goesOn = nextRoll_->from == RollFrom::Here && moving_;
  if (roll_ && roll_->capture && standby_.load(std::memory_order_relaxed)) {
    forgetSwitches();
    tearStandby();
  }
  if (moving_ && !roll_->capture) endRoll();  // going on from elsewhere, or recording from here
  if (roll_) return;                          // the old roll still captures what was played to it
  roll_ = std::exchange(nextRoll_, nullptr);
  moving_ = true;
  rollFrame_ = {};
  rolled_.reset();
  captured_ = {};
  if (goesOn) {
    roll_->setup.timeline = goingOnFrom(roll_->setup.timeline, {position_.load(std::memory_order_relaxed)});
    report(EngineEvent::Kind::WentOn);
  }
  if (tape_) tape_->rollBegan(roll_->number, roll_->setup.timeline);
  const bool captures = roll_->capture != nullptr;
  if (captures) gate_.begin(roll_->setup);
  standby_.store(captures && !roll_->records(), std::memory_order_relaxed);
  rolling_.store(true, std::memory_order_relaxed);
  capturing_.store(captures, std::memory_order_release);
  for (; nextPunches_ > 0; --nextPunches_) punchNow();
}

void Engine::relayNow(Roll* roll) noexcept {
  dropRelayNow();
  relay_ = roll;
  relay_->capturesFrom = captured_;
  if (moving_ && standby_.load(std::memory_order_relaxed))
    report(EngineEvent::Kind::Relayed);
  else
    dropRelayNow();  // that roll has ended, or counts by now
}

void Engine::relieveNow() noexcept {
  if (!relay_ || !moving_ || !standby_.load(std::memory_order_relaxed)) return;
  roll_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, std::exchange(roll_, std::exchange(relay_, nullptr))});
  gate_.begin(roll_->setup);
}

void Engine::dropRelayNow() noexcept {
  if (!relay_) return;
  relay_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, std::exchange(relay_, nullptr)});
}

void Engine::endRoll() noexcept {
  moving_ = false;
  rolled_ = rollFrame_;
  gate_.end();
  forgetSwitches();
  if (tape_) tape_->rollEnded();
  rolling_.store(false, std::memory_order_relaxed);
  countInLeft_.store(0, std::memory_order_relaxed);
  if (roll_->capture) {
    if (standby_.load(std::memory_order_relaxed)) return tearStandby();  // nothing of it will be heard
    return dropRelayNow();
  }
  giveBack({Order::Kind::Start, nullptr, std::exchange(roll_, nullptr)});
}

void Engine::beginTail() noexcept {
  endTailNow();
  const Frames body = captured_ - roll_->capturesFrom;
  tailLeft_ = framesFromSeconds(tailSeconds, rate_);
  roll_->capture->endsAt(body, body + tailLeft_);
  tail_ = std::exchange(roll_, nullptr);
  capturing_.store(false, std::memory_order_release);
}

void Engine::endTailNow() noexcept {
  if (!tail_) return;
  tail_->capture->markComplete();
  giveBack({Order::Kind::Start, nullptr, std::exchange(tail_, nullptr)});
}

void Engine::deviceClosed() {
  takeOrders();
  refuseNextRoll();
  if (moving_) endRoll();
  if (roll_) {
    // What was still on its way will not come.
    const Frames body = captured_ - roll_->capturesFrom;
    roll_->capture->endsAt(body, body);
    tearStandby();
  }
  endTailNow();
  if (tape_) tape_->deviceEnded();
  strands_.silence();
  click_.hush();
  monitorLevel_.fill(0.0F);
  for (PreparedPlan*& plan : leaving_)
    if (plan) giveBack({Order::Kind::Plan, std::exchange(plan, nullptr)});
}

void Engine::capture(const AudioBlock& block) noexcept {
  if (tape_) tape_->push(block.inputs, block.inputCount, block.frames);
  captureTail(block, 0);
  if (moving_ && !rolled_) {
    const std::optional<Frames> total = roll_->setup.timeline.totalLength();
    if (total && rollFrame_ >= *total) {
      endRoll();
      rolled_ = *total;
    }
  }
  if (!roll_ || !roll_->capture) return;
  // What was played at the end arrives one round trip later; until then the capture goes on.
  const Frames target = rolled_ ? *rolled_ + roll_->setup.roundTrip : captured_ + Frames{block.frames};
  const auto n = static_cast<int>(std::clamp<std::int64_t>((target - captured_).count, 0, block.frames));
  roll_->capture->push(block.inputs, block.inputCount, 0, n);
  if (relay_) relay_->capture->push(block.inputs, block.inputCount, 0, n);
  captured_ += Frames{n};
  if (!rolled_ || captured_ < target) return;
  beginTail();
  captureTail(block, n);
}

void Engine::captureTail(const AudioBlock& block, int offset) noexcept {
  if (!tail_) return;
  const auto n = static_cast<int>(std::min<std::int64_t>(block.frames - offset, tailLeft_.count));
  tail_->capture->push(block.inputs, block.inputCount, offset, n);
  tailLeft_ -= Frames{n};
  if (tailLeft_.count <= 0) endTailNow();
}

}  // namespace yewdrift
