// SPDX-License-Identifier: GPL-3.0-or-later
//
// Several composites of a track, side by side: one is in use, the others are kept.
#pragma once

#include <string>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// Of the one in use, which has a name as soon as it is asked for; and of all, that one first.
std::string compositeName(const Track& track);
std::vector<std::string> compositeNames(const Track& track);
/// Throws Error where there is none of that name.
const Composite& compositeNamed(const Track& track, const std::string& name);

/// A copy of the one in use is kept under that name. Throws where it is taken.
Session keepComposite(Session session, TrackId track, const std::string& name);
/// That one is in use; the one that was is kept under its own name.
Session useComposite(Session session, TrackId track, const std::string& name);
/// Throws where it is the one in use.
Session removeComposite(Session session, TrackId track, const std::string& name);
Session renameComposite(Session session, TrackId track, const std::string& name, const std::string& to);

/// The composite plays what the rough composite chose: pieces in order, not overlapping. `keepChosen`: what a
/// person picked stays, to the frame. Where a take has nothing the composite keeps what it plays.
Session playRough(Session session, TrackId track, const std::vector<Piece>& pieces, bool keepChosen = true);

/// Where two composites of the track play something else; in order, not touching.
std::vector<Span> differencesBetween(const Track& track, const Composite& a, const Composite& b,
                                     SampleRate rate);

}  // namespace yewdrift
