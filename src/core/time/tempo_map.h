// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/time/frames.h"

namespace yewdrift {

/// A bar holds `beats` beats, each one `unit`-th of a whole note.
struct Meter {
  int beats = 4;
  int unit = 4;
  bool operator==(const Meter&) const = default;
};

/// From the start of `bar` (counted from 1) on, `beatsPerMinute` beats of the meter's unit a minute.
struct TempoChange {
  int bar = 1;
  double beatsPerMinute = 120.0;
  Meter meter;
  bool operator==(const TempoChange&) const = default;
};

/// A view of a frame as bar and beat, both counted from 1; the beat may have a fraction.
struct MusicalPosition {
  int bar = 1;
  double beat = 1.0;
  bool operator==(const MusicalPosition&) const = default;
};

/// Tempo and meter along the song. Positions are exact to half a frame: a bar line's frame is its time in
/// seconds, summed over the changes before it, rounded once.
class TempoMap {
 public:
  TempoMap() : TempoMap({TempoChange{}}) {}

  /// `changes` in order of bar, the first at bar 1. Throws Error where a tempo is not within 10..1000,
  /// a meter is not 1..64 beats of 1, 2, 4, 8, 16 or 32, or the bars do not increase.
  explicit TempoMap(std::vector<TempoChange> changes);

  [[nodiscard]] const std::vector<TempoChange>& changes() const { return changes_; }
  [[nodiscard]] const TempoChange& changeAt(int bar) const;

  [[nodiscard]] Frames frameOf(MusicalPosition at, SampleRate rate) const;
  [[nodiscard]] MusicalPosition positionOf(Frames at, SampleRate rate) const;
  /// The start of the bar that holds `at`; of the bar `offset` bars from it.
  [[nodiscard]] Frames barStart(Frames at, SampleRate rate, int offset = 0) const;
  /// The beat line nearest to `at`.
  [[nodiscard]] Frames nearestBeat(Frames at, SampleRate rate) const;
  /// The bar line nearest to `at`.
  [[nodiscard]] Frames nearestBar(Frames at, SampleRate rate) const;
  /// The line nearest to `at` where every beat is divided in `parts`.
  [[nodiscard]] Frames nearestDivision(Frames at, int parts, SampleRate rate) const;
  /// `bars` bars later (or earlier, where negative), counted along the map; a fraction is one of the bar it
  /// falls in. Before bar 1 the first tempo goes on backwards.
  [[nodiscard]] Frames shiftedByBars(Frames at, double bars, SampleRate rate) const;

  /// How long `bars` bars last in the tempo and meter that hold at `at`, whatever comes before and after.
  [[nodiscard]] Frames lengthOfBars(double bars, Frames at, SampleRate rate) const;

  struct Beat {
    Frames at;
    bool first = false;  // of its bar
    bool operator==(const Beat&) const = default;
  };
  /// The first beat line at or behind `at`. Neither allocates nor throws: the audio thread asks it.
  [[nodiscard]] Beat beatFrom(Frames at, SampleRate rate) const noexcept;

  bool operator==(const TempoMap&) const = default;

 private:
  [[nodiscard]] double secondsAt(MusicalPosition at) const;
  [[nodiscard]] std::size_t indexAt(int bar) const;

  std::vector<TempoChange> changes_;
  std::vector<double> starts_;  // of each change, in seconds
};

}  // namespace yewdrift
