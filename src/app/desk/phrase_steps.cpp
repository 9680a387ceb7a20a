// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/phrase_steps.h"

#include <algorithm>

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

}  // namespace yewdrift::app
