// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/message_queue.h"

#include <algorithm>
#include <utility>

namespace yewdrift::app {

qint64 MessageQueue::readingTime(const QString& sentence) {
  // Common practice for captions: some seventeen letters a second; and a moment to look up.
  return 2500 + sentence.size() * 60;
}

void MessageQueue::dropAnswer(qint64 now) {
  answer_.reset();
  begin(now);
}

void MessageQueue::say(const QString& sentence, Weight weight, const QDateTime& when, qint64 now,
                       const QString& about) {
  if (sentence.isEmpty()) return;
  const Said said{sentence, weight, when, 1, about};
  if (!about.isEmpty()) {
    const auto ofThat = [&about](const Said& each) { return each.about == about; };
    std::erase_if(alarms_, ofThat);
    std::erase_if(urgent_, ofThat);
    std::erase_if(passing_, ofThat);
    timed_ = nullptr;
  }
  if (!all_.empty() && all_.back().sentence == sentence)
    ++all_.back().times;
  else
    all_.push_back(said);
  if (all_.size() > kept) all_.erase(all_.begin());
  const auto same = [&](const Said& each) { return each.sentence == sentence; };
  if (weight == Weight::Answer) {
    answer_ = said;
    timed_ = nullptr;
  } else {
    auto& queue = weight == Weight::Alarm ? alarms_ : weight == Weight::Urgent ? urgent_ : passing_;
    // What waits to be seen is not said twice.
    if (std::none_of(queue.begin(), queue.end(), same)) queue.push_back(said);
  }
  begin(now);
}

const MessageQueue::Said* MessageQueue::shown() const {
  if (!alarms_.empty()) return &alarms_.front();
  if (answer_) return &*answer_;
  if (!urgent_.empty()) return &urgent_.front();
  return passing_.empty() ? nullptr : &passing_.front();
}

int MessageQueue::waiting() const {
  const auto all = static_cast<int>(alarms_.size() + urgent_.size() + passing_.size()) + (answer_ ? 1 : 0);
  return std::max(0, all - 1);
}

void MessageQueue::begin(qint64 now) {
  if (std::exchange(timed_, shown()) != shown()) since_ = now;
}

void MessageQueue::passTime(qint64 now) {
  const Said* const read = shown();
  if (!read || read->weight == Weight::Urgent || read->weight == Weight::Alarm) return begin(now);
  if (now - since_ >= readingTime(read->sentence)) putAway(now);
}

void MessageQueue::putAway(qint64 now) {
  if (!alarms_.empty())
    alarms_.pop_front();
  else if (answer_)
    answer_.reset();
  else if (!urgent_.empty())
    urgent_.pop_front();
  else if (!passing_.empty())
    passing_.pop_front();
  timed_ = nullptr;
  begin(now);
}

}  // namespace yewdrift::app
