// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round trip, measured with the output patched to the input.
#include <catch2/catch.hpp>
#include <cmath>

#include "core/error.h"
#include "core/signal/correlation.h"
#include "core/signal/cross_correlation.h"
#include "recording_support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

LoopBackResult measure(SimulatedInterface interface, int block) {
  const TemporaryFolder temporary;
  SessionFolder folder = emptySession(temporary / "s");
  interface.settings.inputs = 2;
  Rig rig(folder, block, std::move(interface));
  auto probe = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe, 0, {48000});
  rig.engine.startProbe(probe);
  for (int i = 0; i < 100000 && !probe->finished; ++i) rig.device.runBlock();
  REQUIRE(probe->finished);
  return measureRoundTrip(*probe, {48000});
}

}  // namespace

TEST_CASE("The round trip of the simulated interface is found to the frame") {
  for (const int block : {64, 256, 1024})
    for (const std::int64_t roundTrip : {1024, 1025, 4801, 20000}) {
      SimulatedInterface interface;
      interface.roundTrip = {roundTrip};
      interface.patched = true;
      const LoopBackResult result = measure(interface, block);
      INFO(result.sentence);
      REQUIRE(result.good);
      CHECK(result.roundTrip == Frames{roundTrip});
      CHECK(result.sureness > 0.99);
    }
}

TEST_CASE("A poor measurement is refused with a sentence") {
  SimulatedInterface silent;
  silent.roundTrip = {1000};
  LoopBackResult result = measure(silent, 256);
  CHECK_FALSE(result.good);
  CHECK_THAT(result.sentence, Catch::Contains("Nothing came back"));

  SimulatedInterface noisy;  // no cable, but someone is playing
  noisy.roundTrip = {1000};
  noisy.parts = {{0, {}, {played(noise(300000, 9))}, false, {}}};
  {
    const TemporaryFolder temporary;
    SessionFolder folder = emptySession(temporary / "s");
    Rig rig(folder, 256, noisy);
    auto probe = std::make_shared<LoopBackProbe>();
    prepareProbe(*probe, 0, {48000});
    rig.engine.play({});
    rig.engine.settle();
    rig.engine.startProbe(probe);
    while (!probe->finished) rig.device.runBlock();
    result = measureRoundTrip(*probe, {48000});
    CHECK_FALSE(result.good);
    CHECK_THAT(result.sentence, Catch::Contains("clearly"));
  }

  LoopBackProbe probe;  // a round trip that changes because blocks are lost
  prepareProbe(probe, 0, {48000});
  for (std::size_t i = 500; i < probe.signal.size(); ++i)
    probe.heard[i] = probe.signal[i - (i < 60000 ? 500 : 300)];
  result = measureRoundTrip(probe, {48000});
  CHECK_FALSE(result.good);
  CHECK_THAT(result.sentence, Catch::Contains("changed"));
}

TEST_CASE("A weak, filtered and inverted signal is still found") {
  LoopBackProbe probe;
  prepareProbe(probe, 0, {48000});
  const Samples room = noise(probe.signal.size(), 77, 0.002F);
  float low = 0.0F;
  for (std::size_t i = 0; i < probe.signal.size(); ++i) {
    const float sent = i >= 733 ? probe.signal[i - 733] : 0.0F;
    low += 0.7F * (sent - low);
    probe.heard[i] = -0.2F * low + room[i];
  }
  const LoopBackResult result = measureRoundTrip(probe, {48000});
  REQUIRE(result.good);
  CHECK(std::abs(result.roundTrip.count - 733) <= 1);
}

TEST_CASE("Correlation by Fourier transform agrees with the direct sum") {
  const Samples signal = noise(3000, 1);
  for (const std::size_t lag : {0, 1, 1000, 2488}) {
    const Samples probe(signal.begin() + static_cast<std::ptrdiff_t>(lag),
                        signal.begin() + static_cast<std::ptrdiff_t>(lag + 512));
    const CorrelationPeak peak = findByCorrelation(signal, probe);
    const Alignment direct = findIn(signal, probe);
    CHECK(peak.lag == lag);
    CHECK(peak.lag == direct.lag);
    CHECK(peak.correlation == Approx(direct.correlation).margin(1e-9));
    CHECK(peak.rival < 0.3);
  }
  CHECK(findByCorrelation(Samples(10), Samples(20)).correlation == 0.0);
  CHECK(findByCorrelation(Samples(100), Samples(20)).correlation == 0.0);
}
