// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/session/session.h"

namespace yewdrift {

/// Nobody picked anything there, and no take has anything: the composite pauses. For core/deliver only.
inline bool isPause(const Piece& piece) {
  return !piece.lane && !piece.picked;
}

}  // namespace yewdrift
