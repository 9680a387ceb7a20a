// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/alsa/alsa_samples.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>

namespace yewdrift {

float sampleFrom(const unsigned char* raw, snd_pcm_format_t format) {
  switch (format) {
    case SND_PCM_FORMAT_S32_LE: {
      std::int32_t value = 0;
      std::memcpy(&value, raw, sizeof value);
      return static_cast<float>(static_cast<double>(value) / 2147483648.0);
    }
    case SND_PCM_FORMAT_S24_3LE: {
      const auto bits = static_cast<std::uint32_t>(raw[0]) << 8 | static_cast<std::uint32_t>(raw[1]) << 16 |
                        static_cast<std::uint32_t>(raw[2]) << 24;
      return static_cast<float>(static_cast<double>(static_cast<std::int32_t>(bits)) / 2147483648.0);
    }
    case SND_PCM_FORMAT_S16_LE: {
      std::int16_t value = 0;
      std::memcpy(&value, raw, sizeof value);
      return static_cast<float>(value) / 32768.0F;
    }
    default: {
      float value{};
      std::memcpy(&value, raw, sizeof value);
      return value;
    }
  }
}

void sampleTo(unsigned char* raw, float sample, snd_pcm_format_t format) {
  const double full = std::clamp(static_cast<double>(sample), -1.0, 1.0);
  switch (format) {
    case SND_PCM_FORMAT_S32_LE: {
      const auto value =
          static_cast<std::int32_t>(std::clamp(std::round(full * 2147483648.0), -2147483648.0, 2147483647.0));
      std::memcpy(raw, &value, sizeof value);
      return;
    }
    case SND_PCM_FORMAT_S24_3LE: {
      const auto value =
          static_cast<std::int32_t>(std::clamp(std::round(full * 8388608.0), -8388608.0, 8388607.0));
      for (int i = 0; i < 3; ++i)
        raw[i] = static_cast<unsigned char>(static_cast<std::uint32_t>(value) >> (8 * i) & 0xFFU);
      return;
    }
    case SND_PCM_FORMAT_S16_LE: {
      const auto value = static_cast<std::int16_t>(std::clamp(std::round(full * 32768.0), -32768.0, 32767.0));
      std::memcpy(raw, &value, sizeof value);
      return;
    }
    default:
      std::memcpy(raw, &sample, sizeof sample);
  }
}

}  // namespace yewdrift
