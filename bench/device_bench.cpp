// SPDX-License-Identifier: GPL-3.0-or-later
//
// How regularly a real server calls: yewdrift-device-bench DRIVER BLOCK SECONDS, with its server running, for
// instance under tests/with_sound_server.sh. Prints one line.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <thread>
#include <vector>

#include "core/device/audio_driver.h"
#include "core/error.h"

namespace {

using namespace yewdrift;
using Clock = std::chrono::steady_clock;

/// Keeps the time between calls; room for all of them is made before.
class Intervals : public AudioCallback {
 public:
  explicit Intervals(std::size_t most) : seconds_(most) {}
  std::span<const PlayedStretch> prepare(int) noexcept override { return {}; }
  void process(const AudioBlock& block) noexcept override {
    const auto now = Clock::now();
    if (calls_ > 0 && calls_ <= seconds_.size())
      seconds_[calls_ - 1] = std::chrono::duration<double>(now - last_).count();
    last_ = now;
    ++calls_;
    frames_ += block.frames;
    dropouts_ += block.dropout ? 1 : 0;
    for (int i = 0; i < block.outputCount; ++i) std::fill_n(block.outputs[i], block.frames, 0.0F);
  }
  // After the device has stopped.
  [[nodiscard]] std::vector<double> sorted() const {
    std::vector<double> all(seconds_.begin(),
                            seconds_.begin() + static_cast<std::ptrdiff_t>(
                                                   std::min(seconds_.size(), calls_ > 0 ? calls_ - 1 : 0)));
    std::sort(all.begin(), all.end());
    return all;
  }
  [[nodiscard]] std::int64_t frames() const { return frames_; }
  [[nodiscard]] std::int64_t dropouts() const { return dropouts_; }

 private:
  std::vector<double> seconds_;
  std::size_t calls_ = 0;
  Clock::time_point last_;
  std::int64_t frames_ = 0;
  std::int64_t dropouts_ = 0;
};

void measure(const std::string& driver, int block, double seconds) {
  Intervals intervals(static_cast<std::size_t>(seconds * 48000.0 / 16.0));
  DeviceSettings wanted;
  wanted.rate = {48000};
  wanted.blockFrames = block;
  const auto device = audioDriverNamed(driver).open(wanted, intervals);
  device->start();
  const auto began = Clock::now();
  std::this_thread::sleep_for(std::chrono::duration<double>(seconds));
  const double took = std::chrono::duration<double>(Clock::now() - began).count();
  device->stop();
  const std::vector<double> sorted = intervals.sorted();
  if (sorted.empty()) throw Error("The device never called.");
  const auto at = [&](double part) {
    return 1000.0 * sorted[static_cast<std::size_t>(part * static_cast<double>(sorted.size() - 1))];
  };
  std::printf(
      "%s, block %d (asked %d): %zu calls in %.0f s, every %.3f ms; interval p0.1 %.3f, median %.3f, p99 "
      "%.3f, "
      "p99.9 %.3f, longest %.3f ms; %lld dropouts; frames %.6f of the clock's\n",
      driver.c_str(), device->settings().blockFrames, block, sorted.size() + 1, took,
      1000.0 * device->settings().blockFrames / 48000.0, at(0.001), at(0.5), at(0.99), at(0.999), at(1.0),
      static_cast<long long>(intervals.dropouts()),
      static_cast<double>(intervals.frames()) / (took * 48000.0));
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 4) {
    std::fprintf(stderr, "usage: yewdrift-device-bench DRIVER BLOCK SECONDS\n");
    return 2;
  }
  try {
    measure(argv[1], std::atoi(argv[2]), std::atof(argv[3]));
    return 0;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "yewdrift-device-bench: %s\n", error.what());
    return 1;
  }
}
