// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>

#include "core/engine/page_cache.h"
#include "core/plan/playback_plan.h"

namespace yewdrift {

/// A plan with the pages that its files are read into. The control thread makes it, the reader fills its
/// pages, the audio thread plays it and gives it back.
struct PreparedPlan {
  PreparedPlan(std::shared_ptr<const PlaybackPlan> made, CachedFiles cached, std::uint64_t number)
      : plan(std::move(made)), files(std::move(cached)), ticket(number), heard(plan->heard) {
    for (const MonitorPlan& monitor : plan->monitors) anyGated = anyGated || monitor.gated;
  }
  std::shared_ptr<const PlaybackPlan> plan;
  CachedFiles files;
  bool anyGated = false;
  std::uint64_t ticket;
  std::atomic<int> heard;  // of the plan's choices; see PlaybackPlan::heard
};

}  // namespace yewdrift
