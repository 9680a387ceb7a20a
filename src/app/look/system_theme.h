// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QDBusVariant>
#include <QObject>
#include <optional>

namespace yewdrift::app {

/// Whether the desktop is dark: as its settings portal says (the key "color-scheme" of
/// org.freedesktop.appearance: 0 none, 1 dark, 2 light), else by the window colour it gives to applications.
bool desktopIsDark(std::optional<unsigned> colourScheme, const QColor& window);

/// Listens to what the desktop prefers, while the program runs.
class SystemTheme : public QObject {
  Q_OBJECT
 public:
  /// Before any palette is set.
  SystemTheme();
  [[nodiscard]] bool dark() const { return desktopIsDark(scheme_, window_); }

 signals:
  void changed();

 private slots:
  void settingChanged(const QString& group, const QString& key, const QDBusVariant& value);

 private:
  void take(unsigned scheme);

  QColor window_;
  std::optional<unsigned> scheme_;
};

}  // namespace yewdrift::app
