// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/score.h"

#include <algorithm>
#include <array>
#include <tuple>

namespace yewdrift::demo {
namespace {

struct ScoreNote {
  double beat;    // from the song's start
  double length;  // beats
  int key;
};

/// A minor waltz for the ferry: four bars, answered by four, twice varied, and home; a breath after each.
const std::vector<ScoreNote>& melody() {
  static const std::vector<ScoreNote> notes = [] {
    const std::array<std::vector<std::pair<int, double>>, 20> bars{{
        {{69, 2}, {72, 1}},
        {{71, 1}, {69, 1}, {67, 1}},
        {{64, 2}, {67, 1}},
        {{69, 2}},
        {{72, 1.5}, {74, .5}, {76, 1}},
        {{74, 2}, {72, 1}},
        {{71, 1}, {72, 1}, {71, 1}},
        {{69, 1.75}},
        {{76, 2}, {77, 1}},
        {{76, 1}, {74, 1}, {72, 1}},
        {{74, 1.5}, {76, .5}, {74, 1}},
        {{71, 1.75}},
        {{69, 1}, {71, 1}, {72, 1}},
        {{76, 1.5}, {74, .5}, {72, 1}},
        {{71, 1}, {68, 1}, {71, 1}},
        {{69, 1.75}},
        {{64, 1}, {69, 1}, {71, 1}},
        {{72, 2}, {71, 1}},
        {{69, 1}, {68, 1}, {64, 1}},
        {{57, 5}},
    }};
    std::vector<ScoreNote> made;
    double beat = 3 * 4;  // four bars of introduction
    for (const auto& bar : bars) {
      double at = beat;
      for (const auto& [key, length] : bar) {
        made.push_back({at, length, key});
        at += length;
      }
      beat += 3;
    }
    return made;
  }();
  return notes;
}

/// Roots of the chords, a bar each; true where minor.
constexpr std::array<std::pair<int, bool>, songBars> chords{
    {{45, true},  {41, false}, {43, false}, {40, false}, {45, true},  {43, false}, {48, false}, {45, true},
     {41, false}, {43, false}, {40, false}, {45, true},  {48, false}, {43, false}, {50, true},  {40, false},
     {45, true},  {41, false}, {40, false}, {45, true},  {45, true},  {41, false}, {40, false}, {45, true}}};

double drift(std::mt19937& random, double amount) {
  return std::normal_distribution<double>(0.0, amount)(random);
}

}  // namespace

std::vector<ViolaTake> violaTakes() {
  return {
      {11, 0.012, 0.19, {}, {}, {}, false, 84},                         // enters late at bar 9
      {12, 0.010, 0.0, {{21, -1}}, {}, {}, false, 90},                  // a wrong note
      {13, 0.014, 0.0, {}, {{16, -38.0}, {24, -30.0}}, {}, false, 86},  // flat
      {14, 0.011, 0.0, {}, {}, {18.4, 31.2}, false, 92},                // knocks the stand
      {15, 0.016, 0.06, {{30, 2}}, {}, {}, true, 82},                   // the one good ending
      {16, 0.009, 0.0, {{9, 1}}, {{35, -26.0}}, {}, false, 94},         // bold, slips early and late
  };
}

std::vector<ViolaTake> violaPerformances() {
  return {
      {21, 0.013, 0.0, {{18, -2}}, {}, {}, false, 88},
      {22, 0.010, 0.14, {}, {}, {}, false, 86},
      {23, 0.011, 0.0, {}, {{19, -34.0}}, {}, true, 90},
      {24, 0.009, 0.0, {}, {}, {16.8}, false, 92},
      {25, 0.012, 0.0, {}, {}, {}, true, 89},
      {26, 0.015, 0.05, {{22, 1}}, {}, {}, false, 84},
  };
}

std::vector<Note> violaNotes(const ViolaTake& take) {
  std::mt19937 random(take.seed);
  std::vector<Note> notes;
  const auto& score = melody();
  for (std::size_t i = 0; i < score.size(); ++i) {
    Note note;
    note.start = score[i].beat * beatSeconds + drift(random, take.looseness);
    note.length = score[i].length * beatSeconds * 0.94;
    note.key = score[i].key;
    note.velocity = std::clamp(take.velocity + static_cast<int>(drift(random, 5.0)), 40, 120);
    note.cents = drift(random, 4.0);
    const int index = static_cast<int>(i);
    for (const auto& [which, semitones] : take.wrong)
      if (which == index) note.key += semitones;
    for (const auto& [which, cents] : take.flat)
      if (which == index) note.cents = cents;
    if (score[i].beat == 8.0 * 3.0) note.start += take.lateEntry;  // the first note of bar 9
    if (i + 1 == score.size() && !take.goodEnding) {
      note.length *= 0.45;  // the bow runs out
      note.cents -= 18.0;
    }
    notes.push_back(note);
  }
  return notes;
}

Stereo playBacking() {
  std::vector<Note> harp;
  std::vector<Note> bass;
  std::vector<Note> strings;
  std::mt19937 random(7);
  for (int bar = 0; bar < songBars; ++bar) {
    const auto [root, minor] = chords[static_cast<std::size_t>(bar)];
    const double start = bar * 3 * beatSeconds;
    const int third = minor ? 3 : 4;
    const std::array<int, 6> figure{12, 19, 24 + third, 31, 24 + third, 19};
    for (std::size_t i = 0; i < figure.size(); ++i)
      harp.push_back({start + static_cast<double>(i) * beatSeconds / 2 + std::abs(drift(random, 0.004)),
                      beatSeconds * 1.4, root + figure[i], 62 + static_cast<int>(drift(random, 4.0)), 0});
    bass.push_back({start, beatSeconds * 2.6, root - (root > 44 ? 12 : 0), 88, 0});
    if (bar >= 2)
      for (const int interval : {12 + third, 19, 24})
        strings.push_back({start, beatSeconds * 2.95, root + interval, 44, 0});
  }
  Stereo mix = playInstrument(46, harp, songSeconds, 0.5);
  for (const auto& [program, notes, gain] : {std::tuple{32, bass, 0.9F}, std::tuple{48, strings, 0.55F}}) {
    const Stereo part = playInstrument(program, notes, songSeconds, 0.4);
    addAt(mix.left, part.left, 0.0, gain);
    addAt(mix.right, part.right, 0.0, gain);
  }
  normalise({&mix.left, &mix.right}, 0.5F);
  return mix;
}

Stereo playCelesta() {
  std::vector<Note> notes;
  for (int bar = 0; bar < songBars; bar += 2) {
    const auto [root, minor] = chords[static_cast<std::size_t>(bar)];
    const double start = (bar * 3 + 1) * beatSeconds;
    notes.push_back({start, beatSeconds, root + 36, 60, 0});
    notes.push_back({start + beatSeconds, beatSeconds, root + 36 + (minor ? 3 : 4), 56, 0});
    notes.push_back({start + 1.5 * beatSeconds, beatSeconds, root + 43, 58, 0});
  }
  Stereo played = playInstrument(8, notes, songSeconds, 0.6);
  normalise({&played.left, &played.right}, 0.45F);
  return played;
}

double drumSeconds(int take) {
  const std::array<int, 3> bars{songBars, 16, 11};
  return take >= 1 && take <= 3 ? bars[static_cast<std::size_t>(take - 1)] * 3 * beatSeconds + 1.0
                                : songSeconds;
}

std::vector<Stroke> drumStrokes(int take) {
  std::mt19937 random(static_cast<std::uint32_t>(100 + take));
  std::vector<Stroke> strokes;
  const double end = drumSeconds(take) - 1.0;
  for (int bar = 0; bar < songBars; ++bar) {
    const double start = bar * 3 * beatSeconds;
    const bool fill = bar % 4 == 3;
    const std::vector<std::pair<double, int>> figure =
        fill ? std::vector<std::pair<double, int>>{{0, 0},    {1, 1},   {1.5, 2}, {2, 1},
                                                   {2.25, 2}, {2.5, 1}, {2.75, 2}}
             : std::vector<std::pair<double, int>>{{0, 0}, {1, 2}, {1.5, 1}, {2, 1}, {2.5, 2}};
    for (const auto& [beat, kind] : figure) {
      Stroke stroke{start + beat * beatSeconds + drift(random, take == 2 ? 0.016 : 0.007), kind,
                    0.8 + drift(random, 0.08)};
      if (take == 1 && bar == 13 && beat > 1.0) continue;  // dropped a stroke or two
      stroke.start = std::max(stroke.start, 0.0);
      if (stroke.start < end) strokes.push_back(stroke);
    }
  }
  return strokes;
}

std::vector<SpokenLine> narration(int take) {
  const std::array<const char*, 4> lines{
      "Every night, when the river goes quiet, a single lantern crosses.",
      "Nobody has seen the ferryman's face, only his shadow on the reeds.",
      "He takes no coin. He asks for a story, and the story must be true.",
      "And tonight, for the first time, the lantern is coming towards us."};
  std::mt19937 random(static_cast<std::uint32_t>(300 + take));
  std::vector<SpokenLine> spoken;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    SpokenLine line;
    line.start = (static_cast<double>(i) * 6.0 + 0.4) * 3 * beatSeconds + drift(random, 0.12);
    line.text = lines[i];
    if (take == 2 && i == 1)
      line.text = "Nobody has seen the ferryman's, the ferryman's face, only his shadow on the reeds.";
    if (take == 3 && i == 2)
      line.text = "He takes no coin. He asks for a story, and, sorry, the story must be true.";
    line.wordsPerMinute = 128 + take * 6 + static_cast<int>(drift(random, 5.0));
    line.pitch = 30 + take * 3 + static_cast<int>(drift(random, 2.0));
    line.level = take == 4 && i == 3 ? 0.32F : 0.6F;
    spoken.push_back(line);
  }
  return spoken;
}

}  // namespace yewdrift::demo
