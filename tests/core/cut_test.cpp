// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where takes are cut, nothing clicks and nothing that is audible is touched; what sounds on under a join is
// left alone.
#include "core/core_tests.h"

namespace {

constexpr std::int64_t fade = 240;  // 5 ms at 48 kHz
constexpr double pitch = 220.3;
const float ownStep = static_cast<float>(2.0 * M_PI * pitch / 48000.0 * 0.5);

Samples tone(std::size_t frames = 60000) {
  return sine(frames, pitch, 48000.0, 0.5F);
}

float greatestStep(const Samples& samples) {
  float greatest = 0.0F;
  for (std::size_t i = 1; i < samples.size(); ++i)
    greatest = std::max(greatest, std::abs(samples[i] - samples[i - 1]));
  return greatest;
}

TrackId only(const Session& session) {
  return session.tracks.front()->id;
}

Session cut(const Session& session, Span window) {
  return pullWindow(session, only(session), {1}, window);
}
Session cut(const SessionFolder& folder, Span window) {
  return cut(folder.session(), window);
}
/// Picked all along, then cut: so the piece goes on where the take is silent.
Session pickedAndCut(const SessionFolder& folder, Span picked, Span window) {
  return cut(pick(folder.session(), only(folder.session()), picked, LaneNumber{1}), window);
}

Samples rendered(const SessionFolder& folder, const Session& session, Span span) {
  return renderTrack(folder, session, "Viola", span).front();
}

}  // namespace

TEST_CASE("No cut makes a step beyond twice the material's own") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {tone()});
  const Session inPick = pickedAndCut(folder, {{0}, {20000}}, {{2055}, {8055}});
  CHECK(greatestStep(rendered(folder, inPick, {{0}, {20000}})) <= 2.0F * ownStep);
  // Two punches in one lane with nothing between: gaps in the composite.
  Session punches = folder.session();
  punches = cut(folder, {{2055}, {8055}});
  Clip later = punches.tracks.front()->lanes.front()->clips.front();
  later.window = {{20077}, {30111}};
  punches = addLane(punches, only(punches), {later});
  const Samples out = rendered(folder, punches, {{2055}, {30111}});
  CHECK(greatestStep(out) <= 2.0F * ownStep);
  CHECK(out[8055 + fade - 2055] == 0.0F);
  CHECK(out[8055 + fade - 1 - 2055] != 0.0F);
}

TEST_CASE("A composite starts and ends as it is cut, without a fade; a lane that is listened to fades") {
  const TemporaryFolder temporary;
  const Samples signal = noise(60000, 1);
  const SessionFolder folder = sessionWithLanes(temporary / "s", {signal});
  const Session session = cut(folder, {{2055}, {8055}});
  const Samples out = rendered(folder, session, {{0}, {20000}});
  CHECK(out[2054] == 0.0F);
  CHECK(std::equal(out.begin() + 2055, out.begin() + 8055, signal.begin() + 2055));
  CHECK(out[8055] == 0.0F);
  const Track& track = *session.tracks.front();
  const TrackPlan lane = compileLane(session, track, *track.lanes.front());
  REQUIRE(lane.segments.size() == 1);
  CHECK(lane.segments[0].span == Span{{2055 - fade}, {8055 + fade}});
  CHECK(lane.segments[0].fadeIn->span == Span{{2055 - fade}, {2055}});
  CHECK(lane.segments[0].fadeOut->span == Span{{8055}, {8055 + fade}});
}

TEST_CASE("The renderer's matched crossfade is power-complementary for the correlation it was given") {
  // Fink, Holters, Zölzer, DAFx 2016: a^2 + b^2 + 2*rho*a*b = 1.
  const TemporaryFolder temporary;
  for (const double rho : {0.0, 0.3, 0.7, 1.0}) {
    // Two constant lanes: the gains can be read off one after the other.
    const auto gains = [&](float left, float right) {
      const TemporaryFolder inner;
      const SessionFolder folder =
          sessionWithLanes(inner / "s", {Samples(20000, left), Samples(20000, right)});
      Session session = pick(folder.session(), only(folder.session()), {{0}, {10000}}, LaneNumber{1});
      session = setJoin(session, only(session), {10000}, {{200}, {200}, Curve::Matched});
      struct Fixed : CorrelationMeter {
        float rho = 0.0F;
        float correlation(const std::vector<ChannelSource>&, Frames, const std::vector<ChannelSource>&,
                          Frames, Span over) override {
          CHECK(over == Span{{9800}, {10200}});
          return rho;
        }
      } meter;
      meter.rho = static_cast<float>(rho);
      const TrackPlan plan = compileTrack(session, *session.tracks.front(), meter);
      struct Constant : SampleSource {
        std::array<float, 2> values{};
        bool read(int file, int, Frames, int count, float* out) noexcept override {
          std::fill_n(out, count, values[static_cast<std::size_t>(file)]);
          return true;
        }
      } source;
      source.values = {left, right};
      Renderer renderer(400);
      Samples out(400);
      float* channels[] = {out.data()};
      renderer.renderTrack(plan, {9800}, 400, source, channels);
      return out;
    };
    const Samples out = gains(1.0F, 0.0F);
    const Samples in = gains(0.0F, 1.0F);
    for (std::size_t i = 0; i < 400; ++i) {
      REQUIRE(out[i] * out[i] + in[i] * in[i] + 2.0 * rho * out[i] * in[i] == Approx(1.0).margin(1e-5));
      REQUIRE(out[i] == Approx(in[399 - i]).margin(1e-6));
    }
    CHECK(in[399] > 0.99F);
    CHECK(in[0] < 0.01F);
  }
}
