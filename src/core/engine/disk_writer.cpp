// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/disk_writer.h"

#include <algorithm>
#include <chrono>

namespace yewdrift {
namespace {

constexpr std::chrono::milliseconds turn{5};

}  // namespace

DiskWriter::DiskWriter(Threads threads) {
  if (threads == Threads::None) return;
  running_ = true;
  writer_ = std::thread([this] {
    while (running_) {
      write();
      std::this_thread::sleep_for(turn);
    }
  });
  finisher_ = std::thread([this] {
    while (running_) {
      finish();
      std::this_thread::sleep_for(4 * turn);  // nobody waits for it
    }
  });
}

DiskWriter::~DiskWriter() {
  running_ = false;
  for (std::thread* thread : {&writer_, &finisher_})
    if (thread->joinable()) thread->join();
}

void DiskWriter::add(std::shared_ptr<CaptureStream> stream) {
  const std::lock_guard guard(mutex_);
  streams_.push_back(std::move(stream));
}

void DiskWriter::setTape(std::shared_ptr<InputTape> tape) {
  const std::lock_guard guard(mutex_);
  tape_ = std::move(tape);
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
