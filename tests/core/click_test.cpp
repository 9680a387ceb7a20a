// SPDX-License-Identifier: GPL-3.0-or-later
//
// The click as it sounded when it was judged, over tempo changes, count-ins and jumps, and the same however
// long blocks are. See recorded_numbers.h.
#include "core/engine/click.h"

#include <random>

#include "core/recorded_numbers.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr SampleRate clickRate{48000};
constexpr int clickLasts = 48000;

/// A second of it, from a place in the song on, in blocks of lengths by chance; now and then it goes
/// elsewhere.
Samples heard(unsigned scene, unsigned blocks) {
  std::mt19937 random(scene);
  const auto below = [&random](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
  TempoMap tempo({{1, 60.0 + 40.0 * below(24), {1 + below(5), 4}},
                  {2 + below(3), 60.0 + 40.0 * below(24), {1 + below(5), 1 << below(4)}}});
  ClickOptions options;
  options.accent = below(4) > 0;
  options.level = {-3.0 * below(5)};
  RollTimeline timeline;
  timeline.start = Frames{below(200000)};
  timeline.countIn = Frames{below(2) * below(60000)};
  std::vector<std::pair<int, Frames>> jumps{{clickLasts, {}}};  // last first: when, and how much farther
  for (int at = clickLasts - 1; at > 0; at -= 400 + below(4000))
    if (below(3) == 0) jumps.push_back({at, Frames{below(100000) - 20000}});
  std::mt19937 lengths(blocks);
  Click click(clickRate);
  Samples left(clickLasts), right(clickLasts);
  Frames ahead;
  for (int done = 0; done < clickLasts;) {
    if (done == jumps.back().first) {
      ahead += jumps.back().second;
      jumps.pop_back();
    }
    const int length = std::min({1 + static_cast<int>(lengths() % 700), jumps.back().first - done});
    // Half of a block further on in it, as where a roll begins within one.
    const int offset = length / 2;
    const auto strike = [&](int from, int frames, int at) {
      const Frames roll{done + from};
      if (roll + Frames{frames} <= timeline.countIn)
        click.strikeCountIn(tempo, options, timeline, roll, frames, at);
      else
        click.strikeBeats(tempo, options, timeline.start + ahead + roll, frames, at);
    };
    strike(0, offset, 0);
    strike(offset, length - offset, offset);
    click.ring(length, &left[static_cast<std::size_t>(done)], &right[static_cast<std::size_t>(done)]);
    done += length;
  }
  CHECK(left == right);
  return left;
}

}  // namespace

TEST_CASE("The click sounds as it did when it was judged") {
  Numbers now;
  for (unsigned scene = 1; scene <= 40; ++scene) {
    const Samples samples = heard(scene, scene);
    const std::string name = "click " + std::to_string(scene);
    for (int part = 0; part < 20; ++part) {
      double sum = 0.0;
      for (int i = part * clickLasts / 20; i < (part + 1) * clickLasts / 20; ++i)
        sum += std::abs(samples[static_cast<std::size_t>(i)]) * (1.0 + 0.001 * (i % 97));
      now[name + " " + std::to_string(part)] = sum;
    }
  }
  checkRecorded("clicks", now);
}

TEST_CASE("However long blocks are, the click is the same") {
  for (unsigned scene = 1; scene <= 40; ++scene) {
    INFO("scene " << scene);
    std::mt19937 random(scene);
    TempoMap tempo({{1, 100.0 + 20.0 * static_cast<double>(scene), {3, 4}}});
    const auto rung = [&](int most) {
      Click click(clickRate);
      Samples left(clickLasts), right(clickLasts);
      for (int done = 0; done < clickLasts;) {
        const int length =
            std::min(1 + static_cast<int>(random() % static_cast<unsigned>(most)), clickLasts - done);
        click.strikeBeats(tempo, {}, Frames{done}, length, 0);
        click.ring(length, &left[static_cast<std::size_t>(done)], &right[static_cast<std::size_t>(done)]);
        done += length;
      }
      return left;
    };
    CHECK(rung(3000) == rung(40));
  }
}

TEST_CASE("The cue ticks at every beat to go before a punch, and before a wrap where that is wanted") {
  // At 120 bpm a beat is 24,000 frames (common practice); in 2/4 a bar of two of them is counted.
  RecordSetup setup;
  setup.timeline.loop = Span{{24000}, {120000}};
  setup.timeline.start = setup.recordFrom = {24000};
  const TempoMap tempo({{1, 120.0, {2, 4}}});
  const auto ticks = [&](Cue cue, int block) {
    Click click(clickRate);
    Samples left(192000), right(192000);
    for (int done = 0; done < 192000; done += block) {
      const int length = std::min(block, 192000 - done);
      click.strikeCue(setup, tempo, {.cue = cue}, true, {done}, length, 0);
      click.ring(length, &left[static_cast<std::size_t>(done)], &right[static_cast<std::size_t>(done)]);
    }
    std::vector<int> begins;
    int silent = 4000;
    for (int i = 0; i < 192000; ++i) {
      const bool sounds = left[static_cast<std::size_t>(i)] != 0.0F;
      if (sounds && silent > 3000) begins.push_back(i - 1);  // a knock rises from silence in its first frame
      silent = sounds ? 0 : silent + 1;
    }
    return begins;
  };
  using Places = std::vector<int>;
  for (const int block : {64, 1000, 4096, 192000}) {
    setup.punches = {{{96000}, {108000}}};
    CHECK(ticks(Cue::Punches, block) == Places{24000, 48000, 120000, 144000});
    CHECK(ticks(Cue::Off, block).empty());
    setup.punches.clear();
    CHECK(ticks(Cue::PunchesAndWraps, block) == Places{48000, 72000, 144000, 168000});
    CHECK(ticks(Cue::Punches, block).empty());
  }
}
