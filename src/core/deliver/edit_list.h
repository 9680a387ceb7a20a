// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/session/session.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// What the composite of every track plays, down to the sample: from which file and frame, to which frame,
/// with which gain and crossfade (docs/edit-list.md). With the takes it is enough to rebuild them. Takes at
/// another pitch have to be made already.
std::string editListAsJson(const SessionDisk& disk, const Session& session);
/// The same for people to read: pieces and joins, a line each.
std::string editListAsText(const Session& session);

}  // namespace yewdrift
