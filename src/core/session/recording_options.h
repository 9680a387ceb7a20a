// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/session/level.h"
#include "core/session/unknown.h"
#include "core/time/musical_length.h"

namespace yewdrift {

/// What a pass does to what was there; no choice destroys audio.
enum class PassResult { NewLane, Replace, Overdub };

enum class Snap { Off, Bar, Beat, Division, PhraseEdge, ZeroCrossing };

/// Before what a low tick counts the beats to go, for a player who works alone.
enum class Cue { Off, Punches, PunchesAndWraps };

struct ClickOptions {
  bool recording = false;  // sounds in rolls that record
  bool playing = false;    // and in those that only play
  bool accent = true;      // on the first beat of a bar
  Decibels level{-12.0};
  Cue cue = Cue::Off;
  bool operator==(const ClickOptions&) const = default;
};

/// How this session records: remembered with it, and not a matter of undo.
struct RecordingOptions {
  MusicalLength preRoll{1.0, LengthUnit::Bars};
  bool fillPreRoll = false;  // where the song's start cuts the pre-roll short, a count-in takes its place
  MusicalLength postRoll{0.0, LengthUnit::Bars};
  bool playOn = false;  // after the last punch-out it plays until it is stopped, in place of postRoll
  int countInBars = 0;  // 0..16
  bool loop = true;     // go round the loop span, where there is one
  bool punch = true;    // record in the punch spans only, where there are any
  int passes = 0;       // times round the loop; 0: until stopped
  PassResult result = PassResult::NewLane;
  bool hush = true;            // earlier takes of the track are silent where it is recorded
  bool safeReview = true;      // automatic punch stands down after a pass: playing then only plays
  bool playBack = false;       // every second time round plays the pass before instead of recording
  bool setAside = true;        // empty last passes and false starts are set aside
  bool keepWhole = true;       // a pass that broke off is not heard in place of a whole take
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

/// What a session that a person makes starts with: a full lead-in at the song's start too, and two bars that
/// play on after the last punch-out.
RecordingOptions optionsForPlayers();

/// Throws Error with a sentence where a value is out of its range.
void checkRecordingOptions(const RecordingOptions& options);

}  // namespace yewdrift
