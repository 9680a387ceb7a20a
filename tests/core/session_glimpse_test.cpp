// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

#include "core/store/session_glimpse.h"

namespace {

const std::atomic<bool> goesOn{false};

/// Two takes of viola, half a second each at 0.5 and 0.25, the first picked over the first half; a backing
/// track that begins later; one take set aside.
fs::path makeSeen(const TemporaryFolder& temporary) {
  const fs::path path = temporary / "seen";
  // One side of zero is louder than the other.
  Samples up(24000, 0.5F);
  Samples down(24000, -0.25F);
  for (std::size_t i = 0; i < up.size(); i += 2) {
    up[i] = -0.125F;
    down[i] = 0.125F;
  }
  SessionFolder folder = sessionWithLanes(path, {up, down, Samples(24000, 0.9F)}, SampleFormat::Float32);
  Session session = folder.session();
  session.name = "The river";
  const TrackId viola = session.tracks.front()->id;
  session = setLaneAside(std::move(session), viola, LaneNumber{3}, true);
  session = pick(std::move(session), viola, Span{{0}, {12000}}, LaneNumber{1});
  session = addTrack(std::move(session), "Harp", std::vector<Microphone>{Microphone{}}, true);
  const PoolFile file = session.pool->front();
  const TrackId harp = session.trackNamed("Harp")->id;
  session = addFileAsLane(std::move(session), harp, file, Frames{12000}, "harp");
  folder.commit("Make", std::move(session));
  return path;
}

std::map<std::string, std::string> everythingIn(const fs::path& folder) {
  std::map<std::string, std::string> files;
  for (const auto& each : fs::recursive_directory_iterator(folder))
    if (each.is_regular_file()) files[each.path().string()] = content(each.path());
  return files;
}

}  // namespace

TEST_CASE("A glimpse tells what a session holds and what each track plays, and leaves everything as it is") {
  const TemporaryFolder temporary;
  const fs::path path = makeSeen(temporary);
  const auto before = everythingIn(path);
  const SessionGlimpse seen = glimpse(path, 12, 6, goesOn);
  CHECK(everythingIn(path) == before);
  CHECK(seen.name == "The river");
  CHECK(seen.seconds == 0.75);
  CHECK(seen.tracks == 2);
  CHECK(seen.takes == 2);
  REQUIRE(seen.rows.size() == 2);
  // Nothing was measured yet: what plays where is known, how loud is not.
  for (std::size_t i = 0; i < 12; ++i) {
    const GlimpseColumn viola = i < 4   ? GlimpseColumn{GlimpseColumn::unmeasured, 1}
                                : i < 8 ? GlimpseColumn{GlimpseColumn::unmeasured, 2}
                                        : GlimpseColumn{};
    const GlimpseColumn harp =
        i < 4 ? GlimpseColumn{} : GlimpseColumn{GlimpseColumn::unmeasured, GlimpseColumn::backing};
    INFO(i);
    CHECK(seen.rows[0][i] == viola);
    CHECK(seen.rows[1][i] == harp);
  }
}

TEST_CASE("A glimpse shows levels that were measured before, of both signs, and only so many tracks") {
  const TemporaryFolder temporary;
  const fs::path path = makeSeen(temporary);
  {
    const SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Write);
    for (const PoolFile& file : *folder.session().pool) {
      CHECK(cachedPeaks(folder.disk(), file).empty());
      const auto peaks = loadPeaks(folder.disk(), file, goesOn);
      const auto cached = cachedPeaks(folder.disk(), file);
      REQUIRE(cached.size() == peaks.size());
      CHECK(cached.front().levels() == peaks.front().levels());
    }
    // Also while it is open, and to be written to.
    const SessionGlimpse seen = glimpse(path, 12, 1, goesOn);
    REQUIRE(seen.rows.size() == 1);
    CHECK(seen.tracks == 2);
    CHECK(seen.rows[0][1] == GlimpseColumn{0.5F, 1});
    CHECK(seen.rows[0][6] == GlimpseColumn{0.25F, 2});
    CHECK(seen.rows[0][10] == GlimpseColumn{});
  }
  // What is shorter than there are columns fills them all.
  const fs::path brief = temporary / "brief";
  (void)sessionWithLanes(brief, {Samples(5, 0.5F)});
  CHECK(glimpse(brief, 12, 1, goesOn).rows.front() ==
        std::vector<GlimpseColumn>(12, GlimpseColumn{GlimpseColumn::unmeasured, 1}));
  std::atomic<bool> cancelled{true};
  CHECK(glimpse(path, 12, 6, cancelled).rows.front() == std::vector<GlimpseColumn>(12));
}
