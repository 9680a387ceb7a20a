// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/plan/offline_render.h"

namespace yewdrift {

/// A composite, or a stretch of it, as one file, made but in no session yet. It was read back: what is in it
/// is what plays live, to the nearest step of its format.
struct FlattenedFile {
  PoolFile file;
  Frames origin;             // session frame of its first frame
  Span span;                 // of the composite that it takes the place of; beyond that lie its handles
  double difference = 0.0;   // the largest between what it sounds like and what plays live, of full scale 1
  std::int64_t clipped = 0;  // samples beyond full scale, cut off there where the format has no more
};

/// Where the composite plays a take as it is, bytes are copied; only what is computed is rendered. Throws
/// Error, and leaves nothing, where there is nothing to flatten, it was cancelled, or what is read back is
/// not exact for the format.
/// Of a stretch (`span`) the takes at its edges play on in the file's handles as far as the joins there fade,
/// so that these joins go on as they are. Where that would sound otherwise than before, the stretch grows by
/// the whole crossfade. The edges are rendered from the session as it will be, and compared.
FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId track,
                              const RenderProgress& progress = {}, std::optional<Span> span = {});
/// What was found on reading it back, in a sentence or two.
std::vector<Sentence> verifiedSentences(const FlattenedFile& file);

}  // namespace yewdrift
