// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <vector>

#include "core/plan/file_sample_source.h"
#include "core/session/resolved_composite.h"
#include "core/signal/join_measure.h"

namespace yewdrift {

/// Both takes of a join over the same stretch of the session, handles included, before gain and fades; the
/// channels of a mic set joined by addition. Silence where a side has no material.
struct JoinCloseUp {
  Join join;
  std::optional<LaneNumber> outgoingLane;
  std::optional<LaneNumber> incomingLane;
  Span span;
  std::vector<float> outgoing;
  std::vector<float> incoming;
  std::vector<float> outGains;  // of the two curves, over `span`
  std::vector<float> inGains;
  JoinMeasure measure;  // over the crossfade, at least 10 ms
};

/// The join at `at`, seen over `span`. Throws Error where there is none.
JoinCloseUp closeUp(const Session& session, const Track& track, Frames at, Span span, SampleSource& source);

}  // namespace yewdrift
