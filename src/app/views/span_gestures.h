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
      : desk_(desk), inHand_(inHand), recording_(recording) {}

  /// What lies under a place of a row; edges reach `reach` frames to either side.
  [[nodiscard]] Grip gripAt(Row row, Frames at, Frames reach) const;
  /// The pointer went down at `at` and has moved since.
  void begin(Row row, Frames at, Frames reach);
  /// `free` suspends snapping.
  void drag(Frames now, bool free);
  void finish();
  void cancel();
  [[nodiscard]] bool active() const { return active_; }

 private:
  void dragLoop(Frames now, bool free);
  void dragPunch(Frames now, bool free);
  [[nodiscard]] Frames snap(Frames at, bool free) const;

  SessionDesk& desk_;
  InHand& inHand_;
  RecordingDesk& recording_;
  bool active_ = false;
  Row row_ = Row::Loop;
  Grip grip_;
  Frames from_;
  std::optional<Span> loopBefore_;
  std::vector<Punch> punchesBefore_;
};

}  // namespace yewdrift::app
