// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/peaks_store.h"

#include <QMetaObject>

#include "core/store/peaks_cache.h"

namespace yewdrift::app {

PeaksStore::PeaksStore(std::filesystem::path sessionPath, QObject* parent)
    : QObject(parent), sessionPath_(std::move(sessionPath)) {
  pool_.setMaxThreadCount(1);
}

PeaksStore::~PeaksStore() {
  *cancelled_ = true;
  pool_.waitForDone();
}

const std::vector<PeakPyramid>* PeaksStore::peaks(const PoolFile& file) {
  const auto [it, fresh] = entries_.try_emplace(file.path);
  if (it->second.there) return &it->second.peaks;
  if (!fresh) return nullptr;
  ++pending_;
  pool_.start([this, file, cancelled = cancelled_] {
    auto loaded = std::make_shared<std::vector<PeakPyramid>>(loadPeaks(sessionPath_, file, *cancelled));
    QMetaObject::invokeMethod(this, [this, file, loaded] {
      --pending_;
      entries_[file.path] = {std::move(*loaded), true};
      emit ready();
    });
  });
  return nullptr;
}

}  // namespace yewdrift::app
