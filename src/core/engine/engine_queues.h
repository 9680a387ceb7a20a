// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <readerwriterqueue/readerwriterqueue.h>

#include "core/engine/engine.h"

namespace yewdrift {

/// Made with room for far more than is ever under way; the audio thread only ever tries.
struct Engine::Queues {
  moodycamel::ReaderWriterQueue<Order> orders{1024};
  moodycamel::ReaderWriterQueue<Order> returned{4096};
  moodycamel::ReaderWriterQueue<EngineEvent> events{4096};
  static constexpr std::size_t mostDropouts = 3072;
};

}  // namespace yewdrift
