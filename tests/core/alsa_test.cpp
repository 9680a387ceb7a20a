// SPDX-License-Identifier: GPL-3.0-or-later
//
// ALSA where there is no card: its own plug-ins bring what is in a file as if a card had heard it, and keep
// what is played in another.
#include <alsa/asoundlib.h>

#include "core/core_tests.h"

#include "core/device/alsa/alsa_samples.h"

namespace {

/// Two PCMs of files: "heard" brings `channels` channels of floats, "played" keeps two.
struct Cards {
  Cards(const std::vector<Samples>& heard, int extra = 0) {
    std::ofstream raw(folder / "in.raw", std::ios::binary);
    for (std::size_t i = 0; i < heard.front().size(); ++i)
      for (const Samples& channel : heard)
        raw.write(reinterpret_cast<const char*>(&channel[i]), sizeof(float));
    raw.close();
    const std::string count = std::to_string(heard.size() + static_cast<std::size_t>(extra));
    std::ofstream(folder / "asound.conf")
        << "pcm.heard { type file file /dev/null format raw infile " << (folder / "in.raw").string()
        << " slave.pcm { type null } }\n"
        << "pcm.played { type file format raw file " << out.string() << " slave.pcm { type null } }\n"
        << "pcm.steps { type linear slave { pcm { type null } format S16_LE } }\n";
    was = std::getenv("ALSA_CONFIG_PATH") ? std::getenv("ALSA_CONFIG_PATH") : "";
    const std::string path = "/usr/share/alsa/alsa.conf:" + (folder / "asound.conf").string();
    setenv("ALSA_CONFIG_PATH", path.c_str(), 1);
    snd_config_update_free_global();
  }
  ~Cards() {
    if (was.empty())
      unsetenv("ALSA_CONFIG_PATH");
    else
      setenv("ALSA_CONFIG_PATH", was.c_str(), 1);
    snd_config_update_free_global();
  }
  Cards(const Cards&) = delete;
  Cards& operator=(const Cards&) = delete;

  TemporaryFolder folder;
  const fs::path out = folder / "out.raw";
  std::string was;
};

/// Keeps what it hears and plays a ramp that tells frame and channel.
struct Listener : AudioCallback {
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    inputs = block.inputCount;
    outputs = block.outputCount;
    longest = std::max(longest, block.frames);
    dropouts += block.dropout ? 1 : 0;
    for (int c = 0; c < block.inputCount && static_cast<std::size_t>(c) < heard.size(); ++c)
      heard[static_cast<std::size_t>(c)].insert(heard[static_cast<std::size_t>(c)].end(), block.inputs[c],
                                                block.inputs[c] + block.frames);
    for (int c = 0; c < block.outputCount; ++c)
      for (int i = 0; i < block.frames; ++i) block.outputs[c][i] = ramp(played + i, c);
    played += block.frames;
  }
  static float ramp(std::int64_t frame, int channel) {
    return static_cast<float>(frame % 60000 + 1) / 65536.0F * (channel == 0 ? 1.0F : -0.5F);
  }
  std::array<Samples, 8> heard;
  std::int64_t played = 0;
  int inputs = -1;
  int outputs = -1;
  int longest = 0;
  int dropouts = 0;
};

DeviceSettings wanted(const std::string& source, const std::string& sink) {
  DeviceSettings settings;
  settings.driver = "ALSA";
  settings.rate = {48000};
  settings.blockFrames = 480;
  settings.inputs = 2;
  settings.outputs = 2;
  settings.source = source;
  settings.sink = sink;
  return settings;
}

}  // namespace

TEST_CASE("Samples of 16, 24 and 32 bits are read as they are and written to the nearest step") {
  struct Width {
    snd_pcm_format_t format;
    int bytes;
    double steps;
  };
  for (const Width& width : {Width{SND_PCM_FORMAT_S16_LE, 2, 32768.0},
                             {SND_PCM_FORMAT_S24_3LE, 3, 8388608.0},
                             {SND_PCM_FORMAT_S32_LE, 4, 2147483648.0}}) {
    INFO("bytes " << width.bytes);
    const auto asInteger = [&](const unsigned char* raw) {
      std::int64_t value = 0;
      for (int i = 0; i < width.bytes; ++i) value |= static_cast<std::int64_t>(raw[i]) << (8 * i);
      return value >= static_cast<std::int64_t>(width.steps)
                 ? value - 2 * static_cast<std::int64_t>(width.steps)
                 : value;
    };
    for (const double step : {0.0, 1.0, -1.0, 255.0, 256.0, -257.0, 12345.0, -32768.0, 32767.0}) {
      std::array<unsigned char, 5> raw{};
      raw.back() = 0xAB;
      sampleTo(raw.data(), static_cast<float>(step / width.steps), width.format);
      CHECK(asInteger(raw.data()) == static_cast<std::int64_t>(step));
      CHECK(sampleFrom(raw.data(), width.format) == static_cast<float>(step / width.steps));
      CHECK(raw.back() == 0xAB);  // no byte more than it has
    }
    std::array<unsigned char, 4> raw{};
    const auto written = [&](float sample) {
      sampleTo(raw.data(), sample, width.format);
      return asInteger(raw.data());
    };
    CHECK(written(1.0F) == static_cast<std::int64_t>(width.steps) - 1);
    CHECK(written(7.0F) == static_cast<std::int64_t>(width.steps) - 1);
    CHECK(written(-1.0F) == -static_cast<std::int64_t>(width.steps));
    CHECK(written(-7.0F) == -static_cast<std::int64_t>(width.steps));
    if (width.bytes > 3) continue;  // finer than a float
    CHECK(written(static_cast<float>(100.4 / width.steps)) == 100);
    CHECK(written(static_cast<float>(100.6 / width.steps)) == 101);
    CHECK(written(static_cast<float>(-100.6 / width.steps)) == -101);
  }
  std::array<unsigned char, 4> raw{};
  sampleTo(raw.data(), 1.75F, SND_PCM_FORMAT_FLOAT_LE);  // beyond full scale is the card's affair
  CHECK(sampleFrom(raw.data(), SND_PCM_FORMAT_FLOAT_LE) == 1.75F);
}

TEST_CASE("What a card hears arrives channel by channel and frame by frame, at the clock's pace") {
  const std::vector<Samples> signal{noise(96000, 1), noise(96000, 2)};
  const Cards cards(signal);
  Listener listener;
  {
    const auto device = audioDriverNamed("ALSA").open(wanted("heard", ""), listener);
    CHECK(device->settings().blockFrames == 480);
    CHECK(device->settings().source == "heard");
    CHECK(device->settings().sink.empty());
    CHECK(device->settings().inputs >= 2);
    CHECK(device->settings().outputs == 0);
    device->start();
    CHECK(device->alive());
    CHECK(device->report().sourceName == "heard");
    CHECK(device->report().deviceRate == 48000);
    CHECK(device->report().latency.empty());
    std::this_thread::sleep_for(std::chrono::milliseconds(700));
    device->stop();
  }
  CHECK(listener.outputs == 0);
  CHECK(listener.longest == 480);
  CHECK(listener.dropouts == 0);
  // A file has no clock, so it is given one.
  REQUIRE(listener.heard[0].size() > 24000);
  CHECK(listener.heard[0].size() < 72000);
  for (std::size_t side = 0; side < 2; ++side)
    CHECK(
        std::equal(listener.heard[side].begin(), listener.heard[side].begin() + 24000, signal[side].begin()));
}

TEST_CASE("What is played reaches a card as it was made, behind a buffer of silence") {
  const Cards cards({Samples(10, 0.0F)});
  Listener listener;
  {
    const auto device = audioDriverNamed("ALSA").open(wanted("", "played"), listener);
    CHECK(device->settings().inputs == 0);
    CHECK(device->settings().outputs == 2);
    CHECK(device->settings().sink == "played");
    device->start();
    CHECK(device->report().sinkName == "played");
    std::this_thread::sleep_for(std::chrono::milliseconds(500));
    // Two blocks wait before it, and the one that is being made.
    CHECK(device->reportedRoundTrip() == Frames{3 * 480});
    device->stop();
  }
  CHECK(listener.inputs == 0);
  std::ifstream raw(cards.out, std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(raw), {}};
  Samples played(bytes.size() / sizeof(float));
  std::memcpy(played.data(), bytes.data(), played.size() * sizeof(float));
  REQUIRE(played.size() > 2 * (960 + 12000));
  for (std::size_t i = 0; i < 12000; ++i)
    for (int side = 0; side < 2; ++side) {
      const float expected = i < 960 ? 0.0F : Listener::ramp(static_cast<std::int64_t>(i) - 960, side);
      REQUIRE(played[2 * i + static_cast<std::size_t>(side)] == expected);
    }
}

TEST_CASE("With one for the input and another for the output the sink gets all of it, in time and in order") {
  const std::vector<Samples> signal{noise(480000, 1), noise(480000, 2)};
  const Cards cards(signal);
  Listener listener;
  Frames roundTrip;
  {
    const auto device = audioDriverNamed("ALSA").open(wanted("heard", "played"), listener);
    device->start();
    CHECK_THAT(device->report().latency.english(), Catch::Contains("different cards"));
    // Nothing is said of two clocks before it is known that they differ.
    for (const Sentence& note : device->report().notes)
      CHECK_THAT(note.english(), !Catch::Contains("clocks differ"));
    std::this_thread::sleep_for(std::chrono::milliseconds(500));
    roundTrip = device->reportedRoundTrip();
    device->stop();
  }
  CHECK(listener.inputs >= 2);
  CHECK(listener.outputs == 2);
  REQUIRE(listener.heard[0].size() > 24000);
  for (std::size_t side = 0; side < 2; ++side)
    CHECK(
        std::equal(listener.heard[side].begin(), listener.heard[side].begin() + 24000, signal[side].begin()));
  // A buffer of three blocks and what waits between the clocks.
  CHECK(roundTrip.count > 3 * 480 + 480);
  CHECK(roundTrip.count < 48000);
  std::ifstream raw(cards.out, std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(raw), {}};
  Samples played(bytes.size() / sizeof(float));
  std::memcpy(played.data(), bytes.data(), played.size() * sizeof(float));
  // From its first frame on each frame is the one behind the last, on both sides.
  std::int64_t frame = -1;
  std::int64_t inOrder = 0;
  for (std::size_t i = 0; i + 1 < played.size() / 2; ++i) {
    if (played[2 * i] == 0.0F && played[2 * i + 1] == 0.0F) continue;  // silence between
    if (frame < 0) frame = std::llround(played[2 * i] * 65536.0F) - 1;
    REQUIRE(played[2 * i] == Listener::ramp(frame, 0));
    REQUIRE(played[2 * i + 1] == Listener::ramp(frame, 1));
    ++frame;
    ++inOrder;
  }
  CHECK(inOrder > 12000);
}

TEST_CASE("A card that has no floats is opened in whole steps; one that is not there is said") {
  const Cards cards({Samples(10, 0.0F)});
  Listener listener;
  {
    const auto device = audioDriverNamed("ALSA").open(wanted("", "steps"), listener);
    device->start();
    CHECK(listener.outputs == 2);
    device->stop();
  }
  CHECK_THROWS_WITH(audioDriverNamed("ALSA").open(wanted("nobody", ""), listener),
                    Catch::Contains("\"nobody\"") && Catch::Contains("is it plugged in?"));
  CHECK_THROWS_WITH(audioDriverNamed("ALSA").open(wanted("", ""), listener),
                    Catch::Contains("no sound card on this machine"));
  const DriverListing listing = audioDriverNamed("ALSA").list();
  CHECK(listing.sources.empty());
  CHECK(listing.sinks.empty());
}
