// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/tempo_map.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr int lastBar = 10'000'000;

double secondsPerBeat(const TempoChange& change) {
  return 60.0 / change.beatsPerMinute;
}
double secondsPerBar(const TempoChange& change) {
  return change.meter.beats * secondsPerBeat(change);
}

bool isNoteValue(int unit) {
  return unit == 1 || unit == 2 || unit == 4 || unit == 8 || unit == 16 || unit == 32;
}

}  // namespace

TempoMap::TempoMap(std::vector<TempoChange> changes) : changes_(std::move(changes)) {
  if (changes_.empty() || changes_.front().bar != 1) throw Error("A tempo map starts with a tempo at bar 1.");
  for (std::size_t i = 0; i < changes_.size(); ++i) {
    const TempoChange& change = changes_[i];
    if (!(change.beatsPerMinute >= 10.0 && change.beatsPerMinute <= 1000.0))
      throw Error("A tempo must lie between 10 and 1000 beats a minute.");
    if (change.meter.beats < 1 || change.meter.beats > 64 || !isNoteValue(change.meter.unit))
      throw Error("A meter has 1 to 64 beats of a whole, half, quarter, eighth, 16th or 32nd note.");
    if (change.bar > lastBar) throw Error("There are no more than 10 million bars.");
    if (i > 0 && change.bar <= changes_[i - 1].bar)
      throw Error("Tempo changes must be in order of their bars.");
    starts_.push_back(
        i == 0 ? 0.0 : starts_.back() + (change.bar - changes_[i - 1].bar) * secondsPerBar(changes_[i - 1]));
  }
}

std::size_t TempoMap::indexAt(int bar) const {
  const auto behind =
      std::ranges::upper_bound(changes_.begin() + 1, changes_.end(), bar, {}, &TempoChange::bar);
  return static_cast<std::size_t>(behind - changes_.begin()) - 1;
}

const TempoChange& TempoMap::changeAt(int bar) const {
  return changes_[indexAt(bar)];
}

double TempoMap::secondsAt(MusicalPosition at) const {
  const std::size_t i = indexAt(at.bar);
  const TempoChange& change = changes_[i];
  return starts_[i] + (at.bar - change.bar) * secondsPerBar(change) +
         (at.beat - 1.0) * secondsPerBeat(change);
}

Frames TempoMap::frameOf(MusicalPosition at, SampleRate rate) const {
  return framesFromSeconds(secondsAt(at), rate);
}

MusicalPosition TempoMap::positionOf(Frames at, SampleRate rate) const {
  const auto behind =
      std::ranges::upper_bound(starts_.begin() + 1, starts_.end(), at, {},
                               [rate](double start) { return framesFromSeconds(start, rate); });
  const auto index = static_cast<std::size_t>(behind - starts_.begin()) - 1;
  const TempoChange* change = &changes_[index];
  const double since = secondsFromFrames(at, rate) - starts_[index];
  const double beats = since / secondsPerBeat(*change);
  // The frame of a beat line is rounded, so it may lie up to half a frame before the line itself.
  const double whole = std::round(beats);
  const double tolerance = 0.51 / rate.hertz / secondsPerBeat(*change);
  const double snapped = std::abs(beats - whole) <= tolerance ? whole : beats;
  const double barIndex = std::floor(snapped / change->meter.beats);
  return {change->bar + static_cast<int>(barIndex), 1.0 + snapped - barIndex * change->meter.beats};
}

Frames TempoMap::barStart(Frames at, SampleRate rate, int offset) const {
  return frameOf({positionOf(at, rate).bar + offset, 1.0}, rate);
}

Frames TempoMap::nearestBeat(Frames at, SampleRate rate) const {
  const MusicalPosition position = positionOf(at, rate);
  const Frames before = frameOf({position.bar, std::floor(position.beat)}, rate);
  const Frames after = frameOf({position.bar, std::floor(position.beat) + 1.0}, rate);
  return at - before < after - at ? before : after;
}

Frames TempoMap::nearestBar(Frames at, SampleRate rate) const {
  const Frames before = barStart(at, rate);
  const Frames after = barStart(at, rate, 1);
  return at - before < after - at ? before : after;
}

Frames TempoMap::nearestDivision(Frames at, int parts, SampleRate rate) const {
  const MusicalPosition position = positionOf(at, rate);
  const double nearest = std::round((position.beat - 1.0) * parts) / parts;
  return frameOf({position.bar, 1.0 + nearest}, rate);
}

Frames TempoMap::shiftedByBars(Frames at, double bars, SampleRate rate) const {
  const MusicalPosition from = positionOf(at, rate);
  const double there = from.bar + (from.beat - 1.0) / changeAt(from.bar).meter.beats + bars;
  // A sum of fractions that should have met a bar line may miss it by a hair.
  const double whole = std::round(there);
  const double snapped = std::abs(there - whole) < 1e-9 ? whole : there;
  const double bar = std::floor(snapped);
  const int number = static_cast<int>(bar);
  return frameOf({number, 1.0 + (snapped - bar) * changeAt(number).meter.beats}, rate);
}

Frames TempoMap::lengthOfBars(double bars, Frames at, SampleRate rate) const {
  return framesFromSeconds(bars * secondsPerBar(changeAt(positionOf(at, rate).bar)), rate);
}

TempoMap::Beat TempoMap::beatFrom(Frames at, SampleRate rate) const noexcept {
  const MusicalPosition here = positionOf(at, rate);
  for (double beat = std::ceil(here.beat); beat <= changeAt(here.bar).meter.beats; beat += 1.0) {
    const Frames line = frameOf({here.bar, beat}, rate);
    if (line >= at) return {line, beat == 1.0};
  }
  return {frameOf({here.bar + 1, 1.0}, rate), true};
}

}  // namespace yewdrift
