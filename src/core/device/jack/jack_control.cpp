// SPDX-License-Identifier: GPL-3.0-or-later
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <thread>

#include "core/device/control_source.h"
#include "core/device/jack/jack_library.h"

namespace yewdrift {
namespace {

class JackControl : public ControlSource {
 public:
  JackControl(const JackLibrary& jack, JackLibrary::Client client, Heard heard)
      : jack_(jack), heard_(std::move(heard)), client_(std::move(client)) {
    port_ = jack_.jack_port_register(client_.get(), "control", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
    jack_.jack_set_process_callback(client_.get(), &JackControl::process, this);
    jack_.jack_set_port_registration_callback(
        client_.get(), [](jack_port_id_t, int, void* self) { static_cast<JackControl*>(self)->look(); },
        this);
    // A person may patch others to it.
    jack_.jack_set_port_connect_callback(
        client_.get(),
        [](jack_port_id_t, jack_port_id_t, int, void* self) { static_cast<JackControl*>(self)->look(); },
        this);
    jack_.jack_on_info_shutdown(
        client_.get(),
        [](jack_status_t, const char*, void* self) { static_cast<JackControl*>(self)->gone_ = true; }, this);
    jack_.jack_activate(client_.get());
    worker_ = std::thread([this] { work(); });
    look();
  }
  ~JackControl() override {
    {
      const std::lock_guard guard(mutex_);
      ending_ = true;
    }
    wake_.notify_one();
    worker_.join();
    client_.reset();
  }
  JackControl(const JackControl&) = delete;
  JackControl& operator=(const JackControl&) = delete;

  [[nodiscard]] std::vector<std::string> names() const override {
    const std::lock_guard guard(mutex_);
    std::vector<std::string> names{"JACK: Yewdrift control"};
    for (const std::string& each : connected_) names.push_back("JACK: " + each);
    return names;
  }

 private:
  void look() {
    {
      const std::lock_guard guard(mutex_);
      wanted_ = true;
    }
    wake_.notify_one();
  }

  /// The server must not be asked for connections from within its own callbacks.
  void work() {
    std::unique_lock guard(mutex_);
    for (;;) {
      wake_.wait(guard, [this] { return wanted_ || ending_; });
      if (ending_) return;
      wanted_ = false;
      if (!gone_ && port_) {
        guard.unlock();
        std::vector<std::string> found = connectAll();
        guard.lock();
        connected_ = std::move(found);
      }
    }
  }

  /// What it listens to then.
  [[nodiscard]] std::vector<std::string> connectAll() const {
    for (const std::string& source :
         jack_.ports(client_.get(), JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput | JackPortIsPhysical))
      jack_.jack_connect(client_.get(), source.c_str(), jack_.jack_port_name(port_));
    return jack_.connectionsOf(client_.get(), port_);
  }

  static int process(jack_nframes_t frames, void* self) {
    auto* me = static_cast<JackControl*>(self);
    void* buffer = me->port_ ? me->jack_.jack_port_get_buffer(me->port_, frames) : nullptr;
    if (!buffer) return 0;
    for (jack_nframes_t i = 0; i < me->jack_.jack_midi_get_event_count(buffer); ++i) {
      jack_midi_event_t event;
      if (me->jack_.jack_midi_event_get(&event, buffer, i) == 0) me->heard_({event.buffer, event.size});
    }
    return 0;
  }

  const JackLibrary& jack_;
  Heard heard_;
  jack_port_t* port_ = nullptr;
  std::atomic<bool> gone_{false};
  mutable std::mutex mutex_;
  std::condition_variable wake_;
  bool wanted_ = false;
  bool ending_ = false;
  std::vector<std::string> connected_;
  std::thread worker_;
  JackLibrary::Client client_;
};

}  // namespace

std::unique_ptr<ControlSource> openJackControl(ControlSource::Heard heard) {
  const JackLibrary* jack = JackLibrary::get();
  JackLibrary::Client client = jack ? jack->open("Yewdrift") : nullptr;
  return client ? std::make_unique<JackControl>(*jack, std::move(client), std::move(heard)) : nullptr;
}

}  // namespace yewdrift
