// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QHBoxLayout>
#include <QLabel>
#include <QTableWidget>

namespace yewdrift::app {

/// A table of rows to select, without row numbers; the last column takes the room that is left.
QTableWidget* plainTable(const QStringList& columns, const QString& name, int rowHeight = 24);
QLabel* faintLabel(const QString& text);
/// A button for every action, side by side.
QHBoxLayout* buttonRow(const QList<QAction*>& actions);

}  // namespace yewdrift::app
