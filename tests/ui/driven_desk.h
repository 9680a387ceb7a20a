// SPDX-License-Identifier: GPL-3.0-or-later
//
// The window's model without a window, in time that a test makes: a device whose inputs count their frames,
// and a plain record of where the transport was at each of them.
#pragma once

#include <QCoreApplication>
#include <QTest>
#include <QThread>
#include <map>
#include <set>

#include "app/desk/studio.h"
#include "core/plan/offline_render.h"
#include "support.h"

namespace yewdrift::test {

/// Calls nobody by itself.
class DrivenDevice : public AudioDevice {
 public:
  DrivenDevice(int inputs, Frames roundTrip) : roundTrip_(roundTrip) {
    settings_.driver = "Driven";
    settings_.inputs = inputs;
  }
  void start() override {}
  void stop() override { alive_ = false; }
  [[nodiscard]] const DeviceSettings& settings() const override { return settings_; }
  [[nodiscard]] DeviceReport report() const override { return {}; }
  [[nodiscard]] Frames reportedRoundTrip() const override { return roundTrip_; }
  [[nodiscard]] bool alive() const override { return alive_; }
  void unplug() { alive_ = false; }

 private:
  DeviceSettings settings_;
  Frames roundTrip_;
  bool alive_ = true;
};

/// What input `input` hears at a frame of the device: its number, so that wherever the sample turns up it can
/// be told when it was heard. Exact in 24 bits.
inline float counted(std::int64_t frame, int input) {
  const auto number = static_cast<float>((1 << 21) + frame % (1 << 22));
  return number / static_cast<float>(1 << 23) * (input % 2 == 0 ? 1.0F : -1.0F);
}
inline std::int64_t frameOf(float sample) {
  return std::llround(std::abs(static_cast<double>(sample)) * (1 << 23)) - (1 << 21);
}

class DrivenDesk {
 public:
  static constexpr std::int64_t stands = -1;  // in place of a position
  static constexpr int inputs = 3;

  explicit DrivenDesk(fs::path path) : path_(std::move(path)) { open(); }

  app::Studio& studio() { return *studio_; }
  [[nodiscard]] const Session& session() const { return studio_->desk().session(); }

  void open() {
    studio_ = std::make_unique<app::Studio>(path_, app::DeviceDesk::Mode::Driven);
    now_ = studio_.get();
    studio_->setBlockMaker([this] { block(256); });
    if (onOpen_) onOpen_();
    plugIn({0});
  }
  /// Called now and whenever the session is opened.
  void setOnOpen(std::function<void()> onOpen) {
    onOpen_ = std::move(onOpen);
    onOpen_();
  }
  /// As when the window is closed, whatever goes on.
  void close() {
    studio_.reset();  // which waits for blocks
    now_ = nullptr;
    device_ = nullptr;
    nothingMoreComes();
    gateWasOpen_ = false;
  }
  void plugIn(Frames roundTrip) {
    if (!studio_->recording().recording()) nothingMoreComes();  // or it is refused
    auto device = std::make_unique<DrivenDevice>(inputs, roundTrip);
    DrivenDevice* const plugged = device.get();
    studio_->device().drive(std::move(device));
    if (studio_->device().device() != plugged) return;
    device_ = plugged;
    devices_.push_back(clock());
  }
  void unplug() {
    if (!device_ || now_->device().device() != device_) return;
    device_->unplug();
    nothingMoreComes();
  }
  /// Before the next block the device says that it lost something.
  void lose() { loses_ = true; }
  /// Whether somebody plays.
  void play(bool on) { playing_ = on; }

  /// One block of the device, if there is one; `heard` is what came out on the left, `heardRight` on the
  /// right.
  void block(int frames) {
    heard.clear();
    heardRight.clear();
    if (!now_->device().alive()) return;
    Engine& engine = now_->transport().engine();
    engine.service();
    std::vector<std::int64_t> positions(static_cast<std::size_t>(frames), stands);
    for (const PlayedStretch& stretch : engine.prepare(frames))
      for (int i = 0; i < stretch.frames; ++i)
        positions[static_cast<std::size_t>(stretch.offset + i)] =
            stretch.counting ? stands : stretch.position.count + i;
    std::vector<Samples> in(inputs, Samples(static_cast<std::size_t>(frames), 0.0F));
    if (playing_)
      for (int input = 0; input < inputs; ++input)
        for (int i = 0; i < frames; ++i)
          in[static_cast<std::size_t>(input)][static_cast<std::size_t>(i)] = counted(clock() + i, input);
    std::array<const float*, inputs> from{in[0].data(), in[1].data(), in[2].data()};
    Samples left(static_cast<std::size_t>(frames));
    Samples right(left.size());
    std::array<float*, 2> to{left.data(), right.data()};
    engine.process({from.data(), inputs, to.data(), 2, frames, std::exchange(loses_, false)});
    const Frames roundTrip = now_->device().roundTrip();
    noteAudible(frames, roundTrip);
    for (const std::int64_t position : positions) {
      position_.push_back(position);
      roundTrip_.push_back(roundTrip.count);
      heardAt_.push_back(playing_);
    }
    heard = left;
    heardRight = right;
  }
  /// Blocks as a device of that kind makes them, with the window's turns between.
  void run(std::int64_t frames, int blockFrames) {
    for (std::int64_t done = 0; done < frames; done += blockFrames) {
      block(blockFrames);
      if (++turns_ % 3 == 0) turn();
    }
  }
  void turn() {
    studio_->tick();
    QCoreApplication::processEvents();
  }
  /// Until nothing is being recorded, read or written any more.
  void settle() {
    for (int i = 0; i < 4000 && busy(); ++i) {
      block(256);
      turn();
      if (i % 50 == 49) waitForJobs();
    }
    // The disk's threads may get their turn late on a machine that is busy with something else.
    for (int i = 0; i < 15000 && busy(); ++i, turn()) {
      block(256);
      QThread::msleep(1);
    }
    REQUIRE_FALSE(busy());
  }
  /// The device goes on while it does.
  void waitForJobs() {
    for (int i = 0; i < 4000 && studio_->jobs().running(); ++i) {
      block(256);
      QThread::usleep(200);
    }
    // All that they could wait for has arrived; the machine may be busy with something else.
    for (int i = 0; i < 6000 && studio_->jobs().running(); ++i) QThread::msleep(5);
    REQUIRE_FALSE(studio_->jobs().running());
    turn();
  }

  /// Frames of the device so far.
  [[nodiscard]] std::int64_t clock() const { return static_cast<std::int64_t>(position_.size()); }
  /// What should be in a file that holds frame `frame` of an input.
  [[nodiscard]] float expected(std::int64_t frame, int input) const {
    const bool played = frame >= 0 && frame < clock() && heardAt_[static_cast<std::size_t>(frame)];
    return played ? counted(frame, input) : 0.0F;
  }
  /// The session position that what was heard at a frame of the device had been played to.
  [[nodiscard]] std::int64_t playedTo(std::int64_t frame) const {
    const std::int64_t at = frame - roundTrip_[static_cast<std::size_t>(frame)];
    const auto device = std::upper_bound(devices_.begin(), devices_.end(), frame);
    return at >= *(device - 1) ? position_[static_cast<std::size_t>(at)] : stands;
  }
  /// Whether the transport stood as that frame was heard.
  [[nodiscard]] bool stoodAt(std::int64_t frame) const {
    return frame < 0 || position_[static_cast<std::size_t>(frame)] == stands;
  }
  /// Frames of the device at which something arrived that was shown as being recorded, of armed inputs.
  struct Audible {
    Span frames;
    std::vector<int> inputs;
  };
  [[nodiscard]] const std::vector<Audible>& audible() const { return audible_; }
  [[nodiscard]] const fs::path& path() const { return path_; }

  Samples heard;
  Samples heardRight;

 private:
  bool busy() {
    const EngineState state = studio_->transport().state();
    return state.rolling || state.capturing || studio_->recording().capturing() ||
           !studio_->recording().settled();
  }
  /// A block that was recorded from its first to its last frame: what is played in it arrives a round trip
  /// later.
  void noteAudible(int frames, Frames roundTrip) {
    const bool open = now_->transport().state().recording;
    if (open && gateWasOpen_) {
      Audible now{Span{{clock()}, {clock() + frames}}.shifted(roundTrip), {}};
      for (const TrackId id : now_->recording().capturedTracks())
        for (const Microphone& microphone : now_->desk().session().track(id)->microphones)
          for (int i = 0; i < microphone.channels; ++i) now.inputs.push_back(microphone.input + i);
      audible_.push_back(now);
    }
    gateWasOpen_ = open;
  }

  /// What was on its way through the device that is gone never arrived.
  void nothingMoreComes() {
    for (Audible& each : audible_)
      each.frames.end = std::min(each.frames.end, std::max(each.frames.start, end()));
  }
  [[nodiscard]] Frames end() const { return {clock()}; }

  fs::path path_;
  std::unique_ptr<app::Studio> studio_;
  std::function<void()> onOpen_;
  app::Studio* now_ = nullptr;  // also while it is being closed
  DrivenDevice* device_ = nullptr;
  bool playing_ = true;
  bool loses_ = false;
  bool gateWasOpen_ = false;
  int turns_ = 0;
  std::vector<std::int64_t> position_;   // of each frame of the device
  std::vector<std::int64_t> roundTrip_;  // the same
  std::vector<bool> heardAt_;
  std::vector<Audible> audible_;
  std::vector<std::int64_t> devices_;  // at which frame each began
};

}  // namespace yewdrift::test
