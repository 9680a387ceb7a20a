// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDateTime>
#include <QString>
#include <vector>

namespace yewdrift::app {

struct RecentSession {
  QString folder;
  QDateTime opened;
};

/// The sessions that were opened, the latest first; lasting. Each folder is in it once.
namespace recent {
inline constexpr int kept = 24;
std::vector<RecentSession> sessions();
void opened(const QString& folder, const QDateTime& when = QDateTime::currentDateTime());
/// It leaves the list; the session stays as it is.
void forget(const QString& folder);
}  // namespace recent

}  // namespace yewdrift::app
