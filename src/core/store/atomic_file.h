// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <string>

namespace yewdrift {

/// Replaces the file whole: temporary file, sync, rename, sync of the folder. Throws Error; the old file is
/// then untouched.
void writeWhole(const std::filesystem::path& path, const std::string& content);

/// Adds at the end and syncs; returns where the addition starts.
std::int64_t appendSynced(const std::filesystem::path& path, const std::string& content);

/// The whole file. Throws Error where it cannot be read or is larger than `limit` bytes.
std::string readWhole(const std::filesystem::path& path, std::uintmax_t limit);

}  // namespace yewdrift
