// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <mutex>
#include <vector>

#include "core/engine/sample_ring.h"
#include "core/store/session_disk.h"
#include "core/time/roll_timeline.h"

namespace yewdrift {

/// Each roll has its own; none is 0.
using RollNumber = std::uint64_t;

/// What some device inputs heard in the last minute, always running, so that something good that was played
/// while nothing was recorded can be claimed afterwards, where it was played. A stream an input, on disk: a
/// minute of 64 inputs takes 31 MB of memory and 740 MB of a file that is gone when the program is. Frames of
/// the tape count from its first one.
class InputTape {
 public:
  /// Its file is made in the session's folder "cache". Where none can be made, it holds nothing.
  InputTape(const SessionDisk& disk, SampleRate rate, double seconds);
  ~InputTape();
  InputTape(const InputTape&) = delete;
  InputTape& operator=(const InputTape&) = delete;

  // -- control thread
  /// From now on these; what those heard that it listened to already stays.
  void listenTo(const std::vector<int>& inputs);
  [[nodiscard]] const std::vector<int>& inputs() const { return inputs_; }
  /// That of the device whose inputs it hears: rolls are stamped with it.
  void setRoundTrip(Frames roundTrip) { roundTrip_.store(roundTrip.count, std::memory_order_relaxed); }

  // -- audio thread
  void push(const float* const* inputs, int inputCount, int frames) noexcept;
  /// The next frame is a roll's first, or the first behind it.
  void rollBegan(RollNumber roll, const RollTimeline& timeline) noexcept;
  void rollEnded() noexcept { rollBegan(0, {}); }
  /// And it is heard by another device.
  void deviceEnded() noexcept { stamp(0, {}, true); }

  // -- writer thread
  void drain();

  // -- any thread
  /// A stretch in which one roll ran, or none did.
  struct Segment {
    Span tape;            // that is held and has not become a take
    RollNumber roll = 0;  // 0: the transport stood
    RollTimeline timeline;
    Frames roundTrip;          // what it heard was played that much earlier
    Frames begins;             // on the tape; may lie before what is held
    Frames reaches;            // as far as the same device was heard, the segment and what followed
    bool followsRoll = false;  // it begins behind a roll, or behind what was taken with that
  };
  /// What it holds that has not become a take, oldest first.
  [[nodiscard]] std::vector<Segment> segments() const;
  /// How much that is.
  [[nodiscard]] Frames held() const;
  /// Behind the newest frame that can be read; behind the newest that was heard.
  [[nodiscard]] Frames end() const;
  /// Returns when all before `frame` can be read; at the latest when for half a second nothing more of it was
  /// heard, or the disk took nothing for ten. Not on the threads that push and drain.
  void waitFor(Frames frame) const;
  [[nodiscard]] Frames heard() const { return {clock_.load(std::memory_order_acquire)}; }
  /// What an input heard; silence where the tape has nothing of it.
  [[nodiscard]] std::vector<float> read(int input, Span tape) const;
  /// It has become a take: a stretch that begins with a segment; all that is heard in a roll.
  void take(Span tape);
  void takeRoll(RollNumber roll);

 private:
  struct Stream {
    Stream(int number, std::size_t place, std::size_t room) : input(number), slot(place), ring(room) {}
    int input;
    std::size_t slot;  // in the file
    SampleRing ring;
    std::size_t owed = 0;                  // audio thread: silence in place of what found no room
    bool begun = false;                    // audio thread
    std::atomic<std::int64_t> begins{-1};  // frame of the tape
    std::atomic<std::int64_t> written{0};  // frames since then
    std::atomic<bool> writing{false};      // some are no longer in the ring and not yet on disk
  };
  using Streams = std::vector<std::shared_ptr<Stream>>;
  struct Stamp {
    Frames at;
    RollNumber roll = 0;
    RollTimeline timeline;
    Frames roundTrip;
    bool cut = false;  // from here on another device is heard
    Frames takenUntil{};
    bool takenFromBefore = false;  // what was taken began in an earlier stretch
  };
  static constexpr std::size_t ringFrames = 120000;

  void writeOut(Stream& stream, std::size_t least);
  void stamp(RollNumber roll, const RollTimeline& timeline, bool cut) noexcept;
  void takeStamps();
  [[nodiscard]] Span kept() const;
  [[nodiscard]] bool diskIsBehind() const;

  Descriptor file_;
  std::int64_t seconds_;   // in frames: what is told of
  std::int64_t capacity_;  // and some more, so that what is read is not being written
  std::vector<int> inputs_;
  mutable std::mutex mutex_;
  Streams streams_;                                   // guarded
  std::vector<std::shared_ptr<const Streams>> kept_;  // guarded: what the audio thread may be looking at
  std::vector<Stamp> stamps_{Stamp{}};                // guarded; never empty
  std::atomic<const Streams*> next_{nullptr};
  std::atomic<std::int64_t> clock_{0};  // frames heard
  std::atomic<std::int64_t> roundTrip_{0};
  std::atomic<bool> broken_{false};  // the disk does not take it
  struct Stamps;
  std::unique_ptr<Stamps> stamped_;  // from the audio thread to whoever asks, with the lock
  const Streams* now_ = nullptr;     // audio thread
  std::atomic<const Streams*> shown_{nullptr};
  int turn_ = 0;              // writer thread
  std::vector<float> block_;  // writer thread
};

}  // namespace yewdrift
