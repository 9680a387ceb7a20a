// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"

namespace yewdrift::app {

/// Dragging loop and punch spans, the same on every ruler: a drag draws a new span, also inside one that is
/// there; a drag at an edge moves the edge; with Ctrl a drag moves the whole span. A press that does not move
/// makes and destroys nothing; the view turns it into a click.
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
  /// The pointer went down at `at` and has moved since; `moves`: with Ctrl. `ended` is told when something
  /// else than finish() has ended it.
  void begin(Row row, Frames at, Frames reach, bool moves, HeldEdit::OnEnded ended);
  /// `free` suspends snapping.
  void drag(Frames now, bool free);
  /// A sentence where the drag did nothing, and why; empty where it did something.
  QString finish();

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
  bool drawn_ = true;  // what is drawn has some length
  std::optional<Span> loopBefore_;
  std::vector<Punch> punchesBefore_;
};

}  // namespace yewdrift::app
