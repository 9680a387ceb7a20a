// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"

namespace yewdrift::app {

/// Dragging loop and punch spans, the same on every ruler: an edge, a whole span, or a new one. A press that
/// does not move makes and destroys nothing; the view turns it into a click.
class SpanGestures {
 public:
  enum class Row { Loop, Punch };
  enum class Part { None, Start, End, Body };
  struct Grip {
    Part part = Part::None;
    std::size_t punch = 0;  // index, in the punch row
  };

  explicit SpanGestures(SessionDesk& desk, InHand& inHand, RecordingDesk& recording)
      : desk_(desk), inHand_(inHand), recording_(recording), held_(desk) {}

  /// What lies under a place of a row; edges reach `reach` frames to either side.
  [[nodiscard]] Grip gripAt(Row row, Frames at, Frames reach) const;
  /// The pointer went down at `at` and has moved since. `ended` is told when something else than finish()
  /// has ended it.
  void begin(Row row, Frames at, Frames reach, HeldEdit::OnEnded ended);
  /// `free` suspends snapping.
  void drag(Frames now, bool free);
  void finish();

 private:
  void dragLoop(Frames now, bool free);
  void dragPunch(Frames now, bool free);
  void over();
  [[nodiscard]] Frames snap(Frames at, bool free) const;

  SessionDesk& desk_;
  InHand& inHand_;
  RecordingDesk& recording_;
  HeldEdit held_;
  Row row_ = Row::Loop;
  Grip grip_;
  Frames from_;
  std::optional<Span> loopBefore_;
  std::vector<Punch> punchesBefore_;
};

}  // namespace yewdrift::app
