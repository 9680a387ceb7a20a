// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <vector>

#include "core/plan/file_sample_source.h"
#include "core/plan/pitched_files.h"
#include "core/session/resolved_composite.h"

namespace yewdrift {

/// One take of a join, as it is heard: one signal for each of the track's channels.
using SideSamples = std::vector<std::vector<float>>;

/// Lets single pieces of a session be heard, through the renderer that plays them. One thread at a time.
class PieceListener {
 public:
  explicit PieceListener(const SessionDisk& disk) : disk_(disk), pitched_(disk) {}

  /// What `piece` would play all over `span`, handles included, with its gains, lines, pitch and slip.
  /// Silence where it has no material.
  SideSamples hear(const Session& session, const Track& track, const Piece& piece, Span span);

 private:
  SampleSource& sourceFor(const Session& session);

  SessionDisk disk_;
  PitchedFiles pitched_;
  std::optional<Shared<std::vector<PoolFile>>> pool_;
  std::size_t derived_ = 0;  // how many derived files the source knows
  std::optional<FileSampleSource> source_;
};

/// How far the material of `piece`, heard at `edge`, goes on both ways without a break, within `around`. All
/// of that where it plays silence.
Span materialAround(const Track& track, const Piece& piece, Frames edge, Span around);

}  // namespace yewdrift
