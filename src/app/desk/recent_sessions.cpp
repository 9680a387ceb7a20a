// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/recent_sessions.h"

#include <QDir>
#include <QSettings>

namespace yewdrift::app::recent {
namespace {

QString asKept(const QString& folder) {
  return QDir::cleanPath(QDir(folder).absolutePath());
}

void keep(const std::vector<RecentSession>& sessions) {
  QSettings settings;
  settings.remove("recent");  // a list that became shorter leaves nothing behind
  settings.beginWriteArray("recent");
  for (std::size_t i = 0; i < sessions.size(); ++i) {
    settings.setArrayIndex(static_cast<int>(i));
    settings.setValue("folder", sessions[i].folder);
    settings.setValue("opened", sessions[i].opened);
  }
  settings.endArray();
}

}  // namespace

std::vector<RecentSession> sessions() {
  QSettings settings;
  std::vector<RecentSession> found;
  const int count = std::min(settings.beginReadArray("recent"), kept);
  for (int i = 0; i < count; ++i) {
    settings.setArrayIndex(i);
    RecentSession each{settings.value("folder").toString(), settings.value("opened").toDateTime()};
    if (!each.folder.isEmpty()) found.push_back(std::move(each));
  }
  settings.endArray();
  return found;
}

void opened(const QString& folder, const QDateTime& when) {
  auto all = sessions();
  const QString name = asKept(folder);
  std::erase_if(all, [&](const RecentSession& each) { return each.folder == name; });
  all.insert(all.begin(), {name, when});
  if (all.size() > kept) all.resize(kept);
  keep(all);
}

void forget(const QString& folder) {
  auto all = sessions();
  std::erase_if(all, [&](const RecentSession& each) { return each.folder == folder; });
  keep(all);
}

}  // namespace yewdrift::app::recent
