// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <vector>

#include "app/desk/session_desk.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"

namespace yewdrift::app {

/// Keeps what is captured while standing by from growing all night. After some minutes another capture begins
/// beside the first; once that holds enough to be a handle, the first goes. So whenever it is punched, at
/// least a minute before the punch is there.
class StandbyRelay {
 public:
  static constexpr double relaysAfterSeconds = 300.0;
  static constexpr double handleSeconds = 60.0;

  StandbyRelay(SessionDesk& desk, Engine& engine) : desk_(desk), engine_(engine) {}

  struct Relieved {
    std::unique_ptr<Recorder> recorder;  // that stands by from here on
    RollNumber roll = 0;
  };
  /// While `standing` stands by; what has come to take its place, where it is time.
  std::optional<Relieved> follow(const Recorder& standing, Frames rollFrame,
                                 const std::vector<TrackId>& tracks);
  /// The engine says that roll `event.roll` began to capture.
  void relayed(const EngineEvent& event);
  /// It is not wanted any more: what it made is to be thrown away, once its stream is closed.
  [[nodiscard]] std::unique_ptr<Recorder> drop();

 private:
  SessionDesk& desk_;
  Engine& engine_;
  std::unique_ptr<Recorder> next_;
  RollNumber roll_ = 0;
  bool captures_ = false;
  Frames refusedAt_;  // no file could be made there
};

}  // namespace yewdrift::app
