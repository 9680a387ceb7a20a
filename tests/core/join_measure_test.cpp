// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/join_measure.h"

#include <catch2/catch.hpp>
#include <cmath>

#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/joins/join_sides.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/join_close_up.h"
#include "core/plan/pitched_files.h"
#include "core/signal/correlation.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

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

TEST_CASE("Of a close-up only what is another is read again; a curve alone reads nothing") {
  struct Counting : SampleSource {
    explicit Counting(FileSampleSource& from) : source(from) {}
    bool read(int file, int channel, Frames at, int count, float* out) noexcept override {
      files.push_back(file);
      return source.read(file, channel, at, count, out);
    }
    FileSampleSource& source;
    std::vector<int> files;
  };
  const TemporaryFolder temporary;
  const std::vector<Samples> lanes{noise(20000, 1), noise(20000, 2), noise(20000, 3)};
  const SessionFolder folder = sessionWithLanes(temporary / "s", lanes);
  const TrackId id = folder.session().tracks.front()->id;
  const Session first = pick(folder.session(), id, {{0}, {10000}}, LaneNumber{1});
  FileSampleSource files(folder.disk(), *first.pool);
  Counting source(files);
  const Span span{{9500}, {10500}};
  const auto seen = [&](const Session& session, Span over, const JoinCloseUp* before) {
    source.files.clear();
    return closeUp(session, *session.track(id), {10000}, over, source, before);
  };
  const JoinCloseUp before = seen(first, span, nullptr);
  CHECK(source.files.size() == 2);
  CHECK(before.measure.step == std::abs(static_cast<double>(lanes[0][10000]) - lanes[2][10000]));

  const Session shaped = setJoin(first, id, {10000}, {{200}, {50}, Curve::EqualGain, 0.3});
  const JoinCloseUp curve = seen(shaped, span, &before);
  CHECK(source.files.empty());
  CHECK(curve.outgoing.samples == before.outgoing.samples);
  CHECK(curve.incoming.samples == before.incoming.samples);
  CHECK(curve.join.shape.before == Frames{200});
  CHECK(curve.measure.correlation == seen(shaped, span, nullptr).measure.correlation);

  // Another take on one side, another stretch, a slip: what they show is read.
  const Session other = pick(first, id, {{0}, {10000}}, LaneNumber{2});
  const JoinCloseUp another = seen(other, span, &before);
  CHECK(source.files.size() == 1);
  CHECK(another.incoming.samples == before.incoming.samples);
  CHECK(*another.outgoing.samples == Samples(lanes[1].begin() + 9500, lanes[1].begin() + 10500));
  const JoinCloseUp wider = seen(first, {{9000}, {11000}}, &before);
  CHECK(source.files.size() == 2);
  CHECK(*wider.outgoing.samples == Samples(lanes[0].begin() + 9000, lanes[0].begin() + 11000));
  const Session slipped = changePiece(first, id, {5000}, {.slip = Frames{77}});
  const JoinCloseUp moved = seen(slipped, span, &before);
  CHECK(source.files.size() == 1);
  CHECK(*moved.outgoing.samples == Samples(lanes[0].begin() + 9423, lanes[0].begin() + 10423));
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

TEST_CASE("Pieces at other pitches are heard one after the other as each by itself") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(
      temporary / "s", {sine(12000, 440.0, 48000.0, 0.5F), sine(12000, 300.0, 48000.0, 0.5F)});
  const Track& track = *folder.session().tracks.front();
  PieceListener listener(folder.disk());
  std::vector<SideSamples> heard;
  for (const auto& [lane, cents] : {std::pair{1, 100.0}, {2, -200.0}, {1, -50.0}, {1, 0.0}, {1, 100.0}}) {
    Piece piece;
    piece.span = {{0}, {12000}};
    piece.lane = LaneNumber{lane};
    piece.pitch = {cents};
    const PoolFile& file = (*folder.session().pool)[static_cast<std::size_t>(lane - 1)];
    if (cents != 0.0) REQUIRE(PitchedFiles::make(folder.disk(), {48000}, {file, {cents}}));
    heard.push_back(listener.hear(folder.session(), track, piece, {{3000}, {9000}}));
    CHECK(heard.back() ==
          PieceListener(folder.disk()).hear(folder.session(), track, piece, {{3000}, {9000}}));
    const float loudest = *std::max_element(heard.back().front().begin(), heard.back().front().end());
    CHECK(loudest == Approx(0.5F).margin(0.05));
  }
  CHECK(heard[0] == heard[4]);
  CHECK(heard[0] != heard[3]);
}
