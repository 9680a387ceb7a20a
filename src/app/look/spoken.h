// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLocale>
#include <QString>

#include "core/error.h"

namespace yewdrift::app {

/// Numbers as they are written here, without marks between thousands: those would not be read back by every
/// field.
QLocale numberLocale();

/// What the core says, in the language of the application: looked up whole, by its English pattern, in the
/// context "Core"; its numbers as they are written here. Any thread.
QString spoken(const Sentence& sentence);
/// One after the other.
QString spoken(const std::vector<Sentence>& sentences);
QString spoken(const std::exception& error);

/// What the application refuses itself, in its own language already.
Error refusal(const QString& sentence);

}  // namespace yewdrift::app
