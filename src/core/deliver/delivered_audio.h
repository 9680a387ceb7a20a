// SPDX-License-Identifier: GPL-3.0-or-later
//
// One audio file of a delivery. For core/deliver only.
#pragma once

#include <functional>
#include <optional>

#include "core/session/session.h"
#include "core/store/audio_file.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// What of a session: the mix, the composite of a track, or one of its lanes.
struct AudioSource {
  std::optional<TrackId> track{};
  std::optional<LaneNumber> lane{};
};

struct DeliveredAudio {
  std::optional<Session> session{};
  AudioSource source{};
  std::optional<Span> span{};  // none: the delivered span
};

int channelsOf(const DeliveredAudio& audio);

/// Writes it over the delivered span at that rate, with the session's markers as cues where they are WAV and
/// small enough. Returns how many samples lay beyond full scale. Throws Error, also where `progress` returns
/// false.
std::int64_t writeAudio(OpenFile out, const SessionDisk& disk, const DeliveredAudio& audio,
                        AudioFileKind kind, SampleRate rate, const std::function<bool(double)>& progress);

}  // namespace yewdrift
