// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "core/engine/capture.h"
#include "core/store/recording_note.h"

namespace yewdrift {

/// One recording from its files on disk to its lanes in the session. Made before the transport rolls; a note
/// in the folder says what is being recorded, so that a crash at any moment leaves something to recover from.
class Recorder {
 public:
  /// Throws Error, and leaves nothing, where the setup cannot be recorded or the files cannot be made.
  Recorder(const SessionDisk& disk, const Session& session, RecordSetup setup,
           const std::vector<TrackId>& tracks);

  [[nodiscard]] const RecordSetup& setup() const { return setup_; }
  [[nodiscard]] const std::shared_ptr<CaptureStream>& stream() const { return stream_; }
  /// Whose material file `index` of the stream is.
  [[nodiscard]] const std::vector<Capture>& captures() const { return captures_; }
  /// True while nothing that was captured would be audible.
  [[nodiscard]] bool standsBy() const { return setup_.byHand && setup_.handPunches.empty(); }

  /// While it stands by, what was chosen since counts: what a pass does, hushing, the lane it goes into.
  void followOptions(const Session& session);
  /// Whether the tracks it captures are there still, with the inputs that they had when it began.
  [[nodiscard]] bool hears(const Session& session) const;
  /// It began where another roll was, at that position.
  void wentOnFrom(Frames position) { setup_.timeline = goingOnFrom(setup_.timeline, position); }
  /// As a relay: it captures from that frame of its roll on.
  void capturesFrom(Frames rollFrame) { setup_.capturesFrom = rollFrame; }
  /// The transport was punched by hand at that roll frame; what it means for the lanes is noted on disk.
  void punched(Frames rollFrame, bool in);
  /// The device lost something before what it delivered at that roll frame; it becomes a marker there.
  void dropout(Frames rollFrame) { dropouts_.push_back(rollFrame); }
  [[nodiscard]] const std::vector<Frames>& dropouts() const { return dropouts_; }

  /// The session with what is recorded until the roll has come to that frame, for playing it back while the
  /// roll goes on.
  [[nodiscard]] Recorded until(const Session& session, Frames rolled) const;

  /// "Record 3 passes": what undo will name.
  [[nodiscard]] Sentence label() const;
  /// Nothing of it is audible.
  [[nodiscard]] bool nothing() const { return passWindows(ended(), stream_->body()).empty(); }

  struct Result {
    Session session;
    std::vector<RecordedLane> lanes;
    int setAside = 0;   // of them
    int brokenOff = 0;  // likewise
  };
  /// What ended a recording, which decides how its last pass is judged.
  enum class Ended {
    ByHand,      // a person did, or its set end
    AsPlanned,   // what played along came to its end: as by hand, but nothing of it is broken off
    ByAccident,  // a lost device or a full disk did: nothing is set aside
    ToGoOn,      // the recording goes on from a little before: nothing of it is broken off
  };
  /// The session with what was recorded and its dropouts marked. Where the session's options say so, empty
  /// last passes and false starts are set aside, and a pass that broke off leaves its place to a whole take.
  /// The stream's body must be written; what is captured after it will be a handle. Once all of it is safe
  /// and the result is saved, call forgetNote().
  [[nodiscard]] Result finished(const Session& session, Ended ended = Ended::ByHand) const;
  void forgetNote();
  /// Removes the note and the files of a roll in which nothing was punched. The stream must be closed.
  void abandon();

 private:
  [[nodiscard]] std::vector<CaptureFile> makeFiles(const Session& session,
                                                   const std::vector<TrackId>& tracks);
  void writeNote();
  [[nodiscard]] std::vector<Capture> capturesOf(Frames length) const;
  [[nodiscard]] RecordSetup ended() const;
  [[nodiscard]] float loudestIn(const Capture& capture, Span window, Frames origin) const;

  SessionDisk disk_;
  RecordingNote note_;
  Session session_;  // as it was when the roll began
  RecordSetup setup_;
  std::vector<Capture> captures_;
  std::vector<Frames> dropouts_;  // roll frames
  std::shared_ptr<CaptureStream> stream_;
};

/// A setup with one more punch by hand.
RecordSetup withHandPunch(RecordSetup setup, Frames rollFrame, bool in);

}  // namespace yewdrift
