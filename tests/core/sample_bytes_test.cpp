// SPDX-License-Identifier: GPL-3.0-or-later
// Samples as they lie in a WAV file: what is read at any place is what sox makes of the file.
#include "core/store/sample_bytes.h"

#include "core/core_tests.h"

namespace {

/// All frames, interleaved, as sox reads them.
Samples bySox(const fs::path& file) {
  const fs::path raw = file.string() + ".raw";
  REQUIRE(shell("sox " + file.string() + " -t f32 " + raw.string()).status == 0);
  const std::string bytes = content(raw);
  Samples samples(bytes.size() / sizeof(float));
  std::memcpy(samples.data(), bytes.data(), samples.size() * sizeof(float));
  return samples;
}

Samples readBy(AudioReader& reader, std::int64_t at, std::int64_t frames) {
  Samples got(static_cast<std::size_t>(frames * reader.info().channels), -9.0F);
  REQUIRE(reader.readAt(Frames{at}, frames, got.data()) == frames);
  return got;
}

Samples part(const Samples& all, std::int64_t at, std::int64_t frames, int channels) {
  const auto first = all.begin() + at * channels;
  return {first, first + frames * channels};
}

}  // namespace

TEST_CASE("The ends of every format's scale, and the steps beside zero") {
  const auto decode = [](std::initializer_list<unsigned> bytes, SampleFormat format) {
    std::vector<std::byte> encoded;
    for (const unsigned byte : bytes) encoded.push_back(static_cast<std::byte>(byte));
    Samples samples(encoded.size() / static_cast<std::size_t>(bytesOf(format)), -9.0F);
    samplesFromBytes(encoded.data(), format, samples.size(), samples.data());
    return samples;
  };
  // Two's complement, the lowest byte first (Multimedia Programming Interface and Data Specifications 1.0).
  CHECK(decode({0x00, 0x80, 0xFF, 0x7F, 0xFF, 0xFF, 0x01, 0x00}, SampleFormat::Pcm16) ==
        Samples{-1.0F, 32767.0F / 32768.0F, -1.0F / 32768.0F, 1.0F / 32768.0F});
  CHECK(
      decode({0x00, 0x00, 0x80, 0xFF, 0xFF, 0x7F, 0xFF, 0xFF, 0xFF, 0x01, 0x00, 0x00}, SampleFormat::Pcm24) ==
      Samples{-1.0F, 8388607.0F / 8388608.0F, -1.0F / 8388608.0F, 1.0F / 8388608.0F});
  CHECK(decode({0x00, 0x00, 0x80}, SampleFormat::Pcm24) == Samples{-1.0F});
  CHECK(decode({0x00, 0x00, 0xC0, 0xBF}, SampleFormat::Float32) == Samples{-1.5F});
}

TEST_CASE("What is read at any place is what sox makes of the file, in every format and width") {
  const TemporaryFolder temporary;
  std::mt19937 random(20261127);
  for (const SampleFormat format : {SampleFormat::Pcm16, SampleFormat::Pcm24, SampleFormat::Float32}) {
    for (const int channels : {1, 2, 5}) {
      INFO(static_cast<int>(format) << " with " << channels);
      const fs::path path = temporary / "a.wav";
      std::vector<Samples> signal;
      for (int c = 0; c < channels; ++c) signal.push_back(noise(4001, c + 1, 0.99F));
      writeWave(path, signal, 48000, format);
      const Samples all = bySox(path);
      REQUIRE(all.size() == static_cast<std::size_t>(4001 * channels));
      AudioReader reader(path);
      for (int i = 0; i < 40; ++i) {
        const std::int64_t at = static_cast<std::int64_t>(random() % 4001);
        const std::int64_t frames = static_cast<std::int64_t>(random() % static_cast<unsigned>(4002 - at));
        CHECK(readBy(reader, at, frames) == part(all, at, frames, channels));
      }
      CHECK(readBy(reader, 4000, 1) == part(all, 4000, 1, channels));
    }
  }
}
