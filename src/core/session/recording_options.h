// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/session/level.h"
#include "core/session/unknown.h"
#include "core/time/musical_length.h"

namespace yewdrift {

/// What a pass does to what was there; no choice destroys audio.
enum class PassResult { NewLane, Replace, Overdub };

enum class Snap { Off, Bar, Beat, Division, PhraseEdge, ZeroCrossing };

struct ClickOptions {
  bool recording = false;  // sounds in rolls that record
  bool playing = false;    // and in those that only play
  bool accent = true;      // on the first beat of a bar
  Decibels level{-12.0};
  bool operator==(const ClickOptions&) const = default;
};

/// How this session records: remembered with it, and not a matter of undo.
struct RecordingOptions {
  MusicalLength preRoll{1.0, LengthUnit::Bars};
  MusicalLength postRoll{0.0, LengthUnit::Bars};
  int countInBars = 0;  // 0..16
  bool loop = true;     // go round the loop span, where there is one
  bool punch = true;    // record in the punch spans only, where there are any
  int passes = 0;       // times round the loop; 0: until stopped
  PassResult result = PassResult::NewLane;
  bool hush = true;            // earlier takes of the track are silent where it is recorded
  bool safeReview = true;      // automatic punch stands down after a pass: playing then only plays
  bool playBack = false;       // every second time round plays the pass before instead of recording
  bool setAside = true;        // empty last passes and false starts are set aside
  double backUpSeconds = 3.0;  // how far "back up and pick up" goes back, 0..60
  double leadSeconds = 3.0;    // and how much it plays before it records, 0..60
  double airBars = 1.0;        // lead-in and tail that "give the loop air" adds, 0.25..64
  ClickOptions click;
  bool grid = true;  // bars are shown; people working without a grid never see one
  Snap snap = Snap::Beat;
  int divisions = 2;  // of a beat, 2..16
  Unknown unknown = {};
  bool operator==(const RecordingOptions&) const = default;
};

/// Throws Error with a sentence where a value is out of its range.
void checkRecordingOptions(const RecordingOptions& options);

}  // namespace yewdrift
