// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/closing_row.h"

namespace yewdrift::app {

QHBoxLayout* closingRow(QDialog& dialog, const QString& leave, QPushButton& act) {
  auto* const leaves = new QPushButton(leave);
  leaves->setAutoDefault(false);
  act.setDefault(true);
  QObject::connect(leaves, &QPushButton::clicked, &dialog, &QDialog::close);
  auto* const row = new QHBoxLayout;
  row->addStretch(1);
  row->addWidget(leaves);
  row->addWidget(&act);
  return row;
}

}  // namespace yewdrift::app
