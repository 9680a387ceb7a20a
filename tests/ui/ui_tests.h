// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the tests of the window include.
#pragma once

#include <QCheckBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QPushButton>
#include <QSignalSpy>
#include <QTableWidget>
#include <QToolButton>
#include <algorithm>
#include <catch2/catch.hpp>
#include <cstdlib>
#include <fstream>
#include <random>

#include "app/bench/join_bench.h"
#include "app/bench/spans_bench.h"
#include "app/dialogs/device_dialog.h"
#include "app/dialogs/line_up_dialog.h"
#include "app/dialogs/new_session_dialog.h"
#include "app/look/plural_forms.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"
#include "app/views/level_meter.h"
#include "app/views/transport_bar.h"
#include "app/window/session_windows.h"
#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_gather.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/store/session_json.h"
#include "engine/recording_support.h"
#include "ui/window_rig.h"

using namespace yewdrift;        // NOLINT: of tests only
using namespace yewdrift::test;  // NOLINT: of tests only
using namespace yewdrift::app;   // NOLINT: of tests only
