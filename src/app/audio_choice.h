// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <optional>

#include "core/time/frames.h"

namespace yewdrift::app {

/// The audio device a person chose, with its settings; kept with the user's settings, not with the session.
struct AudioChoice {
  QString driver = "Simulated";
  QString device;
  int blockFrames = 256;
  int inputs = 0;  // 0: as many as the session's tracks ask for
  // of the simulated interface
  int simulatedRoundTrip = 640;
  int dropoutEveryBlocks = 0;
  bool patched = false;
  bool operator==(const AudioChoice&) const = default;
};

AudioChoice savedAudioChoice();
void saveAudioChoice(const AudioChoice& choice);

/// A measured round trip is stored for each driver, device, rate and block size.
std::optional<Frames> savedRoundTrip(const AudioChoice& choice, SampleRate rate, int blockFrames);
void saveRoundTrip(const AudioChoice& choice, SampleRate rate, int blockFrames, Frames roundTrip);

}  // namespace yewdrift::app
