// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/audio_driver.h"

namespace yewdrift {

/// A PulseAudio server, or PipeWire behind its interface.
std::unique_ptr<AudioDriver> pulseDriver();

}  // namespace yewdrift
