// SPDX-License-Identifier: GPL-3.0-or-later
//
// Pitch is shifted whole or not at all, and nothing becomes longer.
#include "core/signal/pitch_shift.h"

#include "core/core_tests.h"

namespace {

struct Shifted {
  bool whole = false;
  Samples out;
  std::vector<double> told;
};

/// Breaks off when told for the `broken`-th time.
Shifted shifted(const Samples& in, double cents, std::size_t broken = ~std::size_t{0}) {
  Shifted result;
  PitchShift shift;
  shift.rate = {48000};
  shift.length = Frames{static_cast<std::int64_t>(in.size())};
  shift.by = Cents{cents};
  shift.read = [&](Frames at, int count, float* const* into) {
    REQUIRE(at.count >= 0);
    REQUIRE(at.count + count <= static_cast<std::int64_t>(in.size()));
    std::copy_n(in.begin() + at.count, count, into[0]);
  };
  shift.write = [&](const float* const* samples, int count) {
    result.out.insert(result.out.end(), samples[0], samples[0] + count);
  };
  shift.progress = [&](double share) {
    result.told.push_back(share);
    return result.told.size() < broken;
  };
  result.whole = shiftPitch(shift);
  return result;
}

}  // namespace

TEST_CASE("Shifted, everything is as long as it was, also what is hardly there") {
  for (const std::size_t length :
       {std::size_t{1}, std::size_t{7}, std::size_t{480}, std::size_t{5000}, std::size_t{20001}})
    for (const double cents : {-2400.0, -50.0, 2400.0}) {
      const Shifted made = shifted(noise(length, 3, 0.2F), cents);
      CHECK(made.whole);
      CHECK(made.out.size() == length);
      CHECK(std::all_of(made.out.begin(), made.out.end(),
                        [](float x) { return std::isfinite(x) && std::abs(x) < 0.45F; }));
    }
}

TEST_CASE("A file of two channels is made at another pitch channel by channel; a missing one is silent") {
  const TemporaryFolder temporary;
  const SessionDisk disk(temporary.path());
  fs::create_directory(temporary / "audio");
  const std::vector<Samples> in{sine(30000, 330.0, 48000.0, 0.3F), sine(30000, 700.0, 48000.0, 0.2F)};
  writeWave(temporary / "audio" / "a.wav", in, 48000, SampleFormat::Float32);
  for (const int channels : {2, 3}) {
    const PitchedFile wanted{{"audio/a.wav", channels, {30000}}, Cents{200.0}};
    REQUIRE(PitchedFiles::make(disk, {48000}, wanted));
    PitchedFiles made(disk);
    REQUIRE(made.pitched(wanted.file, wanted.by));
    const auto found = readWave(temporary / made.files().front().path);
    // The same, shifted as a set by hand.
    std::vector<Samples> out(static_cast<std::size_t>(channels));
    PitchShift shift;
    shift.channels = channels;
    shift.rate = {48000};
    shift.length = {30000};
    shift.by = wanted.by;
    shift.read = [&](Frames at, int count, float* const* into) {
      for (std::size_t c = 0; c < out.size(); ++c)
        if (c < in.size())
          std::copy_n(in[c].begin() + at.count, count, into[c]);
        else
          std::fill_n(into[c], count, 0.0F);
    };
    shift.write = [&](const float* const* samples, int count) {
      for (std::size_t c = 0; c < out.size(); ++c)
        out[c].insert(out[c].end(), samples[c], samples[c] + count);
    };
    REQUIRE(shiftPitch(shift));
    CHECK(found == out);
    CHECK(found[0] != found[1]);
  }
}
