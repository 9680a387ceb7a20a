// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>

namespace yewdrift {

/// Moves a file to the desktop's trash, from where it can be restored: the person's own where it is on the
/// same disk, else the one at the top of its disk (freedesktop.org Trash specification 1.0). Returns where it
/// is now. Throws Error, and leaves the file, where there is no trash for it.
std::filesystem::path moveToTrash(const std::filesystem::path& file);

}  // namespace yewdrift
