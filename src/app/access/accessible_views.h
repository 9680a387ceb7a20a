// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace yewdrift::app {

/// What is painted can be read too: takes, pieces and joins as children of their view with names, states and
/// actions; meters, the strip, the record state and named labels with their values. Once, before any window.
void installAccessibility();

}  // namespace yewdrift::app
