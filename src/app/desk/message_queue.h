// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDateTime>
#include <QString>
#include <deque>
#include <optional>
#include <vector>

namespace yewdrift::app {

/// How much a message matters to somebody whose hands are busy.
enum class Weight {
  Answer,   // to what was just done: shown at once, in place of an answer before it
  Passing,  // something went well by itself: shown when its turn comes, long enough to be read
  Urgent,   // something went wrong by itself: stays until it is put away
  Alarm     // work may be lost: likewise, and nothing else is shown before it
};

/// What there is to say, and what of it is shown now. A plain value in a time of its own: milliseconds that
/// only grow.
class MessageQueue {
 public:
  struct Said {
    QString sentence;
    Weight weight = Weight::Answer;
    QDateTime when;
    int times = 1;  // in a row
    QString about{};
  };
  static constexpr std::size_t kept = 500;

  /// `about`: what the sentence is about. What was said of the same before is no longer so, and is not shown
  /// any more; empty: of nothing that changes.
  void say(const QString& sentence, Weight weight, const QDateTime& when, qint64 now,
           const QString& about = {});
  /// What was done is undone: an answer to it is not so any more.
  void dropAnswer(qint64 now);
  /// Lets go of what has been read by then, so that the next is shown.
  void passTime(qint64 now);
  /// What is shown has been seen.
  void putAway(qint64 now);
  /// Null where nothing is to be shown. An alarm first, then an answer, then what is
  /// urgent, then what passes.
  [[nodiscard]] const Said* shown() const;
  /// That are still to be seen, besides the one shown.
  [[nodiscard]] int waiting() const;
  /// All that was said, the newest last; of so many the oldest are forgotten.
  [[nodiscard]] const std::vector<Said>& all() const { return all_; }
  /// How long a sentence stays where nobody puts it away.
  [[nodiscard]] static qint64 readingTime(const QString& sentence);

 private:
  void begin(qint64 now);

  std::deque<Said> alarms_;
  std::optional<Said> answer_;
  std::deque<Said> urgent_;
  std::deque<Said> passing_;
  std::vector<Said> all_;
  const void* timed_ = nullptr;  // what is shown since then
  qint64 since_ = 0;
};

}  // namespace yewdrift::app
