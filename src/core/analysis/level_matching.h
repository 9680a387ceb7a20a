// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>

#include "core/analysis/take_analysis.h"

namespace yewdrift {

/// By how much takes are turned to be equally loud over a stretch.
struct LevelMatching {
  std::map<LaneNumber, Decibels> lanes;  ///< those not set aside
  Decibels composite;
  bool measured = false;  ///< all of them; else some are left as they are
  bool operator==(const LevelMatching&) const = default;
};

/// Of the track's takes and its composite in [span), by loudness after ITU-R BS.1770, their microphones mixed
/// by their gains; none is turned up so far that it would pass full scale behind the track's gain.
/// `compositeStays`: the others are turned to it.
LevelMatching matchLevels(const Session& session, const Track& track, Span span, const FindAnalysis& find,
                          bool compositeStays);

/// The same again and again: takes that did not change since are not looked at anew. One thread.
class LevelMatcher {
 public:
  LevelMatching match(const Session& session, const Track& track, Span span, const FindAnalysis& find,
                      bool compositeStays);

 private:
  Loudness loudnessIn(const Shared<Lane>& lane, const FindAnalysis& find);

  struct Known {
    Shared<Lane> lane;
    Loudness loudness;
  };
  std::vector<Known> known_;
  Span span_;
  std::vector<Microphone> microphones_;
  LevelLine ridden_;  // by which all takes are turned as they are heard
};

}  // namespace yewdrift
