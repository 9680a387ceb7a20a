// SPDX-License-Identifier: GPL-3.0-or-later
// What Catch needs compiled once; it takes as long as five files of tests.
#include "runner.h"

#define CATCH_CONFIG_RUNNER
#include <atomic>
#include <catch2/catch.hpp>
#include <chrono>
#include <cstdlib>
#include <iostream>
#include <thread>

namespace {

using Clock = std::chrono::steady_clock;
using namespace std::chrono_literals;

/// Counts how often a thread that sleeps for two milliseconds is called twenty too late. One that has nothing
/// else to do is called in time by a system that has its processors, however much it has to do; where a host
/// has taken them away, it is not, and neither is a sound server.
class HoldUps {
 public:
  HoldUps() : thread_([this] { count(); }) {}
  ~HoldUps() {
    ends_ = true;
    thread_.join();
  }
  HoldUps(const HoldUps&) = delete;
  HoldUps& operator=(const HoldUps&) = delete;

  [[nodiscard]] bool often() const { return times_ * 10.0 > watched().count(); }
  /// Says so; what the program ends with then.
  [[nodiscard]] int tell() const {
    std::cout << "\nNOT TESTED: within " << watched().count() << " s this machine held its programs up "
              << times_ << " times for more than 20 ms. A real sound server loses sound then." << std::endl;
    return yewdrift::test::heldUp;
  }

 private:
  [[nodiscard]] std::chrono::duration<double> watched() const { return Clock::now() - began_; }
  void count() {
    while (!ends_) {
      const Clock::time_point asleep = Clock::now();
      std::this_thread::sleep_for(2ms);
      if (Clock::now() - asleep > 22ms) ++times_;
      // What takes so long would be ended as a failure.
      if (watched() > 300s && often()) std::_Exit(tell());
    }
  }
  Clock::time_point began_ = Clock::now();
  std::atomic<int> times_{0};
  std::atomic<bool> ends_{false};
  std::thread thread_;  // last: it uses what is above
};

}  // namespace

int yewdrift::test::runTests(int argc, char** argv) {
  Catch::Session session;
  if (!std::getenv("YEWDRIFT_UNLESS_HELD_UP")) return session.run(argc, argv);
  session.configData().abortAfter = 1;
  const HoldUps holdUps;
  const int failed = session.run(argc, argv);
  return failed != 0 && holdUps.often() ? holdUps.tell() : failed;
}
