// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/record_gate.h"

namespace yewdrift {

void RecordGate::begin(const RecordSetup& setup) noexcept {
  setup_ = &setup;
  handIn_ = false;
  opened_ = false;
  open_ = false;
  punchInAt_.reset();
  if (setup.byHand && !setup.handPunches.empty()) punchInAt_ = setup.handPunches.front().start;
}

bool RecordGate::toggle(Frames rollFrame) noexcept {
  handIn_ = !handIn_;
  // Punched before the planned in: the hand was first.
  if (punchInAt_ && rollFrame < *punchInAt_) punchInAt_.reset();
  return handIn_;
}

void RecordGate::follow(RollTimeline::Run run, Frames rollFrame, int frames, float* gate) noexcept {
  while (frames > 0 && setup_) {
    if (punchInAt_ && rollFrame >= *punchInAt_) {
      handIn_ = true;
      punchInAt_.reset();
    }
    const Audible audible = audibleAt(*setup_, run);
    std::int64_t n = std::min<std::int64_t>(frames, std::max<std::int64_t>(audible.length.count, 1));
    if (punchInAt_) n = std::min(n, (*punchInAt_ - rollFrame).count);
    ramp(audible.audible && (!setup_->byHand || handIn_), static_cast<int>(n), gate);
    run.position += Frames{n};
    run.length -= Frames{n};
    rollFrame += Frames{n};
    gate += n;
    frames -= static_cast<int>(n);
  }
}

void RecordGate::rest(int frames, float* gate) noexcept {
  if (frames > 0) ramp(false, frames, gate);
}

void RecordGate::ramp(bool open, int frames, float* gate) noexcept {
  open_ = open;
  opened_ = opened_ || open;
  for (int i = 0; i < frames; ++i) {
    if (open && level_ < fadeFrames) ++level_;
    if (!open && level_ > 0) --level_;
    gate[i] = static_cast<float>(level_) / fadeFrames;
  }
}

}  // namespace yewdrift
