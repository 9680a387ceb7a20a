// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/history_bench.h"

#include <QAbstractListModel>
#include <QCoreApplication>
#include <QVBoxLayout>

#include "app/look/widgets.h"

namespace yewdrift::app {

QString stepName(const std::string& label) {
  return QCoreApplication::translate("Core", label.c_str());
}

/// A row for the beginning, and one for each step; hundreds of thousands of them cost nothing until they are
/// looked at.
class HistoryBench::Steps : public QAbstractListModel {
 public:
  using QAbstractListModel::QAbstractListModel;

  void show(const History& history) {
    beginResetModel();
    steps_ = history.steps();
    done_ = history.doneCount();
    endResetModel();
  }
  [[nodiscard]] int rowCount(const QModelIndex& parent) const override {
    return parent.isValid() ? 0 : static_cast<int>(steps_.size()) + 1;
  }
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override {
    const auto row = static_cast<std::size_t>(index.row());
    const bool present = row == done_;
    switch (role) {
      case Qt::DisplayRole: {
        const QString name = row == 0 ? tr("The session as it was opened first, or as far back as is known")
                                      : tr("%L1   %2").arg(row).arg(stepName(steps_[row - 1]->label()));
        return present ? tr("%1   (now)").arg(name) : row > done_ ? tr("%1   (undone)").arg(name) : name;
      }
      case Qt::FontRole: {
        QFont font = scaledFont(1.0, present ? QFont::DemiBold : QFont::Normal);
        font.setItalic(row > done_);
        return font;
      }
      default:
        return {};
    }
  }

 private:
  static QString tr(const char* text) { return HistoryBench::tr(text); }
  History::Steps steps_;
  std::size_t done_ = 0;
};

HistoryBench::HistoryBench(SessionDesk& desk, const QList<QAction*>& actions, QWidget* parent)
    : QWidget(parent), desk_(desk) {
  heading_ =
      new ElidedLabel(tr("What was done, the latest last. A click on a step, or Enter, goes there; what "
                         "lies behind it can be done again until something else is changed."));
  steps_ = new Steps(this);
  list_ = new QListView;
  list_->setModel(steps_);
  list_->setUniformItemSizes(true);
  list_->setAccessibleName(tr("Steps of the history"));
  list_->setToolTip(tr("Every step of this session. Go to one to have the session as it was behind it."));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(4);
  auto* top = new QHBoxLayout;
  top->addWidget(heading_, 1);
  for (QAction* each : actions) top->addWidget(actionButton(each));
  column->addLayout(top);
  column->addWidget(list_, 1);
  connect(&desk, &SessionDesk::changed, this, &HistoryBench::refresh);
  const auto go = [this](const QModelIndex& index) { desk_.goTo(static_cast<std::size_t>(index.row())); };
  connect(list_, &QListView::clicked, this, go);
  connect(list_, &QListView::activated, this, go);
}

void HistoryBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void HistoryBench::refresh() {
  if (!isVisible()) return;
  steps_->show(desk_.history());
  list_->setCurrentIndex(steps_->index(static_cast<int>(desk_.history().doneCount())));
  list_->scrollTo(list_->currentIndex());
}

}  // namespace yewdrift::app
