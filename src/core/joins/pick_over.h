// SPDX-License-Identifier: GPL-3.0-or-later
//
// Picking: the one function behind the key, the drag, the table, the menu and the tool.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/analysis/take_analysis.h"
#include "core/edit/edit.h"
#include "core/sentence.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift {

/// What a take is picked over.
struct PickOver {
  enum class Kind {
    Span,       // a selection, a drag, or the loop
    Phrase,     // its cell; no word at its edges loses its end
    Piece,      // a piece of the composite, and nothing else of it
    Punch,      // a punch span
    WholeTake,  // all that is audible of the take; `span` is not looked at
  };
  Kind kind = Kind::Span;
  Span span;               // session frames
  std::size_t phrase = 0;  // with Kind::Phrase: its index among the track's phrases
  bool operator==(const PickOver&) const = default;
};

/// The piece that the composite plays at `at`. Throws Error where it plays nothing there.
PickOver pieceOver(const Session& session, TrackId track, Frames at);
/// The punch span of that number, counted from 1; an open end lies where the take's material ends. Throws
/// Error where there is no such punch span.
PickOver punchOver(const Session& session, int number);
/// The phrase of that index. Throws Error where there is none.
PickOver phraseOver(std::span<const Phrase> phrases, std::size_t index);

struct PickRequest {
  TrackId track;
  PickOver over;
  std::optional<LaneNumber> lane;  // none: silence
  PickReach reach = PickReach::Audible;
  bool blind = false;  // the person does not know which take it is; each phrase that is picked keeps that
};

/// The session with the pick in it, and what there is to say of it.
struct Picked {
  Session session;
  std::vector<Span> spans;        // that play the take now, in order
  std::vector<Sentence> notices;  // what stayed as it was and why, what was replaced, where edges went
};

/// Picks what is audible of the take (or its handles too, where the request says so) inside what is asked
/// for, and changes nothing else. Where the take has nothing the composite keeps what it plays, and a notice
/// says so; a notice also names each decision of a person that the pick replaces, unless it is the very one
/// that was in hand. `phrases` are the track's, in order; `find` knows what was measured of its takes. Throws
/// Error with a sentence where nothing can be picked; then nothing has changed.
Picked pickOver(const Session& session, const PickRequest& request, std::span<const Phrase> phrases,
                const FindAnalysis& find);

}  // namespace yewdrift
