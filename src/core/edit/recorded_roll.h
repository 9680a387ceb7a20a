// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/session/session.h"
#include "core/time/roll_timeline.h"

namespace yewdrift {

/// What a pass does to what was there; no choice destroys audio.
enum class PassResult { NewLane, Replace, Overdub };

/// How a recording was set up, before the transport rolls.
struct RecordSetup {
  RollTimeline timeline;
  Frames recordFrom;          // audible from here on the first time round; before it is pre-roll
  std::vector<Span> punches;  // where there are any, only they are audible
  Frames roundTrip;           // what arrives at the input was played that much earlier
  PassResult result = PassResult::NewLane;

  /// Throws Error with a sentence where this cannot be recorded: a loop that lies before the start, punches
  /// that overlap or never come, a stop before the start.
  void check() const;
};

/// The files that one roll filled for one track, one a microphone, all of the same length and all starting at
/// roll frame 0.
struct Capture {
  TrackId track;
  std::vector<PoolFile> files;
};

/// An audible window that a roll leaves: session span, and the session position of the capture's first frame
/// as this pass sees it. Latency is compensated here and nowhere else.
struct PassWindow {
  int round = 1;
  Span window;
  Frames origin;
};
/// The windows of a roll whose capture holds `captured` frames.
std::vector<PassWindow> passWindows(const RecordSetup& setup, Frames captured);

/// Adds what was recorded: one lane for each time round with one clip for each window in it, and for
/// `replace` and `overdub` the picks. Passes with no window leave nothing.
Session addRecording(Session session, const RecordSetup& setup, const std::vector<Capture>& captures);

}  // namespace yewdrift
