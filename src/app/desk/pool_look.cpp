// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/pool_look.h"

#include <algorithm>

#include "core/error.h"

namespace yewdrift::app {

PoolLook::PoolLook(SessionDesk& desk, QObject* parent) : QObject(parent), desk_(desk) {
  pool_.setMaxThreadCount(1);
  saved_.setSingleShot(true);
  saved_.setInterval(40);
  connect(&saved_, &QTimer::timeout, this, &PoolLook::begin);
  connect(&desk, &SessionDesk::committed, this, &PoolLook::look);
  connect(&desk, &SessionDesk::filesChanged, this, &PoolLook::look);
}

PoolLook::~PoolLook() {
  pool_.clear();
  pool_.waitForDone();
}

void PoolLook::look() {
  ++round_;
  saved_.start();
}

void PoolLook::begin() {
  if (!desk_.saved()) return saved_.start();
  pool_.clear();
  pool_.start([this, round = round_, session = desk_.folderPath()] {
    std::vector<FileOfSession> found;
    try {
      found = filesOf(SessionFolder::open(session, SessionFolder::Access::Read));
      // What needs a person's hand is seen first: what is missing, then what is not whole.
      std::ranges::stable_sort(found, {}, [](const FileOfSession& file) {
        return file.state == FileState::Missing ? 0 : file.state == FileState::There ? 2 : 1;
      });
    } catch (const Error&) {
      return;  // its folder is gone; whoever works in it says so
    }
    // Who is destroyed waits for this thread first, and then takes no more calls.
    QMetaObject::invokeMethod(this, [this, round, files = std::move(found)] {
      if (round != round_) return;
      files_ = files;
      emit looked();
    });
  });
}

}  // namespace yewdrift::app
