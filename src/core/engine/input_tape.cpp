// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/input_tape.h"

#include <unistd.h>

#include <algorithm>
#include <boost/lockfree/spsc_queue.hpp>
#include <chrono>
#include <thread>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr std::size_t chunkFrames = 4096;
constexpr int turnsBetweenWrites = 10;  // where there is less than a chunk
constexpr double spareSeconds = 5.0;

/// A file that nobody else sees and that goes with the program, however it ends.
Descriptor namelessFile(const SessionDisk& disk) {
  try {
    return disk.createNameless("cache");
  } catch (const Error&) {
    return {};
  }
}

}  // namespace

struct InputTape::Stamps {
  boost::lockfree::spsc_queue<Stamp, boost::lockfree::capacity<1024>> queue;
};

InputTape::InputTape(const SessionDisk& disk, SampleRate rate, double seconds)
    : file_(namelessFile(disk)),
      seconds_(framesFromSeconds(seconds, rate).count),
      capacity_(seconds_ + framesFromSeconds(spareSeconds, rate).count),
      stamped_(std::make_unique<Stamps>()),
      block_(chunkFrames) {}

InputTape::~InputTape() = default;

void InputTape::listenTo(const std::vector<int>& inputs) {
  if (inputs == inputs_ || !file_.good()) return;
  inputs_ = inputs;
  const std::lock_guard guard(mutex_);
  Streams next;
  std::vector<std::size_t> slots;
  for (const auto& stream : streams_)
    if (std::find(inputs.begin(), inputs.end(), stream->input) != inputs.end()) {
      next.push_back(stream);
      slots.push_back(stream->slot);
    }
  std::size_t slot = 0;
  for (const int input : inputs) {
    if (std::any_of(next.begin(), next.end(), [input](const auto& each) { return each->input == input; }))
      continue;
    while (std::find(slots.begin(), slots.end(), slot) != slots.end()) ++slot;
    next.push_back(std::make_shared<Stream>(input, slot++, ringFrames));
  }
  streams_ = next;
  // What the audio thread has let go of is freed here.
  const auto looked =
      std::find_if(kept_.begin(), kept_.end(), [&](const auto& each) { return each.get() == shown_.load(); });
  if (looked != kept_.end()) kept_.erase(kept_.begin(), looked);
  kept_.push_back(std::make_shared<const Streams>(std::move(next)));
  next_.store(kept_.back().get());
}

void InputTape::push(const float* const* inputs, int inputCount, int frames) noexcept {
  if (const Streams* next = next_.exchange(nullptr)) {
    now_ = next;
    shown_.store(next);
  }
  const std::int64_t clock = clock_.load(std::memory_order_relaxed);
  if (now_) {
    for (const auto& stream : *now_) {
      if (!stream->begun) {
        stream->begun = true;
        stream->begins.store(clock, std::memory_order_release);
      }
      const std::size_t paid = std::min(stream->owed, stream->ring.writable());
      stream->ring.publishSilence(paid);
      stream->owed -= paid;
      const float* from = stream->input < inputCount ? inputs[stream->input] : nullptr;
      const std::size_t room = stream->owed > 0 ? 0 : stream->ring.writable();
      const std::size_t taken = std::min(static_cast<std::size_t>(frames), room);
      for (std::size_t i = 0; i < taken; ++i) stream->ring.slot(i) = from ? from[i] : 0.0F;
      stream->ring.publish(taken);
      stream->owed += static_cast<std::size_t>(frames) - taken;
    }
  }
  clock_.store(clock + frames, std::memory_order_release);
}

void InputTape::rollBegan(RollNumber roll, const RollTimeline& timeline) noexcept {
  stamp(roll, timeline, false);
}

void InputTape::stamp(RollNumber roll, const RollTimeline& timeline, bool cut) noexcept {
  (void)stamped_->queue.push({{clock_.load(std::memory_order_relaxed)},
                              roll,
                              timeline,
                              {roundTrip_.load(std::memory_order_relaxed)},
                              cut,
                              {},
                              false});
}

void InputTape::drain() {
  takeStamps();
  Streams streams;
  {
    const std::lock_guard guard(mutex_);
    streams = streams_;
  }
  turn_ = (turn_ + 1) % turnsBetweenWrites;
  for (const auto& stream : streams) writeOut(*stream, turn_ == 0 ? 1 : chunkFrames);
}

void InputTape::writeOut(Stream& stream, std::size_t least) {
  // Who waits for a frame does so too while it is neither in the ring nor on disk: a disk may take seconds.
  while (stream.ring.readable() >= least) {
    stream.writing.store(true, std::memory_order_release);
    const std::int64_t at = stream.written.load(std::memory_order_relaxed) % capacity_;
    const auto room = static_cast<std::size_t>(capacity_ - at);
    const std::size_t frames = stream.ring.read(block_.data(), std::min(chunkFrames, room));
    const std::size_t bytes = frames * sizeof(float);
    const auto place = static_cast<off_t>((static_cast<std::int64_t>(stream.slot) * capacity_ + at) *
                                          static_cast<std::int64_t>(sizeof(float)));
    if (::pwrite(file_.get(), block_.data(), bytes, place) != static_cast<ssize_t>(bytes)) broken_ = true;
    stream.written.fetch_add(static_cast<std::int64_t>(frames), std::memory_order_release);
    stream.writing.store(false, std::memory_order_release);
  }
}

void InputTape::takeStamps() {
  const std::lock_guard guard(mutex_);
  Stamp stamp;
  while (stamped_->queue.pop(stamp)) {
    if (stamps_.back().at == stamp.at) {
      stamp.cut = stamp.cut || stamps_.back().cut;
      stamps_.back() = stamp;  // of what the one before began nothing was heard
    } else {
      stamps_.push_back(stamp);
    }
  }
  // Those before the last that lies behind what is held tell nothing any more.
  const std::int64_t from = clock_.load(std::memory_order_acquire) - seconds_;
  while (stamps_.size() > 1 && stamps_[1].at.count <= from) stamps_.erase(stamps_.begin());
}

/// What is on disk of at least one stream. With the lock.
Span InputTape::kept() const {
  Span all{maximumPosition, Frames{}};
  for (const auto& stream : streams_) {
    const std::int64_t begins = stream->begins.load(std::memory_order_acquire);
    const std::int64_t written = stream->written.load(std::memory_order_acquire);
    const std::int64_t end = begins + written;
    if (written > 0)
      all = {std::min(all.start, Frames{std::max(begins, end - seconds_)}), std::max(all.end, Frames{end})};
  }
  return broken_ || all.empty() ? Span{} : all;
}

std::vector<InputTape::Segment> InputTape::segments() const {
  const std::lock_guard guard(mutex_);
  const Span all = kept();
  std::vector<Segment> found;
  for (std::size_t i = 0; i < stamps_.size(); ++i) {
    const Stamp& stamp = stamps_[i];
    const Frames end = i + 1 < stamps_.size() ? stamps_[i + 1].at : all.end;
    const Span tape = Span{std::max(stamp.at, stamp.takenUntil), end}.intersect(all);
    if (!tape.empty()) {
      const bool begins = tape.start == stamp.at || (tape.start == stamp.takenUntil && stamp.takenFromBefore);
      const bool follows = i > 0 && stamps_[i - 1].roll != 0 && begins && !stamp.cut;
      const auto cut = std::find_if(stamps_.begin() + static_cast<std::ptrdiff_t>(i) + 1, stamps_.end(),
                                    [](const Stamp& later) { return later.cut; });
      found.push_back({tape, stamp.roll, stamp.timeline, stamp.roundTrip, stamp.at,
                       cut == stamps_.end() ? all.end : cut->at, follows});
    }
  }
  return found;
}

Frames InputTape::held() const {
  Frames sum;
  for (const Segment& segment : segments()) sum += segment.tape.length();
  return sum;
}

Frames InputTape::end() const {
  const std::lock_guard guard(mutex_);
  return kept().end;
}

bool InputTape::diskIsBehind() const {
  const std::lock_guard guard(mutex_);
  return !broken_ && std::any_of(streams_.begin(), streams_.end(), [](const auto& stream) {
    return stream->ring.readable() > 0 || stream->writing.load(std::memory_order_acquire);
  });
}

void InputTape::waitFor(Frames frame) const {
  constexpr int forSound = 100;  // turns
  constexpr int forTheDisk = 2000;
  Frames reached = end();
  for (int quiet = 0; reached < frame && quiet < (diskIsBehind() ? forTheDisk : forSound); ++quiet) {
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (const Frames now = end(); now > reached) {
      reached = now;
      quiet = 0;
    }
  }
}

std::vector<float> InputTape::read(int input, Span tape) const {
  std::vector<float> samples(static_cast<std::size_t>(std::max<std::int64_t>(0, tape.length().count)));
  std::shared_ptr<Stream> stream;
  {
    const std::lock_guard guard(mutex_);
    for (const auto& each : streams_)
      if (each->input == input) stream = each;
  }
  if (!stream || stream->begins.load(std::memory_order_acquire) < 0) return samples;
  const Frames begins{stream->begins.load(std::memory_order_acquire)};
  const Frames written{stream->written.load(std::memory_order_acquire)};
  const Span there{begins + std::max(Frames{}, written - Frames{seconds_}), begins + written};
  const Span part = tape.intersect(there);
  for (Frames at = part.start; at < part.end;) {
    const std::int64_t place = (at - begins).count % capacity_;
    const std::int64_t frames = std::min((part.end - at).count, capacity_ - place);
    const auto offset = static_cast<off_t>((static_cast<std::int64_t>(stream->slot) * capacity_ + place) *
                                           static_cast<std::int64_t>(sizeof(float)));
    float* const out = samples.data() + (at - tape.start).count;
    if (::pread(file_.get(), out, static_cast<std::size_t>(frames) * sizeof(float), offset) <= 0) break;
    at += Frames{frames};
  }
  return samples;
}

void InputTape::take(Span tape) {
  takeStamps();
  const std::lock_guard guard(mutex_);
  for (std::size_t i = 0; i < stamps_.size(); ++i) {
    const Frames end = i + 1 < stamps_.size() ? stamps_[i + 1].at : maximumPosition;
    const Span taken = Span{stamps_[i].at, end}.intersect(tape);
    if (taken.end <= stamps_[i].takenUntil || taken.empty()) continue;
    stamps_[i].takenUntil = taken.end;
    stamps_[i].takenFromBefore = tape.start < stamps_[i].at;
  }
}

void InputTape::takeRoll(RollNumber roll) {
  takeStamps();
  const std::lock_guard guard(mutex_);
  for (Stamp& stamp : stamps_)
    if (stamp.roll == roll) stamp.takenUntil = maximumPosition;
}

}  // namespace yewdrift
