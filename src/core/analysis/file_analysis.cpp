// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/file_analysis.h"

#include <ebur128.h>
#include <sys/stat.h>

#include <cmath>
#include <cstring>
#include <filesystem>
#include <memory>
#include <new>

#include "core/error.h"
#include "core/signal/onsets.h"
#include "core/store/audio_file.h"

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

class LevelFollower {
 public:
  LevelFollower(int channels, SampleRate rate)
      : channels_(static_cast<std::size_t>(channels)),
        step_(static_cast<std::size_t>(levelStepAt(rate).count)),
        meter_(ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(rate.hertz),
                            EBUR128_MODE_M)),
        squares_(channels_, 0.0),
        over_(channels_, false),
        clicks_(channels_) {
    if (!meter_) throw std::bad_alloc();
    for (std::size_t channel = 0; channel < channels_; ++channel)
      ebur128_set_channel(meter_.get(), static_cast<unsigned>(channel),
                          channel % 2 == 0 ? EBUR128_LEFT : EBUR128_RIGHT);
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
    squares_[channel] += static_cast<double>(sample) * sample;
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
  std::vector<LevelStep> steps_;
};

FileAnalysis measure(AudioReader& reader, const PoolFile& file, SampleRate rate,
                     const std::atomic<bool>& cancelled, const std::function<void(double)>& progress) {
  constexpr std::int64_t atOnce = 65536;
  const int channels = reader.info().channels;
  const auto stride = static_cast<std::size_t>(channels);
  // More channels than the meter takes are measured as one.
  constexpr int mostChannels = 64;
  const bool many = channels > mostChannels;
  LevelFollower levels(many ? 1 : channels, rate);
  OnsetFinder onsets(rate);
  PitchTracker pitch(rate);
  std::vector<float> block(static_cast<std::size_t>(atOnce) * stride);
  std::vector<float> mean(static_cast<std::size_t>(atOnce));
  const Frames length = std::min(file.length, reader.info().length);
  for (Frames at; at < length; at += Frames{atOnce}) {
    if (cancelled) return {};
    const auto frames = static_cast<std::size_t>(std::min(atOnce, (length - at).count));
    reader.readAt(at, static_cast<std::int64_t>(frames), block.data());
    const std::span<float> read(block.data(), frames * stride);
    for (float& sample : read)
      if (!std::isfinite(sample)) sample = 0.0F;
    for (std::size_t i = 0; i < frames; ++i) {
      float sum = 0.0F;
      for (std::size_t channel = 0; channel < stride; ++channel) sum += read[i * stride + channel];
      mean[i] = sum / static_cast<float>(channels);
    }
    levels.add(many ? std::span(mean).first(frames) : read);
    onsets.add(std::span(mean).first(frames));
    pitch.add(std::span(mean).first(frames));
    if (progress)
      progress(static_cast<double>((at + Frames{atOnce}).count) / static_cast<double>(length.count));
  }
  return {onsets.finish(), pitch.finish(), levelStepAt(rate), levels.finish()};
}

// -- the cache

constexpr char magic[8] = {'y', 'd', 'a', 'n', 'a', 'l', 'y', '1'};

struct Header {
  char name[8] = {};
  std::int64_t length = 0;
  std::int64_t fileSize = 0;
  std::int64_t fileTime = 0;
  std::int64_t rate = 0;
  std::int64_t pitchStep = 0;
  std::uint64_t onsets = 0;
  std::uint64_t pitches = 0;
  std::uint64_t levels = 0;
};

std::string cacheName(const PoolFile& file) {
  return "cache/" + std::filesystem::path(file.path).filename().string() + ".analysis";
}

/// What an analysis of the file as it is begins with, but for the counts.
Header headerFor(const OpenFile& audio, const PoolFile& file, SampleRate rate) {
  const FileStamp stamp = stampOf(audio);
  Header header;
  std::memcpy(header.name, magic, sizeof magic);
  header.length = file.length.count;
  header.fileSize = stamp.bytes;
  header.fileTime = stamp.changed;
  header.rate = rate.hertz;
  return header;
}

template <typename T>
void put(std::string& bytes, const std::vector<T>& values) {
  bytes.append(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(T));
}

template <typename T>
std::vector<T> got(const char*& from, std::uint64_t count) {
  std::vector<T> values(count);
  if (count > 0) std::memcpy(values.data(), from, count * sizeof(T));
  from += count * sizeof(T);
  return values;
}

std::optional<FileAnalysis> readCache(const SessionDisk& disk, const PoolFile& file, const Header& expected) {
  try {
    const OpenFile cached = disk.open(cacheName(file));
    struct stat status {};
    if (::fstat(cached.descriptor.get(), &status) != 0) return std::nullopt;
    const auto size = static_cast<std::size_t>(status.st_size);
    // No more than one value a frame of each: a cache that says else is damaged.
    const std::size_t most =
        sizeof(Header) + static_cast<std::size_t>(expected.length + 1) * 3 * sizeof(LevelStep);
    if (size < sizeof(Header) || size > most) return std::nullopt;
    const std::string bytes = readAll(cached, size);
    if (bytes.size() != size) return std::nullopt;
    Header header;
    std::memcpy(&header, bytes.data(), sizeof header);
    Header same = expected;
    same.pitchStep = header.pitchStep;
    same.onsets = header.onsets;
    same.pitches = header.pitches;
    same.levels = header.levels;
    if (std::memcmp(&header, &same, sizeof header) != 0 || header.pitchStep <= 0) return std::nullopt;
    const auto counts = {header.onsets, header.pitches, header.levels};
    for (const std::uint64_t count : counts)
      if (count > size) return std::nullopt;
    if (sizeof header + header.onsets * sizeof(std::int64_t) + header.pitches * sizeof(float) +
            header.levels * sizeof(LevelStep) !=
        size)
      return std::nullopt;
    const char* from = bytes.data() + sizeof header;
    FileAnalysis analysis;
    for (const std::int64_t at : got<std::int64_t>(from, header.onsets)) analysis.onsets.push_back({at});
    analysis.pitch.step = {header.pitchStep};
    analysis.pitch.cents = got<float>(from, header.pitches);
    analysis.levelStep = levelStepAt({static_cast<int>(header.rate)});
    analysis.levels = got<LevelStep>(from, header.levels);
    return analysis;
  } catch (const Error&) {
    return std::nullopt;
  }
}

void writeCache(const SessionDisk& disk, const PoolFile& file, Header header, const FileAnalysis& analysis) {
  header.pitchStep = analysis.pitch.step.count;
  header.onsets = analysis.onsets.size();
  header.pitches = analysis.pitch.cents.size();
  header.levels = analysis.levels.size();
  std::string bytes(reinterpret_cast<const char*>(&header), sizeof header);
  std::vector<std::int64_t> onsets;
  for (const Frames at : analysis.onsets) onsets.push_back(at.count);
  put(bytes, onsets);
  put(bytes, analysis.pitch.cents);
  put(bytes, analysis.levels);
  try {
    disk.replace(cacheName(file), bytes, SessionDisk::Safety::Cache);
  } catch (const Error&) {
    return;  // it is measured again next time
  }
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
  if (!steps.empty() && steps.size() < block) blocks.push_back(energyOf(0, steps.size()));
  for (std::size_t from = 0; from + block <= steps.size(); from += hop)
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
    const Header header = headerFor(audio, file, rate);
    if (auto cached = readCache(disk, file, header)) return std::move(*cached);
    AudioReader reader(std::move(audio));
    FileAnalysis analysis = measure(reader, file, rate, cancelled, progress);
    // One that still grows is measured again.
    if (!cancelled && reader.info().length >= file.length) writeCache(disk, file, header, analysis);
    return analysis;
  } catch (const std::exception&) {
    return {};
  }
}

}  // namespace yewdrift
