// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/plan/offline_render.h"

namespace yewdrift {

/// A composite, or a stretch of it, as one file, made but in no session yet. It was read back: what is in it
/// is what plays live, to the nearest step of its format.
struct FlattenedFile {
  PoolFile file;
  Frames origin;
  double difference = 0.0;   // the largest between a sample of it and what plays live, of full scale 1
  std::int64_t clipped = 0;  // samples beyond full scale, cut off there where the format has no more
};

/// Where the composite plays a take as it is, bytes are copied; only what is computed is rendered. Throws
/// Error, and leaves nothing, where there is nothing to flatten, it was cancelled, or what is read back is
/// not exact for the format.
FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId track,
                              const RenderProgress& progress = {}, std::optional<Span> span = {});
/// What was found on reading it back, in a sentence or two.
std::vector<Sentence> verifiedSentences(const FlattenedFile& file);

}  // namespace yewdrift
