// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where a composite plays a take as it is: found from the plan alone, and held against what the renderer
// plays.
#include "core/core_tests.h"

namespace {

Session setPieceGain(const Session& session, TrackId id, Frames at, Decibels gain) {
  PieceChange change;
  change.gain = gain;
  return changePiece(session, id, at, change);
}

Session slipPiece(const Session& session, TrackId id, Frames at, Frames slip) {
  PieceChange change;
  change.slip = slip;
  return changePiece(session, id, at, change);
}

struct Planned {
  explicit Planned(const SessionFolder& folder, const Session& session)
      : meter(folder.disk()), source(folder.disk(), *session.pool), pool(*session.pool) {
    meter.setFiles(pool);
    plan = compileTrack(session, *session.tracks.front(), meter);
  }
  std::vector<Verbatim> stretches(Span span) const { return verbatimStretches(plan, pool, span); }
  /// What plays, and what the file holds there.
  std::pair<Samples, Samples> over(const Verbatim& stretch) {
    const auto count = static_cast<std::size_t>(stretch.span.length().count);
    std::pair<Samples, Samples> both{Samples(count), Samples(count)};
    Renderer renderer(static_cast<int>(count));
    float* out[] = {both.first.data()};
    renderer.renderTrack(plan, stretch.span.start, static_cast<int>(count), source, out);
    source.read(stretch.file, 0, stretch.span.start - stretch.origin, static_cast<int>(count),
                both.second.data());
    return both;
  }
  FileCorrelationMeter meter;
  FileSampleSource source;
  std::vector<PoolFile> pool;
  TrackPlan plan;
};

constexpr std::int64_t length = 20000;

SessionFolder threeTakes(const TemporaryFolder& temporary, SampleFormat format = SampleFormat::Float32) {
  return sessionWithLanes(temporary / "s",
                          {noise(length, 1, 0.3F), noise(length, 2, 0.3F), noise(length, 3, 0.3F)}, format);
}

}  // namespace

TEST_CASE("Whatever is done to a composite, what is found verbatim is what plays, bit for bit") {
  int found = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    const TemporaryFolder temporary("/dev/shm");
    const SessionFolder folder = threeTakes(temporary);
    Session session = folder.session();
    const TrackId id = session.tracks.front()->id;
    std::mt19937 random(seed);
    const auto number = [&](int from, int to) {
      return std::uniform_int_distribution<int>(from, to)(random);
    };
    const auto place = [&] { return Frames{number(0, length - 1)}; };
    for (int step = 0; step < 12; ++step) {
      try {
        const Frames at = place();
        const Span span{at, at + Frames{number(1, 6000)}};
        const LaneNumber lane{number(1, 3)};
        switch (number(0, 7)) {
          case 0:
          case 1:
            session = pick(session, id, span, lane);
            break;
          case 2:
            session = pick(session, id, span, std::nullopt);
            break;
          case 3:
            session = setPieceGain(session, id, at, Decibels{number(0, 1) == 0 ? 0.0 : -2.5});
            break;
          case 4:
            session = slipPiece(session, id, at, Frames{number(-200, 200)});
            break;
          case 5:
            session = cutLane(session, id, lane, span);
            break;
          case 6:
            session = setLevel(session, id, lane, {{at, Decibels{-4.0}}, {at + Frames{900}, Decibels{}}});
            break;
          default:
            session = setEndFade(session, id, number(0, 1) == 0 ? CompositeEnd::Start : CompositeEnd::End,
                                 EndFade{Frames{number(1, 3000)}, Curve::EqualPower, 0.0});
        }
      } catch (const Error&) {
        continue;
      }
    }
    Planned planned(folder, session);
    const Span whole{{number(-500, 3000)}, {number(12000, length + 500)}};
    Frames last = whole.start;
    for (const Verbatim& stretch : planned.stretches(whole)) {
      INFO("seed " << seed << ", from " << stretch.span.start.count << " to " << stretch.span.end.count);
      CHECK(stretch.span.start >= last);
      CHECK(stretch.span.end <= whole.end);
      REQUIRE_FALSE(stretch.span.empty());
      last = stretch.span.end;
      const auto [played, held] = planned.over(stretch);
      CHECK(played == held);
      ++found;
    }
  }
  CHECK(found > 60);
}

TEST_CASE("What is beyond full scale is flattened to full scale where the format has no more") {
  const TemporaryFolder temporary;
  for (const SampleFormat format : {SampleFormat::Pcm16, SampleFormat::Pcm24, SampleFormat::Float32}) {
    INFO(static_cast<int>(format));
    const SessionFolder folder = sessionWithLanes(temporary / std::to_string(static_cast<int>(format)),
                                                  {noise(9000, 1, 0.9F), noise(9000, 2, 0.9F)}, format);
    const TrackId id = folder.session().tracks.front()->id;
    const Session session =
        overdub(pick(folder.session(), id, {{0}, {9000}}, LaneNumber{1}), id, {{0}, {9000}}, LaneNumber{2});
    const FlattenedFile flat = renderComposite(folder.disk(), session, id);
    const Samples live = renderTrack(folder, session, "Viola").front();
    const Samples written = readWave(folder.path() / flat.file.path).front();
    REQUIRE(written.size() == live.size());
    const float step = format == SampleFormat::Pcm16   ? 1.0F / 32768.0F
                       : format == SampleFormat::Pcm24 ? 1.0F / 8388608.0F
                                                       : 0.0F;
    int beyond = 0;
    for (std::size_t i = 0; i < live.size(); ++i) {
      const float held = format == SampleFormat::Float32 ? live[i] : std::clamp(live[i], -1.0F, 1.0F - step);
      REQUIRE(std::abs(written[i] - held) <= step / 2.0F);
      beyond += step > 0.0F && (live[i] > 1.0F - step / 2.0F || live[i] < -1.0F - step / 2.0F) ? 1 : 0;
    }
    CHECK(flat.clipped == beyond);
    CHECK((beyond > 100) == (step > 0.0F));
    std::vector<std::string> said;
    for (const Sentence& each : verifiedSentences(flat)) said.push_back(each.english());
    if (format == SampleFormat::Float32) {
      CHECK(said == std::vector<std::string>{"Read back, it is what plays live, bit for bit."});
    } else {
      REQUIRE(said.size() == 2);
      CHECK(said[0] == std::to_string(beyond) + " samples lay beyond full scale and were cut off there.");
      // The sum of what 24 bits hold needs no more of them.
      if (format == SampleFormat::Pcm24)
        CHECK(said[1] == "Read back, the rest is what plays live, bit for bit.");
      else
        CHECK_THAT(said[1], Catch::Contains("dB of full scale at most: rounding."));
    }
    CHECK(flat.difference <= static_cast<double>(step) / 2.0);
  }
}

TEST_CASE("A flattened composite is what is rendered, in every format, however much of it was copied") {
  for (const SampleFormat format : {SampleFormat::Pcm16, SampleFormat::Pcm24, SampleFormat::Float32}) {
    const TemporaryFolder temporary;
    const SessionFolder folder = threeTakes(temporary, format);
    Session session = folder.session();
    const TrackId id = session.tracks.front()->id;
    session = pick(session, id, Span{{5000}, {11000}}, LaneNumber{1});
    session = pick(session, id, Span{{11000}, {12000}}, std::nullopt);
    const FlattenedFile flat = renderComposite(folder.disk(), session, id);
    CHECK(flat.file.length == Frames{length});
    RenderRequest request;
    request.track = id;
    renderToFile(folder.disk(), session, request, temporary / "rendered.wav");
    const auto held = readWave(audioPath(folder, flat.file));
    CHECK(held == readWave(temporary / "rendered.wav"));
    CHECK(held.front()[20] != 0.0F);
    CHECK(held.front()[11500] == 0.0F);
    // A stretch that begins and ends within pieces.
    const FlattenedFile part = renderComposite(folder.disk(), session, id, {}, Span{{300}, {10500}});
    CHECK(part.origin == Frames{300});
    const auto within = readWave(audioPath(folder, part.file)).front();
    CHECK(within == Samples(held.front().begin() + 300, held.front().begin() + 10500));
  }
}
