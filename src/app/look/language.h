// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLocale>
#include <QTranslator>
#include <memory>
#include <vector>

namespace yewdrift::app {

using Language = std::vector<std::unique_ptr<QTranslator>>;

/// The application in the language of `locale`, for as long as what it returns lives: a translation, where
/// one lies in "yewdrift/translations" of a data folder of the desktop (XDG_DATA_HOME, XDG_DATA_DIRS), with
/// Qt's own words; English, with its plurals, beneath. Before any window is made. See docs/translating.md.
[[nodiscard]] Language speak(const QLocale& locale);

}  // namespace yewdrift::app
