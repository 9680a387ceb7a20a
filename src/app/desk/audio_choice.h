// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <vector>

#include "core/device/audio_device.h"

namespace yewdrift::app {

/// The audio device a person chose, with its settings; kept with the user's settings, not with the session.
struct AudioChoice {
  QString driver = "Simulated";  // empty: the best that is there
  QString source;                // id; empty: the system's default, also when that changes
  QString sink;
  bool takeUpAgain = true;  // a device that was lost, when it is back
  int blockFrames = 256;
  int inputs = 0;  // 0: as many as the session's tracks ask for
  // of the simulated interface
  int simulatedRoundTrip = 640;
  int dropoutEveryBlocks = 0;
  bool patched = false;
  std::vector<Patch> patches;  // as a person had patched it, where the driver has ports
  bool operator==(const AudioChoice&) const = default;
};

/// Without a driver where nothing was ever chosen.
AudioChoice savedAudioChoice();
void saveAudioChoice(const AudioChoice& choice);

}  // namespace yewdrift::app
