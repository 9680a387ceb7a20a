// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/edit/recorded_roll.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// What is being recorded, on disk from its beginning until its takes are saved, so that a crash loses
/// nothing. Each recording has a note of its own ("recording-NNN.json"). One thread at a time.
class RecordingNote {
 public:
  explicit RecordingNote(SessionDisk disk) : disk_(std::move(disk)) {}

  /// Writes it, or what has become of it since. `session` describes the tracks that are recorded to; they may
  /// be newer than what is on disk. Throws Error where the disk does not take it.
  void write(const Session& session, const RecordSetup& setup, const std::vector<Capture>& captures);
  /// Its takes are saved, or there were none.
  void forget();

 private:
  SessionDisk disk_;
  std::string name_;  // empty while there is none
};

/// The names of the notes that a session has, in order; each that is there was cut off.
std::vector<std::string> recordingNotes(const SessionDisk& disk);

/// What a note told, brought into the session as far as it is there.
struct Recovery {
  Session session;
  bool changed = false;             // takes came into it
  bool settled = true;              // nothing more can come of the note
  std::vector<Sentence> sentences;  // what was recovered, and what could not be
};
/// Brings in what a recording that was cut off left: each file that can be read, once. What of it is in the
/// pool has been brought in before. Never throws: what cannot be done is said.
Recovery recoverRecording(const SessionDisk& disk, const std::string& note, const Session& session);

}  // namespace yewdrift
