// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/engine_tests.h"

namespace {

float greatestStep(const Samples& samples) {
  float greatest = 0.0F;
  for (std::size_t i = 1; i < samples.size(); ++i)
    greatest = std::max(greatest, std::abs(samples[i] - samples[i - 1]));
  return greatest;
}

}  // namespace

TEST_CASE("While nobody takes them plans do not pile up: the newest takes the place of the others") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(48000, 1)});
  Engine engine({48000}, 256, Engine::Service::ByHand);
  FileCorrelationMeter meter(folder.disk());
  Compiler compiler(meter);
  meter.setFiles(*folder.session().pool);
  std::vector<std::weak_ptr<const PlaybackPlan>> given;
  for (int i = 0; i < 5000; ++i) {
    auto plan = std::make_shared<PlaybackPlan>(*compiler.compile(folder.session(), {}));
    given.emplace_back(plan);
    engine.setPlan(folder.disk(), std::move(plan));
  }
  CHECK(std::count_if(given.begin(), given.end(), [](const auto& plan) { return !plan.expired(); }) == 1);
  CHECK_FALSE(given.back().expired());
  // Orders are refused with a sentence rather than kept for ever.
  const auto order = [&] {
    for (int i = 0; i < 2000; ++i) engine.stop();
  };
  CHECK_THROWS_WITH(order(), Catch::Contains("does not answer"));
  // Whoever stands in for the device takes them all.
  engine.deviceClosed();
  CHECK_NOTHROW(engine.stop());
}

TEST_CASE("Switching the lane that is heard while it plays makes no click and is heard within a block") {
  const TemporaryFolder temporary;
  // Two tones of the same pitch in opposite phase: a hard switch would jump by a whole amplitude.
  const Samples a = sine(200000, 220.0, 48000.0, 0.5F);
  const Samples b = sine(200000, 220.0, 48000.0, 0.5F, M_PI);
  SessionFolder folder = sessionWithLanes(temporary / "s", {a, b});
  const TrackId id = folder.session().tracks.front()->id;
  const float natural = greatestStep(a) * static_cast<float>(std::sqrt(0.5));
  Rig rig(folder, 64);
  rig.engine.play({{}, std::nullopt, 0, std::nullopt, {}});
  rig.engine.settle();
  Samples heard = rig.play(9600);
  CHECK(heard[5000] == Approx(b[5000] * std::sqrt(0.5)).margin(1e-5));
  for (int lane = 1; lane <= 2; ++lane) {
    rig.setPlan(folder.session(), {{HeardLanes{id, {{lane}}}}, {}});
    const Samples next = rig.play(9600);
    CHECK(std::abs(next[900] - (lane == 1 ? a : b)[heard.size() + 900] * std::sqrt(0.5)) < 1e-5);
    heard.insert(heard.end(), next.begin(), next.end());
  }
  CHECK(greatestStep(heard) < natural * 1.25F);
  CHECK(rig.engine.state().underruns == 0);
}

TEST_CASE("Dropouts are counted and meters show the loudest sample") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {Samples(100000, 0.5F)});
  SimulatedInterface interface;
  interface.dropoutEveryBlocks = 4;
  interface.parts = {{0, {}, {{{Samples(50000, 0.25F)}}}, false, {}}};
  Rig rig(folder, 128, interface);
  rig.engine.play({{}, std::nullopt, 0, std::nullopt, {}});
  rig.engine.settle();
  rig.play(128 * 16);
  CHECK(rig.engine.state().dropouts == 4);
  CHECK(rig.engine.takeOutputPeak(0) == Approx(0.5 * std::sqrt(0.5)));
  CHECK(rig.engine.takeOutputPeak(0) == 0.0F);
  CHECK(rig.engine.takeInputPeak(0) == Approx(0.25));
}
