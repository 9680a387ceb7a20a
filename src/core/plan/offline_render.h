// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <filesystem>
#include <functional>
#include <optional>

#include "core/sentence.h"
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

/// What is rendered, block by block and in order: interleaved samples, frames.
using RenderSink = std::function<void(const float*, std::int64_t)>;

struct Rendered {
  Span span;
  int channels = 1;
};

/// Renders into what `begin` returns for the span and the channels there are. Takes at another pitch are made
/// first. Throws Error where there is nothing to render, or where it was cancelled.
Rendered renderBlocks(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                      const std::function<RenderSink(const Rendered&)>& begin,
                      const RenderProgress& progress = {});

/// Renders to a WAV file, block by block through the same renderer that plays. Takes at another pitch are
/// made first where they are not there. It takes the place of a file that is there once it is whole. Throws
/// Error, and leaves what was there, where there is nothing to render, it cannot be written, it would lie in
/// the session, or it was cancelled.
Rendered renderToFile(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                      const std::filesystem::path& out, const RenderProgress& progress = {});

}  // namespace yewdrift
