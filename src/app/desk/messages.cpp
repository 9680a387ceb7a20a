// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/messages.h"

namespace yewdrift::app {

void Messages::dropAnswer() {
  queue_.dropAnswer(now_);
  emit changed();
}

void Messages::put(const QString& named, Weight weight, const QString& about) {
  if (named.isEmpty()) return;
  const QString sentence = keyNames_.spelled(named);
  queue_.say(sentence, weight, QDateTime::currentDateTime(), now_, about);
  emit said(sentence);
  emit changed();
}

void Messages::putAway() {
  queue_.putAway(now_);
  emit changed();
}

void Messages::passTime(int milliseconds) {
  now_ += milliseconds;
  const auto* const before = queue_.shown();
  const int waiting = queue_.waiting();
  queue_.passTime(now_);
  if (queue_.shown() != before || queue_.waiting() != waiting) emit changed();
}

}  // namespace yewdrift::app
