// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/message_row.h"

#include <QAccessible>
#include <QHBoxLayout>
#include <QStyle>

namespace yewdrift::app {

MessageRow::MessageRow(Messages& messages, Jobs& jobs, QWidget* parent)
    : QWidget(parent), messages_(messages), jobs_(jobs) {
  frame_ = new QFrame;
  frame_->setObjectName("message");
  sentence_ = new QLabel;
  sentence_->setWordWrap(true);
  sentence_->setAccessibleName(tr("Message"));
  away_ = new QPushButton(tr("Put away"));
  away_->setToolTip(tr("Seen; the next message, where one waits"));
  connect(away_, &QPushButton::clicked, this, [this] { messages_.putAway(); });
  auto* inside = new QHBoxLayout(frame_);
  inside->setContentsMargins(12, 2, 4, 2);
  inside->addWidget(sentence_, 1);
  inside->addWidget(away_);

  job_ = new QWidget;
  progress_ = new QProgressBar;
  progress_->setRange(0, 100);
  progress_->setMinimumWidth(150);
  cancel_ = new QPushButton(tr("Cancel"));
  cancel_->setToolTip(tr("Stop what is under way; nothing of it stays"));
  connect(cancel_, &QPushButton::clicked, this, [this] {
    if (!jobs_.all().empty()) jobs_.cancel(jobs_.all().front().id);
  });
  auto* job = new QHBoxLayout(job_);
  job->setContentsMargins(0, 0, 0, 0);
  job->addWidget(progress_);
  job->addWidget(cancel_);

  all_ = new QPushButton;
  all_->setToolTip(tr("Everything that was said, and everything that is under way"));
  connect(all_, &QPushButton::clicked, this, &MessageRow::allAsked);

  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(frame_, 1);
  row->addWidget(job_);
  row->addWidget(all_);
  // Room for two lines, whether there are any.
  setFixedHeight(std::max(2 * fontMetrics().lineSpacing() + 8, away_->sizeHint().height() + 4));
  connect(&messages_, &Messages::changed, this, &MessageRow::refresh);
  connect(&jobs_, &Jobs::changed, this, &MessageRow::refreshJobs);
  refresh();
  refreshJobs();
}

QString MessageRow::shown() const {
  const MessageQueue::Said* said = messages_.queue().shown();
  return said ? said->sentence : QString();
}

void MessageRow::refresh() {
  const MessageQueue::Said* said = messages_.queue().shown();
  const QString sentence = shown();
  const QString kind = !said                                                             ? "none"
                       : said->weight == Weight::Urgent || said->weight == Weight::Alarm ? "urgent"
                                                                                         : "passing";
  if (frame_->property("kind").toString() != kind) {
    frame_->setProperty("kind", kind);
    frame_->style()->unpolish(frame_);
    frame_->style()->polish(frame_);
    sentence_->style()->unpolish(sentence_);
    sentence_->style()->polish(sentence_);
  }
  away_->setVisible(said != nullptr);
  const int waiting = messages_.queue().waiting();
  all_->setText(waiting > 0 ? tr("%1 more").arg(waiting) : tr("Messages"));
  if (sentence_->text() == sentence) return;
  sentence_->setText(sentence);
  sentence_->setToolTip(sentence);
  if (sentence.isEmpty()) return;
  QAccessibleEvent alert(sentence_, QAccessible::Alert);
  QAccessible::updateAccessibility(&alert);
}

void MessageRow::refreshJobs() {
  const std::vector<Jobs::Job>& all = jobs_.all();
  job_->setVisible(!all.empty());
  if (all.empty()) return;
  const Jobs::Job& first = all.front();
  const QString label =
      all.size() > 1 ? tr("%1 (%2 more to come)").arg(first.label).arg(all.size() - 1) : first.label;
  progress_->setFormat(label + " %p%");
  progress_->setMinimumWidth(std::clamp(fontMetrics().horizontalAdvance(label + " 100%") + 24, 150, 360));
  progress_->setAccessibleName(label);
  progress_->setValue(static_cast<int>(first.share * 100));
  cancel_->setVisible(first.cancel == Jobs::Cancel::Possible);
}

}  // namespace yewdrift::app
