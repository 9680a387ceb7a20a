// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <random>
#include <string>
#include <vector>

namespace yewdrift::demo {

using Signal = std::vector<float>;  // one channel at 48 kHz
inline constexpr int demoRate = 48000;

/// A note as played: seconds, MIDI key number, 0..127, and how far it is off pitch.
struct Note {
  double start = 0.0;
  double length = 1.0;
  int key = 60;
  int velocity = 90;
  double cents = 0.0;
};

struct Stereo {
  Signal left;
  Signal right;
};

/// Plays notes on a General MIDI program of the packaged sound font. Throws Error where the font is missing.
Stereo playInstrument(int program, const std::vector<Note>& notes, double seconds, double reverb);

/// A stroke on the frame drum: 0 the deep middle, 1 the rim, 2 a finger.
struct Stroke {
  double start = 0.0;
  int kind = 0;
  double strength = 1.0;
};
/// The drum at three microphones (near, room, under): modes of a struck membrane, each with its own decay;
/// frequency ratios of a circular membrane after Fletcher and Rossing, "The Physics of Musical Instruments",
/// quoted from memory.
std::vector<Signal> playFrameDrum(const std::vector<Stroke>& strokes, double seconds, std::uint32_t seed);

/// A spoken sentence; `wordsPerMinute` about 140, `pitch` 0..99.
Signal speak(const std::string& text, int wordsPerMinute, int pitch);

/// Adds `what` into `signal` from a time on.
void addAt(Signal& signal, const Signal& what, double seconds, float gain = 1.0F);
/// Scales so that the loudest sample is `peak`.
void normalise(const std::vector<Signal*>& signals, float peak);
/// Breath, cloth and room: quiet noise, and now and then something that has no business there.
void addRoom(Signal& signal, float level, std::uint32_t seed);
void addKnock(Signal& signal, double seconds, std::uint32_t seed);

}  // namespace yewdrift::demo
