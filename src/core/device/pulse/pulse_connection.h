// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <optional>
#include <string>

#include "core/device/audio_driver.h"
#include "core/device/pulse/pulse_library.h"

namespace yewdrift {

/// A connection to the PulseAudio server with a thread of its own.
class PulseConnection {
 public:
  /// Connects. `changed` is called on the connection's thread, with its lock held, when a source, a sink or
  /// the server has changed or is gone. Throws Error where no server runs or it refuses.
  explicit PulseConnection(std::function<void()> changed = {});
  ~PulseConnection();
  PulseConnection(const PulseConnection&) = delete;
  PulseConnection& operator=(const PulseConnection&) = delete;

  /// Not on the connection's thread.
  [[nodiscard]] DriverListing listing();

  // -- with lock() held, or on the connection's thread
  [[nodiscard]] pa_context* context() const { return context_; }
  [[nodiscard]] bool connected() const;
  /// What the server said last went wrong.
  [[nodiscard]] std::string problem() const;
  /// Waits until a callback signals and `done`; false where the connection ends or `seconds` pass.
  bool waitUntil(const std::function<bool()>& done, double seconds);
  void wake() { library_.pa_threaded_mainloop_signal(loop_, 0); }
  [[nodiscard]] const PulseLibrary& library() const { return library_; }

  class Lock {
   public:
    explicit Lock(const PulseConnection& connection) : connection_(connection) {
      connection_.library_.pa_threaded_mainloop_lock(connection_.loop_);
    }
    ~Lock() { connection_.library_.pa_threaded_mainloop_unlock(connection_.loop_); }
    Lock(const Lock&) = delete;
    Lock& operator=(const Lock&) = delete;

   private:
    const PulseConnection& connection_;
  };
  [[nodiscard]] Lock lock() const { return Lock(*this); }

 private:
  void subscribe();
  void close();
  void finish(pa_operation* operation);

  const PulseLibrary& library_;
  std::function<void()> changed_;
  pa_threaded_mainloop* loop_ = nullptr;
  pa_context* context_ = nullptr;
};

}  // namespace yewdrift
