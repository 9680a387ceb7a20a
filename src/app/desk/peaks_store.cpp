// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/peaks_store.h"

#include <QMetaObject>
#include <algorithm>
#include <utility>

#include "core/store/peaks_cache.h"

namespace yewdrift::app {

PeaksStore::PeaksStore(SessionDisk disk, QObject* parent) : QObject(parent), disk_(std::move(disk)) {
  pool_.setMaxThreadCount(1);
}

PeaksStore::~PeaksStore() {
  *cancelled_ = true;
  pool_.waitForDone();
}

std::shared_ptr<const std::vector<PeakPyramid>> PeaksStore::shared(const PoolFile& file) {
  const auto [it, fresh] = entries_.try_emplace(file.path);
  if (fresh || std::exchange(it->second.stale, false)) fetch(file);
  return it->second.peaks;
}

void PeaksStore::lookAgain(const std::string& path) {
  const auto entry = entries_.find(path);
  if (entry == entries_.end()) return;
  entry->second.stale = true;
  emit ready();
}

void PeaksStore::lookForMissing() {
  for (auto& [path, entry] : entries_)
    if (entry.peaks && std::all_of(entry.peaks->begin(), entry.peaks->end(),
                                   [](const PeakPyramid& channel) { return channel.length() == 0; }))
      entry.stale = true;
  emit ready();
}

void PeaksStore::fetch(const PoolFile& file) {
  ++pending_;
  pool_.start([this, file, cancelled = cancelled_] {
    auto loaded = std::make_shared<std::vector<PeakPyramid>>(loadPeaks(disk_, file, *cancelled));
    QMetaObject::invokeMethod(this, [this, file, loaded] {
      --pending_;
      entries_[file.path].peaks = loaded;
      emit ready();
    });
  });
}

}  // namespace yewdrift::app
