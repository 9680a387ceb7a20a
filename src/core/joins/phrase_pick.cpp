// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/phrase_pick.h"

#include <algorithm>

#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/joins/phrase_gap.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

/// Where both takes are heard, and the neighbour's.
struct Both {
  Span span;
  LaneNumber other;
};

/// Where the phrase begins, or ends, in the composite, and how far both takes are heard from there.
struct Edge {
  Frames at;
  std::optional<Both> both{};
};

class Picker {
 public:
  Picker(const Session& session, const Track& track, std::span<const Phrase> phrases, std::size_t index,
         LaneNumber lane, const FindAnalysis& find)
      : session_(session),
        track_(track),
        phrases_(phrases),
        index_(index),
        composite_(resolve(track, session.rate)),
        find_(find) {
    picked_.lane = lane;
  }

  PhrasePick pick() {
    const Phrase& phrase = phrases_[index_];
    const Edge start = edge(phrase.cell.start, true);
    const Edge end = edge(phrase.cell.end, false);
    Session next = met(cleared(session_), start.at, end.both ? end.both->span.end : end.at);
    const Frames from = start.at;
    const Frames to = end.both ? end.both->span.end : end.at;
    next = yewdrift::pick(std::move(next), track_.id, {from, std::max(from + Frames{1}, to)}, picked_.lane);
    for (const Edge& each : {start, end})
      if (each.both) next = overdub(std::move(next), track_.id, each.both->span, each.both->other);
    return {std::move(next), std::move(notices_)};
  }

 private:
  [[nodiscard]] static Frames middleOf(Span span) { return span.start + Frames{span.length().count / 2}; }

  /// Known well enough to say where its words end.
  [[nodiscard]] bool isKnown(const Piece& piece, Span around) const {
    const Lane* const lane = piece.lane ? track_.lane(*piece.lane) : nullptr;
    return lane && piece.overdubs.empty() && isAnalysed(*lane, around.shifted(-piece.slip), find_);
  }

  /// What lies before the phrase, or after it: its neighbour, else the rest of the track's material.
  [[nodiscard]] Span beside(bool before) const {
    if (before && index_ > 0) return phrases_[index_ - 1].span;
    if (!before && index_ + 1 < phrases_.size()) return phrases_[index_ + 1].span;
    const Span all = materialOf(track_);
    const Span own = phrases_[index_].span;
    return before ? Span{std::min(all.start, own.start) - Frames{1}, std::min(all.start, own.start)}
                  : Span{std::max(all.end, own.end), std::max(all.end, own.end) + Frames{1}};
  }

  /// What plays there: in the middle of the neighbouring phrase, or where there is none, right at the edge.
  [[nodiscard]] const Piece* neighbourAt(Frames cellEdge, bool before) const {
    const bool inside = before ? index_ > 0 : index_ + 1 < phrases_.size();
    return composite_.pieceAt(inside ? middleOf(beside(before)) : before ? cellEdge - Frames{1} : cellEdge);
  }

  /// Where the phrase begins (`starts`) or ends in the composite.
  Edge edge(Frames cellEdge, bool starts) {
    const Span own = phrases_[index_].span;
    const Span left = starts ? beside(true) : own;
    const Span right = starts ? own : beside(false);
    // Beyond the first and the last phrase there may be nothing: then only the take itself is looked at.
    const Piece* const found = neighbourAt(cellEdge, starts);
    const bool outermost = starts ? index_ == 0 : index_ + 1 == phrases_.size();
    const Piece* const neighbour = !found && outermost ? &picked_ : found;
    Edge edge{cellEdge};
    // Before all material and after it there is no word that the edge could cut.
    const Span all = materialOf(track_);
    if (outermost && (starts ? cellEdge <= all.start : cellEdge >= all.end)) return edge;
    if (!neighbour || (neighbour != &picked_ && playTheSame(*neighbour, picked_)) ||
        !isKnown(*neighbour, {left.start, right.end}) || !isKnown(picked_, {left.start, right.end}))
      return edge;
    const std::vector<Piece> takes =
        starts ? std::vector{*neighbour, picked_} : std::vector{picked_, *neighbour};
    const PhraseGap gap = gapBetween(track_, session_.rate, left, right, takes, find_, cellEdge);
    const Frames wordEnd = gap.takes[0].wordEnd;
    const Frames nextWord = gap.takes[1].nextWord;
    if (wordEnd <= cellEdge && cellEdge <= nextWord) return edge;
    const GapJoin join = joinIn(gap, 0, 1);
    edge.at = join.at;
    const bool plain = neighbour->slip.count == 0 && neighbour->gain.value == 0.0 &&
                       neighbour->pitch.value == 0.0 && neighbour->level.empty();
    if (join.bothUntil && plain) {
      edge.both = Both{{join.at, *join.bothUntil}, *neighbour->lane};
      notices_.push_back(Sentence(
          "%1 still sounds when %2 begins: for %3 ms both are heard, so that neither loses anything.",
          nameOf(takes[0]), nameOf(takes[1]), milliseconds(edge.both->span.length())));
    } else {
      // Without both, in the middle of what overlaps.
      if (join.bothUntil) edge.at = nextWord + Frames{(wordEnd - nextWord).count / 2};
      if (edge.at > cellEdge)
        notices_.push_back(Sentence("The boundary lies %1 ms later: there %2 has come to its end.",
                                    milliseconds(edge.at - cellEdge), nameOf(takes[0])));
      if (edge.at < cellEdge)
        notices_.push_back(Sentence("The boundary lies %1 ms earlier: there %2 has not begun yet.",
                                    milliseconds(cellEdge - edge.at), nameOf(takes[1])));
    }
    return edge;
  }

  /// Whether the neighbour's word is heard whole as far as the piece that plays it goes.
  [[nodiscard]] bool leavesWordWhole(const Piece& neighbour, bool before) const {
    const Span left = before ? beside(true) : phrases_[index_].span;
    const Span right = before ? phrases_[index_].span : beside(false);
    if (!isKnown(neighbour, {left.start, right.end})) return false;
    const Span cell = phrases_[index_].cell;
    const PhraseGap gap = gapBetween(track_, session_.rate, left, right, std::vector{neighbour, neighbour},
                                     find_, before ? cell.start : cell.end);
    return before ? gap.takes[0].wordEnd <= neighbour.span.end
                  : gap.takes[1].nextWord >= neighbour.span.start;
  }

  /// What an earlier pick of this phrase left between its new edges and its neighbours plays the neighbours:
  /// no sliver of a third take stays there.
  Session met(Session session, Frames from, Frames to) const {
    const Piece* const was = composite_.pieceAt(middleOf(phrases_[index_].span));
    const ResolvedComposite now = resolve(requireTrack(session, track_.id), session.rate);
    for (const bool before : {true, false}) {
      const bool inside = before ? index_ > 0 : index_ + 1 < phrases_.size();
      const Piece* const neighbour = inside ? now.pieceAt(middleOf(beside(before))) : nullptr;
      if (!neighbour) continue;
      const Span left = before ? Span{neighbour->span.end, from} : Span{to, neighbour->span.start};
      const Span rest = before ? Span{phrases_[index_ - 1].span.end, phrases_[index_].span.start}
                               : Span{phrases_[index_].span.end, phrases_[index_ + 1].span.start};
      // Overdubs that are left after `cleared` are none that a pick of this phrase made.
      const bool doubled = std::ranges::any_of(now.pieces, [&](const Piece& piece) {
        return !piece.overdubs.empty() && !piece.span.intersect(left).empty();
      });
      if (left.empty() || doubled) continue;
      // In the rest between them; or what this phrase played into the neighbour without cutting its word.
      const bool remains = left.intersect(rest) == left ||
                           (was && left.intersect(was->span) == left && leavesWordWhole(*neighbour, before));
      const Lane* const lane = neighbour->lane ? track_.lane(*neighbour->lane) : nullptr;
      const auto plays = [&](const Clip& clip) {
        const Span wanted = left.shifted(-neighbour->slip);
        return clip.window.start <= wanted.start && clip.window.end >= wanted.end;
      };
      if (remains && lane && std::ranges::any_of(lane->clips, plays))
        session = playOnAs(std::move(session), track_.id, left, *neighbour);
    }
    return session;
  }

  /// What an earlier pick of this phrase left of both takes at its edges plays the neighbour again. What is
  /// heard of both takes at the neighbour's other edge is of that one, and stays.
  Session cleared(Session session) const {
    const Frames longest = framesFromSeconds(longestBothSeconds, session_.rate);
    const Piece* const was = composite_.pieceAt(middleOf(phrases_[index_].span));
    const auto clear = [&](std::size_t neighbour, Span near) {
      const Piece* const plays = composite_.pieceAt(middleOf(phrases_[neighbour].span));
      if (!was || !was->lane || !plays || !plays->lane || !plays->overdubs.empty()) return;
      // Where one take plays both phrases, a second take that is heard with it is not the other phrase's.
      if (*was->lane == *plays->lane) return;
      for (const Piece& piece : composite_.pieces)
        if (piece.overdubs.size() == 1 && piece.plays(*plays->lane) && piece.plays(*was->lane) &&
            piece.span.length() <= longest && near.contains(middleOf(piece.span)))
          session = yewdrift::pick(std::move(session), track_.id, piece.span, plays->lane);
    };
    const Frames middle = middleOf(phrases_[index_].cell);
    if (index_ > 0) clear(index_ - 1, {middleOf(phrases_[index_ - 1].cell), middle});
    if (index_ + 1 < phrases_.size()) clear(index_ + 1, {middle, middleOf(phrases_[index_ + 1].cell)});
    return session;
  }

  [[nodiscard]] Decimal milliseconds(Frames frames) const {
    return {secondsFromFrames(frames, session_.rate) * 1000.0, 0};
  }
  [[nodiscard]] Sentence nameOf(const Piece& piece) const {
    return Sentence::verbatim(requireLane(track_, *piece.lane).name);
  }

  const Session& session_;
  const Track& track_;
  std::span<const Phrase> phrases_;
  std::size_t index_;
  ResolvedComposite composite_;
  const FindAnalysis& find_;
  Piece picked_;
  std::vector<Sentence> notices_;
};

}  // namespace

PhrasePick pickPhrase(const Session& session, TrackId id, std::span<const Phrase> phrases, std::size_t index,
                      LaneNumber lane, const FindAnalysis& find) {
  const Track& track = requireTrack(session, id);
  requireLane(track, lane);
  return Picker(session, track, phrases, index, lane, find).pick();
}

}  // namespace yewdrift
