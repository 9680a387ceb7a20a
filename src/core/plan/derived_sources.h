// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// Material that is made from files of the pool, such as a take at another pitch. Plans name it by negative
/// numbers, -1 for the first, so that the pool may grow. What is not made yet plays plain. One thread at a
/// time.
class DerivedSources {
 public:
  virtual ~DerivedSources() = default;
  /// The name of `file` by so many cents; none while it is not there.
  std::optional<int> pitched(const PoolFile& file, Cents by) {
    const auto known = names_.find({file.path, by.value});
    if (known != names_.end()) return known->second;
    const auto found = find(file, by);
    if (!found) return std::nullopt;
    files_.push_back(*found);
    const int name = -static_cast<int>(files_.size());
    names_.emplace(std::pair{file.path, by.value}, name);
    return name;
  }
  /// Those that were asked for and are there; that with the name n at [-1 - n]. Only ever grows.
  [[nodiscard]] const std::vector<PoolFile>& files() const { return files_; }

 protected:
  virtual std::optional<PoolFile> find(const PoolFile& file, Cents by) = 0;

 private:
  std::map<std::pair<std::string, double>, int> names_;
  std::vector<PoolFile> files_;
};

/// The file of that name, of the pool or derived.
inline const PoolFile& fileNamed(int name, const std::vector<PoolFile>& pool,
                                 const std::vector<PoolFile>& derived) {
  return name >= 0 ? pool[static_cast<std::size_t>(name)] : derived[static_cast<std::size_t>(-1 - name)];
}

}  // namespace yewdrift
