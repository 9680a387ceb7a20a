// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <set>
#include <string>
#include <utility>

#include "app/desk/jobs.h"
#include "app/desk/messages.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "core/plan/pitched_files.h"

namespace yewdrift::app {

/// Sees to it that takes at another pitch are made, one after the other, and played as soon as they are
/// there; until then they play plain. Interface thread.
class PitchDesk : public QObject {
  Q_OBJECT
 public:
  PitchDesk(SessionDesk& desk, Transport& transport, Jobs& jobs, Messages& messages);

  /// Something that is to be heard at another pitch is not made yet.
  [[nodiscard]] bool busy() const { return making_.has_value(); }

 private:
  using Key = std::pair<std::string, double>;
  static Key keyOf(const PitchedFile& file) { return {file.file.path, file.by.value}; }
  void follow();
  void make(const PitchedFile& file);
  void made(const PitchedFile& file, bool done);

  SessionDesk& desk_;
  Transport& transport_;
  Jobs& jobs_;
  Messages& messages_;
  std::set<Key> there_;
  std::set<Key> givenUp_;  // cancelled, or impossible: not tried again by itself
  std::optional<Key> making_;
  int job_ = 0;
};

}  // namespace yewdrift::app
