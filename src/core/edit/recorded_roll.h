// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "core/session/session.h"
#include "core/time/roll_timeline.h"

namespace yewdrift {

/// How a recording was set up, before the transport rolls. Everything that is played is captured; this says
/// what of it will be heard. The audio callback, the cutting of passes and the sentence that says beforehand
/// what will happen all ask it.
struct RecordSetup {
  RollTimeline timeline;
  Frames recordFrom;              // audible from here on the first time round; before it is pre-roll
  std::vector<Span> punches;      // automatic punch: where there are any, only they are audible
  bool byHand = false;            // punched by hand: `handPunches` decide in place of recordFrom and punches
  std::vector<Span> handPunches;  // roll frames, in order; the last may end beyond the roll
  Frames roundTrip;               // what arrives at the input was played that much earlier
  Frames capturesFrom;            // frame of the roll at which its files begin
  std::optional<Frames> rolled;   // how long it rolled, once that is known: what is captured later is no pass
  PassResult result = PassResult::NewLane;
  bool hush = true;            // earlier takes are silent where it is recorded
  bool playBack = false;       // even times round play back in place of recording
  bool preRollCut = false;     // the session's start left no room for all of the pre-roll
  bool preRollFilled = false;  // and the count-in takes the place of what it left out

  /// Throws Error with a sentence where this cannot be recorded: a loop that lies before the start, punches
  /// that overlap or never come, a stop before the start.
  void check() const;
};

/// Whether what is played at a roll frame will be heard, and for how many frames on that holds.
struct Audible {
  bool audible = false;
  Frames length;
};
/// `run` is where the transport is at that frame. Punching by hand is left out: it is known only as it
/// happens. Neither allocates nor throws: the audio thread asks it.
Audible audibleAt(const RecordSetup& setup, const RollTimeline::Run& run) noexcept;

/// The files that one roll filled for one track, one a microphone, all of the same length and all starting at
/// the roll frame `capturesFrom`.
struct Capture {
  TrackId track;
  std::vector<PoolFile> files;
  std::optional<LaneNumber> into;  // the last time round goes into that lane, if it is still there
};

/// An audible window that a roll leaves: session span, and the session position of the capture's first frame
/// as this pass sees it. Latency is compensated here and nowhere else.
struct PassWindow {
  int round = 1;
  Span window;
  Frames origin;
  bool operator==(const PassWindow&) const = default;
};
/// The windows of a roll whose capture holds `captured` frames.
std::vector<PassWindow> passWindows(const RecordSetup& setup, Frames captured);
/// The frames of that capture which belong to the pass: in a loop its own time round, and half of one on
/// either side for what is played before its start and rings past its end. The next time round is another
/// take. None where all of the capture belongs to it: without a loop, and where it goes round once.
std::optional<Span> partOf(const RecordSetup& setup, const PassWindow& pass, Frames captured);

/// A lane that a recording made or went into.
struct RecordedLane {
  TrackId track;
  LaneNumber lane;
  int round = 1;
  bool setAside = false;
  bool brokenOff = false;
  bool operator==(const RecordedLane&) const = default;
};
struct Recorded {
  Session session;
  std::vector<RecordedLane> lanes;
};
/// What becomes of a pass: it is heard, it leaves the place to a whole take, or it is set aside.
enum class PassFate { Heard, BrokenOff, SetAside };
/// Says so for what `captures[index]` holds of a time round.
using JudgePass = std::function<PassFate(std::size_t index, int round)>;
/// Adds what was recorded: one lane for each time round with one clip for each window in it, and for
/// `replace` and `overdub` the picks of those that are not set aside. Where a track records into a chosen
/// lane, the last time round goes there, in place of what it played; nothing of that is deleted, and it is
/// never set aside. Passes with no window leave nothing. Where the track has other channels by now than were
/// captured, they are fitted as an import's are: the last one stands in for those that are missing.
Recorded addRecording(Session session, const RecordSetup& setup, const std::vector<Capture>& captures,
                      const JudgePass& judge = {});

/// The passes that were broken off: stopped by hand within a quarter of the loop or, without a loop and end,
/// within two seconds. Punches by hand are never among them.
bool isFalseStart(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round,
                  SampleRate rate);
/// A last time round, or a roll with a set end, that was stopped before its end.
bool isCutShort(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round);

/// The last sound of a lane within a span; none where it is silent there.
using LastSound = std::function<std::optional<Frames>(const Lane& lane, Span within)>;
/// Whether that pass broke off: it covers less than 95 % of what was to be recorded, and stops before the
/// last sound of the whole take that is there (the newest one). Where nothing said how far it was to go, and
/// it begins where that take does, it was to go as far as that take. A pass that begins later mends a place,
/// and a pass into a track without a whole take there has none to leave the place to: neither breaks off.
bool brokeOff(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round, const Track& track,
              const LastSound& lastSound);

}  // namespace yewdrift
