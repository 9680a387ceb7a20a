// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <vector>

#include "core/edit/recorded_roll.h"

namespace yewdrift {

/// A take that slipped and is picked up, once or over and over: the lanes of all attempts, and what the
/// tracks played before them. A plain value; any thread.
class PickUp {
 public:
  PickUp() = default;
  /// The first attempt is about to be recorded to these tracks.
  PickUp(const Session& session, const std::vector<TrackId>& tracks) { begins(session, tracks); }

  /// A person may have edited composites since the last call: what they edited is kept, now and whenever an
  /// attempt is taken back. To be called before anything else changes composites.
  void follow(const Session& session);
  /// An attempt was recorded to these lanes, of which there may be none; `session` holds them.
  void recorded(const std::vector<RecordedLane>& lanes, const Session& session);
  /// `session` without what the attempts play from `from` on. An attempt that holds `from` ends there, one
  /// that begins later is set aside, unless it went into a lane that a person chose. What the attempts played
  /// over plays as before.
  [[nodiscard]] Session takenBack(Session session, Frames from) const;
  /// The next attempt is about to be recorded to these tracks; `session` is what takenBack() left.
  void begins(const Session& session, const std::vector<TrackId>& tracks);

 private:
  void remember(const Session& session);

  std::vector<RecordedLane> attempts_;
  std::map<TrackId, Composite> before_;  // without any attempt
  std::map<TrackId, Composite> left_;    // at the last call
};

}  // namespace yewdrift
