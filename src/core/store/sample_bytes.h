// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>

#include "core/session/session.h"

namespace yewdrift {

/// How many bytes a sample takes in a WAV file.
[[nodiscard]] constexpr int bytesOf(SampleFormat format) {
  return format == SampleFormat::Pcm16 ? 2 : format == SampleFormat::Pcm24 ? 3 : 4;
}

/// Decodes `count` samples as a WAV file holds them, the lowest byte first. An integer of n bits is scaled by
/// 2^(1-n), so that full scale is -1 to just below 1; floating point stays as it is.
void samplesFromBytes(const std::byte* bytes, SampleFormat format, std::size_t count, float* samples);

}  // namespace yewdrift
