// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/pick_over.h"

#include <algorithm>

#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/joins/phrase_pick.h"
#include "core/session/picked_parts.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {
namespace {

Frames lengthIn(const std::vector<Span>& spans, Span within) {
  Frames length;
  for (const Span span : spans)
    if (span.overlaps(within)) length += span.intersect(within).length();
  return length;
}

Sentence spanWords(Span span, const Ruler& ruler) {
  return Sentence("%1 to %2", Sentence::verbatim(positionText(span.start, ruler)),
                  Sentence::verbatim(positionText(span.end, ruler)));
}

/// A stretch that a person picked, and the lane it plays; none: silence.
struct Decision {
  Span span;
  std::optional<LaneNumber> lane;
};

/// The decisions of a person that a pick of `lane` over `spans` replaces.
std::vector<Decision> replacedBy(const Track& track, const std::vector<Span>& spans,
                                 std::optional<LaneNumber> lane) {
  std::vector<Decision> replaced;
  for (const Piece& piece : track.composite.picks) {
    if (!piece.picked || piece.rough || piece.lane == lane) continue;
    for (const Span span : spans)
      if (span.overlaps(piece.span)) {
        replaced.push_back({piece.span, piece.lane});
        break;
      }
  }
  return replaced;
}

/// Where a person holds one decision in hand and takes it anew, nobody needs to be told.
bool isTheOneInHand(const PickRequest& request, const std::vector<Span>& spans,
                    const std::vector<Decision>& replaced) {
  if (replaced.size() != 1) return false;
  const Span was = replaced.front().span;
  if (request.over.kind == PickOver::Kind::Span || request.over.kind == PickOver::Kind::WholeTake)
    return lengthIn(spans, was) == was.length();
  return true;
}

void sayReplaced(std::vector<Sentence>& notices, const std::vector<Decision>& replaced, const Ruler& ruler) {
  if (replaced.size() > 1) {
    addSentence(notices, "This takes the place of %n stretches that you had picked; undo brings them back.",
                Count{std::ssize(replaced)});
    return;
  }
  const Decision& one = replaced.front();
  if (one.lane)
    addSentence(notices, "This takes the place of lane %1, which you had picked at %2.", one.lane->value,
                spanWords(one.span, ruler));
  else
    addSentence(notices, "This takes the place of silence, which you had picked at %1.",
                spanWords(one.span, ruler));
}

void sayKept(std::vector<Sentence>& notices, const Track& track, const PickRequest& request, Span asked,
             const Ruler& ruler) {
  const std::vector<Span> without = spansWithout(track, *request.lane, asked, request.reach);
  if (without.empty()) return;
  const int lane = request.lane->value;
  const bool handles = request.reach == PickReach::Audible &&
                       spansWithout(track, *request.lane, asked, PickReach::Handles) != without;
  if (without.size() > 1)
    addSentence(notices,
                "Lane %1 has nothing in %n stretches of that: there the composite keeps what it plays.", lane,
                Count{std::ssize(without)});
  else
    addSentence(notices, "Lane %1 has nothing from %2: there the composite keeps what it plays.", lane,
                spanWords(without.front(), ruler));
  if (handles) addSentence(notices, "Handles of lane %1 lie there; pull the take's edge to hear them.", lane);
}

/// What is asked for, with its open ends where the take has its own.
Span askedOf(const Track& track, const PickRequest& request) {
  Span asked = request.over.span;
  if (request.over.kind == PickOver::Kind::WholeTake) asked = {-maximumPosition, maximumPosition};
  const bool openStart = asked.start == -maximumPosition;
  const bool openEnd = asked.end == maximumPosition;
  if (!openStart && !openEnd) return asked;
  if (!request.lane) throw Error("Silence needs a beginning and an end: select where it is to be.");
  const Lane& lane = requireLane(track, *request.lane);
  if (lane.clips.empty()) throw Error("Lane %1 has nothing that could be picked.", lane.number.value);
  if (openStart) asked.start = std::min(asked.end - Frames{1}, lane.clips.front().window.start);
  if (openEnd) asked.end = std::max(asked.start + Frames{1}, lane.clips.back().window.end);
  return asked;
}

}  // namespace

PickOver pieceOver(const Session& session, TrackId id, Frames at) {
  for (const Piece& piece : piecesAround(requireTrack(session, id), at))
    if (piece.span.contains(at) && (piece.lane || piece.picked)) return {PickOver::Kind::Piece, piece.span};
  throw Error("The composite plays nothing at that place.");
}

PickOver punchOver(const Session& session, int number) {
  if (number < 1 || static_cast<std::size_t>(number) > session.punches.size())
    throw Error("There is no punch span %1; this session has %2.", number, session.punches.size());
  return {PickOver::Kind::Punch, session.punches[static_cast<std::size_t>(number - 1)].span()};
}

PickOver phraseOver(std::span<const Phrase> phrases, std::size_t index) {
  if (index >= phrases.size())
    throw Error("There is no phrase %1; this track has %2.", index + 1, phrases.size());
  return {PickOver::Kind::Phrase, phrases[index].cell, index};
}

Picked pickOver(const Session& session, const PickRequest& request, std::span<const Phrase> phrases,
                const FindAnalysis& find) {
  using Kind = PickOver::Kind;
  const Track& track = requireTrack(session, request.track);
  const PickOver& over = request.over;
  const Span asked = askedOf(track, request);
  Picked result{session, {asked}, {}};
  const bool whole = over.kind == Kind::Phrase && request.lane && request.reach == PickReach::Audible;
  if (whole) {
    PhrasePick picked = pickPhrase(session, track.id, phrases, over.phrase, *request.lane, find);
    result.session = std::move(picked.session);
    result.notices = std::move(picked.notices);
  } else {
    result.session = pick(session, track.id, asked, request.lane, request.reach);
  }
  if (!request.lane) {
    if (const auto replaced = replacedBy(track, result.spans, std::nullopt);
        !replaced.empty() && !isTheOneInHand(request, result.spans, replaced))
      sayReplaced(result.notices, replaced, session.ruler());
    return result;
  }
  result.spans = spansWith(track, *request.lane, asked, request.reach);
  if (over.kind != Kind::WholeTake)
    sayKept(result.notices, track, request, whole ? phrases[over.phrase].span : asked, session.ruler());
  if (const auto replaced = replacedBy(track, result.spans, request.lane);
      !replaced.empty() && !isTheOneInHand(request, result.spans, replaced))
    sayReplaced(result.notices, replaced, session.ruler());
  if (request.blind)
    for (const Phrase& phrase : phrases)
      if (lengthIn(result.spans, phrase.span) * 2 > phrase.span.length())
        result.session = noteChosenBlind(std::move(result.session), track.id, *request.lane, phrase);
  return result;
}

}  // namespace yewdrift
