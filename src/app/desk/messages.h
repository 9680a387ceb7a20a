// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>

namespace yewdrift::app {

/// What the desks have to tell the person in front of them, a sentence each.
class Messages : public QObject {
  Q_OBJECT
 public:
  void say(const QString& sentence) { emit said(sentence); }
  void say(const std::exception& error) { say(QString::fromUtf8(error.what())); }

 signals:
  void said(const QString& sentence);
};

}  // namespace yewdrift::app
