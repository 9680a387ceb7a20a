// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/store/session_folder.h"

namespace yewdrift {

/// Who needs an audio file of a session's folder: the session as it is, only what can be undone or redone, or
/// nobody.
enum class Needed { Now, ForHistory, ByNobody };

struct FileUse {
  std::string path;
  Needed needed = Needed::ByNobody;
  bool inPool = false;
};
/// Every file of the pool and every other one in audio/, the pool's first. Reads all of the history.
std::vector<FileUse> fileUses(const SessionFolder& folder);

/// Removes what a recording left that ended before its first frame: audio files of a header and nothing else
/// that the pool does not know. Only for who has the lock, and once no recording waits to be recovered.
void removeEmptyFiles(const SessionDisk& disk, const Session& session);

/// The session with every audio file that nobody needs as a lane, at its start: in a track of its own, called
/// like the file. What cannot be read is left out; `sentences` says what became of each.
struct BroughtIn {
  Session session;
  std::vector<Sentence> sentences;
  int files = 0;
};
BroughtIn bringInUnneeded(const SessionFolder& folder);

}  // namespace yewdrift
