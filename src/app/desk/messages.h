// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>

#include "app/desk/message_queue.h"
#include "app/look/key_names.h"
#include "app/look/spoken.h"

namespace yewdrift::app {

/// What the desks have to tell the person in front of them, a sentence each.
class Messages : public QObject {
  Q_OBJECT
 public:
  /// In answer to what a person just did.
  void say(const QString& sentence) { put(sentence, Weight::Answer); }
  void say(const std::exception& error) { say(spoken(error)); }
  /// Something has come to a good end by itself.
  void tell(const QString& sentence, const QString& about = {}) { put(sentence, Weight::Passing, about); }
  /// Something went wrong by itself, or needs to be known: stays until it is seen, or until something newer
  /// is said `about` the same.
  void warn(const QString& sentence, const QString& about = {}) { put(sentence, Weight::Urgent, about); }
  /// Work may be lost: nothing else is shown before it, until something newer is said `about` the same.
  void alarm(const QString& sentence, const QString& about) { put(sentence, Weight::Alarm, about); }
  /// What was just answered is undone.
  void dropAnswer();
  void warn(const std::exception& error) { warn(spoken(error)); }
  /// How keys are called in what is said from now on.
  void setKeyNames(const KeyNames& names) { keyNames_ = names; }
  void putAway();
  [[nodiscard]] const MessageQueue& queue() const { return queue_; }
  /// So much time has passed. Whoever looked at the window could read meanwhile.
  void passTime(int milliseconds);

 signals:
  void said(const QString& sentence);
  void changed();  // what is shown, or what waits

 private:
  void put(const QString& sentence, Weight weight, const QString& about = {});

  KeyNames keyNames_;
  MessageQueue queue_;
  qint64 now_ = 0;  // milliseconds
};

}  // namespace yewdrift::app
