// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <pipewire/extensions/metadata.h>
#include <pipewire/filter.h>
#include <pipewire/pipewire.h>

#include "core/device/shared_library.h"

namespace yewdrift {

// clang-format off
#define YEWDRIFT_PIPEWIRE_FUNCTIONS(USE) \
  USE(pw_init) USE(pw_thread_loop_new) USE(pw_thread_loop_destroy) USE(pw_thread_loop_start) \
  USE(pw_thread_loop_stop) USE(pw_thread_loop_lock) USE(pw_thread_loop_unlock) USE(pw_thread_loop_signal) \
  USE(pw_thread_loop_timed_wait) USE(pw_thread_loop_get_loop) USE(pw_context_new) USE(pw_context_destroy) \
  USE(pw_context_connect) USE(pw_core_disconnect) USE(pw_properties_new_dict) USE(pw_filter_new) \
  USE(pw_filter_destroy) USE(pw_filter_add_listener) USE(pw_filter_add_port) USE(pw_filter_connect) \
  USE(pw_filter_get_node_id) USE(pw_filter_get_dsp_buffer) USE(pw_filter_dequeue_buffer) \
  USE(pw_filter_queue_buffer) USE(pw_proxy_destroy)
// clang-format on

/// The functions of PipeWire's library that are used here, called as it names them.
struct PipeWireLibrary {
// A name that is declared cannot stand in parentheses. NOLINTNEXTLINE(bugprone-macro-parentheses)
#define USE(name) decltype(&::name) name = nullptr;
  YEWDRIFT_PIPEWIRE_FUNCTIONS(USE)
#undef USE

  /// Null where this machine has no PipeWire.
  static const PipeWireLibrary* get() {
    static const PipeWireLibrary loaded;
    return loaded.library_.open() ? &loaded : nullptr;
  }

 private:
  PipeWireLibrary() {
#define USE(name) library_.load(#name, this->name);
    YEWDRIFT_PIPEWIRE_FUNCTIONS(USE)
#undef USE
    if (library_.open()) this->pw_init(nullptr, nullptr);
  }
  SharedLibrary library_{"libpipewire-0.3.so.0"};
};

}  // namespace yewdrift
