// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "demo/instruments.h"

namespace yewdrift::demo {

inline constexpr double songTempo = 96.0;
inline constexpr int songBars = 24;
inline constexpr double beatSeconds = 60.0 / songTempo;
inline constexpr double songSeconds = songBars * 3 * beatSeconds + 2.0;

/// How one run through the viola's melody went: what was off, by the number of the note.
struct ViolaTake {
  std::uint32_t seed = 1;
  double looseness = 0.012;                  // seconds, how far notes stray in time
  double lateEntry = 0.0;                    // seconds, the first note of bar 9
  std::vector<std::pair<int, int>> wrong;    // note, semitones off
  std::vector<std::pair<int, double>> flat;  // note, cents
  std::vector<double> knocks;                // seconds
  bool goodEnding = false;
  int velocity = 88;
};
std::vector<ViolaTake> violaTakes();
std::vector<ViolaTake> violaPerformances();
std::vector<Note> violaNotes(const ViolaTake& take);

Stereo playBacking();
Stereo playCelesta();

std::vector<Stroke> drumStrokes(int take);
double drumSeconds(int take);

struct SpokenLine {
  double start = 0.0;
  std::string text;
  int wordsPerMinute = 140;
  int pitch = 35;
  float level = 0.6F;
};
std::vector<SpokenLine> narration(int take);

}  // namespace yewdrift::demo
