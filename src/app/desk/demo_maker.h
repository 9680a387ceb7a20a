// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>

#include "app/desk/jobs.h"

namespace yewdrift::app {

/// The demo session: where it lies, and how it comes there. A program of its own makes it, so that what plays
/// and speaks in it is not part of this one. Interface thread.
class DemoMaker : public QObject {
  Q_OBJECT
 public:
  explicit DemoMaker(Jobs& jobs, QObject* parent = nullptr) : QObject(parent), jobs_(jobs) {}

  /// Where it is, or will be made.
  [[nodiscard]] static QString folder();
  [[nodiscard]] static bool isThere();
  /// The program that makes it; empty where it is not installed.
  [[nodiscard]] static QString program();
  [[nodiscard]] bool busy() const { return busy_; }
  /// Made aside and moved into place, so that one that was cut off is never opened.
  void make();

 signals:
  void made(const QString& folder);
  void failed(const QString& sentence);
  void cancelled();

 private:
  Jobs& jobs_;
  bool busy_ = false;
};

}  // namespace yewdrift::app
