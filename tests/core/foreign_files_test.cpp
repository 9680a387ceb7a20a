// SPDX-License-Identifier: GPL-3.0-or-later
//
// Files as they come: cut off, written through a pipe, with headers that are wrong about what follows. What
// can be read of them is imported, and nothing else is.
#include "core/core_tests.h"

namespace {

struct Imports {
  Imports() : folder(SessionFolder::create(temporary / "s", Session{})) {
    writeWave(wave, {signal}, 48000, SampleFormat::Pcm16);
    signal = readWave(wave).front();  // on its grid
    bytes = content(wave);
    dataAt = bytes.find("data");
    REQUIRE(dataAt != std::string::npos);
  }
  /// The file with 32 bits replaced: at the RIFF chunk's size, or at the data chunk's.
  [[nodiscard]] std::string with(std::uint32_t riff, std::uint32_t data) const {
    std::string changed = bytes;
    std::memcpy(changed.data() + 4, &riff, 4);
    std::memcpy(changed.data() + dataAt + 4, &data, 4);
    return changed;
  }
  [[nodiscard]] std::vector<Samples> imported(const std::string& content,
                                              const std::string& name = "f.wav") const {
    std::ofstream(temporary / name, std::ios::binary | std::ios::trunc) << content;
    return importedFile(temporary / name);
  }
  [[nodiscard]] std::vector<Samples> importedFile(const fs::path& path) const {
    const Imported made = importAudio(folder.disk(), {48000}, path);
    const auto channels = readWave(folder.path() / made.file.path);
    CHECK(static_cast<int>(channels.size()) == made.file.channels);
    CHECK(static_cast<std::int64_t>(channels.front().size()) == made.file.length.count);
    // Whoever reads it later finds a header that is right.
    CHECK_THAT(shell("soxi -s " + (folder.path() / made.file.path).string()).out,
               Catch::StartsWith(std::to_string(made.file.length.count)));
    return channels;
  }

  TemporaryFolder temporary;
  SessionFolder folder;
  Samples signal = noise(30000, 7);
  fs::path wave = temporary / "a.wav";
  std::string bytes;
  std::size_t dataAt = 0;
};

bool begins(const Samples& whole, const Samples& part) {
  return part.size() <= whole.size() && std::equal(part.begin(), part.end(), whole.begin());
}

}  // namespace

TEST_CASE("A WAV file whose header is wrong about its length is imported for what it holds") {
  const Imports imports;
  const auto riff = static_cast<std::uint32_t>(imports.bytes.size() - 8);
  for (const auto& [riffSize, dataSize] : {std::pair<std::uint32_t, std::uint32_t>{0, 0},
                                           {riff, 0},
                                           {8, 0},
                                           {0xFFFFFFFFU, 0xFFFFFFFFU},
                                           {0x7FFFFFFFU, 0x7FFFFFDBU},
                                           {riff, 0xFFFFFFFFU},
                                           {riff, 0x7FFFFFFFU},
                                           {riff + 100'000, 160'000}}) {
    INFO("RIFF says " << riffSize << ", data says " << dataSize);
    const auto channels = imports.imported(imports.with(riffSize, dataSize));
    REQUIRE(channels.size() == 1);
    CHECK((channels.front() == imports.signal));
  }
  // Cut off in the middle: what is there.
  const auto half = imports.imported(imports.bytes.substr(0, imports.dataAt + 8 + 20'001));
  CHECK(half.front().size() == 10'000);
  CHECK(begins(imports.signal, half.front()));
}

TEST_CASE("FLAC through a pipe and files that are cut off are imported for what they hold") {
  const Imports imports;
  const std::string a = imports.wave.string();
  const auto in = [&](const char* name) { return (imports.temporary / name).string(); };
  REQUIRE(shell("ffmpeg -v error -i " + a + " -f flac - | cat > " + in("piped.flac")).status == 0);
  const auto piped = imports.importedFile(in("piped.flac"));
  CHECK((piped.front() == imports.signal));
  REQUIRE(shell("ffmpeg -v error -i " + a + " -f wav - | cat > " + in("piped.wav")).status == 0);
  CHECK((imports.importedFile(in("piped.wav")).front() == imports.signal));
  writeWave(in("long.wav"), {noise(600'000, 9)}, 48000, SampleFormat::Pcm16);
  REQUIRE(shell("ffmpeg -v error -i " + in("long.wav") + " -f flac " + in("whole.flac")).status == 0);
  REQUIRE(
      shell("ffmpeg -v error -i " + in("long.wav") + " -c:a libvorbis -f ogg " + in("whole.ogg")).status ==
      0);
  for (const char* name : {"whole.flac", "whole.ogg"}) {
    const std::string whole = content(in(name));
    const Samples all = imports.importedFile(in(name)).front();
    for (const double share : {0.35, 0.6, 0.9, 0.99}) {
      INFO(name << " cut to " << share);
      const auto size = static_cast<std::size_t>(static_cast<double>(whole.size()) * share);
      const std::string cut = std::string("cut-") + name;
      const Samples part = imports.imported(whole.substr(0, size), cut).front();
      // As much as another decoder finds, but for a block that it may guess at.
      const auto decoded =
          static_cast<double>(shell("ffmpeg -v quiet -i " + in(cut.c_str()) + " -f f32le -").out.size()) /
          4.0;
      CHECK(static_cast<double>(part.size()) == Approx(decoded).margin(8192));
      CHECK(begins(all, Samples(part.begin(), part.begin() + static_cast<std::ptrdiff_t>(part.size() / 2))));
    }
  }
  // Nothing else was left behind by any of it.
  for (const auto& entry : fs::directory_iterator(imports.folder.path() / "audio"))
    CHECK(entry.path().extension() == ".wav");
}

TEST_CASE("A stereo file for a track of one channel is folded; what a file lacks of its length is said") {
  const Imports imports;
  const std::vector<Samples> sides{noise(48000, 3), noise(48000, 4)};
  const fs::path file = imports.temporary / "pair.wav";
  writeWave(file, sides);
  const Imported folded = importAudio(imports.folder.disk(), {{48000}, 1}, file);
  CHECK(folded.file.channels == 1);
  CHECK_THAT(english(noticesOf("pair.wav", folded)), Catch::Contains("both sides were mixed to one"));
  const auto made = readWave(imports.folder.path() / folded.file.path);
  REQUIRE(made.size() == 1);
  for (std::size_t i = 0; i < sides[0].size(); ++i) REQUIRE(made[0][i] == 0.5F * (sides[0][i] + sides[1][i]));
  for (const int channels : {0, 2, 3}) {
    const Imported whole = importAudio(imports.folder.disk(), {{48000}, channels}, file);
    CHECK(noticesOf("pair.wav", whole).empty());
    CHECK(readWave(imports.folder.path() / whole.file.path) == sides);
  }
  // At another rate it is folded before.
  const Imported faster = importAudio(imports.folder.disk(), {{96000}, 1}, file);
  CHECK(faster.file.channels == 1);
  CHECK(faster.file.length == Frames{96000});
  // Cut short, by a quarter.
  fs::resize_file(file, fs::file_size(file) - 12000 * 6);
  const Imported part = importAudio(imports.folder.disk(), {{48000}}, file);
  CHECK(part.file.length == Frames{36000});
  CHECK(part.missingSeconds == Approx(0.25).margin(0.01));
  CHECK_THAT(english(noticesOf("pair.wav", part)),
             Catch::Contains("its last 0.3 s are missing") || Catch::Contains("its last 0.2 s are missing"));
  // A size that says that it is not known lacks nothing.
  const std::string head = waveHead(2, 24, 6, 0xFFFFFFFF);
  std::string bytes = content(file);
  bytes.replace(0, head.size(), head);
  std::ofstream(file, std::ios::binary) << bytes;
  CHECK(importAudio(imports.folder.disk(), {{48000}}, file).missingSeconds == 0.0);
}

TEST_CASE("What is no number in a file is silence, and how much of it there was is said") {
  const Imports imports;
  Samples bad = noise(5000, 8);
  bad[10] = std::numeric_limits<float>::quiet_NaN();
  bad[11] = std::numeric_limits<float>::infinity();
  bad[4999] = -std::numeric_limits<float>::infinity();
  writeWave(imports.temporary / "bad.wav", {noise(5000, 9), bad}, 48000, SampleFormat::Float32);
  const Imported made = importAudio(imports.folder.disk(), {48000}, imports.temporary / "bad.wav");
  CHECK(made.silenced == 3);
  CHECK_THAT(english(noticesOf("bad.wav", made)), Catch::Contains("3 samples were no number"));
  bad[10] = bad[11] = bad[4999] = 0.0F;
  CHECK((readWave(imports.folder.path() / made.file.path)[1] == bad));
  // At another rate too; nothing that is no number comes through a filter.
  const Imported resampled = importAudio(imports.folder.disk(), {44100}, imports.temporary / "bad.wav");
  const auto filtered = readWave(imports.folder.path() / resampled.file.path);
  for (const float sample : filtered[1]) REQUIRE(std::isfinite(sample));
  CHECK(importAudio(imports.folder.disk(), {48000}, imports.wave).silenced == 0);
}
