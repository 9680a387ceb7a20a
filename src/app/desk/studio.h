// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTimer>

#include "app/desk/analysis_desk.h"
#include "app/desk/file_desk.h"
#include "app/desk/join_desk.h"
#include "app/desk/line_up_desk.h"
#include "app/desk/pitch_desk.h"
#include "app/desk/recording_desk.h"
#include "app/desk/rough_desk.h"

namespace yewdrift::app {

/// Where the work is done: the desks, each with its own business, and the clock they share. Views are given
/// the desks that they need.
class Studio : public QObject {
  Q_OBJECT
 public:
  /// Opens the session; throws Error. With an `Absent` device nothing sounds and tests drive the engine.
  explicit Studio(const std::filesystem::path& sessionPath, DeviceDesk::Mode mode = DeviceDesk::Mode::Normal);
  ~Studio() override;

  Messages& messages() { return messages_; }
  SessionDesk& desk() { return desk_; }
  InHand& inHand() { return inHand_; }
  Transport& transport() { return transport_; }
  DeviceDesk& device() { return device_; }
  Jobs& jobs() { return jobs_; }
  RecordingDesk& recording() { return recording_; }
  FileDesk& files() { return files_; }
  AnalysisDesk& analysis() { return analysis_; }
  ListeningDesk& listening() { return listening_; }
  PitchDesk& pitch() { return pitch_; }
  LineUpDesk& lineUp() { return lineUp_; }
  JoinDesk& joins() { return joins_; }
  RoughDesk& rough() { return rough_; }

  /// Where a test drives the device: makes a block, for when the last of what was recorded is waited for.
  void setBlockMaker(std::function<void()> makeBlock) { makeBlock_ = std::move(makeBlock); }
  /// What happens some thirty times a second by itself, unless a test drives the device.
  void tick();
  static constexpr int tickMilliseconds = 33;

 private:
  void waitForDisk(const std::function<bool()>& done);

  bool byHand_;  // nobody serves the engine unless it is asked for

  // Each knows only those before it.
  Messages messages_;
  SessionDesk desk_;
  InHand inHand_;
  AnalysisDesk analysis_;
  ListeningDesk listening_;
  Transport transport_;
  DeviceDesk device_;
  Jobs jobs_;
  RecordingDesk recording_;
  FileDesk files_;
  PitchDesk pitch_;
  LineUpDesk lineUp_;
  JoinDesk joins_;
  RoughDesk rough_;
  QTimer timer_;
  std::function<void()> makeBlock_;
};

}  // namespace yewdrift::app
