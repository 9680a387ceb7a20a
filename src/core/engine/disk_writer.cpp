// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/disk_writer.h"

#include <algorithm>
#include <chrono>

namespace yewdrift {
namespace {

// A tape has room for seconds, and so need not be emptied as often as it would take to fall behind.
constexpr std::chrono::milliseconds turnOfStreams{5};
constexpr std::chrono::milliseconds turnOfTape{25};
constexpr std::chrono::milliseconds turnOfFinisher{20};  // nobody waits for it

}  // namespace

DiskWriter::DiskWriter(Threads threads) {
  if (threads == Threads::None) return;
  running_ = true;
  writer_ = std::thread([this] {
    while (rest(Turn::Writer)) write();
  });
  finisher_ = std::thread([this] {
    while (rest(Turn::Finisher)) finish();
  });
}

DiskWriter::~DiskWriter() {
  {
    const std::lock_guard guard(mutex_);
    running_ = false;
  }
  changed_.notify_all();
  for (std::thread* thread : {&writer_, &finisher_})
    if (thread->joinable()) thread->join();
}

bool DiskWriter::rest(Turn whose) {
  std::unique_lock lock(mutex_);
  changed_.wait(
      lock, [&] { return !running_ || !streams_.empty() || (whose == Turn::Writer && tape_ != nullptr); });
  const auto turn = whose == Turn::Finisher ? turnOfFinisher : streams_.empty() ? turnOfTape : turnOfStreams;
  const bool recordedMeanwhile = !streams_.empty();
  changed_.wait_for(lock, turn, [&] { return !running_ || recordedMeanwhile != !streams_.empty(); });
  return running_;
}

void DiskWriter::add(std::shared_ptr<CaptureStream> stream) {
  {
    const std::lock_guard guard(mutex_);
    streams_.push_back(std::move(stream));
  }
  changed_.notify_all();
}

void DiskWriter::setTape(std::shared_ptr<InputTape> tape) {
  {
    const std::lock_guard guard(mutex_);
    tape_ = std::move(tape);
  }
  changed_.notify_all();
}

std::vector<std::shared_ptr<CaptureStream>> DiskWriter::streams() const {
  const std::lock_guard guard(mutex_);
  return streams_;
}

void DiskWriter::work() {
  write();
  finish();
}

void DiskWriter::write() {
  std::shared_ptr<InputTape> tape;
  {
    const std::lock_guard guard(mutex_);
    tape = tape_;
  }
  for (const auto& stream : streams()) stream->write();
  if (tape) tape->drain();
}

void DiskWriter::finish() {
  for (const auto& stream : streams()) {
    if (stream->finish()) {
      const std::lock_guard guard(mutex_);
      std::erase(streams_, stream);
    } else {
      stream->syncNowAndThen();
    }
  }
}

}  // namespace yewdrift
