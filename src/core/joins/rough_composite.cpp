// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/rough_composite.h"

#include <algorithm>
#include <functional>
#include <limits>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/joins/phrase_gap.h"

namespace yewdrift {
namespace {

constexpr double whole = 0.9;  // of what the fullest take has of a phrase: less is a false start

/// What could play in a phrase: the pieces at its beginning and its end, which differ only where a person
/// picked several.
struct Playable {
  std::optional<Piece> head{};  // none: nothing plays
  std::optional<Piece> tail{};
};

struct Candidates {
  std::vector<Playable> choices;  // those rated alike, the newest first
  int rating = 0;
  bool stays = false;
  bool onlyOne = false;  // no other take has the phrase
};

Piece pieceOf(LaneNumber lane) {
  Piece piece;
  piece.lane = lane;
  piece.rough = true;
  return piece;
}

int ratingIn(const Lane& lane, const Phrase& phrase) {
  const CellNote* const cell = cellOf(lane, phrase);
  return cell && cell->rating > 0 ? cell->rating : lane.rating;
}

/// By how much a take is worse than the best there can be, in half stars.
int demeritOf(int rating) {
  constexpr int unrated = 5;
  return rating > 0 ? 2 * (5 - rating) : unrated;
}

Frames audibleFramesIn(const Lane& lane, Span span) {
  Frames sum;
  for (const Clip& clip : lane.clips) sum += clip.window.intersect(span).length();
  return sum;
}

Candidates chosenIn(const ResolvedComposite& composite, const Phrase& phrase) {
  Candidates stays;
  stays.stays = true;
  Playable choice;
  const auto playing = [&](Frames at) -> std::optional<Piece> {
    const Piece* const piece = composite.pieceAt(at);
    return piece && (piece->lane || piece->picked) ? std::optional(*piece) : std::nullopt;
  };
  choice.head = playing(phrase.span.start);
  choice.tail = playing(phrase.span.end - Frames{1});
  stays.choices.push_back(choice);
  return stays;
}

Candidates bestRated(const Track& track, const Phrase& phrase) {
  const auto usable = [](const Lane& lane) { return !lane.setAside && !lane.muted; };
  Frames fullest;
  for (const auto& lane : track.lanes)
    if (usable(*lane)) fullest = std::max(fullest, audibleFramesIn(*lane, phrase.span));
  Candidates best;
  if (fullest.count == 0) {
    best.choices.emplace_back();
    return best;
  }
  const double least = whole * static_cast<double>(fullest.count);
  std::vector<const Lane*> takes;
  for (const auto& lane : track.lanes)
    if (usable(*lane) && static_cast<double>(audibleFramesIn(*lane, phrase.span).count) >= least)
      takes.push_back(&*lane);
  best.onlyOne = takes.size() == 1;
  std::ranges::sort(takes, std::greater(), &Lane::number);
  int demerit = std::numeric_limits<int>::max();
  for (const Lane* lane : takes) demerit = std::min(demerit, demeritOf(ratingIn(*lane, phrase)));
  for (const Lane* lane : takes) {
    if (demeritOf(ratingIn(*lane, phrase)) != demerit) continue;
    best.rating = ratingIn(*lane, phrase);
    best.choices.push_back({pieceOf(lane->number), pieceOf(lane->number)});
  }
  return best;
}

/// From what is chosen in a phrase to what is chosen in the next one.
class Passage {
 public:
  Passage(const Track& track, SampleRate rate, const Phrase& before, const Phrase& behind,
          const Candidates& from, const Candidates& to, const FindAnalysis& find) {
    for (const Playable& choice : from.choices) from_.push_back(indexOf(choice.tail));
    for (const Playable& choice : to.choices) to_.push_back(indexOf(choice.head));
    gap_ = gapBetween(track, rate, before.span, behind.span, takes_, find);
  }

  /// None: it plays on, or there is nothing on one side.
  [[nodiscard]] std::optional<GapJoin> join(std::size_t from, std::size_t to) const {
    if (!from_[from] || !to_[to] || from_[from] == to_[to]) return std::nullopt;
    return joinIn(gap_, *from_[from], *to_[to]);
  }
  [[nodiscard]] double cost(std::size_t from, std::size_t to) const {
    const auto found = join(from, to);
    return found ? found->audibility : 0.0;
  }

 private:
  std::optional<std::size_t> indexOf(const std::optional<Piece>& piece) {
    if (!piece) return std::nullopt;
    const auto known = std::find_if(takes_.begin(), takes_.end(),
                                    [&](const Piece& each) { return playTheSame(each, *piece); });
    if (known != takes_.end()) return static_cast<std::size_t>(known - takes_.begin());
    takes_.push_back(*piece);
    return takes_.size() - 1;
  }

  std::vector<Piece> takes_;
  std::vector<std::optional<std::size_t>> from_;
  std::vector<std::optional<std::size_t>> to_;
  PhraseGap gap_;
};

Sentence nameOf(const Track& track, LaneNumber lane) {
  return Sentence::verbatim(requireLane(track, lane).name);
}

Sentence whyOf(const Track& track, const Candidates& candidates, const RoughChoice& choice, bool playsOn) {
  if (choice.stays && !choice.lane) return Sentence("You chose silence here; that stays.");
  if (choice.stays) return Sentence("You chose %1 here; that stays.", nameOf(track, *choice.lane));
  if (!choice.lane) return Sentence("No take has anything here.");
  const Sentence name = nameOf(track, *choice.lane);
  if (candidates.onlyOne) return Sentence("Only %1 has all of it.", name);
  const Count alike{static_cast<std::int64_t>(choice.alike.size())};
  if (alike.n == 1 && choice.rating > 0)
    return Sentence("%1 is rated %2, higher than any other.", name, choice.rating);
  if (alike.n == 1) return Sentence("%1 is not rated, and the others are rated lower than 3.", name);
  if (choice.rating > 0 && playsOn)
    return Sentence("%n takes are rated %1; %2 plays on without a join.", choice.rating, name, alike);
  if (choice.rating > 0)
    return Sentence("%n takes are rated %1; with %2 the joins are heard least.", choice.rating, name, alike);
  if (playsOn) return Sentence("%n takes are not rated; %1 plays on without a join.", name, alike);
  return Sentence("%n takes are not rated; with %1 the joins are heard least.", name, alike);
}

/// What becomes of the composite: each phrase from its join to the next one.
std::vector<Piece> piecesOf(const std::vector<Playable>& chosen,
                            const std::vector<std::optional<GapJoin>>& joins,
                            const std::vector<RoughChoice>& told) {
  std::vector<Piece> pieces;
  const auto add = [&](Piece piece, Frames from, Frames to) {
    piece.span = {from, to};
    piece.rough = true;
    piece.split = false;
    if (!piece.span.empty()) pieces.push_back(std::move(piece));
  };
  for (std::size_t i = 0; i < chosen.size(); ++i) {
    const Span span = told[i].span;
    const auto& into = i > 0 ? joins[i - 1] : std::nullopt;
    Frames from = span.start;
    if (into && into->bothUntil && chosen[i - 1].tail && chosen[i].head) {
      Piece both = *chosen[i - 1].tail;
      if (chosen[i].head->lane) both.overdubs.push_back(*chosen[i].head->lane);
      from = std::min(*into->bothUntil, span.end);
      add(both, span.start, from);
    }
    if (told[i].stays) {
      // What a person picked is there already; around it the same plays on.
      const Frames middle = from + Frames{(span.end - from).count / 2};
      if (chosen[i].head) add(*chosen[i].head, from, middle);
      if (chosen[i].tail) add(*chosen[i].tail, middle, span.end);
    } else if (chosen[i].head) {
      add(*chosen[i].head, from, span.end);
    }
  }
  return pieces;
}

}  // namespace

std::vector<std::size_t> leastSequence(
    std::span<const std::size_t> choices,
    const std::function<double(std::size_t step, std::size_t from, std::size_t to)>& cost) {
  if (choices.empty()) return {};
  std::vector<std::vector<std::size_t>> cameFrom(choices.size());
  std::vector<double> sums(choices.front(), 0.0);
  for (std::size_t step = 0; step + 1 < choices.size(); ++step) {
    std::vector<double> next(choices[step + 1], std::numeric_limits<double>::infinity());
    cameFrom[step + 1].resize(choices[step + 1]);
    for (std::size_t to = 0; to < next.size(); ++to)
      for (std::size_t from = 0; from < sums.size(); ++from)
        if (const double sum = sums[from] + cost(step, from, to); sum < next[to]) {
          next[to] = sum;
          cameFrom[step + 1][to] = from;
        }
    sums = std::move(next);
  }
  std::vector<std::size_t> sequence(choices.size());
  sequence.back() = static_cast<std::size_t>(std::min_element(sums.begin(), sums.end()) - sums.begin());
  for (std::size_t step = choices.size() - 1; step > 0; --step)
    sequence[step - 1] = cameFrom[step][sequence[step]];
  return sequence;
}

RoughComposite roughComposite(const Session& session, const Track& track, std::span<const Phrase> phrases,
                              const FindAnalysis& find, bool keepChosen) {
  if (phrases.empty())
    throw Error("\"%1\" has no phrases to choose takes for: nothing sounds in it yet.", track.name);
  const ResolvedComposite composite = resolve(track, session.rate);
  // A sum of ratings is least where it is least in every phrase: only those rated best can be chosen.
  std::vector<Candidates> candidates;
  std::vector<std::size_t> counts;
  for (const Phrase& phrase : phrases) {
    candidates.push_back(keepChosen && isDecided(track, phrase) ? chosenIn(composite, phrase)
                                                                : bestRated(track, phrase));
    counts.push_back(candidates.back().choices.size());
  }
  std::vector<Passage> passages;
  for (std::size_t i = 0; i + 1 < phrases.size(); ++i)
    passages.emplace_back(track, session.rate, phrases[i], phrases[i + 1], candidates[i], candidates[i + 1],
                          find);
  const auto sequence = leastSequence(
      counts, [&](std::size_t i, std::size_t from, std::size_t to) { return passages[i].cost(from, to); });

  RoughComposite rough;
  std::vector<Playable> chosen;
  std::vector<std::optional<GapJoin>> joins;
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    chosen.push_back(candidates[i].choices[sequence[i]]);
    if (i + 1 < phrases.size()) joins.push_back(passages[i].join(sequence[i], sequence[i + 1]));
  }
  const Span material = materialOf(track);
  Frames from = std::min(phrases.front().cell.start, material.start);
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    RoughChoice& told = rough.phrases.emplace_back();
    const bool last = i + 1 == phrases.size();
    const Frames middle =
        last ? std::max(phrases[i].cell.end, material.end)
             : phrases[i].span.end + Frames{(phrases[i + 1].span.start - phrases[i].span.end).count / 2};
    const Frames to = std::max(from, !last && joins[i] ? joins[i]->at : middle);
    told.span = {from, to};
    from = to;
    told.stays = candidates[i].stays;
    if (told.stays)
      told.lane = playedIn(composite, phrases[i]);
    else if (chosen[i].head)
      told.lane = chosen[i].head->lane;
    if (told.lane) told.rating = ratingIn(requireLane(track, *told.lane), phrases[i]);
    if (!told.stays)
      for (const Playable& choice : candidates[i].choices)
        if (choice.head && choice.head->lane) told.alike.push_back(*choice.head->lane);
    const bool joined = i > 0 && joins[i - 1];
    if (joined) told.audibility = joins[i - 1]->audibility;
    rough.audibility += told.audibility;
    told.why = whyOf(track, candidates[i], told, i > 0 && !joined);
  }
  rough.pieces = piecesOf(chosen, joins, rough.phrases);
  return rough;
}

}  // namespace yewdrift
