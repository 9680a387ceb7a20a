// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <QWidget>

namespace yewdrift::app {

/// Where the window was when `rememberPlace` was last called under this name; the first time, and where that
/// place is on no screen any more, at its wanted size or as large as the screen allows, with its frame.
/// Before it is shown.
void place(QWidget& window, const QString& name, QSize wanted);
void rememberPlace(const QWidget& window, const QString& name);

/// The size that fits `available` together with a frame, and no larger than wanted.
QSize fitting(QSize wanted, QSize available);

}  // namespace yewdrift::app
