// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <functional>

namespace yewdrift::demo {

/// Makes the session "The Lantern Ferry", a scene of a shadow-puppet play by a river: backing, a lead viola
/// with six takes, a frame drum at three microphones, a narrator with four takes, and players who are ready
/// to record. The same every time. `tell` is told how far it has come, 0 to 1. Throws Error where the folder
/// has something in it.
void makeLanternFerry(const std::filesystem::path& folder, const std::function<void(double)>& tell = {});

}  // namespace yewdrift::demo
