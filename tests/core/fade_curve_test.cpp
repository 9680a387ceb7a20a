// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

namespace {

/// What ffmpeg's acrossfade makes of a signal of ones that fades into silence (out), or comes in (in).
Samples ffmpegFade(const TemporaryFolder& folder, const std::string& curve, bool in, int length) {
  writeWave(folder / "ones.wav", {Samples(static_cast<std::size_t>(length), 1.0F)}, 48000,
            SampleFormat::Float32);
  writeWave(folder / "zeros.wav", {Samples(static_cast<std::size_t>(length), 0.0F)}, 48000,
            SampleFormat::Float32);
  const std::string first = (folder / (in ? "zeros.wav" : "ones.wav")).string();
  const std::string second = (folder / (in ? "ones.wav" : "zeros.wav")).string();
  const auto result = shell("ffmpeg -y -loglevel error -i " + first + " -i " + second +
                            " -filter_complex acrossfade=ns=" + std::to_string(length) + ":c1=" + curve +
                            ":c2=" + curve + " -c:a pcm_f32le " + (folder / "out.wav").string());
  INFO(result.err);
  REQUIRE(result.status == 0);
  return readWave(folder / "out.wav").front();
}

}  // namespace

TEST_CASE("Crossfade curves are those of ffmpeg's acrossfade, sample by sample") {
  // ffmpeg 5.1, filter acrossfade: tri, qsin and hsin; it evaluates its fade-in at i/n and its fade-out at
  // (n-1-i)/n, we in the middle of each frame, so the curve functions are compared at ffmpeg's places.
  const TemporaryFolder folder;
  constexpr int n = 4000;
  for (const auto& [name, curve] : {std::pair{"tri", &equalGain}, {"qsin", &equalPower}, {"hsin", &sCurve}}) {
    const Samples in = ffmpegFade(folder, name, true, n);
    const Samples out = ffmpegFade(folder, name, false, n);
    REQUIRE(in.size() >= n);
    for (int i = 0; i < n; ++i) {
      REQUIRE(in[static_cast<std::size_t>(i)] == Approx(curve(static_cast<double>(i) / n).in).margin(2e-6));
      REQUIRE(out[static_cast<std::size_t>(i)] ==
              Approx(curve(static_cast<double>(n - 1 - i) / n).in).margin(2e-6));
    }
  }
}

TEST_CASE("The equal-power curve is that of sox's splice") {
  // sox 14.4.2, splice -q: a cosine (quarter-wave) crossfade; two constant signals of 1 give cos + sin.
  const TemporaryFolder folder;
  constexpr int n = 9600;      // each file
  constexpr int excess = 480;  // half the overlap, in frames: 0.01 s
  writeWave(folder / "a.wav", {Samples(n, 0.5F)}, 48000, SampleFormat::Float32);
  const std::string a = (folder / "a.wav").string();
  // The joined file is cut at n; with an excess of 480 the crossfade lies around it.
  const auto result = shell("sox " + a + " " + a + " " + (folder / "out.wav").string() + " splice -q " +
                            std::to_string(n) + "s," + std::to_string(excess) + "s,0");
  INFO(result.err);
  REQUIRE(result.status == 0);
  const Samples out = readWave(folder / "out.wav").front();
  // Where the fade is: everything that is not 0.5.
  std::size_t first = 0;
  while (first < out.size() && std::abs(out[first] - 0.5F) < 1e-6F) ++first;
  std::size_t last = out.size() - 1;
  while (last > first && std::abs(out[last] - 0.5F) < 1e-6F) --last;
  const double length = static_cast<double>(last - first + 1);
  REQUIRE(length > 900);
  for (std::size_t i = first; i <= last; ++i) {
    const double x = (static_cast<double>(i - first) + 0.5) / length;
    const FadeGains gains = equalPower(x);
    REQUIRE(out[i] == Approx(0.5 * (gains.in + gains.out)).margin(0.002));
  }
}

TEST_CASE("Each curve keeps its promise") {
  for (double x = 0.0; x <= 1.0; x += 1.0 / 512) {
    const FadeGains linear = equalGain(x);
    const FadeGains power = equalPower(x);
    const FadeGains s = sCurve(x);
    CHECK(linear.in + linear.out == Approx(1.0).margin(1e-6));
    CHECK(s.in + s.out == Approx(1.0).margin(1e-6));
    CHECK(power.in * power.in + power.out * power.out == Approx(1.0).margin(1e-6));
    // Fink, Holters, Zoelzer, DAFx 2016: power-complementary for the signals' correlation.
    for (const double rho : {-0.5, -0.2, 0.0, 0.3, 0.7, 1.0}) {
      const FadeGains m = matchedFade(x, rho);
      CHECK(m.in * m.in + m.out * m.out + 2 * rho * m.in * m.out == Approx(1.0).margin(1e-6));
    }
    // Opposite signals are not boosted beyond 3 dB.
    CHECK(matchedFade(x, -0.8).in == matchedFade(x, -0.5).in);
  }
}

TEST_CASE("The matched curve puts no corner into the wave where it sets in and ends") {
  // A corner is a change of slope from one frame to the next; equal power has one of pi/2 at either end.
  constexpr double h = 1.0 / 4096.0;
  for (const double rho : {-0.5, 0.0, 0.6, 1.0}) {
    CHECK(matchedFade(h, rho).in / h < 0.01);
    CHECK((1.0 - matchedFade(1.0 - h, rho).in) / h < 0.01);
    CHECK(matchedFade(1.0 - h, rho).out / h < 0.01);
    CHECK(matchedFade(0.5, rho).in == Approx(matchedFade(0.5, rho).out).margin(1e-6));
    double last = matchedFade(h, rho).in;
    for (double x = 2.0 * h; x < 1.0 - h; x += h) {
      const double here = matchedFade(x, rho).in;
      const double next = matchedFade(x + h, rho).in;
      REQUIRE(std::abs(next - 2.0 * here + last) < 15.0 * h * h + 1e-6);
      last = here;
    }
  }
  CHECK(equalPower(h).in / h > 1.5);
}
