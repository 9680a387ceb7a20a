// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/audio_file.h"

#include <fcntl.h>
#include <sndfile.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <vector>

#include "core/error.h"

namespace yewdrift {
namespace {

std::string quoted(const std::filesystem::path& path) {
  return "\"" + path.filename().string() + "\"";
}

std::optional<SampleFormat> sampleFormatOf(int format) {
  switch (format & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_16:
      return SampleFormat::Pcm16;
    case SF_FORMAT_PCM_24:
      return SampleFormat::Pcm24;
    case SF_FORMAT_FLOAT:
      return SampleFormat::Float32;
    default:
      return std::nullopt;
  }
}

int subtypeOf(SampleFormat format) {
  switch (format) {
    case SampleFormat::Pcm16:
      return SF_FORMAT_PCM_16;
    case SampleFormat::Pcm24:
      return SF_FORMAT_PCM_24;
    case SampleFormat::Float32:
      break;
  }
  return SF_FORMAT_FLOAT;
}

/// To the nearest step of a `bits` wide integer, which stands in the upper bits of the result. The library's
/// own conversion scales by 2^(bits-1) - 1 and so would not give back the samples it read.
int quantise(float sample, int bits) {
  const auto scale = static_cast<float>(1 << (bits - 1));
  const float step = std::clamp(sample * scale, -scale, scale - 1.0F);
  return static_cast<int>(std::lrint(step)) * (1 << (32 - bits));
}

}  // namespace

void syncToDisk(const std::filesystem::path& path) {
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  const int failed = descriptor < 0 || ::fsync(descriptor) != 0 ? errno : 0;
  if (descriptor >= 0) ::close(descriptor);
  // Some file systems have no sync to offer; that is no loss of what was written.
  if (failed != 0 && failed != EINVAL && failed != EROFS && failed != ENOSYS)
    throw Error("The disk did not keep the file " + quoted(path) + ": " +
                std::generic_category().message(failed) + ".");
}

struct AudioReader::Handle {
  SNDFILE* file = nullptr;
  std::int64_t next = 0;
  ~Handle() {
    if (file) sf_close(file);
  }
};

AudioReader::AudioReader(const std::filesystem::path& path) : handle_(std::make_unique<Handle>()) {
  std::error_code ignored;
  if (!std::filesystem::exists(path, ignored)) throw Error("The audio file " + quoted(path) + " is missing.");
  if (!std::filesystem::is_regular_file(path, ignored)) throw Error(quoted(path) + " is not a file.");
  if (std::filesystem::file_size(path, ignored) == 0)
    throw Error("The audio file " + quoted(path) + " is empty.");
  SF_INFO info{};
  handle_->file = sf_open(path.c_str(), SFM_READ, &info);
  if (!handle_->file) throw Error(quoted(path) + " is not an audio file that Yewdrift can read.");
  if (info.channels < 1 || info.channels > 256 || info.samplerate < 1 || info.frames < 0)
    throw Error("The audio file " + quoted(path) + " describes itself in an impossible way.");
  const int type = info.format & SF_FORMAT_TYPEMASK;
  info_ = {info.channels,
           {info.samplerate},
           {info.frames},
           type == SF_FORMAT_WAV || type == SF_FORMAT_WAVEX || type == SF_FORMAT_RF64,
           sampleFormatOf(info.format)};
}

AudioReader::~AudioReader() = default;
AudioReader::AudioReader(AudioReader&&) noexcept = default;
AudioReader& AudioReader::operator=(AudioReader&&) noexcept = default;

std::int64_t AudioReader::readAt(Frames at, std::int64_t frames, float* interleaved) {
  const auto channels = static_cast<std::size_t>(info_.channels);
  std::fill_n(interleaved, static_cast<std::size_t>(frames) * channels, 0.0F);
  const std::int64_t from = std::clamp<std::int64_t>(at.count, 0, info_.length.count);
  const std::int64_t to = std::clamp<std::int64_t>(at.count + frames, from, info_.length.count);
  if (from == to) return 0;
  if (handle_->next != from && sf_seek(handle_->file, from, SEEK_SET) != from) {
    handle_->next = -1;
    return 0;
  }
  float* target = interleaved + static_cast<std::size_t>(from - at.count) * channels;
  const std::int64_t got = std::max<sf_count_t>(sf_readf_float(handle_->file, target, to - from), 0);
  handle_->next = from + got;
  return got;
}

struct AudioWriter::Handle {
  SNDFILE* file = nullptr;
  int bits = 0;  // of integer formats
  std::vector<int> quantised;
  ~Handle() {
    if (file) sf_close(file);
  }
};

AudioWriter::AudioWriter(const std::filesystem::path& path, int channels, SampleRate rate,
                         SampleFormat format, const std::optional<TimeStamp>& timeStamp)
    : handle_(std::make_unique<Handle>()), path_(path), channels_(channels) {
  SF_INFO info{};
  info.channels = channels;
  info.samplerate = rate.hertz;
  info.format = SF_FORMAT_RF64 | subtypeOf(format);
  handle_->file = sf_open(path.c_str(), SFM_WRITE, &info);
  if (!handle_->file)
    throw Error("The file " + quoted(path) +
                " cannot be written there: is the folder writable and the disk not full?");
  sf_command(handle_->file, SFC_RF64_AUTO_DOWNGRADE, nullptr, SF_TRUE);
  handle_->bits = format == SampleFormat::Pcm16 ? 16 : format == SampleFormat::Pcm24 ? 24 : 0;
  sf_command(handle_->file, SFC_SET_ADD_PEAK_CHUNK, nullptr, SF_FALSE);
  if (timeStamp) {
    SF_BROADCAST_INFO broadcast{};
    std::strncpy(broadcast.description, timeStamp->description.c_str(), sizeof broadcast.description - 1);
    std::strncpy(broadcast.originator, "Yewdrift", sizeof broadcast.originator - 1);
    const auto stamp = static_cast<std::uint64_t>(std::max<std::int64_t>(timeStamp->at.count, 0));
    broadcast.time_reference_low = static_cast<std::uint32_t>(stamp & 0xFFFFFFFFU);
    broadcast.time_reference_high = static_cast<std::uint32_t>(stamp >> 32U);
    broadcast.version = 1;
    sf_command(handle_->file, SFC_SET_BROADCAST_INFO, &broadcast, sizeof broadcast);
  }
}

AudioWriter::~AudioWriter() = default;
AudioWriter::AudioWriter(AudioWriter&&) noexcept = default;
AudioWriter& AudioWriter::operator=(AudioWriter&&) noexcept = default;

void AudioWriter::write(const float* interleaved, std::int64_t frames) {
  if (frames == 0) return;
  const auto samples = static_cast<std::size_t>(frames) * static_cast<std::size_t>(channels_);
  std::int64_t put = 0;
  if (handle_->bits == 0) {
    put = sf_writef_float(handle_->file, interleaved, frames);
  } else {
    handle_->quantised.resize(samples);
    for (std::size_t i = 0; i < samples; ++i) handle_->quantised[i] = quantise(interleaved[i], handle_->bits);
    put = sf_writef_int(handle_->file, handle_->quantised.data(), frames);
  }
  written_ += Frames{std::max<std::int64_t>(put, 0)};
  if (put != frames)
    throw Error("The disk does not take any more of " + quoted(path_) + "; what was written before is kept.");
}

void AudioWriter::updateHeader() {
  sf_command(handle_->file, SFC_UPDATE_HEADER_NOW, nullptr, 0);
  if (sf_error(handle_->file) != SF_ERR_NO_ERROR)
    throw Error("The file " + quoted(path_) + " could not be kept readable: is the disk full?");
}

void AudioWriter::close() {
  if (!handle_->file) return;
  finish();
  syncToDisk(path_);
}

void AudioWriter::finish() {
  if (!handle_->file) return;
  SNDFILE* file = std::exchange(handle_->file, nullptr);
  if (sf_close(file) != 0)
    throw Error("The file " + quoted(path_) + " could not be finished: is the disk full?");
}

void lengthenAudioFile(const std::filesystem::path& path, Frames length) {
  SF_INFO info{};
  const std::unique_ptr<SNDFILE, int (*)(SNDFILE*)> file(sf_open(path.c_str(), SFM_RDWR, &info), &sf_close);
  if (!file) throw Error("The file " + quoted(path) + " cannot be written to.");
  const std::vector<float> silence(static_cast<std::size_t>(4096 * info.channels), 0.0F);
  sf_seek(file.get(), 0, SEEK_END | SFM_WRITE);
  for (std::int64_t there = info.frames; there < length.count;) {
    const sf_count_t frames = std::min<std::int64_t>(4096, length.count - there);
    if (sf_writef_float(file.get(), silence.data(), frames) != frames)
      throw Error("The file " + quoted(path) + " could not be lengthened: is the disk full?");
    there += frames;
  }
}

AudioFileInfo probeAudioFile(const std::filesystem::path& path) {
  return AudioReader(path).info();
}

}  // namespace yewdrift
