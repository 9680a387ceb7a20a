// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <pulse/pulseaudio.h>

#include "core/device/shared_library.h"

namespace yewdrift {

// clang-format off
#define YEWDRIFT_PULSE_FUNCTIONS(USE) \
  USE(pa_threaded_mainloop_new) USE(pa_threaded_mainloop_free) USE(pa_threaded_mainloop_start) \
  USE(pa_threaded_mainloop_stop) USE(pa_threaded_mainloop_lock) USE(pa_threaded_mainloop_unlock) \
  USE(pa_threaded_mainloop_wait) USE(pa_threaded_mainloop_signal) USE(pa_threaded_mainloop_get_api) \
  USE(pa_context_new) USE(pa_context_unref) USE(pa_context_connect) USE(pa_context_disconnect) \
  USE(pa_context_get_state) USE(pa_context_set_state_callback) USE(pa_context_errno) \
  USE(pa_context_get_server_info) USE(pa_context_get_source_info_list) USE(pa_context_get_sink_info_list) \
  USE(pa_context_get_source_info_by_name) USE(pa_context_subscribe) USE(pa_context_set_subscribe_callback) \
  USE(pa_operation_unref) USE(pa_operation_get_state) USE(pa_strerror) USE(pa_stream_new) \
  USE(pa_stream_unref) USE(pa_stream_disconnect) USE(pa_stream_connect_record) \
  USE(pa_stream_connect_playback) USE(pa_stream_get_state) USE(pa_stream_set_state_callback) \
  USE(pa_stream_set_read_callback) USE(pa_stream_set_write_callback) USE(pa_stream_set_overflow_callback) \
  USE(pa_stream_peek) USE(pa_stream_drop) USE(pa_stream_readable_size) USE(pa_stream_write) \
  USE(pa_stream_get_buffer_attr)
// clang-format on

/// The functions of PulseAudio's library that are used here, called as it names them.
struct PulseLibrary {
// A name that is declared cannot stand in parentheses. NOLINTNEXTLINE(bugprone-macro-parentheses)
#define USE(name) decltype(&::name) name = nullptr;
  YEWDRIFT_PULSE_FUNCTIONS(USE)
#undef USE

  /// Null where this machine has no PulseAudio.
  static const PulseLibrary* get() {
    static const PulseLibrary loaded;
    return loaded.library_.open() ? &loaded : nullptr;
  }

 private:
  PulseLibrary() {
#define USE(name) library_.load(#name, this->name);
    YEWDRIFT_PULSE_FUNCTIONS(USE)
#undef USE
  }
  SharedLibrary library_{"libpulse.so.0"};
};

}  // namespace yewdrift
