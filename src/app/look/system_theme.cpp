// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/system_theme.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <QGuiApplication>
#include <QPalette>

namespace yewdrift::app {
namespace {

constexpr auto service = "org.freedesktop.portal.Desktop";
constexpr auto path = "/org/freedesktop/portal/desktop";
constexpr auto interface = "org.freedesktop.portal.Settings";
constexpr auto appearance = "org.freedesktop.appearance";
constexpr auto colourScheme = "color-scheme";

/// Older portals wrap the value twice.
QVariant unwrapped(QVariant value) {
  while (value.canConvert<QDBusVariant>()) value = value.value<QDBusVariant>().variant();
  return value;
}

}  // namespace

bool desktopIsDark(std::optional<unsigned> scheme, const QColor& window) {
  if (scheme == 1U) return true;
  if (scheme == 2U) return false;
  return window.lightness() < 110;
}

SystemTheme::SystemTheme() : window_(QGuiApplication::palette().color(QPalette::Window)) {
  // Without a session bus nothing is started for this.
  if (qEnvironmentVariableIsEmpty("DBUS_SESSION_BUS_ADDRESS")) return;
  QDBusConnection bus = QDBusConnection::sessionBus();
  if (!bus.isConnected()) return;
  bus.connect(service, path, interface, "SettingChanged", this,
              SLOT(settingChanged(QString, QString, QDBusVariant)));
  QDBusMessage ask = QDBusMessage::createMethodCall(service, path, interface, "Read");
  ask << QString(appearance) << QString(colourScheme);
  auto* answer = new QDBusPendingCallWatcher(bus.asyncCall(ask, 2000), this);
  connect(answer, &QDBusPendingCallWatcher::finished, this, [this, answer] {
    const QDBusPendingReply<QDBusVariant> reply = *answer;
    if (!reply.isError()) take(unwrapped(reply.value().variant()).toUInt());
    answer->deleteLater();
  });
}

void SystemTheme::settingChanged(const QString& in, const QString& what, const QDBusVariant& value) {
  if (in == appearance && what == colourScheme) take(unwrapped(value.variant()).toUInt());
}

void SystemTheme::take(unsigned scheme) {
  const bool before = dark();
  scheme_ = scheme;
  if (dark() != before) emit changed();
}

}  // namespace yewdrift::app
