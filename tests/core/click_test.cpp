// SPDX-License-Identifier: GPL-3.0-or-later
//
// The click against a plain list of the beats that are passed, over tempo changes, count-ins and jumps, in
// blocks of any length.
#include "core/engine/click.h"

#include "core/core_tests.h"

namespace {

constexpr SampleRate clickRate{48000};
constexpr int clickLasts = 48000;

/// One knock from its first frame on: at a beat a minute nothing else sounds.
Samples knock(bool accented, Decibels level) {
  Click click(clickRate);
  Samples left(4800), right(4800);
  click.strikeBeats(TempoMap({{1, 10.0, {2, 4}}}), {.level = level}, Frames{accented ? 0 : 6 * 48000}, 1, 0);
  click.ring(4800, left.data(), right.data());
  CHECK(left == right);
  return left;
}

int crossings(const Samples& samples) {
  int count = 0;
  for (std::size_t i = 1; i < samples.size(); ++i) count += samples[i - 1] * samples[i] < 0.0F;
  return count;
}

}  // namespace

TEST_CASE("A knock is short, rises from silence, and is louder and higher on the first beat of a bar") {
  const Samples accented = knock(true, {});
  const Samples plain = knock(false, {});
  const auto loudest = [](const Samples& s) {
    return std::abs(*std::ranges::max_element(s, {}, [](float x) { return std::abs(x); }));
  };
  CHECK(loudest(accented) > loudest(plain));
  CHECK(loudest(accented) < 1.0F);
  CHECK(loudest(plain) > 0.3F);
  CHECK(crossings(accented) > crossings(plain));
  for (const Samples& each : {accented, plain}) {
    CHECK(each.front() == 0.0F);
    CHECK(std::all_of(each.begin() + 1680, each.end(), [](float x) { return x == 0.0F; }));  // 35 ms
  }
  CHECK(loudest(knock(true, {-20.0})) == Approx(0.1 * loudest(accented)));  // 20 dB are a tenth
}

TEST_CASE("The click knocks at every beat that is passed, counts in backwards, and rings out over jumps") {
  for (unsigned scene = 1; scene <= 60; ++scene) {
    INFO("scene " << scene);
    std::mt19937 random(scene);
    const auto below = [&random](int most) { return std::uniform_int_distribution(0, most - 1)(random); };
    const TempoMap tempo({{1, 60.0 + 40.0 * below(24), {1 + below(5), 4}},
                          {2 + below(3), 60.0 + 40.0 * below(24), {1 + below(5), 1 << below(4)}}});
    const ClickOptions options{.accent = below(4) > 0, .level = {-3.0 * below(5)}};
    const std::array sounds{knock(false, options.level), knock(options.accent, options.level)};
    RollTimeline timeline;
    timeline.start = Frames{below(200000)};
    timeline.countIn = Frames{below(2) * below(60000)};
    Samples expected(clickLasts + 4800), left(clickLasts), right(clickLasts);
    const auto strike = [&](std::int64_t at, bool first) {
      for (std::size_t i = 0; i < 4800; ++i)
        expected[static_cast<std::size_t>(at) + i] += sounds[first ? 1 : 0][i];
    };
    // The bar that it starts in goes on backwards through the count-in.
    const MusicalPosition start = tempo.positionOf(timeline.start, clickRate);
    const TempoChange& change = tempo.changeAt(start.bar);
    for (int beat = static_cast<int>(std::ceil(start.beat)) - 1;; --beat) {
      const double away = (start.beat - beat) * 60.0 / change.beatsPerMinute * clickRate.hertz;
      const std::int64_t at = timeline.countIn.count - std::llround(away);
      if (at < 0) break;
      if (at < clickLasts) strike(at, (beat - 1) % change.meter.beats == 0);
    }
    Click click(clickRate);
    Frames position = timeline.start;
    for (int done = 0; done < clickLasts;) {
      if (done >= timeline.countIn.count && below(20) == 0) position = Frames{below(300000)};
      const bool counting = done < timeline.countIn.count;
      const int end =
          counting ? std::min<int>(clickLasts, static_cast<int>(timeline.countIn.count)) : clickLasts;
      const int length = std::min(1 + below(700), end - done);
      if (counting) {
        click.strikeCountIn(tempo, options, timeline, Frames{done}, length, 0);
      } else {
        for (TempoMap::Beat beat = tempo.beatFrom(position, clickRate); beat.at < position + Frames{length};
             beat = tempo.beatFrom(beat.at + Frames{1}, clickRate))
          strike(done + (beat.at - position).count, beat.first);
        // As where a roll goes elsewhere within a block: what is struck then lies farther on in it.
        const int offset = below(2) * (length / 2);
        click.strikeBeats(tempo, options, position, offset, 0);
        click.strikeBeats(tempo, options, position + Frames{offset}, length - offset, offset);
        position += Frames{length};
      }
      click.ring(length, &left[static_cast<std::size_t>(done)], &right[static_cast<std::size_t>(done)]);
      done += length;
    }
    CHECK(left == right);
    for (std::size_t i = 0; i < clickLasts; ++i)
      if (std::abs(left[i] - expected[i]) > 1e-5F)
        FAIL("frame " << i << " sounds " << left[i] << " in place of " << expected[i]);
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
