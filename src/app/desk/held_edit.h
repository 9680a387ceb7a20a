// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPointer>
#include <QString>
#include <functional>

#include "app/desk/session_desk.h"

namespace yewdrift::app {

/// An edit that a hand is making: applied over the present, whatever that becomes meanwhile, shown and heard
/// while it is held, one step of the history once it is kept. A desk has one of them at a time; whatever else
/// a person does there keeps or drops it first.
class HeldEdit {
 public:
  enum class Ended { Kept, Dropped };
  /// Told when something else than keep() or drop() has ended it.
  using OnEnded = std::function<void(Ended)>;

  explicit HeldEdit(SessionDesk& desk) : desk_(&desk) {}
  /// Drops it; who looks at the desk is told a moment later. The desk may be gone already.
  ~HeldEdit();
  HeldEdit(const HeldEdit&) = delete;
  HeldEdit& operator=(const HeldEdit&) = delete;

  /// Takes hold; what is held already is kept first. `label` names the step.
  void begin(const QString& label, OnEnded onEnded = {});
  [[nodiscard]] bool held() const { return desk_ && desk_->held_ == this; }
  /// Shows the edit's result in place of the one shown before; where it can do nothing, the present. Does
  /// nothing once it has ended.
  void show(SessionDesk::Edit edit);
  /// Makes what is shown a step of the history; none where that is the present.
  void keep();
  void drop();

 private:
  friend class SessionDesk;
  QPointer<SessionDesk> desk_;
  QString label_;
  OnEnded onEnded_;
  SessionDesk::Edit edit_;
};

}  // namespace yewdrift::app
