// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/edit/history.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// The history of a session of format version 1: byte offsets in session.json point at lines of history.log,
/// whose deltas go from one whole document to another. `document`: all of session.json; `now`: its session.
/// What cannot be read, and what lies so far back that reading it would take long, is left out; `complete` is
/// false then.
struct CarriedHistory {
  History history;
  bool complete = true;
};
CarriedHistory historyOfVersion1(const SessionDisk& disk, const nlohmann::json& document, const Session& now);

}  // namespace yewdrift
