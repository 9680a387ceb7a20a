// SPDX-License-Identifier: GPL-3.0-or-later
//
// Joins as an independent judge hears them (bench/seams), and what must make no difference to the search.
#include "core/core_tests.h"

#include "seams/judged_seams.h"

namespace {

constexpr SampleRate seamRate{48000};
constexpr std::size_t seamLength = 96000;

/// Notes with rests between them through several channels, each take in its own time, each channel a little
/// its own.
std::vector<Samples> playedOn(std::mt19937& random, std::size_t channels) {
  std::vector<Samples> played;
  for (std::size_t c = 0; c < channels; ++c)
    played.push_back(noise(seamLength, static_cast<unsigned>(random()), 0.001F));
  for (std::size_t at = 500 + random() % 3000; at < seamLength; at += 5000 + random() % 9000) {
    const double hertz = 150.0 * std::exp2(static_cast<double>(random() % 24) / 12.0);
    const double lasts = 3000.0 + static_cast<double>(random() % 6000);
    for (Samples& channel : played) {
      const double side = random() % 4 == 0 ? -0.3 : 0.2 + 0.05 * static_cast<double>(random() % 4);
      for (std::size_t i = at; i < seamLength; ++i) {
        const double t = static_cast<double>(i - at);
        channel[i] += static_cast<float>(side * std::min(1.0, t / 100.0) * std::exp(-t / lasts) *
                                         std::sin(6.283185307 * hertz * t / seamRate.hertz));
      }
    }
  }
  return played;
}

/// How the same takes lie in another session.
struct Way {
  std::int64_t later = 0;
  float louder = 1.0F;
  bool otherOrder = false;  // of the microphones
};

/// A composite of three takes through a stereo pair and a near microphone, with its joins at their best
/// places.
Improvement improvedDrum(unsigned seed, const Way& way) {
  std::mt19937 random(seed);
  const TemporaryFolder temporary;
  Session session;
  session.rate = seamRate;
  session.format = SampleFormat::Float32;
  std::vector<Microphone> microphones{{"pair", 0, 2, {}, {}}, {"near", 2, 1, {}, {}}};
  if (way.otherOrder) std::swap(microphones[0], microphones[1]);
  const SessionFolder folder = SessionFolder::create(temporary / "s", session);
  session = addTrack(std::move(session), "Drum", microphones);
  const TrackId id = session.tracks.front()->id;
  for (int take = 0; take < 3; ++take) {
    std::vector<Samples> played = playedOn(random, 3);
    for (Samples& channel : played)
      for (float& sample : channel) sample *= way.louder;
    if (way.otherOrder) std::rotate(played.begin(), played.begin() + 2, played.end());
    const std::string path = "audio/" + std::to_string(take) + ".wav";
    writeWave(folder.path() / path, played, seamRate.hertz, SampleFormat::Float32);
    session = addFileAsLane(std::move(session), id, {path, 3, {seamLength}}, Frames{way.later}, "");
  }
  for (std::int64_t at = 6000; at < 88000; at += 7000)
    session = pick(std::move(session), id, Span{{at}, {at + 7000}}.shifted(Frames{way.later}),
                   LaneNumber{1 + static_cast<int>(random() % 3)});
  session = changePiece(std::move(session), id, {20500 + way.later}, {Decibels{4.0}, {}, Frames{30}, {}});
  return improveJoins(folder.disk(), session, id, defaultWish(seamRate), std::nullopt);
}

/// All that need no packages; for sanitizers, to which one tells as much, the bowed string.
std::vector<bench::SeamKind> kindsToJudge(unsigned seed) {
  std::vector<bench::SeamKind> kinds = bench::makeModelSeams(seed);
  if (sanitized()) kinds = {kinds[1]};
  return kinds;
}

}  // namespace

TEST_CASE("joins: a judge who does not know the search hears cleaner joins than a careless hand makes") {
  const TemporaryFolder temporary;
  double seams = 0.0;
  double clean = 0.0;
  double naive = 0.0;
  double found = 0.0;
  for (const bench::SeamKind& kind : kindsToJudge(1)) {
    const bench::JudgedSeams judged = bench::judgeSeams(kind, temporary.path());
    for (const bench::JudgedSeam& seam : judged.seams) {
      INFO(kind.name << " at " << seam.at.count << ": " << seam.naive.total() << " -> "
                     << seam.found.total());
      CHECK_FALSE(seam.audiblyWorse());
      ++seams;
      clean += seam.asClean() ? 1.0 : 0.0;
      naive += seam.naive.total();
      found += seam.found.total();
    }
  }
  REQUIRE(seams > 30.0);
  CHECK(clean / seams > 0.94);
  CHECK(found / naive < 0.46);
}

TEST_CASE("joins: how loud, how late and in what order of microphones makes no difference to the search") {
  for (unsigned seed = 1; seed <= 3; ++seed) {
    const Improvement plain = improvedDrum(seed, {});
    REQUIRE(plain.joins.size() > 4);
    for (const Way& way : {Way{.later = 48000}, Way{.louder = 0.5F}, Way{.otherOrder = true}}) {
      INFO("seed " << seed << ", " << way.later << " later, " << way.louder << ", " << way.otherOrder);
      const Improvement other = improvedDrum(seed, way);
      REQUIRE(other.joins.size() == plain.joins.size());
      for (std::size_t i = 0; i < plain.joins.size(); ++i) {
        const JoinFinding& here = plain.joins[i].now;
        const JoinFinding& there = other.joins[i].now;
        CHECK(there.at == here.at + Frames{way.later});
        CHECK(there.shape == here.shape);
        CHECK(there.cost.total() == Approx(here.cost.total()).margin(1e-3));
      }
    }
  }
}
