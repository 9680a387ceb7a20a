// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/audio_driver.h"

namespace yewdrift {

/// The cards themselves, without a sound server; also the named PCMs of ALSA's configuration.
std::unique_ptr<AudioDriver> alsaDriver();

/// ALSA's library complains on standard error while it is asked for what is not there; from now on it does
/// not.
void quietAlsa();

}  // namespace yewdrift
