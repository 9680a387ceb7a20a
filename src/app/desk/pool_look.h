// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <memory>
#include <vector>

#include "app/desk/session_desk.h"
#include "core/store/pool_files.h"

namespace yewdrift::app {

/// Looks at the audio files of the session in the background: which are there, how large, who uses them.
/// Interface thread.
class PoolLook : public QObject {
  Q_OBJECT
 public:
  explicit PoolLook(SessionDesk& desk, QObject* parent = nullptr);
  ~PoolLook() override;
  /// As soon as what is on the desk is on disk that is looked at; looked() follows.
  void look();
  /// As they were when they were last looked at.
  [[nodiscard]] const std::vector<FileOfSession>& files() const { return files_; }

 signals:
  void looked();

 private:
  void begin();

  SessionDesk& desk_;
  std::vector<FileOfSession> files_;
  int round_ = 0;  // what an older look found counts no more
  QTimer saved_;
  QThreadPool pool_;
};

}  // namespace yewdrift::app
