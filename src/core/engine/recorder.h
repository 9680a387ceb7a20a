// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "core/engine/capture.h"
#include "core/store/session_folder.h"

namespace yewdrift {

/// One recording from its files on disk to its lanes in the session. Made before the transport rolls; writes
/// a note into the folder, so that a crash at any moment leaves something to recover from.
class Recorder {
 public:
  /// Throws Error where the setup cannot be recorded or the files cannot be made.
  Recorder(SessionFolder& folder, const Session& session, RecordSetup setup,
           const std::vector<TrackId>& tracks);

  [[nodiscard]] const RecordSetup& setup() const { return setup_; }
  [[nodiscard]] const std::shared_ptr<CaptureStream>& stream() const { return stream_; }
  /// Whose material file `index` of the stream is.
  [[nodiscard]] const std::vector<Capture>& captures() const { return captures_; }

  /// The session with what was recorded. The stream must be closed; once the result is saved, call
  /// forgetNote().
  [[nodiscard]] Session finished(const Session& session) const;
  void forgetNote();

 private:
  SessionFolder& folder_;
  RecordSetup setup_;
  std::vector<Capture> captures_;
  std::shared_ptr<CaptureStream> stream_;
};

/// "Record 3 passes": what undo will name.
std::string recordingLabel(const RecordSetup& setup, Frames captured);

}  // namespace yewdrift
