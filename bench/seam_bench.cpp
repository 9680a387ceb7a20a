// SPDX-License-Identifier: GPL-3.0-or-later
//
// How clean the joins are that the search finds, against 10 ms crossfades of equal power where a careless
// hand would have put them, and against what the judge itself would have chosen. Usage:
//   yewdrift-seam-bench [--seed N] [--recordings FOLDER] [--kind NAME] [--oracle] [--each] [--speed]
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <iostream>
#include <map>
#include <string>
#include <thread>

#include "big_session.h"
#include "core/edit/edit.h"
#include "core/joins/join_finder.h"
#include "seams/judged_seams.h"

namespace {

using namespace yewdrift;
using namespace yewdrift::bench;
using demo::Signal;

constexpr SampleRate rate{demo::demoRate};
constexpr std::size_t around = 12000;  // a quarter of a second either side of a seam is judged

struct Options {
  std::uint32_t seed = 1;
  std::filesystem::path recordings;
  bool oracle = false;
  bool each = false;
  bool speed = false;  // only how quick the search is
  std::string kind;    // only that one
};

/// Two of these programs may run side by side.
std::filesystem::path ownFolder() {
  const auto folder = workFolder() / ("seams-" + std::to_string(getpid()));
  std::filesystem::create_directories(folder);
  return folder;
}

/// What the judge likes best of a grid of places and lengths.
struct Oracle {
  double badness = 1e9;
  int place = 0;  // samples from the seam
  int length = 0;
};
Oracle oracle(std::span<const float> out, std::span<const float> in, double loudest) {
  Oracle best;
  for (int place = -4800; place <= 4800; place += 480)
    for (const int length : {240, 480, 960, 1920, 4800, 9600}) {
      const Signal mixed = faded(out, in, static_cast<std::int64_t>(around) + place - length / 2, length);
      const auto centre = static_cast<std::size_t>(static_cast<std::int64_t>(around) + place);
      const double badness = judgeSeam(out, in, mixed, centre, loudest).total();
      if (badness < best.badness) best = {badness, place, length};
    }
  return best;
}

struct Tally {
  int seams = 0;
  int cleaner = 0;  // at least as clean
  int worse = 0;    // audibly
  double naive = 0.0;
  double found = 0.0;
  double best = 0.0;
  Badness naiveParts;
  Badness foundParts;
};

void add(Badness& sum, const Badness& one) {
  sum.click += one.click;
  sum.level += one.level;
  sum.change += one.change;
  sum.onsets += one.onsets;
  sum.exposure += one.exposure;
}

void print(const std::string& name, const Tally& t) {
  const double n = std::max(1, t.seams);
  std::printf("%-18s %4d  at least as clean %5.1f %%  audibly worse %2d  badness %.3f -> %.3f (%+.0f %%)",
              name.c_str(), t.seams, 100.0 * t.cleaner / n, t.worse, t.naive / n, t.found / n,
              100.0 * (t.found / std::max(t.naive, 1e-9) - 1.0));
  if (t.best > 0.0)
    std::printf("  oracle %.3f (%+.0f %%)", t.best / n, 100.0 * (t.best / std::max(t.naive, 1e-9) - 1.0));
  const auto parts = [&](const Badness& b) {
    std::printf("  [%.2f %.2f %.2f %.2f %.2f]", b.click / n, b.level / n, b.change / n, b.onsets / n,
                b.exposure / n);
  };
  parts(t.naiveParts);
  parts(t.foundParts);
  std::printf("\n");
}

/// What all of it took.
struct Clock {
  double whole = 0.0;  // seconds, to read, to analyse and to search, on all cores
  std::size_t joins = 0;
};

double secondsSince(std::chrono::steady_clock::time_point begin) {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// A join of one of the kinds, analysed.
struct Analysed {
  const SeamSession* of;
  JoinView view;
};

/// Seconds for all of them to be searched, on so many cores.
double searchTime(const std::vector<Analysed>& joins, unsigned cores) {
  const auto leaks = std::make_shared<const FadeLeaks>(rate);
  const auto begin = std::chrono::steady_clock::now();
  std::atomic<std::size_t> next{0};
  {
    std::vector<std::jthread> threads;
    for (unsigned core = 0; core < cores; ++core)
      threads.emplace_back([&] {
        JoinFinder finder(joins.front().of->folder.disk(), rate, leaks);
        for (std::size_t i = next++; i < joins.size(); i = next++) {
          const SeamSession& seams = *joins[i].of;
          (void)finder.better(seams.session, requireTrack(seams.session, seams.track), joins[i].view,
                              defaultWish(rate), 1);
        }
      });
  }
  return secondsSince(begin);
}

/// How long 200 analysed joins of the whole set take (figure: 100 ms).
void printSpeed(const std::vector<SeamKind>& kinds) {
  std::vector<SeamSession> sessions;
  sessions.reserve(kinds.size());
  std::vector<Analysed> joins;
  for (const SeamKind& kind : kinds) {
    const SeamSession& seams = sessions.emplace_back(makeSeamSession(kind, ownFolder()));
    const Track& track = requireTrack(seams.session, seams.track);
    JoinFinder finder(seams.folder.disk(), rate);
    const ResolvedComposite composite = resolve(track, rate);
    for (const Join& join : composite.joins)
      joins.push_back({&seams, finder.view(seams.session, track, composite, join, defaultWish(rate))});
  }
  for (const unsigned cores : {1U, std::thread::hardware_concurrency()}) {
    std::vector<double> times;
    for (int i = 0; i < 5; ++i)
      times.push_back(200.0e3 * searchTime(joins, cores) / static_cast<double>(joins.size()));
    std::sort(times.begin(), times.end());
    std::printf("200 analysed joins of %zu searched on %u cores: median of 5 %.0f ms, %.0f to %.0f\n",
                joins.size(), cores, times[2], times.front(), times.back());
  }
}

Tally judge(const SeamKind& kind, const Options& options, Clock& clock) {
  const JudgedSeams judged = judgeSeams(kind, ownFolder());
  const auto& [folder, session, id, length] = judged.session;
  clock.whole += judged.seconds;
  clock.joins += judged.improvement.looked;

  Tally tally;
  for (const JudgedSeam& one : judged.seams) {
    const auto& [seam, out, in, loudest, before, after] = one;
    const ImprovedJoin* changed = nullptr;
    for (const ImprovedJoin& join : judged.improvement.joins)
      if (join.was.at == seam) changed = &join;
    ++tally.seams;
    tally.naive += before.total();
    tally.found += after.total();
    add(tally.naiveParts, before);
    add(tally.foundParts, after);
    if (one.asClean()) ++tally.cleaner;
    if (one.audiblyWorse()) ++tally.worse;
    Oracle best;
    if (options.oracle) {
      best = oracle(out, in, loudest);
      tally.best += best.badness;
    }
    if (options.each && !one.asClean()) {
      std::printf("  %s at %.3f s: %.2f [%.2f %.2f %.2f %.2f %.2f] -> %.2f [%.2f %.2f %.2f %.2f %.2f]",
                  kind.name.c_str(), secondsFromFrames(seam, rate), before.total(), before.click,
                  before.level, before.change, before.onsets, before.exposure, after.total(), after.click,
                  after.level, after.change, after.onsets, after.exposure);
      if (changed)
        std::printf(
            "  by %+.1f ms, %.1f ms long; cost %.2f -> out %.2f chg %.2f dbl %.2f lost %.2f cut %.2f tog "
            "%.2f exp %.2f clk %.2f: %s",
            1000.0 * secondsFromFrames(changed->now.at - seam, rate),
            1000.0 * secondsFromFrames(changed->now.shape.before + changed->now.shape.after, rate),
            changed->before.total(), changed->now.cost.outside, changed->now.cost.change,
            changed->now.cost.doubled, changed->now.cost.lost, changed->now.cost.cut,
            changed->now.cost.together, changed->now.cost.exposed, changed->now.cost.click,
            changed->now.why.english().c_str());
      if (options.oracle) {
        JoinFinder finder(folder.disk(), rate);
        const Track& track = requireTrack(session, id);
        const ResolvedComposite composite = resolve(track, rate);
        const JoinView view =
            finder.view(session, track, composite, *composite.joinAt(seam), defaultWish(rate));
        const FadeLeaks leaks(rate);
        const double step = static_cast<double>(sceneStep(rate).count);
        FadeSteps there;
        there.length = static_cast<std::size_t>(best.length / step);
        there.from = static_cast<std::size_t>(
            std::lround(view.reach.at + best.place / step - best.length / step / 2.0));
        JoinJudge judge(leaks);
        const auto tell = [](const char* what, const JoinCost& c) {
          std::printf("; %s %.2f (out %.2f chg %.2f dbl %.2f lost %.2f cut %.2f tog %.2f exp %.2f clk %.2f)",
                      what, c.total(), c.outside, c.change, c.doubled, c.lost, c.cut, c.together, c.exposed,
                      c.click);
        };
        std::printf("  oracle %.2f by %+.1f ms, %.1f ms long", best.badness, best.place / 48.0,
                    best.length / 48.0);
        tell("was", view.cost);
        tell("costs", judge.cost(*view.scene, there));
        tell("guessed", judge.guess(*view.scene, there));
      }
      std::printf("\n");
    }
  }
  return tally;
}

}  // namespace

int main(int argc, char** argv) {
  try {
    Options options;
    for (int i = 1; i < argc; ++i) {
      const std::string word = argv[i];
      if (word == "--seed" && i + 1 < argc)
        options.seed = static_cast<std::uint32_t>(std::stoul(argv[++i]));
      else if (word == "--recordings" && i + 1 < argc)
        options.recordings = argv[++i];
      else if (word == "--kind" && i + 1 < argc)
        options.kind = argv[++i];
      else if (word == "--oracle")
        options.oracle = true;
      else if (word == "--each")
        options.each = true;
      else if (word == "--speed")
        options.speed = true;
      else
        throw std::runtime_error("There is no option " + word + ".");
    }
    const std::vector<SeamKind> kinds = makeSeams(options.seed, options.recordings);
    if (options.speed) {
      printSpeed(kinds);
      std::filesystem::remove_all(ownFolder());
      return 0;
    }
    Tally all;
    Clock clock;
    for (const SeamKind& kind : kinds) {
      if (!options.kind.empty() && options.kind != kind.name) continue;
      const Tally one = judge(kind, options, clock);
      print(kind.name, one);
      all.seams += one.seams;
      all.cleaner += one.cleaner;
      all.worse += one.worse;
      all.naive += one.naive;
      all.found += one.found;
      all.best += one.best;
      add(all.naiveParts, one.naiveParts);
      add(all.foundParts, one.foundParts);
    }
    std::filesystem::remove_all(ownFolder());
    print("all", all);
    std::printf("%zu joins read, analysed and searched in %.0f ms\n", clock.joins, 1000.0 * clock.whole);
  } catch (const std::exception& e) {
    std::cerr << "yewdrift-seam-bench: " << e.what() << "\n";
    return 1;
  }
  return 0;
}
