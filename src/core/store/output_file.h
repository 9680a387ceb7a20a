// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "core/store/session_disk.h"

namespace yewdrift {

/// A file that a person asked for, at the place they named: it takes that place at once when all of it is
/// there, or leaves what was there. It never lands in a session, except in its folder "exports".
class OutputFile {
 public:
  enum class Existing { Replaced, Refused };

  /// Throws Error where the place is in the session, is no regular file, or cannot be written to; and, where
  /// that is refused, where something is there already, also if it came there meanwhile.
  OutputFile(const SessionDisk& session, const std::filesystem::path& place,
             Existing existing = Existing::Replaced);
  ~OutputFile();
  OutputFile(const OutputFile&) = delete;
  OutputFile& operator=(const OutputFile&) = delete;

  /// To be written through; may be taken once.
  [[nodiscard]] OpenFile take() { return std::move(file_); }
  /// Waits until the disk has it and puts it in its place. Throws Error where it cannot.
  void keep();
  /// Fills it with another file first.
  void keepCopyOf(const OpenFile& file);

 private:
  void takePlace();

  Existing existing_;
  std::filesystem::path place_;
  std::filesystem::path working_;  // empty once it is kept
  OpenFile file_;
};

}  // namespace yewdrift
