// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <sys/resource.h>

#include <algorithm>
#include <cstddef>
#include <list>
#include <mutex>

namespace yewdrift {

class CachedFile;

/// Files that are open for reading, the one used last in front. A session may have more takes than a process
/// may have open files, and some of those have to be left for recording.
class OpenReaders {
 public:
  explicit OpenReaders(std::size_t most) : most_(std::max<std::size_t>(1, most)) {}
  /// A share of what this process may open, and no more than are of use.
  static std::size_t sensible() {
    rlimit limit{};
    return getrlimit(RLIMIT_NOFILE, &limit) == 0 ? std::min<std::size_t>(64, limit.rlim_cur / 4) : 16;
  }

  /// As many as the system lets this process open, where it was given fewer. At the start of a program.
  static void raiseLimit() {
    rlimit limit{};
    if (getrlimit(RLIMIT_NOFILE, &limit) != 0) return;
    limit.rlim_cur = std::max(limit.rlim_cur, std::min<rlim_t>(limit.rlim_max, 8192));
    setrlimit(RLIMIT_NOFILE, &limit);
  }

  /// On the reader's thread, for each page that is read: the one that was used longest ago is closed where it
  /// is one too many.
  void used(CachedFile& file);
  /// It is not open any more. Any thread.
  void forget(const CachedFile& file);

 private:
  std::size_t most_;
  std::mutex mutex_;
  std::list<CachedFile*> open_;
};

}  // namespace yewdrift
