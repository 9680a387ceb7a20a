// SPDX-License-Identifier: GPL-3.0-or-later
//
// Positions, lengths and rolls of any kind as they were when they were judged (by the plain models of the
// other tests): on a coarse grid, where they meet. See recorded_numbers.h.

#include "core/error.h"
#include "core/recorded_numbers.h"
#include "core/time/musical_length.h"
#include "core/time/position_text.h"
#include "core/time/roll_timeline.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// A frame on the grid, or beside it.
Frames frameBy(Chance& chance, int cells) {
  const std::int64_t on = 1000 * static_cast<std::int64_t>(chance.below(cells) - cells / 5);
  return Frames{on + (chance.below(4) == 0 ? chance.below(3) - 1 : 0)};
}

TempoMap mapOf(Chance& chance) {
  std::vector<TempoChange> changes;
  int bar = 1;
  for (int i = 1 + chance.below(4); i > 0; --i) {
    const double tempo =
        std::array{60.0, 120.0, 240.0, 90.0, 133.0}[static_cast<std::size_t>(chance.below(5))];
    const int beats = 1 + chance.below(7);
    changes.push_back({bar, tempo, {beats, 1 << chance.below(5)}});
    bar += 1 + chance.below(3);
  }
  return TempoMap(changes);
}

void addPositions(Digest& digest, Chance& chance) {
  const SampleRate rate{chance.below(2) == 0 ? 48000 : 44100};
  const TempoMap tempo = mapOf(chance);
  const Ruler ruler{rate, tempo};
  for (int i = 0; i < 60; ++i) {
    const Frames at = frameBy(chance, 900);
    const MusicalPosition position = tempo.positionOf(at, rate);
    digest.add(static_cast<std::int64_t>(position.bar));
    digest.add(position.beat);
    digest.add(tempo.frameOf(position, rate));
    const int offset = chance.below(7) - 3;
    digest.add(tempo.barStart(at, rate, offset));
    digest.add(tempo.nearestBeat(at, rate));
    digest.add(tempo.nearestBar(at, rate));
    digest.add(tempo.nearestDivision(at, 2 + chance.below(5), rate));
    const double bars = 0.25 * (chance.below(33) - 16);
    digest.add(tempo.shiftedByBars(at, bars, rate));
    digest.add(tempo.lengthOfBars(std::abs(bars), at, rate));
    const TempoMap::Beat beat = tempo.beatFrom(at, rate);
    digest.add(beat.at);
    digest.add(static_cast<std::int64_t>(beat.first));
    digest.add(barBeatText(at, ruler));
    digest.add(clockText(at, rate));
    const MusicalLength length{std::abs(bars), chance.below(2) == 0 ? LengthUnit::Bars : LengthUnit::Seconds};
    digest.add(positionBefore(at, length, ruler));
    digest.add(positionBehind(at, length, ruler));
  }
}

void addTexts(Digest& digest, Chance& chance) {
  const Ruler ruler{{48000}, mapOf(chance)};
  const auto tried = [&digest](const auto& read) {
    try {
      digest.add(read());
    } catch (const Error& error) {
      digest.add(error.what());
    }
  };
  constexpr std::string_view letters = "0123456789.|-+fsmbar/ e";
  const std::vector<std::string> sound{"480f",
                                       "2.5s",
                                       "5|1",
                                       "3|2.5",
                                       "10ms",
                                       "-10ms",
                                       "2bars",
                                       "1bar",
                                       "0|1",
                                       "480f..960f",
                                       "1|1..5|3.25",
                                       "3/4",
                                       "9007199254740992f",
                                       "1e3s",
                                       "1|1|1"};
  for (int i = 0; i < 120; ++i) {
    std::string text = sound[static_cast<std::size_t>(chance.below(static_cast<int>(sound.size())))];
    for (int changes = chance.below(3); changes > 0; --changes) {
      const auto at = static_cast<std::size_t>(chance.below(static_cast<int>(text.size()) + 1));
      const char letter = letters[static_cast<std::size_t>(chance.below(static_cast<int>(letters.size())))];
      if (chance.below(2) == 0)
        text.insert(at, 1, letter);
      else if (at < text.size())
        text[at] = letter;
    }
    const Frames from = frameBy(chance, 900);
    tried([&] { return parsePosition(text, ruler); });
    tried([&] { return parseSpan(text, ruler); });
    tried([&] { return parseDuration(text, ruler, from); });
    tried([&] { return parseSignedDuration(text, ruler, from); });
    tried([&] {
      const Meter meter = parseMeter(text);
      return static_cast<std::int64_t>(meter.beats * 100 + meter.unit);
    });
  }
}

void addRolls(Digest& digest, Chance& chance) {
  RollTimeline timeline;
  timeline.start = frameBy(chance, 40);
  const int kind = chance.below(3);
  const auto some = [&](int cells) { return Frames{1000 * static_cast<std::int64_t>(chance.below(cells))}; };
  if (kind == 0) {
    const Frames end = timeline.start + Frames{1000} + some(20);
    timeline.loop = Span{end - Frames{1000} - some(20), end};
    timeline.passes = chance.below(4);
  } else if (kind == 1) {
    timeline.stopAt = timeline.start + some(30);
  }
  timeline.postRoll = some(6);
  timeline.countIn = some(3);
  const auto total = timeline.totalLength();
  digest.add(total ? *total : Frames{-1});
  for (int i = 0; i < 60; ++i) {
    const Frames at{std::max<std::int64_t>(0, frameBy(chance, 120).count)};
    const RollTimeline::Run run = timeline.runAt(at);
    digest.add(run.position);
    digest.add(run.length);
    digest.add(static_cast<std::int64_t>(run.round * 4 + run.jumped * 2 + run.counting));
    if (timeline.loop) digest.add(timeline.roundStart(1 + chance.below(4)));
    if (i % 6 == 0)
      for (const RollTimeline::Pass& pass : timeline.passesWithin(at)) {
        digest.add(pass.session);
        digest.add(pass.rollStart);
      }
    const RollTimeline later = goingOnFrom(timeline, frameBy(chance, 60));
    digest.add(later.start);
    digest.add(later.countIn);
  }
}

}  // namespace

TEST_CASE("Positions, texts and rolls are what they were when they were judged") {
  Numbers now;
  for (unsigned scene = 1; scene <= 100; scene += nextScene()) {
    Chance chance(scene);
    Digest positions, texts, rolls;
    addPositions(positions, chance);
    addTexts(texts, chance);
    addRolls(rolls, chance);
    const std::string name = "time " + std::to_string(scene);
    now[name + " positions"] = positions.folded();
    now[name + " texts"] = texts.folded();
    now[name + " rolls"] = rolls.folded();
  }
  checkRecorded("time", now);
}
