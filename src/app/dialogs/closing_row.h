// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QHBoxLayout>
#include <QPushButton>

namespace yewdrift::app {

/// The last row of a dialog. A button called `leave` closes the dialog and changes nothing; `act`, at the far
/// right, does what the dialog is about, and Enter presses it.
QHBoxLayout* closingRow(QDialog& dialog, const QString& leave, QPushButton& act);

}  // namespace yewdrift::app
