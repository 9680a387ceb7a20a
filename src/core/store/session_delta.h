// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/edit/history.h"
#include "core/session/session.h"

namespace yewdrift {

/// What differs between two states of a session, as docs/session-format.md describes it: what was and what
/// is, so that it leads either way. Costs what the difference does, not what the session does; pool and
/// recording options are left out.
nlohmann::json sessionDelta(const Session& before, const Session& after);

/// The session on the other side. Throws Error with a sentence where what the delta says was there is not.
/// Does not check what comes out.
Session applyDelta(const Session& from, const nlohmann::json& delta, HistoryStep::Direction direction);

}  // namespace yewdrift
