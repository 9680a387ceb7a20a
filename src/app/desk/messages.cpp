// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/messages.h"

namespace yewdrift::app {

Messages::Messages() {
  clock_.start();
  passing_.setInterval(250);
  connect(&passing_, &QTimer::timeout, this, &Messages::passTime);
}

void Messages::dropAnswer() {
  queue_.dropAnswer(clock_.elapsed());
  emit changed();
}

void Messages::put(const QString& named, Weight weight, const QString& about) {
  if (named.isEmpty()) return;
  const QString sentence = keyNames_.spelled(named);
  queue_.say(sentence, weight, QDateTime::currentDateTime(), clock_.elapsed(), about);
  passing_.start();
  emit said(sentence);
  emit changed();
}

void Messages::putAway() {
  queue_.putAway(clock_.elapsed());
  emit changed();
}

void Messages::passTime() {
  const auto* const before = queue_.shown();
  const int waiting = queue_.waiting();
  queue_.passTime(clock_.elapsed());
  const auto* const now = queue_.shown();
  if (!now || now->weight == Weight::Urgent || now->weight == Weight::Alarm) passing_.stop();
  if (now != before || queue_.waiting() != waiting) emit changed();
}

}  // namespace yewdrift::app
