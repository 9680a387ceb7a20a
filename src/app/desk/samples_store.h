// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <cstdint>
#include <deque>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/session/session.h"
#include "core/store/session_disk.h"

namespace yewdrift::app {

/// Samples of pool files for views that look closer than peaks resolve, read in the background and kept as
/// long as there is room. Asking never waits: what is not there yet is fetched, what was asked for last
/// first, and ready() follows. Interface thread.
class SamplesStore : public QObject {
  Q_OBJECT
 public:
  /// No more is kept, in samples.
  static constexpr std::int64_t most = 1 << 24;

  explicit SamplesStore(SessionDisk disk, QObject* parent = nullptr);
  ~SamplesStore() override;

  /// The samples of a channel from `from` on, silence where the file has none. False where not all of them
  /// are there yet, or never will be.
  bool read(const PoolFile& file, int channel, Frames from, std::span<float> out);
  /// That file is another than it was.
  void lookAgain(const std::string& path);
  /// Files that could not be read may be there now.
  void lookForMissing();
  [[nodiscard]] bool busy() const { return fetching_; }
  /// How many samples are held.
  [[nodiscard]] std::int64_t kept() const { return kept_; }

 signals:
  void ready();

 private:
  static constexpr std::int64_t stretchFrames = 1 << 15;
  using Key = std::pair<std::string, std::int64_t>;  // which stretch of which file
  using Samples = std::vector<float>;                // of a stretch, one channel after the other
  struct Entry {
    std::shared_ptr<const Samples> samples;  // none while they are fetched, empty where they cannot be
    std::uint64_t askedFor = 0;
  };
  const Samples* stretch(const PoolFile& file, std::int64_t index);
  void fetchNext();
  void take(const Key& key, std::uint64_t generation, std::shared_ptr<const Samples> samples);
  void makeRoom();

  SessionDisk disk_;
  std::map<Key, Entry> entries_;
  std::deque<std::pair<Key, PoolFile>> wanted_;  // the last asked for behind
  std::uint64_t asked_ = 0;
  std::uint64_t generation_ = 0;  // of what the files hold
  std::int64_t kept_ = 0;         // samples
  bool fetching_ = false;
  QThreadPool pool_;
};

}  // namespace yewdrift::app
