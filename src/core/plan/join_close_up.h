// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/plan/playback_plan.h"
#include "core/plan/sample_source.h"
#include "core/session/resolved_composite.h"
#include "core/signal/fade_curve.h"
#include "core/signal/join_measure.h"

namespace yewdrift {

/// One take of a join, before gain and fades; the channels of a mic set joined by addition.
struct CloseUpSide {
  /// What is read, and where: where that is the same, so are the samples.
  struct Material {
    std::optional<Clip> clip;  // none: silence
    Frames slip;
    Span span;
    bool operator==(const Material&) const = default;
  };
  std::optional<LaneNumber> lane;
  Material material;
  std::shared_ptr<const std::vector<float>> samples;  // over the span, silence where there is no material
};

/// Both takes of a join over the same stretch of the session, handles included.
struct JoinCloseUp {
  Join join;
  Span span;
  CloseUpSide outgoing;
  CloseUpSide incoming;
  JoinMeasure measure;                    // over the crossfade, at least 10 ms
  std::shared_ptr<const FadeTable> fade;  // over the crossfade, before it is matched

  /// Of the two curves, as they are played.
  [[nodiscard]] FadeGains gainsAt(Frames at) const;
};

/// The join at `at`, seen over `span`. Throws Error where there is none. What `before` has of it, seen since
/// the files last changed, is not read again.
JoinCloseUp closeUp(const Session& session, const Track& track, Frames at, Span span, SampleSource& source,
                    const JoinCloseUp* before = nullptr);

}  // namespace yewdrift
