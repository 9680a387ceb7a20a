// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <alsa/asoundlib.h>

namespace yewdrift {

/// A sample as a card has it, little-endian, 16, 24 (in three bytes) or 32 bits wide or a float, as a float
/// of full scale 1.
float sampleFrom(const unsigned char* raw, snd_pcm_format_t format);
/// The other way, to the nearest step; what is beyond full scale is clipped, but for floats.
void sampleTo(unsigned char* raw, float sample, snd_pcm_format_t format);

}  // namespace yewdrift
