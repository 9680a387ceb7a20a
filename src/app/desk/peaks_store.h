// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <map>
#include <memory>
#include <vector>

#include "core/session/session.h"
#include "core/signal/peaks.h"
#include "core/store/session_disk.h"

namespace yewdrift::app {

/// Peaks of pool files, read or measured in the background. Asking never waits: what is not there yet is
/// fetched, and ready() follows. Interface thread.
class PeaksStore : public QObject {
  Q_OBJECT
 public:
  explicit PeaksStore(SessionDisk disk, QObject* parent = nullptr);
  ~PeaksStore() override;

  /// One pyramid a channel, or null where they are still being fetched.
  const std::vector<PeakPyramid>* peaks(const PoolFile& file) { return shared(file).get(); }
  /// The same for who needs them on another thread: they stay as they are.
  std::shared_ptr<const std::vector<PeakPyramid>> shared(const PoolFile& file);
  /// That file has grown since it was measured: what is shown of it stays until it is measured anew.
  void lookAgain(const std::string& path);
  /// Files that could not be read may be there now.
  void lookForMissing();
  [[nodiscard]] bool busy() const { return pending_ > 0; }

 signals:
  void ready();

 private:
  void fetch(const PoolFile& file);
  struct Entry {
    std::shared_ptr<const std::vector<PeakPyramid>> peaks;  // null while they are being fetched
    bool stale = false;
  };
  SessionDisk disk_;
  std::map<std::string, Entry> entries_;
  std::shared_ptr<std::atomic<bool>> cancelled_ = std::make_shared<std::atomic<bool>>(false);
  QThreadPool pool_;
  int pending_ = 0;
};

}  // namespace yewdrift::app
