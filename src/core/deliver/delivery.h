// SPDX-License-Identifier: GPL-3.0-or-later
//
// Handing a session over: files that others open without guessing.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/sentence.h"
#include "core/session/session.h"
#include "core/store/audio_file.h"
#include "core/store/session_disk.h"

namespace yewdrift {

enum class Deliverable {
  Mix,         // one file: all tracks as they are heard, or those that were chosen
  Stems,       // every track as the mix hears it; together they are the mix
  Takes,       // every lane alone
  Composites,  // of every track, before gain and pan; those that are kept too
  Tempo,       // tempo, meter and markers as a Standard MIDI File
  Markers,     // as text; WAV files carry them as cues too
  Edits,       // the edit list, as JSON and as text
  Sheet,       // the take sheet, as HTML
};
const std::vector<std::pair<std::string, Deliverable>>& deliverables();

struct DeliveryWish {
  std::set<Deliverable> what;
  Container container = Container::Wave;
  std::optional<SampleFormat> format{};  // none: the session's; in FLAC 24 bit where that is floating point
  std::optional<SampleRate> rate{};      // none: the session's
  bool dither = true;                    // to 16 bit, where there is more
  std::vector<TrackId> tracks{};         // whose audio is delivered; empty: all
  double tailSeconds = 2.0;              // of the mix: silence after its last frame, 0..60
};

/// A file that is, or would be, delivered.
struct Delivered {
  std::string name;  // relative to the folder
  std::uint64_t bytes = 0;
  bool estimated = false;
};

struct Delivery {
  std::vector<Delivered> files;
  std::vector<Sentence> notices;  // what was cut off at full scale
};

/// All audio begins at the session's start, or at its first material where that is earlier, and ends with
/// the last: so every file lies where it belongs. The mix ends after its own last frame and its tail.
Span deliveredSpan(const Session& session);

/// What would be written, without writing it. Throws Error where a wish cannot be met, and where nothing is
/// to be delivered.
Delivery planDelivery(const SessionDisk& disk, const Session& session, const DeliveryWish& wish);

/// Writes it into a folder, which is made where it is missing. Never replaces a file: where one of these
/// names is taken nothing is written. Called with the share done; returning false cancels. Where it throws
/// Error, what it had written is gone.
Delivery deliver(const SessionDisk& disk, const Session& session, const DeliveryWish& wish,
                 const std::filesystem::path& folder, const std::function<bool(double)>& progress = {});

}  // namespace yewdrift
