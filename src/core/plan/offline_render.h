// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <filesystem>
#include <functional>
#include <optional>

#include "core/session/session.h"
#include "core/store/session_disk.h"

namespace yewdrift {

struct RenderRequest {
  std::optional<TrackId> track;        // alone, before gain and pan; none: the stereo mix
  std::optional<LaneNumber> lane;      // of the track: that lane alone in place of its composite
  std::optional<Span> span;            // none: from the first to the last frame with material
  std::optional<SampleFormat> format;  // none: the session's
  bool timeStamped = false;
};

/// Called now and then with the share done, 0..1; returning false cancels.
using RenderProgress = std::function<bool(double)>;

struct Rendered {
  Span span;
  int channels = 1;
};

/// Renders to a WAV file, block by block through the same renderer that plays. Takes at another pitch are
/// made first where they are not there. It takes the place of a file that is there once it is whole. Throws
/// Error, and leaves what was there, where there is nothing to render, it cannot be written, it would lie in
/// the session, or it was cancelled.
Rendered renderToFile(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                      const std::filesystem::path& out, const RenderProgress& progress = {});

/// A composite as one file, made but in no session yet.
struct FlattenedFile {
  PoolFile file;
  Frames origin;
};
FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId track,
                              const RenderProgress& progress = {});

/// Renders the track's composite to a new pool file and returns the session in which that takes its place.
Session flatten(const SessionDisk& disk, const Session& session, TrackId track,
                const RenderProgress& progress = {});

}  // namespace yewdrift
