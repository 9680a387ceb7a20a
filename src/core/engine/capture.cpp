// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/capture.h"

#include <algorithm>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr std::size_t blockFrames = 4096;

std::size_t channelsOf(const std::vector<CaptureFile>& files) {
  std::size_t count = 0;
  for (const CaptureFile& file : files) count += file.inputs.size();
  return count;
}

}  // namespace

CaptureStream::CaptureStream(const std::vector<CaptureFile>& files, SampleRate rate, SampleFormat format,
                             std::size_t bufferFrames)
    : rate_(rate),
      ring_(bufferFrames * channelsOf(files)),
      interleaved_(blockFrames * channelsOf(files)),
      part_(blockFrames * channelsOf(files)),
      mono_(blockFrames) {
  for (const CaptureFile& file : files) {
    sinks_.push_back({AudioWriter(std::move(*file.file), static_cast<int>(file.inputs.size()), rate, format),
                      file.inputs,
                      inputs_.size(),
                      {}});
    inputs_.insert(inputs_.end(), file.inputs.begin(), file.inputs.end());
  }
}

void CaptureStream::push(const float* const* inputs, int inputCount, int offset, int frames) noexcept {
  const std::size_t channels = inputs_.size();
  payWithSilence();
  // While silence is owed nothing may overtake it.
  const std::size_t room = owed_ > 0 ? 0 : ring_.writable() / channels;
  const auto taken = std::min(static_cast<std::size_t>(frames), room);
  for (std::size_t channel = 0; channel < channels; ++channel) {
    const bool there = inputs_[channel] < inputCount;
    const float* from = there ? inputs[inputs_[channel]] + offset : nullptr;
    for (std::size_t i = 0; i < taken; ++i) ring_.slot(i * channels + channel) = there ? from[i] : 0.0F;
  }
  ring_.publish(taken * channels);
  owed_ += static_cast<std::size_t>(frames) - taken;
  lost_.fetch_add(frames - static_cast<std::int64_t>(taken), std::memory_order_relaxed);
}

void CaptureStream::payWithSilence() noexcept {
  const std::size_t channels = inputs_.size();
  if (owed_ == 0) return;
  const std::size_t paid = std::min(owed_, ring_.writable() / channels);
  ring_.publishSilence(paid * channels);
  owed_ -= paid;
}

void CaptureStream::write() {
  if (allWritten_.load(std::memory_order_relaxed)) return;
  const bool complete = complete_.load(std::memory_order_acquire);
  const std::size_t channels = inputs_.size();
  while (ring_.readable() >= channels) {
    const std::size_t frames = std::min(blockFrames, ring_.readable() / channels);
    ring_.read(interleaved_.data(), frames * channels);
    writeBlock(frames);
  }
  // Takes are made of it at once, so their files have to say all that they have.
  const std::int64_t body = body_.load(std::memory_order_acquire);
  if (body >= 0 && written().count >= body && readable_.load() < body) keepReadable();
  if (!complete) return;
  fillUp();
  allWritten_.store(true, std::memory_order_release);
}

void CaptureStream::fillUp() {
  const std::int64_t whole = whole_.load(std::memory_order_relaxed);
  std::fill(interleaved_.begin(), interleaved_.end(), 0.0F);
  while (!failure() && written().count < whole)
    writeBlock(std::min(blockFrames, static_cast<std::size_t>(whole - written().count)));
}

bool CaptureStream::bodyWritten() const {
  const std::int64_t body = body_.load(std::memory_order_acquire);
  return closed() || (body >= 0 && readable_.load(std::memory_order_acquire) >= body);
}

Frames CaptureStream::body() const {
  const std::int64_t body = body_.load(std::memory_order_acquire);
  return body < 0 ? written() : std::min(written(), Frames{body});
}

Frames CaptureStream::whole() const {
  const std::int64_t body = body_.load(std::memory_order_acquire);
  return body < 0 || failure() ? written() : Frames{whole_.load(std::memory_order_relaxed)};
}

template <typename Work>
void CaptureStream::tryTo(Work work) {
  try {
    work();
  } catch (const Error& e) {
    fail(e.sentence());
  }
}

void CaptureStream::writeBlock(std::size_t frames) {
  const std::size_t channels = inputs_.size();
  try {
    for (Sink& sink : sinks_) {
      const std::size_t width = sink.inputs.size();
      for (std::size_t i = 0; i < frames; ++i)
        std::copy_n(&interleaved_[i * channels + sink.firstChannel], width, &part_[i * width]);
      if (!failure()) sink.writer.write(part_.data(), static_cast<std::int64_t>(frames));
      for (std::size_t i = 0; i < frames; ++i) mono_[i] = part_[i * width];
      const std::lock_guard guard(mutex_);
      sink.peaks.append(std::span(mono_).first(frames));
    }
    if (failure()) return;
    written_.fetch_add(static_cast<std::int64_t>(frames), std::memory_order_release);
    sinceHeader_ += static_cast<std::int64_t>(frames);
    // Five times a second the files on disk are made whole up to here; see the promise of at most 0.5 s.
    if (sinceHeader_ * 5 >= rate_.hertz) keepReadable();
  } catch (const Error& e) {
    fail(e.sentence());
  }
}

void CaptureStream::keepReadable() {
  sinceHeader_ = 0;
  for (Sink& sink : sinks_) tryTo([&] { sink.writer.updateHeader(); });
  readable_.store(written().count, std::memory_order_release);
}

bool CaptureStream::finish() {
  if (safe() || !allWritten_.load(std::memory_order_acquire)) return safe();
  for (Sink& sink : sinks_) tryTo([&] { sink.writer.finish(); });
  closed_.store(true, std::memory_order_release);
  for (Sink& sink : sinks_) tryTo([&] { sink.writer.close(); });
  safe_.store(true, std::memory_order_release);
  return true;
}

void CaptureStream::syncNowAndThen() {
  const std::int64_t written = written_.load(std::memory_order_acquire);
  if (written - synced_ < rate_.hertz || failure()) return;
  synced_ = written;
  for (Sink& sink : sinks_) tryTo([&] { sink.writer.sync(); });
}

void CaptureStream::fail(const Sentence& sentence) {
  const std::lock_guard guard(mutex_);
  if (!failure_) failure_ = sentence;
}

std::optional<Sentence> CaptureStream::failure() const {
  const std::lock_guard guard(mutex_);
  return failure_;
}

void CaptureStream::updatePeaks(std::size_t file, PeakPyramid& shown) const {
  const std::lock_guard guard(mutex_);
  if (file >= sinks_.size() || sinks_[file].peaks.length() == shown.length()) return;
  const auto& base = sinks_[file].peaks.levels().front();
  // The last peak shown may have been of a stretch that was still filling.
  const std::size_t from = shown.levels().front().empty() ? 0 : shown.levels().front().size() - 1;
  shown.replaceBase(from, std::span(base).subspan(from), sinks_[file].peaks.length());
}

}  // namespace yewdrift
