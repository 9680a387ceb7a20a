// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

TEST_CASE("Samples on a format's grid come back bit for bit, at every rate") {
  const TemporaryFolder temporary;
  for (const int rate : {44100, 48000, 88200, 96000, 192000}) {
    const Samples signal = noise(5000, 1, 0.999F);
    writeWave(temporary / "a.wav", {signal}, rate, SampleFormat::Pcm24);
    CHECK(readWave(temporary / "a.wav").front() == signal);
    CHECK(probeAudioFile(temporary / "a.wav").rate.hertz == rate);
  }
  const Samples loud{1.5F, -1.5F, 1.0F, -1.0F};
  writeWave(temporary / "float.wav", {loud}, 48000, SampleFormat::Float32);
  CHECK(readWave(temporary / "float.wav").front() == loud);
  writeWave(temporary / "clipped.wav", {loud}, 48000, SampleFormat::Pcm16);
  CHECK(readWave(temporary / "clipped.wav").front() ==
        Samples{32767.0F / 32768, -1.0F, 32767.0F / 32768, -1.0F});
}

TEST_CASE("A time-stamped file carries a broadcast chunk as EBU Tech 3285 lays it out") {
  const TemporaryFolder temporary;
  {
    AudioWriter writer(temporary / "a.wav", 1, {48000}, SampleFormat::Pcm24,
                       TimeStamp{{5'000'000'000}, "First evening"});
    const Samples one(100, 0.25F);
    writer.write(one.data(), 100);
    writer.close();
  }
  // EBU Tech 3285: description 256 bytes, originator 32, reference 32, date 10, time 8, then the time
  // reference as two 32-bit words, low first.
  const std::string bytes = content(temporary / "a.wav");
  const auto chunk = bytes.find("bext");
  REQUIRE(chunk != std::string::npos);
  const char* body = bytes.data() + chunk + 8;
  CHECK(std::string(body) == "First evening");
  CHECK(std::string(body + 256) == "Yewdrift");
  std::uint32_t low = 0;
  std::uint32_t high = 0;
  std::memcpy(&low, body + 256 + 32 + 32 + 10 + 8, 4);
  std::memcpy(&high, body + 256 + 32 + 32 + 10 + 8 + 4, 4);
  CHECK((static_cast<std::uint64_t>(high) << 32U | low) == 5'000'000'000ULL);
  // And ffprobe reads it.
  const auto probe = shell("ffprobe -v error -show_entries format_tags=time_reference -of csv=p=0 " +
                           (temporary / "a.wav").string());
  CHECK(probe.out == "5000000000\n");
}

TEST_CASE("Cue points and their labels are chunks as they are published, whatever the names' lengths") {
  // "cue " and "LIST" of Multimedia Programming Interface and Data Specifications 1.0 (IBM and Microsoft
  // 1991).
  const TemporaryFolder temporary;
  const fs::path path = temporary / "a.wav";
  AudioFileKind kind;
  kind.cues = {{{0}, "a"}, {{100}, "dusk"}, {{4000}, "the ferry"}, {{0xFFFFFFFFLL}, ""}};
  AudioFileKind wished = kind;  // and two whose places do not fit
  wished.cues.insert(wished.cues.begin(), {{-1}, "before"});
  wished.cues.push_back({{0x100000000LL}, "too far"});
  AudioWriter writer(createAnywhere(path), 1, {48000}, wished);
  writer.write(noise(10000, 1).data(), 10000);
  writer.close();
  const std::string bytes = content(path);
  const auto numberAt = [&](std::size_t at) {
    std::size_t value = 0;
    for (std::size_t i = 4; i-- > 0;) value = value << 8 | static_cast<unsigned char>(bytes.at(at + i));
    return value;
  };
  // Chunks by name, each with where its body begins.
  const auto chunksIn = [&](std::size_t from, std::size_t to) {
    std::vector<std::pair<std::string, std::size_t>> chunks;
    std::size_t at = from;
    for (; at + 8 <= to; at += 8 + (numberAt(at + 4) + 1) / 2 * 2)
      chunks.emplace_back(bytes.substr(at, 4), at + 8);
    CHECK(at == to);
    return chunks;
  };
  // Where none is left there is no such chunk.
  wished.cues = {{{-1}, "before"}};
  AudioWriter(createAnywhere(temporary / "b.wav"), 1, {48000}, wished).close();
  CHECK(content(temporary / "b.wav").find("cue ") == std::string::npos);
  CHECK(bytes.substr(0, 4) == "RIFF");
  REQUIRE(numberAt(4) + 8 == bytes.size());
  std::size_t cue = 0;
  std::size_t list = 0;
  for (const auto& [name, body] : chunksIn(12, bytes.size())) {
    if (name == "cue ") cue = body;
    if (name == "LIST") list = body;
  }
  REQUIRE(cue > 0);
  REQUIRE(list > 0);
  CHECK(numberAt(cue) == 4);
  CHECK(numberAt(cue - 4) == 4 + 4 * 24);
  CHECK(bytes.substr(list, 4) == "adtl");
  const auto labels = chunksIn(list + 4, list + numberAt(list - 4));
  REQUIRE(labels.size() == 4);
  for (std::size_t i = 0; i < 4; ++i) {
    const std::size_t point = cue + 4 + 24 * i;
    CHECK(numberAt(point) == i + 1);
    CHECK(numberAt(point + 4) == static_cast<std::size_t>(kind.cues[i].at.count));
    CHECK(bytes.substr(point + 8, 4) == "data");
    CHECK(numberAt(point + 20) == static_cast<std::size_t>(kind.cues[i].at.count));
    CHECK(labels[i].first == "labl");
    CHECK(numberAt(labels[i].second) == i + 1);
    CHECK(std::string(&bytes[labels[i].second + 4]) == kind.cues[i].name);
  }
}

TEST_CASE("Counted as cut off is each sample that no step of the format is as near to as half a step") {
  const TemporaryFolder temporary;
  for (const int bits : {16, 24})
    for (const auto container : {Container::Wave, Container::Flac}) {
      const double scale = std::pow(2.0, bits - 1);
      Samples signal;
      int beyond = 0;
      for (const double step : {-1.5 * scale, -scale - 2.0, -scale - 1.0, -scale, -scale + 1.0, -1.0, 0.0,
                                1.0, scale - 2.0, scale - 1.0, scale, scale + 2.0, 1.5 * scale}) {
        signal.push_back(static_cast<float>(step / scale));
        beyond += step < -scale || step > scale - 1.0 ? 1 : 0;
      }
      if (bits == 16)  // finer than steps, what rounds to one is none of them
        for (const double step : {-scale - 0.25, scale - 0.75, -scale - 0.75, scale - 0.25}) {
          signal.push_back(static_cast<float>(step / scale));
          beyond += step == -scale - 0.75 || step == scale - 0.25 ? 1 : 0;
        }
      AudioFileKind kind;
      kind.format = bits == 16 ? SampleFormat::Pcm16 : SampleFormat::Pcm24;
      kind.container = container;
      AudioWriter writer(createAnywhere(temporary / "a"), 1, {48000}, kind);
      writer.write(signal.data(), std::ssize(signal));
      CHECK(writer.clipped() == beyond);
      writer.close();
      const Samples back = readWave(temporary / "a").front();
      REQUIRE(back.size() == signal.size());
      for (std::size_t i = 0; i < signal.size(); ++i) {
        INFO(bits << " bits, " << signal[i]);
        const double step = std::clamp(std::nearbyint(signal[i] * scale), -scale, scale - 1.0);
        CHECK(back[i] == static_cast<float>(step / scale));
      }
    }
}

TEST_CASE("A file of 256 channels is read; one of more is refused, as one that describes itself impossibly") {
  const TemporaryFolder temporary;
  const fs::path path = temporary / "a.wav";
  for (const int channels : {256, 257}) {
    const auto width = static_cast<std::size_t>(2 * channels);
    std::ofstream(path, std::ios::binary)
        << waveHead(channels, 16, 2 * channels, static_cast<std::uint32_t>(10 * width))
        << std::string(10 * width, '\1');
    if (channels == 256)
      CHECK(probeAudioFile(path).channels == 256);
    else
      CHECK_THROWS_WITH(probeAudioFile(path), Catch::Contains("impossible"));
  }
  std::string still = waveHead(1, 16, 2, 20) + std::string(20, '\1');
  still.replace(24, 4, std::string(4, '\0'));  // no frames a second
  std::ofstream(path, std::ios::binary) << still;
  CHECK_THROWS_AS(probeAudioFile(path), Error);
}
