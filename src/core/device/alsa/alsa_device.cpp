// SPDX-License-Identifier: GPL-3.0-or-later
#include <poll.h>
#include <pthread.h>
#include <sys/inotify.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <mutex>
#include <thread>
#include <utility>

#include "core/device/alsa/alsa_driver.h"
#include "core/device/alsa/alsa_pcm.h"
#include "core/device/device_life.h"
#include "core/device/driver_of.h"
#include "core/device/elastic_output.h"
#include "core/device/rate_bridge.h"
#include "core/error.h"

namespace yewdrift {
namespace {

using Clock = std::chrono::steady_clock;

void ignore(const char*, int, const char*, int, const char*, ...) {}

void addCards(DriverListing& listing) {
  for (int card = -1; snd_card_next(&card) == 0 && card >= 0;) {
    snd_ctl_t* control = nullptr;
    const std::string cardId = "hw:" + std::to_string(card);
    if (snd_ctl_open(&control, cardId.c_str(), 0) < 0) continue;
    const std::unique_ptr<snd_ctl_t, int (*)(snd_ctl_t*)> owner(control, &snd_ctl_close);
    snd_ctl_card_info_t* info = nullptr;
    snd_ctl_card_info_malloc(&info);
    const std::unique_ptr<snd_ctl_card_info_t, void (*)(snd_ctl_card_info_t*)> infoOwner(
        info, &snd_ctl_card_info_free);
    if (snd_ctl_card_info(control, info) < 0) continue;
    snd_pcm_info_t* pcm = nullptr;
    snd_pcm_info_malloc(&pcm);
    const std::unique_ptr<snd_pcm_info_t, void (*)(snd_pcm_info_t*)> pcmOwner(pcm, &snd_pcm_info_free);
    for (int device = -1; snd_ctl_pcm_next_device(control, &device) == 0 && device >= 0;) {
      for (const bool capture : {true, false}) {
        snd_pcm_info_set_device(pcm, static_cast<unsigned>(device));
        snd_pcm_info_set_subdevice(pcm, 0);
        snd_pcm_info_set_stream(pcm, capture ? SND_PCM_STREAM_CAPTURE : SND_PCM_STREAM_PLAYBACK);
        if (snd_ctl_pcm_info(control, pcm) < 0) continue;
        auto& points = capture ? listing.sources : listing.sinks;
        points.push_back(
            {std::string("hw:CARD=") + snd_ctl_card_info_get_id(info) + ",DEV=" + std::to_string(device),
             std::string(snd_ctl_card_info_get_name(info)) + ", " + snd_pcm_info_get_name(pcm), 2,
             points.empty(), false});
      }
    }
  }
}

/// A name of ALSA's configuration: not listed, as every machine has dozens, but understood.
EndPoint endPoint(const std::vector<EndPoint>& among, const std::string& id, EndPointKind kind) {
  if (const EndPoint* found = findEndPoint(among, id)) return *found;
  if (id.empty()) return {};
  for (const EndPoint& each : among)
    if (each.name == id) return requireEndPoint(among, id, kind);
  return {id, id, 2, false, false};
}

class AlsaDevice : public AudioDevice {
 public:
  AlsaDevice(DeviceSettings settings, AudioCallback& callback) : settings_(std::move(settings)) {
    quietAlsa();
    DriverListing listing;
    addCards(listing);
    source_ = endPoint(listing.sources, settings_.source, EndPointKind::Source);
    sink_ = endPoint(listing.sinks, settings_.sink, EndPointKind::Sink);
    if (source_.id.empty() && sink_.id.empty()) throw Error("ALSA finds no sound card on this machine.");
    settings_.source = source_.id;
    settings_.sink = sink_.id;
    openPcms();
    settings_.inputs = capture_ ? std::min(capture_->settings().channels, RateBridge::mostChannels) : 0;
    settings_.outputs =
        playback_ ? std::min(std::max(1, settings_.outputs), playback_->settings().channels) : 0;
    settings_.blockFrames = leading().settings().period;
    together_ = capture_ && playback_ && snd_pcm_link(capture_->handle(), playback_->handle()) == 0;
    bridge_ = std::make_unique<RateBridge>(callback, settings_.rate, settings_.inputs, settings_.outputs);
    elastic_ = std::make_unique<ElasticOutput>(std::max(1, settings_.outputs), SampleRate{deviceRate()});
    const auto period = static_cast<std::size_t>(leading().settings().period);
    in_.assign(static_cast<std::size_t>(settings_.inputs), std::vector<float>(period));
    out_.assign(static_cast<std::size_t>(settings_.outputs), std::vector<float>(period));
    for (std::size_t i = 0; i < in_.size(); ++i) inputs_[i] = in_[i].data();
    for (std::size_t i = 0; i < out_.size(); ++i) outputs_[i] = out_[i].data();
    if (capture_) read_.resize(period * static_cast<std::size_t>(capture_->settings().channels));
    if (playback_) {
      const auto most = std::max(period, static_cast<std::size_t>(playback_->settings().period));
      written_.resize(most * static_cast<std::size_t>(playback_->settings().channels));
      pulled_.resize(most * out_.size());
    }
  }
  ~AlsaDevice() override { AlsaDevice::stop(); }

  void start() override {
    running_ = true;
    life_.called();
    thread_ = std::thread([this] { loop(); });
    sched_param parameters{};
    parameters.sched_priority = 60;  // where the system allows it
    pthread_setschedparam(thread_.native_handle(), SCHED_FIFO, &parameters);
    const bool settles = capture_ && playback_ && !together_;
    for (int i = 0; i < 600 && !life_.lost() && (blocks_ < 2 || (settles && !elastic_->settled())); ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (life_.lost()) throw Error(life_.reason());
    if (blocks_ == 0)
      throw Error("\"%1\" was opened but delivers nothing.", (capture_ ? source_ : sink_).name);
    life_.begin();
  }
  void stop() override {
    running_ = false;
    if (thread_.joinable()) thread_.join();
  }

  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] DeviceReport report() const override {
    DeviceReport report;
    report.sourceName = source_.name;
    report.sinkName = sink_.name;
    report.deviceRate = deviceRate();
    if (deviceRate() != settings_.rate.hertz)
      addSentence(report.notes, "The card runs at %1 Hz; what the session records and plays is converted.",
                  deviceRate());
    if (capture_ && playback_ && !together_) {
      report.latency =
          Sentence("Input and output are different cards; takes lie within 2 ms of where they were played.");
      if (const double drift = elastic_->driftMillionths(); drift != 0.0)
        addSentence(
            report.notes,
            "Their clocks differ by %1 millionths; what is played is adjusted, what is recorded is left as "
            "it is.",
            std::llround(drift));
    }
    return report;
  }
  [[nodiscard]] Frames reportedRoundTrip() const override {
    const std::int64_t waiting = capture_ && playback_ && !together_ ? std::llround(elastic_->aim()) : 0;
    return Frames{(roundTrip_.load() + waiting) * settings_.rate.hertz / std::max(1, deviceRate())} +
           bridge_->delay();
  }
  [[nodiscard]] bool alive() const override { return life_.alive(); }
  [[nodiscard]] Sentence lossReason() const override { return life_.reason(); }

 private:
  [[nodiscard]] const AlsaPcm& leading() const { return capture_ ? *capture_ : *playback_; }
  [[nodiscard]] int deviceRate() const { return leading().settings().rate; }

  void openPcms() {
    PcmSettings wanted;
    wanted.rate = settings_.rate.hertz;
    wanted.period = settings_.blockFrames;
    if (!source_.id.empty()) {
      PcmSettings granted = wanted;
      granted.channels = std::max(1, std::min(2, settings_.inputs));
      capture_ = std::make_unique<AlsaPcm>(source_.id, source_.name, true, granted);
      wanted.rate = granted.rate;
      wanted.period = granted.period;
    }
    if (sink_.id.empty()) return;
    PcmSettings granted = wanted;
    playback_ = std::make_unique<AlsaPcm>(sink_.id, sink_.name, false, granted);
    if (granted.rate != wanted.rate)
      throw Error(
          "\"%1\" runs at %2 Hz and \"%3\" only at %4; choose a pair that has a rate in common, or a session "
          "of that rate.",
          source_.name, wanted.rate, sink_.name, granted.rate);
  }

  /// Fills what plays with silence and starts both.
  int begin() {
    if (playback_) {
      std::fill(written_.begin(), written_.end(), 0.0F);
      for (int i = 0; i < playback_->settings().periods - 1; ++i)
        if (const int moved = playback_->write(written_.data(), playback_->settings().period); moved < 0)
          return moved;
    }
    if (capture_)
      if (const int failed = snd_pcm_start(capture_->handle()); failed < 0) return failed;
    if (playback_ && !together_)
      if (const int failed = snd_pcm_start(playback_->handle()); failed < 0 && failed != -EBADFD)
        return failed;
    began_ = Clock::now();
    passed_ = 0;
    if (playback_) {
      const int buffered = (playback_->settings().periods - 1) * playback_->settings().period;
      roundTrip_ = buffered + leading().settings().period;
    }
    return 0;
  }

  void loop() {
    int result = begin();
    while (running_ && result >= 0) {
      result = turn();
      if (result < 0)
        result = recover(result);
      else
        failures_ = 0;
    }
    if (result < 0)
      life_.lose(result == -ENODEV ? Sentence("\"%1\" is gone.", (capture_ ? source_ : sink_).name)
                                   : Sentence("The sound card failed: %1.", snd_strerror(result)));
    for (const auto* pcm : {capture_.get(), playback_.get()})
      if (pcm) snd_pcm_drop(pcm->handle());
  }

  int turn() {
    int frames = leading().settings().period;
    if (capture_) {
      frames = capture_->read(read_.data(), frames);
      if (frames <= 0) return frames == 0 ? -EIO : frames;
      const auto width = static_cast<std::size_t>(capture_->settings().channels);
      for (std::size_t c = 0; c < in_.size(); ++c)
        for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i) in_[c][i] = read_[i * width + c];
    }
    life_.called();
    bridge_->process({inputs_.data(), static_cast<int>(in_.size()), outputs_.data(),
                      static_cast<int>(out_.size()), frames, std::exchange(dropout_, false)},
                     deviceRate());
    ++blocks_;
    keepPace(frames);
    if (!playback_) return 0;
    if (capture_ && !together_) return feedOther(frames);
    for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i)
      spread(i, [&](std::size_t c) { return out_[c][i]; });
    return writeAll(frames);
  }

  template <typename Sample>
  void spread(std::size_t frame, Sample sample) {
    const auto width = static_cast<std::size_t>(playback_->settings().channels);
    for (std::size_t c = 0; c < width; ++c) written_[frame * width + c] = c < out_.size() ? sample(c) : 0.0F;
  }

  int writeAll(int frames) {
    for (int done = 0; done < frames;) {
      const int moved = playback_->write(
          written_.data() + static_cast<std::ptrdiff_t>(done) * playback_->settings().channels,
          frames - done);
      if (moved < 0) return moved;
      done += moved;
    }
    return 0;
  }

  /// The sink runs on a clock of its own: it gets as much as it has room for.
  int feedOther(int frames) {
    elastic_->push(outputs_.data(), frames);
    for (int given = 0;;) {
      const snd_pcm_sframes_t room = snd_pcm_avail_update(playback_->handle());
      if (room < 0) return static_cast<int>(room);
      const int n = static_cast<int>(std::min<snd_pcm_sframes_t>(room, playback_->settings().period));
      if (n < playback_->settings().period) break;
      // A sink without a clock always has room: it gets no more than there is.
      if (given >= frames && elastic_->level() < n) break;
      given += n;
      elastic_->pull(pulled_.data(), n);
      for (std::size_t i = 0; i < static_cast<std::size_t>(n); ++i)
        spread(i, [&](std::size_t c) { return pulled_[i * out_.size() + c]; });
      if (const int failed = writeAll(n); failed < 0) return failed;
    }
    return 0;
  }

  /// A PCM that is no hardware may run without any pace; then the clock gives it.
  void keepPace(int frames) {
    passed_ += frames;
    const auto due = began_ + std::chrono::duration_cast<Clock::duration>(
                                  std::chrono::duration<double>(static_cast<double>(passed_) / deviceRate()));
    const auto buffer =
        std::chrono::milliseconds(100) + std::chrono::duration_cast<Clock::duration>(
                                             std::chrono::duration<double>(16.0 * frames / deviceRate()));
    if (due > Clock::now() + buffer) std::this_thread::sleep_until(due - std::chrono::milliseconds(20));
  }

  /// After a late turn both begin anew, and the dropout is said.
  int recover(int error) {
    if (error != -EPIPE && error != -ESTRPIPE && error != -EIO) return error;
    if (++failures_ > 200) return error;
    dropout_ = true;
    for (const auto* pcm : {capture_.get(), playback_.get()}) {
      if (pcm) snd_pcm_drop(pcm->handle());
      if (const int failed = pcm ? snd_pcm_prepare(pcm->handle()) : 0; failed < 0) return failed;
    }
    return begin();
  }

  DeviceSettings settings_;
  EndPoint source_;
  EndPoint sink_;
  std::unique_ptr<AlsaPcm> capture_;
  std::unique_ptr<AlsaPcm> playback_;
  bool together_ = false;  // both on one clock, started at once
  std::unique_ptr<RateBridge> bridge_;
  std::unique_ptr<ElasticOutput> elastic_;
  std::vector<std::vector<float>> in_;
  std::vector<std::vector<float>> out_;
  std::array<const float*, RateBridge::mostChannels> inputs_{};
  std::array<float*, RateBridge::mostChannels> outputs_{};
  std::vector<float> read_;
  std::vector<float> written_;
  std::vector<float> pulled_;
  bool dropout_ = false;
  int failures_ = 0;  // in a row
  Clock::time_point began_;
  std::int64_t passed_ = 0;
  std::atomic<std::int64_t> roundTrip_{0};
  std::atomic<std::int64_t> blocks_{0};
  std::atomic<bool> running_{false};
  DeviceLife life_{Sentence("The sound card has stopped calling.")};
  std::thread thread_;
};

/// Cards come and go as files of /dev/snd.
class AlsaWatch : public DriverWatch {
 public:
  explicit AlsaWatch(std::function<void()> changed) : changed_(std::move(changed)) {
    inotify_ = inotify_init1(IN_NONBLOCK | IN_CLOEXEC);
    if (inotify_ < 0) throw Error("This system does not tell when sound cards come and go.");
    for (const char* folder : {"/dev", "/dev/snd"})
      inotify_add_watch(inotify_, folder, IN_CREATE | IN_DELETE | IN_ATTRIB);
    thread_ = std::thread([this] { loop(); });
  }
  ~AlsaWatch() override {
    running_ = false;
    thread_.join();
    close(inotify_);
  }

 private:
  void loop() {
    std::array<char, 4096> events{};
    while (running_) {
      pollfd waiting{inotify_, POLLIN, 0};
      if (poll(&waiting, 1, 200) <= 0) continue;
      bool sound = false;
      for (ssize_t n = read(inotify_, events.data(), events.size()); n > 0;
           n = read(inotify_, events.data(), events.size()))
        sound = sound ||
                std::string(events.data(), static_cast<std::size_t>(n)).find("snd") != std::string::npos ||
                std::string(events.data(), static_cast<std::size_t>(n)).find("pcm") != std::string::npos;
      if (sound) changed_();
    }
  }
  std::function<void()> changed_;
  int inotify_ = -1;
  std::atomic<bool> running_{true};
  std::thread thread_;
};

}  // namespace

void quietAlsa() {
  snd_lib_error_set_handler(&ignore);
}

std::unique_ptr<AudioDriver> alsaDriver() {
  return std::make_unique<DriverOf<AlsaDevice, AlsaWatch>>("ALSA", [] {
    quietAlsa();
    DriverListing listing;
    addCards(listing);
    return listing;
  });
}

}  // namespace yewdrift
