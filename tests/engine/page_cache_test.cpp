// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/page_cache.h"

#include "engine/engine_tests.h"

#include "core/engine/sample_ring.h"

TEST_CASE("Read anywhere at random, it is the samples of the pages at hand, silence around, and says which") {
  std::mt19937 random(5);
  const auto below = [&random](std::int64_t most) { return static_cast<std::int64_t>(random() % most); };
  constexpr std::int64_t page = CachedFile::pageFrames;
  const TemporaryFolder temporary;
  const auto length = 5 * page + 777;
  const std::vector<Samples> signal{noise(static_cast<std::size_t>(length), 1),
                                    noise(static_cast<std::size_t>(length), 2)};
  writeWave(temporary / "a.wav", signal);
  for (int round = 0; round < 30; ++round) {
    CachedFile file(SessionDisk(temporary.path()), {"a.wav", 2, {length}});
    std::set<std::int64_t> there;
    bool looked = false;
    for (int step = 0; step < 40; ++step) {
      if (below(6) == 0) {
        const std::int64_t from = below(length + page) - page / 2;
        const std::int64_t to = from + below(2 * page) - 50;
        file.want({from}, {to}, 1);
        if (std::max<std::int64_t>(from, 0) < to && from < length) {
          looked = true;
          for (std::int64_t at = std::max<std::int64_t>(from, 0) / page; at * page < std::min(to, length);
               ++at)
            there.insert(at);
        }
      }
      const std::int64_t from = below(length + 3 * page) - page;
      const auto count = static_cast<int>(1 + below(2 * page));
      const auto channel = static_cast<int>(below(2));
      Samples out(static_cast<std::size_t>(count) + 1, 9.0F);
      bool whole = true;
      Samples wanted(out.size(), 0.0F);
      wanted.back() = 9.0F;
      for (std::int64_t i = 0; i < count; ++i) {
        const std::int64_t frame = from + i;
        if (frame < 0 || (looked && frame >= length)) continue;
        const bool known = there.count(frame / page) > 0;
        whole = whole && known;
        if (known)
          wanted[static_cast<std::size_t>(i)] =
              signal[static_cast<std::size_t>(channel)][static_cast<std::size_t>(frame)];
      }
      REQUIRE(file.read(channel, {from}, count, out.data()) == whole);
      REQUIRE(out == wanted);
    }
  }
}

TEST_CASE("However many takes are in hand, few files are open, and every take is heard") {
  const TemporaryFolder temporary;
  std::vector<Samples> takes;
  for (int i = 0; i < 150; ++i) takes.emplace_back(20000, 0.001F * static_cast<float>(i + 1));
  SessionFolder folder = sessionWithLanes(temporary / "s", takes);
  const auto openFiles = [] {
    return std::distance(fs::directory_iterator("/proc/self/fd"), fs::directory_iterator());
  };
  rlimit before{};
  REQUIRE(getrlimit(RLIMIT_NOFILE, &before) == 0);
  rlimit few = before;
  few.rlim_cur = 64;
  REQUIRE(setrlimit(RLIMIT_NOFILE, &few) == 0);
  {
    const auto atFirst = openFiles();
    Rig rig(folder, 256);
    CHECK(openFiles() - atFirst <= 16);
    const TrackId id = folder.session().tracks.front()->id;
    for (const int lane : {1, 75, 150}) {
      rig.setPlan(folder.session(), {{HeardLanes{id, {{lane}}}}, {}});
      rig.engine.play({{1000}, std::nullopt, 0, std::nullopt, {}});
      rig.engine.settle();
      const Samples heard = rig.play(4096);
      // A constant, panned to the middle; the change of plan is over by then.
      CHECK(heard[3000] == Approx(0.001F * static_cast<float>(lane) * std::sqrt(0.5F)).epsilon(1e-4));
      rig.engine.stop();
      rig.play(1024);
    }
    CHECK(openFiles() - atFirst <= 16);
  }
  REQUIRE(setrlimit(RLIMIT_NOFILE, &before) == 0);
}
