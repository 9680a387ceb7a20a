// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/audio_driver.h"

namespace yewdrift {

/// A running JACK server: ports of our own, connected to what was chosen.
std::unique_ptr<AudioDriver> jackDriver();

}  // namespace yewdrift
