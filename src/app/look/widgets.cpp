// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/widgets.h"

#include <QHeaderView>
#include <QToolButton>

namespace yewdrift::app {

QTableWidget* plainTable(const QStringList& columns, const QString& name, int rowHeight) {
  auto* made = new QTableWidget(0, static_cast<int>(columns.size()));
  made->setHorizontalHeaderLabels(columns);
  made->setAccessibleName(name);
  made->verticalHeader()->hide();
  made->verticalHeader()->setDefaultSectionSize(rowHeight);
  made->horizontalHeader()->setStretchLastSection(true);
  made->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  made->setSelectionBehavior(QAbstractItemView::SelectRows);
  made->setMinimumHeight(56);
  made->setSelectionMode(QAbstractItemView::ExtendedSelection);
  return made;
}

QLabel* faintLabel(const QString& text) {
  auto* label = new QLabel(text);
  label->setObjectName("faint");
  return label;
}

QHBoxLayout* buttonRow(const QList<QAction*>& actions) {
  auto* row = new QHBoxLayout;
  for (QAction* action : actions) {
    auto* button = new QToolButton;
    button->setDefaultAction(action);
    button->setAccessibleName(action->text());
    button->setMinimumHeight(30);
    row->addWidget(button);
  }
  row->addStretch(1);
  return row;
}

}  // namespace yewdrift::app
