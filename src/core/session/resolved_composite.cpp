// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/resolved_composite.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace yewdrift {
namespace {

/// [span) plays the newest of the lanes that have material there.
struct Coverage {
  Span span;
  LaneNumber lane;
};

/// Which of two lanes plays where nobody picked: a whole one before one that broke off, then the newer one.
struct Rank {
  bool whole = true;
  LaneNumber lane;
  auto operator<=>(const Rank&) const = default;
};
Rank rankOf(const Lane& lane) {
  return {!lane.brokenOff, lane.number};
}

/// What plays along the whole track where nobody picked, by sweeping over the edges of all audible windows.
std::vector<Coverage> newestLanes(const Track& track) {
  struct Edge {
    Frames at;
    Rank lane;
    bool opens;
  };
  std::vector<Edge> edges;
  for (const auto& lane : track.lanes) {
    if (lane->setAside) continue;
    for (const Clip& clip : lane->clips) {
      edges.push_back({clip.window.start, rankOf(*lane), true});
      edges.push_back({clip.window.end, rankOf(*lane), false});
    }
  }
  std::ranges::sort(edges, {}, &Edge::at);

  std::vector<Coverage> coverage;
  std::multiset<Rank> open;
  for (std::size_t i = 0; i < edges.size();) {
    const Frames at = edges[i].at;
    for (; i < edges.size() && edges[i].at == at; ++i) {
      if (edges[i].opens)
        open.insert(edges[i].lane);
      else
        open.erase(open.find(edges[i].lane));
    }
    if (open.empty() || i == edges.size()) continue;
    const Span span{at, edges[i].at};
    const LaneNumber plays = open.rbegin()->lane;
    if (!coverage.empty() && coverage.back().span.end == at && coverage.back().lane == plays)
      coverage.back().span.end = span.end;
    else
      coverage.push_back({span, plays});
  }
  return coverage;
}

bool isGap(const Piece& piece) {
  return !piece.picked && !piece.lane;
}

void append(std::vector<Piece>& pieces, Piece piece) {
  if (!pieces.empty() && pieces.back().span.end == piece.span.start && playTheSame(pieces.back(), piece) &&
      isGap(pieces.back()) == isGap(piece) && !piece.split) {
    pieces.back().span.end = piece.span.end;
    pieces.back().picked = pieces.back().picked && piece.picked;
    pieces.back().rough = pieces.back().rough && piece.rough;
    return;
  }
  if (!pieces.empty() && pieces.back().span.end < piece.span.start) {
    Piece gap;
    gap.span = {pieces.back().span.end, piece.span.start};
    gap.picked = false;
    pieces.push_back(std::move(gap));
  }
  pieces.push_back(std::move(piece));
}

/// What nobody picked: the newest takes. `split`: a boundary was made where it starts.
void appendUnpicked(std::vector<Piece>& pieces, const std::vector<Coverage>& coverage, Span gap,
                    bool split = false) {
  if (gap.empty()) return;
  auto it =
      std::ranges::upper_bound(coverage, gap.start, {}, [](const Coverage& each) { return each.span.end; });
  for (; it != coverage.end() && it->span.start < gap.end; ++it) {
    Piece piece;
    piece.span = it->span.intersect(gap);
    piece.lane = it->lane;
    piece.picked = false;
    piece.split = split && piece.span.start == gap.start;
    append(pieces, std::move(piece));
  }
}

/// The pieces of picks [first, last) and what lies between them; before the first and behind the last pick
/// too where those are the outermost.
std::vector<Piece> resolvePieces(const Track& track, std::size_t first, std::size_t last) {
  const auto& picks = track.composite.picks;
  const std::vector<Coverage> coverage = newestLanes(track);
  std::vector<Piece> pieces;
  Frames from = first == 0 ? -maximumPosition : picks[first].span.start;
  for (auto pick = picks.begin() + static_cast<std::ptrdiff_t>(first); first < last; ++first, ++pick) {
    appendUnpicked(pieces, coverage, {from, pick->span.start});
    if (pick->picked)
      append(pieces, *pick);
    else
      appendUnpicked(pieces, coverage, pick->span, pick->split);
    from = pick->span.end;
  }
  if (last == picks.size()) appendUnpicked(pieces, coverage, {from, maximumPosition + Frames{1}});
  return pieces;
}

/// How far the takes that fade out behind `left`, or in before `right`, have material beyond the boundary.
/// Silence, and a take that is itself silent at its edge, can fade for any length.
Frames handleAfter(const Track& track, const Piece& left, const Piece& right, Frames wanted) {
  forEachFading(left, right, [&](LaneNumber number) {
    const Lane* lane = track.lane(number);
    const Clip* clip = lane ? clipAt(*lane, left.span.end - Frames{1} - left.slip) : nullptr;
    if (clip) wanted = std::clamp(clip->extent().end + left.slip - left.span.end, Frames{0}, wanted);
  });
  return wanted;
}

Frames handleBefore(const Track& track, const Piece& left, const Piece& right, Frames wanted) {
  forEachFading(right, left, [&](LaneNumber number) {
    const Lane* lane = track.lane(number);
    const Clip* clip = lane ? clipAt(*lane, right.span.start - right.slip) : nullptr;
    if (clip) wanted = std::clamp(right.span.start - (clip->extent().start + right.slip), Frames{0}, wanted);
  });
  return wanted;
}

/// Shares a piece that is too short for both of its joins between them, in proportion.
void shareShortPiece(Frames length, Frames& after, Frames& before) {
  const Frames wanted = after + before;
  if (wanted <= length) return;
  const auto share = static_cast<long double>(after.count) / static_cast<long double>(wanted.count);
  after = Frames{static_cast<std::int64_t>(std::floor(static_cast<long double>(length.count) * share))};
  before = length - after;
}

std::vector<Join> resolveJoins(const Track& track, const std::vector<Piece>& pieces, SampleRate rate) {
  const auto& settings = track.composite.joins;
  std::vector<Join> joins;
  std::vector<std::size_t> leftPiece;
  for (std::size_t i = 0; i + 1 < pieces.size(); ++i) {
    if (!isJoin(pieces[i], pieces[i + 1])) continue;
    const Frames at = pieces[i].span.end;
    Join join{at, defaultJoin(rate), false};
    const auto setting = std::ranges::lower_bound(settings, at, {}, &JoinSetting::at);
    if (setting != settings.end() && setting->at == at) {
      join.shape = setting->shape.value_or(join.shape);
      join.set = setting->shape && !setting->found;
      join.found = setting->shape && setting->found;
      join.settled = setting->settled;
    }
    join.shape.after = handleAfter(track, pieces[i], pieces[i + 1], join.shape.after);
    join.shape.before = handleBefore(track, pieces[i], pieces[i + 1], join.shape.before);
    joins.push_back(join);
    leftPiece.push_back(i);
  }
  for (std::size_t j = 0; j < joins.size(); ++j) {
    const Piece& left = pieces[leftPiece[j]];
    if (j > 0 && leftPiece[j - 1] + 1 == leftPiece[j])
      shareShortPiece(left.span.length(), joins[j - 1].shape.after, joins[j].shape.before);
    else
      joins[j].shape.before = std::min(joins[j].shape.before, left.span.length());
    const bool lastOfRun = j + 1 == joins.size() || leftPiece[j + 1] != leftPiece[j] + 1;
    if (lastOfRun)
      joins[j].shape.after = std::min(joins[j].shape.after, pieces[leftPiece[j] + 1].span.length());
  }
  return joins;
}

}  // namespace

const Piece* ResolvedComposite::pieceAt(Frames at) const {
  const auto it = std::ranges::upper_bound(pieces, at, {}, [](const Piece& piece) { return piece.span.end; });
  return it != pieces.end() && it->span.contains(at) ? &*it : nullptr;
}

const Join* ResolvedComposite::nearestJoin(Frames at) const {
  const auto distance = [at](const Join& join) { return std::abs((join.at - at).count); };
  const auto nearest = std::ranges::min_element(joins, {}, distance);
  return nearest == joins.end() ? nullptr : &*nearest;
}

const Join* ResolvedComposite::joinAt(Frames at) const {
  const auto it = std::ranges::lower_bound(joins, at, {}, &Join::at);
  return it != joins.end() && it->at == at ? &*it : nullptr;
}

JoinShape defaultJoin(SampleRate rate) {
  const Frames length = framesFromSeconds(0.010, rate);
  const Frames before{length.count / 2};
  return {before, length - before, Curve::Matched};
}

ResolvedComposite resolve(const Track& track, SampleRate rate) {
  ResolvedComposite result;
  result.pieces = resolvePieces(track, 0, track.composite.picks.size());
  result.joins = resolveJoins(track, result.pieces, rate);
  return result;
}

std::vector<Piece> piecesAround(const Track& track, Frames at) {
  const auto& picks = track.composite.picks;
  const auto here = static_cast<std::size_t>(
      std::ranges::upper_bound(picks, at, {}, [](const Piece& piece) { return piece.span.end; }) -
      picks.begin());
  // Pieces that play the same merge, so the window grows until both pieces end inside it.
  for (std::size_t reach = 4;; reach *= 4) {
    const std::size_t first = here > reach ? here - reach : 0;
    const std::size_t last = std::min(picks.size(), here + reach);
    std::vector<Piece> pieces = resolvePieces(track, first, last);
    const bool leftWhole = first == 0 || (!pieces.empty() && pieces.front().span.end < at);
    const bool rightWhole = last == picks.size() || (!pieces.empty() && pieces.back().span.start > at);
    if (leftWhole && rightWhole) return pieces;
  }
}

bool isJoin(const Piece& left, const Piece& right) {
  return left.span.end == right.span.start && !isGap(left) && !isGap(right);
}

bool playTheSame(const Piece& a, const Piece& b) {
  return a.lane == b.lane && a.overdubs == b.overdubs && a.slip == b.slip && a.gain == b.gain &&
         a.pitch == b.pitch && a.level == b.level;
}

const Clip* clipAt(const Lane& lane, Frames at) {
  const auto it =
      std::ranges::upper_bound(lane.clips, at, {}, [](const Clip& clip) { return clip.window.end; });
  return it != lane.clips.end() && it->window.contains(at) ? &*it : nullptr;
}

const Lane* newestLaneAt(const Track& track, Frames at) {
  const Lane* newest = nullptr;
  for (const auto& lane : track.lanes)
    if (!lane->setAside && (!newest || rankOf(*newest) < rankOf(*lane)) && clipAt(*lane, at)) newest = &*lane;
  return newest;
}

}  // namespace yewdrift
