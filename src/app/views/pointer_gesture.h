// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPoint>

namespace yewdrift::app {

/// What a hand does with the left button of the mouse, told from presses, moves and releases as they come:
/// a click, or a drag that begins once it has gone a little way. Other buttons change nothing about it.
class PointerGesture {
 public:
  enum class Step {
    None,
    Click,   // pressed and let go in one place: that of pressedAt()
    Begins,  // a drag from pressedAt() to here; more follows
    Goes,    // on to here
    Ends  // where it went last; also where the button was let go unnoticed, outside or under another window
  };
  static constexpr int beginsAfter = 4;  // pixels

  /// Also for the second press of a double click.
  void press(QPoint at, Qt::MouseButton button) {
    if (button != Qt::LeftButton) return;
    state_ = State::Pressed;
    pressedAt_ = at;
  }
  Step move(QPoint to, Qt::MouseButtons held) {
    if (state_ == State::Idle) return Step::None;
    if (!(held & Qt::LeftButton)) return end();
    if (state_ == State::Dragging) return Step::Goes;
    if ((to - pressedAt_).manhattanLength() <= beginsAfter) return Step::None;
    state_ = State::Dragging;
    return Step::Begins;
  }
  Step release(Qt::MouseButton button) {
    if (button != Qt::LeftButton || state_ == State::Idle) return Step::None;
    return state_ == State::Pressed ? forget(), Step::Click : end();
  }
  /// It is over, whatever the button does.
  void forget() { state_ = State::Idle; }

  [[nodiscard]] bool idle() const { return state_ == State::Idle; }
  [[nodiscard]] bool dragging() const { return state_ == State::Dragging; }
  [[nodiscard]] QPoint pressedAt() const { return pressedAt_; }

 private:
  enum class State { Idle, Pressed, Dragging };
  Step end() {
    const bool dragged = state_ == State::Dragging;
    state_ = State::Idle;
    return dragged ? Step::Ends : Step::None;
  }

  State state_ = State::Idle;
  QPoint pressedAt_;
};

}  // namespace yewdrift::app
