// SPDX-License-Identifier: GPL-3.0-or-later
//
// The audio thread again: what goes from the inputs to the ears, the loop-back probe, the meters.
#include <algorithm>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"
#include "core/engine/peak_meter.h"

namespace yewdrift {
void Engine::monitor(const AudioBlock& block) noexcept {
  if (!plan_) return;
  constexpr float step = 1.0F / RecordGate::fadeFrames;
  const auto& monitors = plan_->plan->monitors;
  for (std::size_t t = 0; t < std::min(monitors.size(), mostMeters); ++t) {
    const MonitorPlan& plan = monitors[t];
    if (plan.mode == Monitoring::Off && monitorLevel_[t] == 0.0F) continue;
    // The same for every input of the track, and on its way also where one is not there.
    float level = monitorLevel_[t];
    for (std::size_t n = 0; n < static_cast<std::size_t>(block.frames); ++n) {
      const float target = plan.mode == Monitoring::Always      ? 1.0F
                           : plan.mode == Monitoring::Automatic ? gateGain_[n]
                                                                : 0.0F;
      level += std::clamp(target - level, -step, step);
      levels_[n] = level;
    }
    monitorLevel_[t] = level;
    for (const MonitorPlan::Input& input : plan.inputs) {
      const bool there = input.input < block.inputCount;
      const float* from = there ? block.inputs[input.input] : nullptr;
      const auto frames = static_cast<std::size_t>(there ? block.frames : 0);
      for (std::size_t n = 0; n < frames; ++n) {
        left_[n] += levels_[n] * input.gain.left * from[n];
        right_[n] += levels_[n] * input.gain.right * from[n];
      }
    }
  }
}

/// While it is listened for the test signal nothing else sounds, or what is monitored would go round and
/// round.
void Engine::quietForProbe(int frames) noexcept {
  constexpr float step = 1.0F / RecordGate::fadeFrames;
  const float target = probe_ ? 0.0F : 1.0F;
  if (mixLevel_ == 1.0F && target == 1.0F) return;
  for (std::size_t n = 0; n < static_cast<std::size_t>(frames); ++n) {
    mixLevel_ += std::clamp(target - mixLevel_, -step, step);
    left_[n] *= mixLevel_;
    right_[n] *= mixLevel_;
  }
}

void Engine::probe(const AudioBlock& block) noexcept {
  quietForProbe(block.frames);
  if (!probe_) return;
  if (block.dropout) ++probe_->dropouts;
  const auto left = probe_->signal.size() - probe_->played;
  const auto n = std::min<std::size_t>(static_cast<std::size_t>(block.frames), left);
  const float* input = probe_->input < block.inputCount ? block.inputs[probe_->input] : nullptr;
  for (std::size_t i = 0; i < n; ++i) {
    left_[i] += probe_->signal[probe_->played + i];
    right_[i] += probe_->signal[probe_->played + i];
    probe_->heard[probe_->played + i] = input ? input[i] : 0.0F;
  }
  probe_->played += n;
  if (probe_->played < probe_->signal.size()) return;
  probe_->finished.store(true, std::memory_order_release);
  giveBack({Order::Kind::Probe, nullptr, nullptr, probe_});
  probe_ = nullptr;
}

void Engine::meterInputs(const AudioBlock& block) noexcept {
  const auto count = std::min<std::size_t>(static_cast<std::size_t>(block.inputCount), mostMeters);
  for (std::size_t i = 0; i < count; ++i) raisePeak(inputPeaks_[i], loudestOf(block.inputs[i], block.frames));
}

void Engine::writeOutputs(const AudioBlock& block) noexcept {
  for (int i = 0; i < block.outputCount; ++i) {
    if (i > 1) {
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
    raisePeak(outputPeaks_[static_cast<std::size_t>(i)], loudestOf(block.outputs[i], block.frames));
  }
}

}  // namespace yewdrift
