// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/messages_bench.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLocale>
#include <QProgressBar>
#include <QPushButton>

#include "app/look/widgets.h"

namespace yewdrift::app {

MessagesBench::MessagesBench(Messages& messages, Jobs& jobs, QWidget* parent)
    : QWidget(parent), messages_(messages), jobs_(jobs) {
  table_ = new PlainTable({tr("When"), tr("Message")}, tr("All messages"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setWordWrap(true);
  table_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
  auto* side = new QVBoxLayout;
  jobColumn_ = new QVBoxLayout;
  side->addLayout(jobColumn_);
  side->addStretch(1);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->addWidget(table_, 1);
  row->addLayout(side);
  connect(&messages_, &Messages::changed, this, &MessagesBench::refresh);
  connect(&jobs_, &Jobs::changed, this, &MessagesBench::refreshJobs);
}

void MessagesBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
  refreshJobs();
}

void MessagesBench::refresh() {
  if (!isVisible()) return;
  const auto& all = messages_.queue().all();
  table_->setRowCount(static_cast<int>(all.size()));
  for (int row = 0; row < table_->rowCount(); ++row) {
    const MessageQueue::Said& said = all[all.size() - 1 - static_cast<std::size_t>(row)];
    const QString sentence =
        said.times > 1 ? tr("%1 (%2 times)").arg(said.sentence).arg(said.times) : said.sentence;
    table_->setItem(row, 0, new QTableWidgetItem(QLocale().toString(said.when.time(), QLocale::ShortFormat)));
    table_->setItem(row, 1, new QTableWidgetItem(sentence));
  }
}

void MessagesBench::refreshJobs() {
  if (!isVisible()) return;
  std::vector<int> ids;
  for (const Jobs::Job& job : jobs_.all()) ids.push_back(job.id);
  if (ids != shownJobs_) {
    shownJobs_ = ids;
    while (QLayoutItem* item = jobColumn_->takeAt(0)) {
      if (item->widget()) item->widget()->deleteLater();
      delete item;
    }
    for (const Jobs::Job& job : jobs_.all()) {
      auto* line = new QWidget;
      auto* row = new QHBoxLayout(line);
      row->setContentsMargins(0, 0, 0, 0);
      auto* progress = new QProgressBar;
      progress->setRange(0, 100);
      progress->setMinimumWidth(200);
      progress->setFormat(job.label + " %p%");
      progress->setAccessibleName(job.label);
      row->addWidget(progress);
      if (job.cancel == Jobs::Cancel::Possible) {
        auto* cancel = new QPushButton(tr("Cancel"));
        cancel->setAccessibleName(tr("Cancel: %1").arg(job.label));
        connect(cancel, &QPushButton::clicked, this, [this, id = job.id] { jobs_.cancel(id); });
        row->addWidget(cancel);
      }
      jobColumn_->addWidget(line);
    }
  }
  for (int i = 0; i < jobColumn_->count(); ++i)
    if (auto* progress = jobColumn_->itemAt(i)->widget()->findChild<QProgressBar*>())
      progress->setValue(static_cast<int>(jobs_.all()[static_cast<std::size_t>(i)].share * 100));
}

}  // namespace yewdrift::app
