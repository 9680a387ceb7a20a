// SPDX-License-Identifier: GPL-3.0-or-later
#include <alsa/asoundlib.h>
#include <poll.h>

#include <array>
#include <atomic>
#include <map>
#include <mutex>
#include <thread>

#include "core/device/alsa/alsa_driver.h"
#include "core/device/control_source.h"

namespace yewdrift {
namespace {

/// A client of ALSA's sequencer; the system's announcements say what is plugged in and out.
class AlsaControl : public ControlSource {
 public:
  using Sequencer = std::unique_ptr<snd_seq_t, int (*)(snd_seq_t*)>;

  AlsaControl(Sequencer sequencer, Heard heard) : heard_(std::move(heard)), sequencer_(std::move(sequencer)) {
    snd_seq_set_client_name(sequencer_.get(), "Yewdrift");
    port_ = snd_seq_create_simple_port(sequencer_.get(), "control",
                                       SND_SEQ_PORT_CAP_WRITE | SND_SEQ_PORT_CAP_SUBS_WRITE,
                                       SND_SEQ_PORT_TYPE_MIDI_GENERIC | SND_SEQ_PORT_TYPE_APPLICATION);
    snd_seq_connect_from(sequencer_.get(), port_, SND_SEQ_CLIENT_SYSTEM, SND_SEQ_PORT_SYSTEM_ANNOUNCE);
    snd_midi_event_t* decoder = nullptr;
    if (snd_midi_event_new(64, &decoder) == 0) decoder_.reset(decoder);
    if (decoder_) snd_midi_event_no_status(decoder_.get(), 1);
    lookAtAll();
    thread_ = std::thread([this] { loop(); });
  }
  ~AlsaControl() override {
    running_ = false;
    thread_.join();
  }
  AlsaControl(const AlsaControl&) = delete;
  AlsaControl& operator=(const AlsaControl&) = delete;

  [[nodiscard]] std::vector<std::string> names() const override {
    const std::lock_guard guard(mutex_);
    std::vector<std::string> names{"ALSA: Yewdrift control"};
    for (const auto& [address, name] : connected_) names.push_back("ALSA: " + name);
    return names;
  }

 private:
  using Address = std::pair<int, int>;

  void lookAtAll() {
    snd_seq_client_info_t* client = nullptr;
    snd_seq_client_info_alloca(&client);
    snd_seq_port_info_t* port = nullptr;
    snd_seq_port_info_alloca(&port);
    snd_seq_client_info_set_client(client, -1);
    while (snd_seq_query_next_client(sequencer_.get(), client) >= 0) {
      snd_seq_port_info_set_client(port, snd_seq_client_info_get_client(client));
      snd_seq_port_info_set_port(port, -1);
      while (snd_seq_query_next_port(sequencer_.get(), port) >= 0) connect(port);
    }
  }

  void connect(snd_seq_port_info_t* port) {
    constexpr unsigned readable = SND_SEQ_PORT_CAP_READ | SND_SEQ_PORT_CAP_SUBS_READ;
    const Address address{snd_seq_port_info_get_client(port), snd_seq_port_info_get_port(port)};
    if (address.first == snd_seq_client_id(sequencer_.get()) || address.first == SND_SEQ_CLIENT_SYSTEM)
      return;
    if ((snd_seq_port_info_get_capability(port) & readable) != readable) return;
    if (snd_seq_connect_from(sequencer_.get(), port_, address.first, address.second) < 0) return;
    const std::lock_guard guard(mutex_);
    connected_[address] = snd_seq_port_info_get_name(port);
  }

  void loop() {
    std::array<pollfd, 8> waiting{};
    while (running_) {
      const int count = snd_seq_poll_descriptors(sequencer_.get(), waiting.data(), waiting.size(), POLLIN);
      (void)poll(waiting.data(), static_cast<nfds_t>(count), 200);
      snd_seq_event_t* event = nullptr;
      while (snd_seq_event_input(sequencer_.get(), &event) >= 0 && event) take(*event);
    }
  }

  void take(const snd_seq_event_t& event) {
    if (event.type == SND_SEQ_EVENT_PORT_START) {
      snd_seq_port_info_t* port = nullptr;
      snd_seq_port_info_alloca(&port);
      if (snd_seq_get_any_port_info(sequencer_.get(), event.data.addr.client, event.data.addr.port, port) >=
          0)
        connect(port);
      return;
    }
    if (event.type == SND_SEQ_EVENT_PORT_EXIT) {
      const std::lock_guard guard(mutex_);
      connected_.erase({event.data.addr.client, event.data.addr.port});
      return;
    }
    std::array<unsigned char, 64> bytes{};
    const long count =
        decoder_ ? snd_midi_event_decode(decoder_.get(), bytes.data(), bytes.size(), &event) : 0;
    if (count > 0) heard_({bytes.data(), static_cast<std::size_t>(count)});
  }

  Heard heard_;
  Sequencer sequencer_;
  int port_ = -1;
  std::unique_ptr<snd_midi_event_t, void (*)(snd_midi_event_t*)> decoder_{nullptr, &snd_midi_event_free};
  mutable std::mutex mutex_;
  std::map<Address, std::string> connected_;
  std::atomic<bool> running_{true};
  std::thread thread_;
};

}  // namespace

std::unique_ptr<ControlSource> openAlsaControl(ControlSource::Heard heard) {
  quietAlsa();
  snd_seq_t* opened = nullptr;
  if (snd_seq_open(&opened, "default", SND_SEQ_OPEN_INPUT, SND_SEQ_NONBLOCK) < 0) return nullptr;
  return std::make_unique<AlsaControl>(AlsaControl::Sequencer(opened, &snd_seq_close), std::move(heard));
}

}  // namespace yewdrift
