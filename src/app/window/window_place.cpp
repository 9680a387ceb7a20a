// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/window_place.h"

#include <QScreen>
#include <QSettings>

namespace yewdrift::app {
namespace {

// What window managers add around a window, unknown before it is shown: a title bar and thin borders.
constexpr QSize frame{12, 48};

}  // namespace

QSize fitting(QSize wanted, QSize available) {
  return wanted.boundedTo(available - frame);
}

void place(QWidget& window, const QString& name, QSize wanted) {
  const QByteArray kept = QSettings().value("window/" + name).toByteArray();
  if (!kept.isEmpty() && window.restoreGeometry(kept)) return;
  const QRect available = window.screen()->availableGeometry();
  const QSize size = fitting(wanted, available.size()).expandedTo(window.minimumSize());
  window.resize(size);
  window.move(available.topLeft() +
              QPoint(std::max(0, (available.width() - size.width() - frame.width()) / 2),
                     std::max(0, (available.height() - size.height() - frame.height()) / 2)));
}

void rememberPlace(const QWidget& window, const QString& name) {
  QSettings().setValue("window/" + name, window.saveGeometry());
}

}  // namespace yewdrift::app
