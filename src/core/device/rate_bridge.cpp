// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/rate_bridge.h"

#include <samplerate.h>

#include <algorithm>
#include <cmath>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double mostRatio = 8.0;  // 192 kHz on a server at 24
constexpr int wideFrom = 9;        // channels; from here on the cheaper filter is used
/// More than the two filters together look ahead, in frames of the device: about 46 / ratio each.
constexpr std::size_t aheadFrames = 288;
constexpr std::size_t sessionFrames = static_cast<std::size_t>(RateBridge::partFrames * mostRatio) + 16;

SRC_STATE* converter(int channels) {
  int failed = 0;
  SRC_STATE* state = src_new(channels < wideFrom ? SRC_SINC_MEDIUM_QUALITY : SRC_SINC_FASTEST,
                             std::max(1, channels), &failed);
  if (!state) throw Error("The rate cannot be converted: %1.", src_strerror(failed));
  return state;
}

}  // namespace

void RateBridge::Free::operator()(SRC_STATE_tag* state) const noexcept {
  src_delete(state);
}

RateBridge::RateBridge(AudioCallback& callback, SampleRate sessionRate, int inputs, int outputs)
    : callback_(callback),
      sessionRate_(sessionRate),
      inputs_(std::min(inputs, mostChannels)),
      outputs_(std::min(outputs, mostChannels)),
      in_(converter(inputs_)),
      out_(converter(outputs_)) {
  const auto wide = static_cast<std::size_t>(std::max({inputs_, outputs_, 1}));
  interleaved_.resize(static_cast<std::size_t>(partFrames) * wide);
  converted_.resize(sessionFrames * wide);
  sessionIn_.assign(static_cast<std::size_t>(inputs_), std::vector<float>(sessionFrames));
  sessionOut_.assign(static_cast<std::size_t>(outputs_), std::vector<float>(sessionFrames));
  for (auto& channel : sessionIn_) inPointers_.push_back(channel.data());
  for (auto& channel : sessionOut_) outPointers_.push_back(channel.data());
  queue_.resize((aheadFrames + 4 * static_cast<std::size_t>(partFrames)) * wide);
}

RateBridge::~RateBridge() = default;

Frames RateBridge::delay() const {
  const int rate = deviceRate();
  if (rate == 0 || rate == sessionRate_.hertz) return {};
  return {std::llround(static_cast<double>(aheadFrames) * sessionRate_.hertz / rate)};
}

void RateBridge::restart(int deviceRate) noexcept {
  deviceRate_.store(deviceRate, std::memory_order_relaxed);
  ratio_ = static_cast<double>(sessionRate_.hertz) / deviceRate;
  for (SRC_STATE_tag* state : {in_.get(), out_.get()}) src_reset(state);
  src_set_ratio(in_.get(), ratio_);
  src_set_ratio(out_.get(), 1.0 / ratio_);
  queued_ = aheadFrames;
  std::fill(queue_.begin(), queue_.end(), 0.0F);
}

void RateBridge::process(const AudioBlock& block, int deviceRate) noexcept {
  bool dropout = block.dropout;
  if (deviceRate != deviceRate_.load(std::memory_order_relaxed)) {
    dropout = dropout || deviceRate_.load(std::memory_order_relaxed) != 0;
    restart(deviceRate);
  }
  if (deviceRate == sessionRate_.hertz) {
    AudioBlock passed = block;
    passed.dropout = dropout;
    return callback_.process(passed);
  }
  for (int offset = 0; offset < block.frames; offset += partFrames) {
    convertPart(block, offset, std::min(partFrames, block.frames - offset), dropout);
    dropout = false;
  }
}

void RateBridge::convertPart(const AudioBlock& block, int offset, int frames, bool dropout) noexcept {
  const auto channels = static_cast<std::size_t>(std::max(1, inputs_));
  for (std::size_t c = 0; c < channels; ++c) {
    const auto channel = static_cast<int>(c);
    const float* from = channel < inputs_ && channel < block.inputCount ? block.inputs[c] + offset : nullptr;
    for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i)
      interleaved_[i * channels + c] = from ? from[i] : 0.0F;
  }
  SRC_DATA in{};
  in.data_in = interleaved_.data();
  in.input_frames = frames;
  in.data_out = converted_.data();
  in.output_frames = static_cast<long>(sessionFrames);
  in.src_ratio = ratio_;
  if (src_process(in_.get(), &in) != 0) in.output_frames_gen = 0;
  const auto made = static_cast<std::size_t>(in.output_frames_gen);
  for (std::size_t c = 0; c < sessionIn_.size(); ++c)
    for (std::size_t i = 0; i < made; ++i) sessionIn_[c][i] = converted_[i * channels + c];
  if (made > 0)
    callback_.process(
        {inPointers_.data(), inputs_, outPointers_.data(), outputs_, static_cast<int>(made), dropout});

  if (outputs_ < 1) return;
  for (std::size_t c = 0; c < sessionOut_.size(); ++c)
    for (std::size_t i = 0; i < made; ++i) converted_[i * sessionOut_.size() + c] = sessionOut_[c][i];
  SRC_DATA out{};
  out.data_in = converted_.data();
  out.input_frames = static_cast<long>(made);
  out.data_out = queue_.data() + queued_ * static_cast<std::size_t>(outputs_);
  out.output_frames = static_cast<long>(queue_.size() / static_cast<std::size_t>(outputs_) - queued_);
  out.src_ratio = 1.0 / ratio_;
  if (src_process(out_.get(), &out) == 0) queued_ += static_cast<std::size_t>(out.output_frames_gen);
  takeOut(block, offset, frames);
}

void RateBridge::takeOut(const AudioBlock& block, int offset, int frames) noexcept {
  const auto channels = static_cast<std::size_t>(outputs_);
  const std::size_t taken = std::min(queued_, static_cast<std::size_t>(frames));
  for (int c = 0; c < block.outputCount; ++c)
    for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i)
      block.outputs[c][static_cast<std::size_t>(offset) + i] =
          c < outputs_ && i < taken ? queue_[i * channels + static_cast<std::size_t>(c)] : 0.0F;
  queued_ -= taken;
  std::copy_n(queue_.begin() + static_cast<std::ptrdiff_t>(taken * channels), queued_ * channels,
              queue_.begin());
}

}  // namespace yewdrift
