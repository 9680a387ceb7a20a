// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/audio_driver.h"

namespace yewdrift {

/// PipeWire natively: a node of our own in its graph, at the graph's block and rate.
std::unique_ptr<AudioDriver> pipeWireDriver();

}  // namespace yewdrift
