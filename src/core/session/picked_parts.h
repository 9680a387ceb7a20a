// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// Who chose what a piece of a resolved composite plays. A piece can be more than one pick and what lies
/// between them, where all of it plays the same take in the same way.
enum class ChosenBy { Nobody, InPart, Ratings, Person };

/// The stretches of `piece` that were picked, by a person or by the ratings: in order, those that touch as
/// one. O(log picks + those within the piece).
std::vector<Span> pickedParts(const Track& track, const Piece& piece);

/// InPart where some of it was picked and the rest merely is the newest take.
ChosenBy chosenBy(const Track& track, const Piece& piece);

}  // namespace yewdrift
