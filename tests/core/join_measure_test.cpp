// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/join_measure.h"

#include "core/core_tests.h"

#include "core/joins/join_sides.h"

TEST_CASE("A join's numbers are what was put in") {
  const Samples a = sine(4800, 440.0, 48000.0, 0.5F);
  Samples half = a;
  for (float& sample : half) sample *= 0.5F;
  JoinMeasure measure = measureJoin(a, half, 2400);
  CHECK(measure.levelDifference == Approx(-6.02).margin(0.01));  // half the amplitude, common practice
  CHECK(measure.correlation == Approx(1.0).margin(1e-6));
  CHECK(measure.step == Approx(std::abs(a[2400] - half[2400])).margin(1e-6));
  Samples opposite = a;
  for (float& sample : opposite) sample = -sample;
  CHECK(measureJoin(a, opposite, 0).correlation == Approx(-1.0).margin(1e-6));
  CHECK(std::abs(measureJoin(noise(48000, 1), noise(48000, 2), 0).correlation) < 0.02);
  // Behind the end of either there is no step.
  const std::span<const float> shorter = std::span(half).first(100);
  CHECK(measureJoin(a, shorter, 99).step == Approx(std::abs(a[99] - half[99])).margin(1e-6));
  CHECK(measureJoin(a, shorter, 100).step == 0.0);
  CHECK(measureJoin(shorter, a, 100).step == 0.0);
}

TEST_CASE("The close-up shows both takes with their handles, and the curves that are played") {
  const TemporaryFolder temporary;
  const std::vector<Samples> lanes{noise(20000, 1), noise(20000, 2)};
  const SessionFolder folder = sessionWithLanes(temporary / "s", lanes);
  const TrackId id = folder.session().tracks.front()->id;
  Session session = pick(folder.session(), id, {{0}, {10000}}, LaneNumber{1});
  session = setJoin(session, id, {10000}, {{100}, {100}, Curve::EqualGain});
  FileSampleSource source(folder.disk(), *session.pool);
  const JoinCloseUp view = closeUp(session, *session.track(id), {10000}, {{9500}, {10500}}, source);
  CHECK(view.outgoing.lane == LaneNumber{1});
  CHECK(view.incoming.lane == LaneNumber{2});
  REQUIRE(view.outgoing.samples->size() == 1000);
  REQUIRE(view.incoming.samples->size() == 1000);
  const auto gainsAt = [&view](std::size_t i) {
    return view.gainsAt(view.span.start + Frames{static_cast<std::int64_t>(i)});
  };
  for (std::size_t i = 0; i < 1000; ++i) {
    REQUIRE((*view.outgoing.samples)[i] == lanes[0][9500 + i]);
    REQUIRE((*view.incoming.samples)[i] == lanes[1][9500 + i]);
    REQUIRE(gainsAt(i).in + gainsAt(i).out == Approx(1.0).margin(1e-6));
  }
  const Samples out = renderTrack(folder, session, "Viola").front();
  for (std::size_t i = 0; i < 1000; ++i)
    REQUIRE(out[9500 + i] ==
            Approx((*view.outgoing.samples)[i] * gainsAt(i).out + (*view.incoming.samples)[i] * gainsAt(i).in)
                .margin(1e-6));
}

TEST_CASE("The matched curve is drawn as it is played, for the correlation that is shown") {
  const TemporaryFolder temporary;
  for (const float alike : {0.0F, 0.4F, 0.8F}) {
    const Samples first = noise(20000, 1, 0.4F);
    Samples second = noise(20000, 2, 0.4F);
    for (std::size_t i = 0; i < second.size(); ++i)
      second[i] = alike * first[i] + std::sqrt(1.0F - alike * alike) * second[i];
    const SessionFolder folder =
        sessionWithLanes(temporary / std::to_string(alike), {first, second}, SampleFormat::Float32);
    const TrackId id = folder.session().tracks.front()->id;
    Session session = pick(folder.session(), id, {{0}, {10000}}, LaneNumber{1});
    session = setJoin(session, id, {10000}, {{700}, {900}, Curve::Matched});
    FileSampleSource source(folder.disk(), *session.pool);
    const JoinCloseUp view = closeUp(session, *session.track(id), {10000}, {{9000}, {11200}}, source);
    CHECK(view.measure.correlation == Approx(alike).margin(0.06));
    const auto r = std::max(0.0F, static_cast<float>(view.measure.correlation));
    const Samples out = renderTrack(folder, session, "Viola").front();
    for (std::size_t i = 0; i < 2200; ++i) {
      const auto [away, in] = view.gainsAt(Frames{9000 + static_cast<std::int64_t>(i)});
      // Power-complementary (Fink, Holters, Zoelzer, DAFx 2016), from the first frame to the last.
      REQUIRE(in * in + away * away + 2.0F * r * in * away == Approx(1.0).margin(1e-4));
      REQUIRE(out[9000 + i] ==
              Approx((*view.outgoing.samples)[i] * away + (*view.incoming.samples)[i] * in).margin(2e-3));
    }
    // Outside the join it is one take or the other.
    CHECK(view.gainsAt({9000}).in == 0.0F);
    CHECK(view.gainsAt({9000}).out == 1.0F);
    CHECK(view.gainsAt({11199}).in == 1.0F);
    CHECK(view.gainsAt({11199}).out == 0.0F);
    CHECK(view.gainsAt({9299}).in == 0.0F);
    CHECK(view.gainsAt({10901}).out == 0.0F);
    CHECK(view.gainsAt({10100}).in == Approx(view.gainsAt({10099}).out).margin(1e-6));
  }
}

TEST_CASE("A signal is found in another by correlation") {
  const Samples signal = noise(5000, 1);
  const Alignment found = findIn(signal, std::span(signal).subspan(1234, 800));
  CHECK(found.lag == 1234);
  CHECK(found.correlation == Approx(1.0).margin(1e-6));
}
