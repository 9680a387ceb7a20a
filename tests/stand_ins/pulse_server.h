// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yewdrift::test {

/// A PulseAudio server that is none. The library beside it has the name of PulseAudio's, so that this program
/// loads it in its place; it does what PulseAudio's documentation says of its functions (pulse/context.h,
/// introspect.h, stream.h, thread-mainloop.h), and says what is set here. All members are read with its lock
/// held, which within() takes.
struct PulseServer {
  struct Point {
    std::string name;
    std::optional<std::string> description;
    int channels = 2;
    bool monitor = false;
    bool muted = false;
  };
  /// How a connection goes.
  enum class Answers { NotThere, Refuses, Fails, Never, Yes };
  struct Stream {
    std::string name;
    std::string point;
    bool records = false;
    int format = -1;  // as the library numbers them
    int rate = 0;
    int channels = 0;
    std::vector<int> map;
    unsigned flags = 0;
    std::uint32_t wantedFragment = 0;  // bytes
    std::uint32_t wantedRequest = 0;
    std::uint32_t wantedTarget = 0;
    std::vector<float> written{};
  };

  Answers answers = Answers::NotThere;
  bool loopsStart = true;
  bool impatient = false;  // what waits for seconds is told after some milliseconds that they are over
  std::vector<Point> sources;
  std::vector<Point> sinks;
  std::string defaultSource;
  std::string defaultSink;
  bool answersQuestions = true;
  bool streamsAreMade = true;
  bool streamsConnect = true;
  bool streamsOpen = true;
  bool takesSamples = true;
  bool pumps = true;           // sources deliver and sinks ask, in turn
  std::uint32_t fragment = 0;  // bytes that are granted; 0: what is wanted
  std::uint32_t request = 0;
  std::uint32_t target = 0;
  std::int64_t delivered = 0;  // frames by the pump; see sample()
  int clients = 0;
  int operationsHeld = 0;
  int streamsHeld = 0;

  /// What the pump delivers.
  static float sample(std::int64_t frame, int channel) {
    return static_cast<float>(frame % 4096 + 1) / 8192.0F * (channel % 2 == 0 ? 1.0F : -1.0F);
  }

  void within(const std::function<void()>& what);
  /// The stream of that direction, while there is one.
  [[nodiscard]] const Stream* stream(bool records) const;
  /// Interleaved; nothing: a hole of so many bytes.
  void deliver(const std::vector<float>& interleaved, std::size_t hole = 0);
  /// The sink wants so many bytes.
  void ask(std::size_t bytes);
  /// Some samples did not get through.
  void overflow();
  void failStream(bool records);
  /// That something of a stream has changed, as it may be told at any time.
  void tellStream(bool records);
  /// Tells those who asked for it that something has changed.
  void change();
  void end();
};

PulseServer& pulseServer();
/// The same as at the beginning: none runs.
PulseServer& freshPulseServer();

}  // namespace yewdrift::test
