// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round trip, measured with the output patched to the input.
#include <functional>
#include "engine/engine_tests.h"

#include "core/signal/correlation.h"
#include "core/signal/cross_correlation.h"

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
  CHECK_THAT(result.sentence.english(), Catch::StartsWith("Nothing came back on input 1."));
  // A device that was late is no fault of the cable's.
  silent.dropoutEveryBlocks = 400;
  result = measure(silent, 256);
  CHECK_FALSE(result.good);
  CHECK(result.sentence.english() ==
        "The device lost frames while the round trip was measured, so nothing was stored. Try again when the "
        "machine has less to do, or with a larger block.");
  silent.dropoutEveryBlocks = 150;
  result = measure(silent, 256);
  CHECK_FALSE(result.good);
  CHECK_THAT(result.sentence.english(), Catch::StartsWith("The device lost frames 3 times while "));
  // Where all of it came back it does not matter.
  silent.patched = true;
  result = measure(silent, 64);
  INFO(result.sentence);
  CHECK(result.good);
  CHECK(result.roundTrip == Frames{1000});
  CHECK_THAT(result.sentence.english(), Catch::StartsWith("The round trip is 1000 frames (20.8 ms), "));

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
    CHECK_THAT(result.sentence.english(), Catch::Contains("clearly"));
  }

  LoopBackProbe probe;  // a round trip that changes because blocks are lost
  prepareProbe(probe, 0, {48000});
  for (std::size_t i = 500; i < probe.signal.size(); ++i)
    probe.heard[i] = probe.signal[i - (i < 60000 ? 500 : 300)];
  result = measureRoundTrip(probe, {48000});
  CHECK_FALSE(result.good);
  CHECK_THAT(result.sentence.english(), Catch::Contains("changed"));
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

namespace {

/// What comes back where each burst returns after its own number of frames, all of it through `change`.
LoopBackResult returned(const std::array<std::size_t, 3>& roundTrips,
                        const std::function<float(std::size_t, float)>& change = {}) {
  LoopBackProbe probe;
  prepareProbe(probe, 2, {48000});
  for (std::size_t burst = 0; burst < 3; ++burst)
    for (std::size_t i = 0; i < 24000; ++i)
      probe.heard[burst * 48000 + roundTrips[burst] + i] += probe.signal[burst * 48000 + i];
  if (change)
    for (std::size_t i = 0; i < probe.heard.size(); ++i) probe.heard[i] = change(i, probe.heard[i]);
  return measureRoundTrip(probe, {48000});
}

}  // namespace

TEST_CASE("An echo nearly as loud as the return itself leaves it open which is which") {
  const auto withEcho = [](float loud) {
    LoopBackProbe dry;
    prepareProbe(dry, 2, {48000});
    return returned({500, 500, 500}, [&](std::size_t i, float sample) {
      return i >= 3500 ? sample + loud * dry.signal[i - 3500] : sample;
    });
  };
  LoopBackResult result = withEcho(0.4F);
  INFO(result.sentence);
  CHECK(result.good);
  CHECK(result.roundTrip == Frames{500});
  // However pure it is: far behind the burst itself nothing else sounds.
  LoopBackProbe dry;
  prepareProbe(dry, 2, {48000});
  result = returned({500, 500, 500}, [&](std::size_t i, float sample) {
    return i >= 15500 ? 0.8F * sample + 0.01F * dry.signal[i - 10000] + 0.05F * dry.signal[i - 15500]
                      : sample;
  });
  CHECK(result.good);
  CHECK(result.roundTrip == Frames{500});
  result = withEcho(0.8F);
  CHECK_FALSE(result.good);
  CHECK_THAT(result.sentence.english(),
             Catch::Contains("did not come back clearly") && Catch::Contains("input 3"));
}

TEST_CASE("A round trip may waver by a frame, which a clock does, and no more") {
  LoopBackResult result = returned({700, 701, 699});
  INFO(result.sentence);
  CHECK(result.good);
  CHECK(result.roundTrip == Frames{700});
  CHECK(result.sentence.english() == "The round trip is 700 frames (14.6 ms), 100 % sure.");
  for (const std::array<std::size_t, 3>& wandering :
       {std::array<std::size_t, 3>{700, 702, 700}, {700, 700, 702}, {700, 700, 698}, {702, 700, 700}}) {
    result = returned(wandering);
    CHECK_FALSE(result.good);
    CHECK_THAT(result.sentence.english(), Catch::Contains("changed while it was measured"));
  }
  CHECK(returned({23000, 23000, 23000}).roundTrip == Frames{23000});
}

TEST_CASE("What comes back is at least half like what was sent, in the worst of the bursts") {
  // Noise of the same power as the bursts times k: a correlation of 1 / sqrt(1 + k^2).
  const Samples room = noise(48000 * 3, 5, 0.25F);
  const auto inNoise = [&](float k, std::size_t worst) {
    return returned({500, 500, 500}, [&](std::size_t i, float sample) {
      return i / 48000 == worst ? sample + k * room[i] : sample;
    });
  };
  for (const std::size_t worst : {0U, 1U, 2U}) {
    LoopBackResult result = inNoise(1.4F, worst);  // 0.58
    CHECK(result.good);
    CHECK(result.sureness == Approx(0.58).margin(0.03));
    result = inNoise(2.0F, worst);  // 0.45
    CHECK_FALSE(result.good);
    CHECK_THAT(result.sentence.english(), Catch::Contains("did not come back clearly"));
  }
}

TEST_CASE("However quiet the return is, it is found; below -80 dB nothing came back") {
  const auto at = [](float gain) {
    return returned({500, 500, 500}, [gain](std::size_t, float sample) { return gain * sample; });
  };
  CHECK(at(0.0005F).good);  // the bursts peak at -12 dB
  CHECK(at(0.0005F).roundTrip == Frames{500});
  CHECK_FALSE(at(0.0003F).good);
  CHECK_THAT(at(0.0003F).sentence.english(), Catch::StartsWith("Nothing came back on input 3."));
  CHECK(at(-0.0005F).good);  // with its wires swapped too
}
