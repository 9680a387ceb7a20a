// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <boost/lockfree/spsc_queue.hpp>

#include "core/engine/engine.h"

namespace yewdrift {

/// From one thread to one other, of fixed room; neither side waits or allocates.
template <typename T, std::size_t Room>
using SpscQueue = boost::lockfree::spsc_queue<T, boost::lockfree::capacity<Room>>;

/// Made with room for far more than is ever under way; the audio thread only ever tries.
struct Engine::Queues {
  /// The newest plan that the audio thread has not taken yet; a newer one takes its place.
  std::atomic<PreparedPlan*> plan{nullptr};
  SpscQueue<Order, 1024> orders;
  SpscQueue<Order, 4096> returned;
  SpscQueue<EngineEvent, 4096> events;
  static constexpr std::size_t roomForPunches = 1024;
};

}  // namespace yewdrift
