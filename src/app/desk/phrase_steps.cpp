// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/phrase_steps.h"

#include <algorithm>
#include <cmath>

namespace yewdrift::app {
namespace {

/// The index of the phrase that is in hand by a frame of it.
std::size_t indexAt(std::span<const Phrase> phrases, Frames at) {
  return static_cast<std::size_t>(phraseAt(phrases, at) - phrases.data());
}

}  // namespace

std::optional<std::size_t> steppedPhrase(std::span<const Phrase> phrases, std::optional<Frames> inHand,
                                         Frames position, int direction) {
  if (phrases.empty()) return std::nullopt;
  const std::size_t last = phrases.size() - 1;
  if (inHand) {
    const std::size_t now = indexAt(phrases, *inHand);
    return direction > 0 ? std::min(last, now + 1) : now - std::min<std::size_t>(now, 1);
  }
  const std::size_t here = indexAt(phrases, position);
  if (phrases[here].cell.contains(position)) return here;
  // Between two, the one that lies in that direction.
  if (direction > 0 && phrases[here].cell.end <= position) return std::min(last, here + 1);
  if (direction < 0 && phrases[here].cell.start > position) return here - std::min<std::size_t>(here, 1);
  return here;
}

std::optional<std::size_t> nextUndecided(const Track& track, std::span<const Phrase> phrases,
                                         std::optional<Frames> inHand, Frames position) {
  if (phrases.empty()) return std::nullopt;
  const std::size_t from = indexAt(phrases, inHand.value_or(position));
  for (std::size_t step = inHand ? 1 : 0; step <= phrases.size(); ++step)
    if (const std::size_t index = (from + step) % phrases.size(); !isDecided(track, phrases[index]))
      return index;
  return std::nullopt;
}

std::size_t decidedCount(const Track& track, std::span<const Phrase> phrases) {
  return static_cast<std::size_t>(std::count_if(phrases.begin(), phrases.end(),
                                                [&](const Phrase& each) { return isDecided(track, each); }));
}

std::optional<Span> steppedSpan(StepBy by, const Ruler& ruler, Span from, int direction) {
  if (by == StepBy::Selection) {
    const Frames start = from.start + from.length() * direction;
    return start < Frames{} || from.empty() ? std::nullopt
                                            : std::optional(Span{start, start + from.length()});
  }
  // On the grid, however the stretch before lay.
  const MusicalPosition position = ruler.tempo.positionOf(from.start, ruler.rate);
  const auto frameOf = [&](int steps) {
    if (by == StepBy::Bar) return ruler.tempo.barStart(from.start, ruler.rate, steps);
    int bar = position.bar;
    int beat = static_cast<int>(std::floor(position.beat + 0.01)) + steps;  // a frame is rounded
    while (beat < 1 && bar > 1) beat += ruler.tempo.changeAt(--bar).meter.beats;
    while (beat > ruler.tempo.changeAt(bar).meter.beats) beat -= ruler.tempo.changeAt(bar++).meter.beats;
    return ruler.tempo.frameOf({bar, static_cast<double>(beat)}, ruler.rate);
  };
  const Span next{frameOf(direction), frameOf(direction + 1)};
  return next.empty() || next.start < Frames{} ? std::nullopt : std::optional(next);
}

}  // namespace yewdrift::app
