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

TEST_CASE("A header that says one width and means another is read as the library reads it") {
  const TemporaryFolder temporary;
  // Of samples in wider blocks, or narrower ones, what lies there is not what their bits alone would be.
  std::string data;
  for (int i = 0; i < 6000; ++i) data += static_cast<char>(i * 37 % 251);
  for (const auto& [bits, block] : {std::pair{24, 4}, {16, 4}, {16, 3}, {24, 6}, {16, 1}, {24, 2}}) {
    INFO(bits << " bits in blocks of " << block);
    const fs::path path = temporary / "odd.wav";
    std::ofstream(path, std::ios::binary | std::ios::trunc)
        << waveHead(1, bits, block, static_cast<std::uint32_t>(data.size())) << data;
    std::optional<AudioReader> reader;
    try {
      reader.emplace(path);
    } catch (const Error&) {
      continue;  // nothing is read of it, then
    }
    const std::int64_t frames = reader->info().length.count;
    Samples on(static_cast<std::size_t>(frames), -9.0F);
    REQUIRE(reader->readOn(frames, on.data()) == frames);
    CHECK(readBy(*reader, 0, frames) == on);
    CHECK(readBy(*reader, frames / 2, 10) == part(on, frames / 2, 10, 1));
  }
}

TEST_CASE("A file that became shorter is read as far as it goes, by whichever way it is read") {
  const TemporaryFolder temporary;
  const Samples signal = noise(5000, 3);
  for (const char* name : {"a.wav", "a.aiff"}) {
    INFO(name);
    const fs::path path = temporary / name;
    writeWave(temporary / "source.wav", {signal}, 48000, SampleFormat::Pcm24);
    REQUIRE(shell("sox " + (temporary / "source.wav").string() + " -b 24 " + path.string()).status == 0);
    AudioReader reader(path);
    fs::resize_file(path, fs::file_size(path) - 3 * 1000 - 1);
    Samples got(3000, -9.0F);
    CHECK(reader.readAt(Frames{2000}, 3000, got.data()) == 1999);
    CHECK(std::equal(got.begin(), got.begin() + 1999, signal.begin() + 2000));
    CHECK(std::all_of(got.begin() + 1999, got.end(), [](float sample) { return sample == 0.0F; }));
  }
}
