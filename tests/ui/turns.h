// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTest>

namespace yewdrift::test {

/// Whether it comes true within so much of the window's time, of which none is waited for nothing. It is
/// counted in turns that the window was given, as with `comesTrue`.
template <typename Condition>
bool comesTrueInWindow(Condition holds, int milliseconds = 5000) {
  constexpr int turn = 5;
  for (int passed = 0; passed < milliseconds && !holds(); passed += turn) QTest::qWait(turn);
  return holds();
}

}  // namespace yewdrift::test
