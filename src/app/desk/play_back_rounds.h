// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "app/desk/transport.h"
#include "core/engine/recorder.h"

namespace yewdrift::app {

/// Every second time round plays the one before. The engine is told beforehand at which frame it begins and
/// ends, so that not a sample of anything else is heard in it.
class PlayBackRounds {
 public:
  PlayBackRounds(SessionDesk& desk, Transport& transport) : desk_(desk), transport_(transport) {}

  /// While it rolls.
  void follow(const Recorder& recorder);
  /// The session has changed, so what was told counts no more; what is heard right now is made anew.
  /// True where a time round plays back right now.
  bool remake(const Recorder& recorder);
  void reset() { told_ = 0; }

 private:
  [[nodiscard]] bool playsBackNow(const Recorder& recorder) const;
  [[nodiscard]] CompiledFor before(const Recorder& recorder, int round) const;

  SessionDesk& desk_;
  Transport& transport_;
  int told_ = 0;  // the time round that the engine knows of
};

}  // namespace yewdrift::app
