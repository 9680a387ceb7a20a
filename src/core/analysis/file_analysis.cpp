// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/file_analysis.h"

#include <ebur128.h>

#include <cmath>
#include <memory>
#include <new>
#include <numbers>

#include "core/analysis/analysis_cache.h"
#include "core/signal/finite.h"
#include "core/signal/onsets.h"
#include "core/store/audio_file.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

constexpr float fullScale = 1.0F - 1.0F / 32768.0F;

struct Destroy {
  void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};

/// Jumps of a wave: a second difference that is large, and many times what those around it are.
class ClickFinder {
 public:
  bool add(float sample) {
    const float bend = std::abs(sample - 2.0F * last_ + beforeLast_);
    beforeLast_ = last_;
    last_ = sample;
    const bool click = bend > 0.1F && bend > 25.0F * usual_ && quiet_ == 0;
    // What rings after a click is no other one.
    quiet_ = click ? 200 : std::max(0, quiet_ - 1);
    if (!click) usual_ += 0.01F * (std::min(bend, 4.0F * usual_ + 1e-4F) - usual_);
    return click;
  }

 private:
  float last_ = 0.0F;
  float beforeLast_ = 0.0F;
  float usual_ = 1e-3F;
  int quiet_ = 200;
};

/// An offset of a bad input is no sound: what is slower than some hertz is taken away.
class OffsetFollower {
 public:
  explicit OffsetFollower(SampleRate rate)
      : follows_(2.0 * std::numbers::pi * 5.0 / static_cast<double>(rate.hertz)) {}
  double without(float sample) {
    if (!begun_) offset_ = sample;
    begun_ = true;
    offset_ += follows_ * (sample - offset_);
    return sample - offset_;
  }

 private:
  double follows_;
  double offset_ = 0.0;
  bool begun_ = false;
};

class LevelFollower {
 public:
  LevelFollower(int channels, SampleRate rate)
      : channels_(static_cast<std::size_t>(channels)),
        step_(static_cast<std::size_t>(levelStepAt(rate).count)),
        meter_(ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(rate.hertz),
                            EBUR128_MODE_M)),
        squares_(channels_, 0.0),
        over_(channels_, false),
        clicks_(channels_),
        offsets_(channels_, OffsetFollower(rate)) {
    if (!meter_) throw std::bad_alloc();
    for (std::size_t channel = 0; channel < channels_; ++channel)
      ebur128_set_channel(meter_.get(), static_cast<unsigned>(channel), EBUR128_LEFT);
  }
  void add(std::span<const float> interleaved) {
    while (!interleaved.empty()) {
      const std::size_t frames = std::min(interleaved.size() / channels_, step_ - inStep_);
      const auto part = interleaved.first(frames * channels_);
      interleaved = interleaved.subspan(part.size());
      for (std::size_t i = 0; i < part.size(); ++i) follow(part[i], i % channels_);
      ebur128_add_frames_float(meter_.get(), part.data(), frames);
      inStep_ += frames;
      if (inStep_ == step_) endStep();
    }
  }
  std::vector<LevelStep> finish() {
    if (inStep_ > 0) endStep();
    return std::move(steps_);
  }

 private:
  void follow(float sample, std::size_t channel) {
    const float level = std::abs(sample);
    const double sound = offsets_[channel].without(sample);
    squares_[channel] += sound * sound;
    now_.peak = std::max(now_.peak, level);
    const bool over = level >= fullScale;
    if (over && !over_[channel]) ++now_.overs;
    over_[channel] = over;
    if (clicks_[channel].add(sample)) ++now_.clicks;
  }
  void endStep() {
    double loudness = 0.0;
    const auto milliseconds = static_cast<unsigned long>(10);
    if (ebur128_loudness_window(meter_.get(), milliseconds, &loudness) == EBUR128_SUCCESS &&
        std::isfinite(loudness))
      now_.weighted = static_cast<float>(std::pow(10.0, (loudness + 0.691) / 10.0));
    now_.square = static_cast<float>(*std::max_element(squares_.begin(), squares_.end()) /
                                     static_cast<double>(inStep_));
    steps_.push_back(now_);
    now_ = {};
    inStep_ = 0;
    std::fill(squares_.begin(), squares_.end(), 0.0);
  }

  std::size_t channels_;
  std::size_t step_;
  std::unique_ptr<ebur128_state, Destroy> meter_;
  std::size_t inStep_ = 0;
  LevelStep now_;
  std::vector<double> squares_;
  std::vector<bool> over_;
  std::vector<ClickFinder> clicks_;
  std::vector<OffsetFollower> offsets_;
  std::vector<LevelStep> steps_;
};

FileAnalysis measure(AudioReader& reader, const PoolFile& file, SampleRate rate,
                     const std::atomic<bool>& cancelled, const std::function<void(double)>& progress) {
  constexpr Frames atOnce{65536};
  const int channels = reader.info().channels;
  const auto stride = static_cast<std::size_t>(channels);
  // More channels than the meter takes are measured as one.
  constexpr int mostChannels = 64;
  const bool many = channels > mostChannels;
  LevelFollower levels(many ? 1 : channels, rate);
  OnsetFinder onsets(rate);
  PitchTracker pitch(rate);
  SpectraFollower spectra(rate, levelStepAt(rate));
  std::vector<float> block(static_cast<std::size_t>(atOnce.count) * stride);
  std::vector<float> mean(static_cast<std::size_t>(atOnce.count));
  const Span all{{}, std::min(file.length, reader.info().length)};
  for (const Span part : SpanParts(all, atOnce)) {
    if (cancelled) return {};
    const auto frames = static_cast<std::size_t>(part.length().count);
    reader.readAt(part.start, part.length().count, block.data());
    const std::span<float> read(block.data(), frames * stride);
    std::ranges::transform(read, read.begin(), finite);
    for (std::size_t i = 0; i < frames; ++i) {
      float sum = 0.0F;
      for (std::size_t channel = 0; channel < stride; ++channel) sum += read[i * stride + channel];
      mean[i] = sum / static_cast<float>(channels);
    }
    levels.add(many ? std::span(mean).first(frames) : read);
    onsets.add(std::span(mean).first(frames));
    pitch.add(std::span(mean).first(frames));
    spectra.add(std::span(mean).first(frames));
    if (progress) progress(shareBefore(all, part.end));
  }
  return {onsets.finish(), pitch.finish(), levelStepAt(rate), levels.finish(), spectra.finish()};
}

}  // namespace

Frames levelStepAt(SampleRate rate) {
  return {rate.hertz / 100};
}

Loudness loudnessOf(const std::vector<LevelStep>& steps) {
  constexpr std::size_t block = 40;
  constexpr std::size_t hop = 10;
  constexpr double offset = -0.691;
  constexpr double absoluteGate = -70.0;
  constexpr double relativeGate = -10.0;
  Loudness loudness;
  for (const LevelStep& step : steps) {
    loudness.peak = std::max(loudness.peak, step.peak);
    loudness.overs += step.overs;
  }
  const auto lufsOf = [](double energy) { return offset + 10.0 * std::log10(std::max(energy, 1e-20)); };
  const auto energyOf = [&steps](std::size_t from, std::size_t to) {
    double sum = 0.0;
    for (std::size_t i = from; i < to; ++i) sum += steps[i].weighted;
    return sum / static_cast<double>(to - from);
  };
  std::vector<double> blocks;
  if (!steps.empty()) blocks.push_back(energyOf(0, std::min(block, steps.size())));
  for (std::size_t from = hop; from + block <= steps.size(); from += hop)
    blocks.push_back(energyOf(from, from + block));
  const auto meanAbove = [&blocks, &lufsOf](double gate) {
    double sum = 0.0;
    int count = 0;
    for (const double energy : blocks)
      if (lufsOf(energy) > gate) {
        sum += energy;
        ++count;
      }
    return count > 0 ? std::optional(sum / count) : std::nullopt;
  };
  const auto loud = meanAbove(absoluteGate);
  if (!loud) return loudness;
  const auto gated = meanAbove(std::max(absoluteGate, lufsOf(*loud) + relativeGate));
  loudness.lufs = lufsOf(gated.value_or(*loud));
  return loudness;
}

FileAnalysis analyseFile(const SessionDisk& disk, const PoolFile& file, SampleRate rate,
                         const std::atomic<bool>& cancelled, const std::function<void(double)>& progress) {
  try {
    OpenFile audio = disk.open(file.path);
    const FileStamp stamp = stampOf(audio);
    if (auto cached = cachedAnalysis(disk, file, rate, stamp)) return std::move(*cached);
    AudioReader reader(std::move(audio));
    FileAnalysis analysis = measure(reader, file, rate, cancelled, progress);
    // One that still grows is measured again.
    if (!cancelled && reader.info().length >= file.length) keepAnalysis(disk, file, rate, stamp, analysis);
    return analysis;
  } catch (const std::exception&) {
    return {};
  }
}

}  // namespace yewdrift
