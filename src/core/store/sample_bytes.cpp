// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/sample_bytes.h"

#include <array>
#include <bit>
#include <cstdint>
#include <cstring>

namespace yewdrift {
namespace {

static_assert(std::endian::native == std::endian::little,
              "Samples are taken from WAV files as they lie there.");

template <typename Word>
Word wordAt(const std::byte* bytes) {
  Word word;
  std::memcpy(&word, bytes, sizeof word);
  return word;
}

/// Three bytes in the upper part of a word, so that the sign is where the word has it.
float from24(std::uint32_t upper) {
  return static_cast<float>(static_cast<std::int32_t>(upper) >> 8) * 0x1p-23F;
}

/// Four at a time, which the compiler makes one of; each word reaches into the next sample's first byte.
void from24(const std::byte* bytes, std::size_t count, float* samples) {
  std::size_t i = 0;
  for (; i + 4 < count; i += 4) {
    std::array<std::uint32_t, 4> words;
    std::array<float, 4> four;
    for (std::size_t k = 0; k < 4; ++k) words[k] = wordAt<std::uint32_t>(bytes + 3 * (i + k));
    for (std::size_t k = 0; k < 4; ++k) four[k] = from24(words[k] << 8U);
    std::memcpy(samples + i, four.data(), sizeof four);
  }
  for (; i < count; ++i) {
    std::uint32_t upper = 0;
    std::memcpy(reinterpret_cast<std::byte*>(&upper) + 1, bytes + 3 * i, 3);
    samples[i] = from24(upper);
  }
}

}  // namespace

void samplesFromBytes(const std::byte* bytes, SampleFormat format, std::size_t count, float* samples) {
  switch (format) {
    case SampleFormat::Pcm16:
      for (std::size_t i = 0; i < count; ++i)
        samples[i] = static_cast<float>(wordAt<std::int16_t>(bytes + 2 * i)) * 0x1p-15F;
      break;
    case SampleFormat::Pcm24:
      from24(bytes, count, samples);
      break;
    case SampleFormat::Float32:
      std::memcpy(samples, bytes, count * sizeof(float));
      break;
  }
}

}  // namespace yewdrift
