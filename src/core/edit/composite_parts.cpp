// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/composite_parts.h"

#include <array>
#include <utility>

#include "core/edit/edit_access.h"
#include "core/error.h"

namespace yewdrift {
namespace {

/// Picks with `span` replaced by `inserts`; neighbours that play the same become one.
SharedSequence<Piece> withPicks(const SharedSequence<Piece>& picks, Span span,
                                const std::vector<Piece>& inserts) {
  std::size_t first = firstPickEndingAfter(picks, span.start);
  if (first > 0 && picks[first - 1].span.end == span.start) --first;  // may merge
  std::size_t last = first;
  while (last < picks.size() && picks[last].span.start <= span.end) ++last;

  std::vector<Piece> middle;
  auto add = [&middle](Piece piece) {
    // What nobody picked is kept for the boundary that was made where it starts, and for nothing else.
    piece.picked = piece.picked || piece.lane;
    if (piece.span.empty() || (!piece.picked && !piece.split)) return;
    if (!middle.empty() && middle.back().span.end == piece.span.start && playTheSame(middle.back(), piece) &&
        middle.back().picked == piece.picked && middle.back().rough == piece.rough && !piece.split)
      middle.back().span.end = piece.span.end;
    else
      middle.push_back(std::move(piece));
  };
  for (std::size_t i = first; i < last; ++i) {
    Piece left = picks[i];
    left.span.end = std::min(left.span.end, span.start);
    add(std::move(left));
  }
  for (const Piece& insert : inserts) add(insert);
  for (std::size_t i = first; i < last; ++i) {
    Piece right = picks[i];
    if (right.span.start < span.end) right.split = false;
    right.span.start = std::max(right.span.start, span.end);
    add(std::move(right));
  }
  return picks.replaced(first, last, middle);
}

std::size_t firstSettingFrom(const SharedSequence<JoinSetting>& joins, Frames at) {
  return static_cast<std::size_t>(std::ranges::lower_bound(joins, at, {}, &JoinSetting::at) - joins.begin());
}

/// What is known of a boundary on either side of which something else plays now: only what a person set.
void forgetFound(Track& track, Frames at) {
  const JoinSetting* const there = joinSettingAt(track, at);
  if (!there || (!there->found && !there->settled)) return;
  JoinSetting setting = *there;
  setting.settled = false;
  if (std::exchange(setting.found, false)) setting.shape.reset();
  placeJoinSetting(track, setting);
}

}  // namespace

std::size_t firstPickEndingAfter(const SharedSequence<Piece>& picks, Frames at) {
  return static_cast<std::size_t>(
      std::ranges::upper_bound(picks, at, {}, [](const Piece& piece) { return piece.span.end; }) -
      picks.begin());
}

Piece playingAt(const Track& track, Frames at) {
  const std::size_t i = firstPickEndingAfter(track.composite.picks, at);
  const bool stored = i < track.composite.picks.size() && track.composite.picks[i].span.contains(at);
  if (stored && track.composite.picks[i].picked) return track.composite.picks[i];
  Piece piece = stored ? track.composite.picks[i] : Piece{};
  piece.picked = false;
  const Lane* const newest = newestLaneAt(track, at);
  if (newest)
    piece.lane = newest->number;
  else
    piece.split = false;  // a gap has no joins
  return piece;
}

bool isBoundary(const Track& track, Frames at) {
  const Piece here = playingAt(track, at);
  return (here.split && here.span.start == at) || !playTheSame(playingAt(track, at - Frames{1}), here);
}

void placePieces(Track& track, Span span, const std::vector<Piece>& pieces) {
  const auto playing = [&] {
    return std::array{playingAt(track, span.start - Frames{1}), playingAt(track, span.start),
                      playingAt(track, span.end - Frames{1}), playingAt(track, span.end)};
  };
  const auto before = playing();
  track.composite.picks = withPicks(track.composite.picks, span, pieces);
  dropStaleJoins(track, span);
  const auto after = playing();
  const auto same = [&](std::size_t i) { return playTheSame(before[i], after[i]); };
  if (!same(0) || !same(1)) forgetFound(track, span.start);
  if (!same(2) || !same(3)) forgetFound(track, span.end);
}

void requireSpan(Span span) {
  if (span.empty()) throw Error("That span is empty: its end must lie after its start.");
  if (span.end > maximumPosition || span.start < -maximumPosition)
    throw Error("That span lies outside the session.");
}

void dropStaleJoins(Track& track, Span span) {
  const auto& joins = track.composite.joins;
  const std::size_t from =
      firstSettingFrom(joins, isBoundary(track, span.start) ? span.start + Frames{1} : span.start);
  const std::size_t to =
      firstSettingFrom(joins, isBoundary(track, span.end) ? span.end : span.end + Frames{1});
  if (from < to) track.composite.joins = joins.replaced(from, to, {});
}

const JoinSetting* joinSettingAt(const Track& track, Frames at) {
  const auto& joins = track.composite.joins;
  const std::size_t index = firstSettingFrom(joins, at);
  return index < joins.size() && joins[index].at == at ? &joins[index] : nullptr;
}

void placeJoinSetting(Track& track, const JoinSetting& setting) {
  const auto& joins = track.composite.joins;
  const std::size_t index = firstSettingFrom(joins, setting.at);
  const bool there = index < joins.size() && joins[index].at == setting.at;
  const bool says = setting.shape || setting.settled || !setting.unknown.empty();
  std::vector<JoinSetting> inserted;
  if (says) inserted.push_back(setting);
  track.composite.joins = joins.replaced(index, index + (there ? 1 : 0), inserted);
}

}  // namespace yewdrift
