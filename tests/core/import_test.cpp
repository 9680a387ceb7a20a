// SPDX-License-Identifier: GPL-3.0-or-later
//
// Foreign files as other programs write them: every sample, on both sides.
#include "core/core_tests.h"

namespace {

std::string bytesOf(const fs::path& path) {
  std::ifstream file(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(file), {}};
}

void convert(const std::string& line) {
  const ToolResult result = shell(line);
  INFO(line << ": " << result.err);
  REQUIRE(result.status == 0);
}

/// From 200 Hz to 6 kHz in `seconds`; it looks like itself at one place only.
Samples sweep(double seconds, double rate, double phase) {
  Samples samples(static_cast<std::size_t>(seconds * rate));
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double t = static_cast<double>(i) / rate;
    const double turns = 200.0 * t + (6000.0 - 200.0) * t * t / (2.0 * seconds);
    samples[i] = static_cast<float>(0.4 * std::sin(2.0 * std::numbers::pi * turns + phase));
  }
  return samples;
}

/// The level of the difference against full scale, in decibels, `edge` frames from either end.
template <typename Expected>
double difference(const Samples& samples, std::size_t edge, Expected expected) {
  REQUIRE(samples.size() > 3 * edge);
  double sum = 0.0;
  for (std::size_t i = edge; i < samples.size() - edge; ++i) {
    const double error = samples[i] - expected(i);
    sum += error * error;
  }
  return 10.0 * std::log10(sum / static_cast<double>(samples.size() - 2 * edge) + 1e-30);
}

}  // namespace

TEST_CASE("Formats that lose nothing are imported sample by sample") {
  const TemporaryFolder temporary;
  SessionFolder folder = SessionFolder::create(temporary / "s", Session{});
  const Samples left = noise(30000, 1);
  const Samples right = noise(30000, 2);
  const std::string a = (temporary / "a.wav").string();
  writeWave(a, {left, right});
  const auto to = [&](const std::string& name) { return (temporary / name).string(); };
  convert("sox " + a + " " + to("b.flac"));
  convert("sox " + a + " " + to("b.aiff"));
  convert("sox " + a + " " + to("b.w64"));
  convert("ffmpeg -y -loglevel error -i " + a + " -c:a pcm_s24le -rf64 always " + to("rf64.wav"));
  convert("ffmpeg -y -loglevel error -i " + a + " -c:a pcm_s24le -write_bext 1 -metadata description=Ferry " +
          to("bwf.wav"));
  convert("ffmpeg -y -loglevel error -i " + a + " -c:a pcm_s24be " + to("b.caf"));
  CHECK(bytesOf(to("rf64.wav")).starts_with("RF64"));               // EBU Tech 3306
  CHECK(bytesOf(to("bwf.wav")).find("bext") != std::string::npos);  // EBU Tech 3285
  for (const char* name : {"a.wav", "b.flac", "b.aiff", "b.w64", "rf64.wav", "bwf.wav", "b.caf"}) {
    INFO(name);
    const PoolFile file = importAudio(folder.disk(), {48000}, temporary / name).file;
    CHECK(file.channels == 2);
    CHECK(file.length == Frames{30000});
    const auto samples = readWave(audioPath(folder, file));
    REQUIRE(samples.size() == 2);
    CHECK((samples[0] == left));
    CHECK((samples[1] == right));
    // Whatever it was, what is kept is WAV.
    const std::string kept = bytesOf(audioPath(folder, file));
    CHECK((kept.starts_with("RIFF") || kept.starts_with("RF64")));
    CHECK(kept.substr(8, 4) == "WAVE");
  }
  const PoolFile copied = importAudio(folder.disk(), {48000}, a).file;
  CHECK((bytesOf(audioPath(folder, copied)) == bytesOf(a)));
}

TEST_CASE("Formats that lose something are imported as they sound, each side on its own") {
  const TemporaryFolder temporary;
  SessionFolder folder = SessionFolder::create(temporary / "s", Session{});
  const std::array<Samples, 2> sides{sweep(1.0, 48000.0, 0.0), sweep(1.0, 48000.0, 1.2)};
  const std::string a = (temporary / "a.wav").string();
  writeWave(a, {sides[0], sides[1]});
  for (const std::string type : {"ogg", "mp3"}) {
    INFO(type);
    const std::string converted = (temporary / ("b." + type)).string();
    convert("ffmpeg -y -loglevel error -i " + a + (type == "ogg" ? " -q:a 9 " : " -b:a 320k ") + converted);
    const PoolFile file = importAudio(folder.disk(), {48000}, converted).file;
    CHECK(file.channels == 2);
    const auto samples = readWave(audioPath(folder, file));
    // An encoder may put some silence before it, the same on both sides; elsewhere it is at least 40 dB
    // alike.
    std::array<std::int64_t, 2> found{-1, -1};
    for (std::size_t side = 0; side < 2; ++side)
      for (std::int64_t lag = 0; lag < 3000 && found[side] < 0; ++lag) {
        double error = 0.0;
        double level = 0.0;
        for (std::size_t i = 4000; i < 44000; i += 3) {
          const double wanted = sides[side][i];
          const double heard = i + static_cast<std::size_t>(lag) < samples[side].size()
                                   ? samples[side][i + static_cast<std::size_t>(lag)]
                                   : 0.0F;
          error += (heard - wanted) * (heard - wanted);
          level += wanted * wanted;
        }
        if (error < 1e-4 * level) found[side] = lag;
      }
    CHECK(found[0] >= 0);
    CHECK(found[0] == found[1]);
  }
}

TEST_CASE(
    "Another rate: tones and a sweep come out as they are at the new rate, to 110 dB, and as from sox") {
  const TemporaryFolder temporary;
  SessionFolder folder = SessionFolder::create(temporary / "s", Session{});
  for (const auto& rates : {std::pair{44100, 48000}, {96000, 48000}, {48000, 44100}, {22050, 96000}}) {
    const int from = rates.first;
    const int to = rates.second;
    const double highest = 0.45 * std::min(from, to);
    for (const double hertz : {31.0, 997.0, 0.5 * highest, highest}) {
      INFO(from << " to " << to << ", " << hertz << " Hz");
      const Samples second = sine(static_cast<std::size_t>(from), hertz, from, 0.5F, 0.7);
      writeWave(temporary / "tone.wav", {second, Samples(second.rbegin(), second.rend())}, from,
                SampleFormat::Float32);
      const PoolFile file = importAudio(folder.disk(), {to}, temporary / "tone.wav").file;
      CHECK(std::abs(file.length.count - to) <= 1);
      const auto ours = readWave(audioPath(folder, file));
      REQUIRE(ours.size() == 2);
      const auto tone = [&](std::size_t i) {
        return 0.5 * std::sin(2.0 * std::numbers::pi * hertz * static_cast<double>(i) / to + 0.7);
      };
      CHECK(difference(ours[0], 4000, tone) < -110.0);
      // The other side is the same backwards, from its last frame on.
      const double last = (from - 1.0) / from;
      CHECK(difference(ours[1], 4000, [&](std::size_t i) {
              return 0.5 *
                     std::sin(2.0 * std::numbers::pi * hertz * (last - static_cast<double>(i) / to) + 0.7);
            }) < -110.0);
    }
    INFO(from << " to " << to << ", sweep");
    writeWave(temporary / "sweep.wav", {sweep(1.0, from, 0.3)}, from, SampleFormat::Float32);
    const PoolFile file = importAudio(folder.disk(), {to}, temporary / "sweep.wav").file;
    const Samples ours = readWave(audioPath(folder, file)).front();
    const Samples analytic = sweep(1.0, to, 0.3);
    CHECK(difference(ours, 4000, [&](std::size_t i) { return static_cast<double>(analytic[i]); }) < -110.0);
    // sox 14.4.2, `rate -v`, very high quality.
    convert("sox " + (temporary / "sweep.wav").string() + " -e floating-point -b 32 " +
            (temporary / "ref.wav").string() + " rate -v " + std::to_string(to));
    const Samples reference = readWave(temporary / "ref.wav").front();
    REQUIRE(reference.size() + 1 >= ours.size());
    CHECK(difference(ours, 4000, [&](std::size_t i) { return static_cast<double>(reference[i]); }) < -110.0);
  }
}
