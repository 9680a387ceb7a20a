// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/edit/recorded_roll.h"
#include "core/engine/engine.h"
#include "core/session/session.h"

namespace yewdrift::app {

/// Whoever captures while the transport rolls, as far as the transport and the device have to know.
class RollCompanion {
 public:
  virtual ~RollCompanion() = default;
  /// Something of this roll will be heard: nothing may tear it.
  [[nodiscard]] virtual bool recording() const = 0;
  /// A roll is captured, or its end is still being written.
  [[nodiscard]] virtual bool capturing() const = 0;
  /// Files lie in the session's folder that no session refers to yet, or any more: of what is being captured,
  /// or was given up and is not removed yet.
  [[nodiscard]] virtual bool hasFilesOfItsOwn() const = 0;
  /// Tracks whose earlier takes are hushed where it is recorded.
  [[nodiscard]] virtual std::vector<TrackId> hushed() const = 0;
  /// Play was pressed. True where it begins a recording by itself.
  virtual bool recordInstead() = 0;
  /// Rolls along, capturing; false where nothing is to be captured.
  virtual bool rollAlong(const RollTimeline& timeline, RollFrom from) = 0;
  /// What is heard is made anew. True where something else than the session is heard right now, and it has
  /// seen to that.
  virtual bool hearsInstead() = 0;
  /// Something else is about to roll: what merely stands by lets go.
  virtual void letGo() = 0;
  /// Stop was pressed: what was to follow by itself does not.
  virtual void stopped() = 0;
  /// The device is gone in the middle of it.
  virtual void deviceLost() = 0;
};

}  // namespace yewdrift::app
