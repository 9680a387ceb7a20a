// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/resolved_phrases.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

constexpr int mostBars = 8;
constexpr double mostAirSeconds = 1.0;

/// Cut at every bar where it is longer than some.
void addInBars(std::vector<Phrase>& phrases, Span found, const Ruler& ruler, bool grid) {
  const int first = ruler.tempo.positionOf(found.start, ruler.rate).bar;
  const int last = ruler.tempo.positionOf(found.end - Frames{1}, ruler.rate).bar;
  if (!grid || last - first < mostBars) {
    phrases.push_back({found});
    return;
  }
  // What is left of a bar at either end is no phrase of its own where it is short.
  const auto shortRest = [&](Frames left, int bar) {
    const Frames whole =
        ruler.tempo.frameOf({bar + 1, 1.0}, ruler.rate) - ruler.tempo.frameOf({bar, 1.0}, ruler.rate);
    return left.count * 4 < whole.count;
  };
  Frames from = found.start;
  for (int bar = first + 1; bar <= last; ++bar) {
    const Frames at = ruler.tempo.frameOf({bar, 1.0}, ruler.rate);
    if (shortRest(at - from, bar - 1) || shortRest(found.end - at, bar)) continue;
    phrases.push_back({{from, at}});
    from = at;
  }
  phrases.push_back({{from, found.end}});
}

void addCells(std::vector<Phrase>& phrases, SampleRate rate) {
  const Frames air = framesFromSeconds(mostAirSeconds, rate);
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    Span& cell = phrases[i].cell;
    const Span span = phrases[i].span;
    const Frames before = i > 0 ? Frames{(span.start - phrases[i - 1].span.end).count / 2} : air;
    const Frames behind =
        i + 1 < phrases.size()
            ? phrases[i + 1].span.start - span.end - Frames{(phrases[i + 1].span.start - span.end).count / 2}
            : air;
    cell = {span.start - std::min(air, before), span.end + std::min(air, behind)};
    if (span.start.count >= 0) cell.start = std::max(cell.start, Frames{});
  }
}

}  // namespace

std::vector<Phrase> resolvePhrases(const Track& track, std::span<const Span> found, const Ruler& ruler,
                                   bool grid) {
  std::vector<Phrase> phrases;
  auto set = track.phrases.begin();
  for (const Span each : found) {
    while (set != track.phrases.end() && set->end <= each.start) phrases.push_back({*set++, true, {}});
    if (set != track.phrases.end() && set->overlaps(each)) continue;
    addInBars(phrases, each, ruler, grid);
  }
  for (; set != track.phrases.end(); ++set) phrases.push_back({*set, true, {}});
  // One that is found may reach over several that are set.
  std::ranges::sort(phrases, {}, [](const Phrase& phrase) { return phrase.span.start; });
  addCells(phrases, ruler.rate);
  return phrases;
}

const Phrase* phraseAt(std::span<const Phrase> phrases, Frames at) {
  const auto distance = [at](const Phrase& phrase) {
    return std::max({Frames{}, phrase.cell.start - at, at - phrase.cell.end + Frames{1}});
  };
  const auto nearest = std::ranges::min_element(phrases, {}, distance);
  return nearest == phrases.end() ? nullptr : &*nearest;
}

const CellNote* cellOf(const Lane& lane, const Phrase& phrase) {
  const Frames middle = phrase.span.start + Frames{phrase.span.length().count / 2};
  const CellNote* nearest = nullptr;
  for (const CellNote& cell : lane.cells)
    if (phrase.span.contains(cell.at) &&
        (!nearest || std::abs((cell.at - middle).count) < std::abs((nearest->at - middle).count)))
      nearest = &cell;
  return nearest;
}

bool isDecided(const Track& track, const Phrase& phrase) {
  Frames reached = phrase.span.start;
  const auto& picks = track.composite.picks;
  auto pick = std::ranges::upper_bound(picks, reached, {}, [](const Piece& piece) { return piece.span.end; });
  for (; pick != picks.end() && pick->picked && !pick->rough && pick->span.start <= reached; ++pick)
    reached = pick->span.end;
  return reached >= phrase.span.end;
}

std::optional<LaneNumber> playedIn(const ResolvedComposite& composite, const Phrase& phrase) {
  std::map<std::optional<LaneNumber>, std::int64_t> frames;
  const auto first = std::ranges::upper_bound(composite.pieces, phrase.span.start, {},
                                              [](const Piece& piece) { return piece.span.end; });
  for (auto piece = first; piece != composite.pieces.end() && piece->span.start < phrase.span.end; ++piece)
    frames[piece->lane] += piece->span.intersect(phrase.span).length().count;
  const auto most = std::ranges::max_element(frames, {}, [](const auto& each) { return each.second; });
  return most == frames.end() ? std::nullopt : most->first;
}

}  // namespace yewdrift
