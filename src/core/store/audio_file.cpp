// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/audio_file.h"

#include <sndfile.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <random>
#include <vector>

#include "core/error.h"
#include "core/store/sample_bytes.h"
#include "core/store/transfer.h"
#include "core/store/wave_repair.h"

namespace yewdrift {

/// As the audio library has it.
struct CloseSoundFile {
  void operator()(SNDFILE* file) const { sf_close(file); }
};
using SoundFile = std::unique_ptr<SNDFILE, CloseSoundFile>;

namespace {

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

/// A number as the bytes of a WAV chunk.
void append(std::string& chunk, std::uint32_t number) {
  for (int shift = 0; shift < 32; shift += 8) chunk += static_cast<char>((number >> shift) & 0xFFU);
}

void setChunk(SNDFILE* file, const char* id, std::string data) {
  SF_CHUNK_INFO chunk{};
  std::memcpy(chunk.id, id, 4);
  chunk.id_size = 4;
  chunk.datalen = static_cast<unsigned>(data.size());
  chunk.data = data.data();
  sf_set_chunk(file, &chunk);
}

void setCues(SNDFILE* file, std::vector<CuePoint> cues) {
  // Their places are 32 bits wide: none is better than a wrong one.
  std::erase_if(cues, [](const CuePoint& cue) { return cue.at.count < 0 || cue.at.count > 0xFFFFFFFFLL; });
  if (cues.empty()) return;
  std::string points;
  std::string labels = "adtl";
  append(points, static_cast<std::uint32_t>(cues.size()));
  std::uint32_t number = 0;
  for (const CuePoint& cue : cues) {
    ++number;
    const auto at = static_cast<std::uint32_t>(cue.at.count);
    append(points, number);
    append(points, at);
    points += "data";
    append(points, 0);
    append(points, 0);
    append(points, at);
    // The library fills a chunk up to four bytes: so does each label, which ends at its first zero.
    std::string text = cue.name + '\0';
    text.resize((text.size() + 3) / 4 * 4, '\0');
    labels += "labl";
    append(labels, static_cast<std::uint32_t>(4 + text.size()));
    append(labels, number);
    labels += text;
  }
  setChunk(file, "cue ", points);
  setChunk(file, "LIST", labels);
}

int libraryFormat(const AudioFileKind& kind) {
  if (kind.container == Container::Flac) {
    if (kind.format == SampleFormat::Float32)
      throw Error("FLAC holds 16 or 24 bit, not floating point: choose one of these.");
    return SF_FORMAT_FLAC | subtypeOf(kind.format);
  }
  return SF_FORMAT_RF64 | subtypeOf(kind.format);
}

/// As its header says by now.
Frames framesIn(int descriptor) {
  if (::lseek(descriptor, 0, SEEK_SET) != 0) return {-1};
  SF_INFO info{};
  const SoundFile file(sf_open_fd(descriptor, SFM_READ, &info, SF_FALSE));
  return file ? Frames{info.frames} : Frames{-1};
}

}  // namespace

struct AudioReader::Handle {
  std::unique_ptr<RepairedFile> repaired;  // or:
  Descriptor descriptor;
  SoundFile file;
  std::int64_t bytes = 0;
  std::int64_t next = 0;                  // frame that is read if no other is asked for
  std::int64_t libraryNext = 0;           // frame at which the library is; -1 where it is not known
  std::optional<std::int64_t> firstByte;  // of the samples, where they lie one after the other, `format` each
  SampleFormat format = SampleFormat::Pcm16;
  std::vector<std::byte> encoded;

  /// Without the library, which goes through it in small steps and asks its format for every sample.
  std::int64_t readPlain(std::int64_t from, std::int64_t frames, int channels, float* target) {
    const std::int64_t width = static_cast<std::int64_t>(channels) * bytesOf(format);
    encoded.resize(static_cast<std::size_t>(frames * width));
    const std::int64_t whole =
        readFrom(descriptor.get(), *firstByte + from * width, encoded.data(), frames * width).bytes / width;
    samplesFromBytes(encoded.data(), format, static_cast<std::size_t>(whole * channels), target);
    return whole;
  }

  std::int64_t readByLibrary(std::int64_t from, std::int64_t frames, float* target) {
    if (libraryNext != from && sf_seek(file.get(), from, SEEK_SET) != from) {
      libraryNext = -1;
      return 0;
    }
    const std::int64_t got = std::max<sf_count_t>(sf_readf_float(file.get(), target, frames), 0);
    libraryNext = from + got;
    return got;
  }

  /// Where the samples begin, if frame follows frame there without anything between. The library is asked:
  /// headers can say one width and mean another.
  void findPlainSamples(int channels, std::int64_t frames, std::optional<SampleFormat> known) {
    if (!known) return;
    const off_t first = ::lseek(descriptor.get(), 0, SEEK_CUR);
    const std::int64_t width = static_cast<std::int64_t>(channels) * bytesOf(*known);
    const bool apart = frames > 0 && (sf_seek(file.get(), 1, SEEK_SET) != 1 ||
                                      ::lseek(descriptor.get(), 0, SEEK_CUR) != first + width ||
                                      sf_seek(file.get(), 0, SEEK_SET) != 0);
    libraryNext = -1;  // wherever it was left
    if (apart || first + frames * width > bytes) return;
    firstByte = first;
    format = *known;
  }
};

AudioReader::AudioReader(OpenFile file, Header header)
    : handle_(std::make_unique<Handle>()), name_(file.name) {
  struct stat status {};
  if (::fstat(file.descriptor.get(), &status) == 0 && status.st_size == 0)
    throw Error("The audio file \"%1\" is empty.", file.name);
  handle_->bytes = status.st_size;
  SF_INFO info{};
  if (header == Header::PutRight) {
    handle_->repaired = std::make_unique<RepairedFile>(std::move(file.descriptor));
    handle_->file.reset(sf_open_virtual(RepairedFile::access(), SFM_READ, &info, handle_->repaired.get()));
  } else {
    handle_->descriptor = std::move(file.descriptor);
    handle_->file.reset(sf_open_fd(handle_->descriptor.get(), SFM_READ, &info, SF_FALSE));
  }
  if (!handle_->file) throw Error("\"%1\" is not an audio file that Yewdrift can read.", file.name);
  if (info.channels > 256 || info.samplerate < 1)
    throw Error("The audio file \"%1\" describes itself in an impossible way.", file.name);
  const int type = info.format & SF_FORMAT_TYPEMASK;
  const bool wave = type == SF_FORMAT_WAV || type == SF_FORMAT_WAVEX || type == SF_FORMAT_RF64;
  info_ = {info.channels, {info.samplerate}, {info.frames}, wave, sampleFormatOf(info.format)};
  if (wave && !handle_->repaired && (info.format & SF_FORMAT_ENDMASK) != SF_ENDIAN_BIG)
    handle_->findPlainSamples(info.channels, info.frames, info_.format);
}

AudioReader::~AudioReader() = default;
AudioReader::AudioReader(AudioReader&&) noexcept = default;
AudioReader& AudioReader::operator=(AudioReader&&) noexcept = default;

std::int64_t AudioReader::readAt(Frames at, std::int64_t frames, float* interleaved) {
  const std::int64_t from = std::clamp<std::int64_t>(at.count, 0, info_.length.count);
  const std::int64_t to = std::clamp<std::int64_t>(at.count + frames, from, info_.length.count);
  const auto silence = [this, interleaved](std::int64_t first, std::int64_t last) {
    std::fill(interleaved + first * info_.channels, interleaved + last * info_.channels, 0.0F);
  };
  if (from == to) {
    silence(0, frames);
    return 0;
  }
  const std::int64_t before = from - at.count;
  float* const target = interleaved + before * info_.channels;
  const std::int64_t got = handle_->firstByte ? handle_->readPlain(from, to - from, info_.channels, target)
                                              : handle_->readByLibrary(from, to - from, target);
  silence(0, before);
  silence(before + got, frames);
  handle_->next = from + got;
  return got;
}

std::int64_t AudioReader::readOn(std::int64_t frames, float* interleaved) {
  const std::int64_t got = handle_->readByLibrary(handle_->next, frames, interleaved);
  handle_->next += got;
  return got;
}

bool AudioReader::putRight() const {
  return handle_->repaired && handle_->repaired->repaired();
}

Frames AudioReader::promised() const {
  const auto bytes = handle_->repaired ? handle_->repaired->promisedBytes() : std::nullopt;
  if (!bytes || info_.length.count == 0) return info_.length;
  // As long as one frame is for the frames that are there.
  const auto there = static_cast<double>(handle_->bytes);
  return std::max(info_.length, Frames{std::llround(static_cast<double>(info_.length.count) *
                                                    static_cast<double>(*bytes) / there)});
}

double AudioReader::shareRead() const {
  const std::int64_t at = handle_->repaired
                              ? handle_->repaired->position()
                              : static_cast<std::int64_t>(::lseek(handle_->descriptor.get(), 0, SEEK_CUR));
  return std::clamp(static_cast<double>(at) / static_cast<double>(handle_->bytes), 0.0, 1.0);
}

/// Where the library's bytes go: to the descriptor or, while frames of another file are copied, nowhere; they
/// come from that file then.
struct AudioWriter::Handle {
  Descriptor descriptor;
  static constexpr char nothing = 0;  // stands for bytes of the file that is copied from; headers are none
  int copyFrom = -1;
  off_t copyAt = 0;
  std::optional<SampleFormat> format;  // of samples that lie in it as they are
  int bits = 0;                        // of integer formats
  bool dither = false;
  std::minstd_rand chance{1};
  std::vector<int> quantised;
  std::int64_t clipped = 0;
  bool cutShort = false;  // something was written only in part, since it was last asked
  SoundFile file;         // last: it still writes while it is closed

  sf_count_t put(const void* bytes, sf_count_t count) {
    const sf_count_t done =
        bytes == &nothing ? copyOver(count) : writeOn(descriptor.get(), bytes, count).bytes;
    cutShort = cutShort || done != count;
    return done;
  }

  sf_count_t copyOver(sf_count_t count) {
    const Transfer copied = copyOn(copyFrom, copyAt, descriptor.get(), count);
    copyAt += copied.bytes;
    const bool refused = copied.error == ENOSPC || copied.error == EIO || copied.error == EDQUOT;
    // File systems that cannot copy among themselves say so in several ways.
    const bool cannot = copied.error != 0 && !refused;
    return copied.bytes + (cannot ? copyThrough(count - copied.bytes) : 0);
  }

  sf_count_t copyThrough(sf_count_t count) {
    std::vector<char> bytes(static_cast<std::size_t>(std::min<sf_count_t>(count, 1 << 18)));
    sf_count_t done = 0;
    while (done < count) {
      const std::int64_t n =
          readFrom(copyFrom, copyAt, bytes.data(), std::min<sf_count_t>(std::ssize(bytes), count - done))
              .bytes;
      if (n == 0 || writeOn(descriptor.get(), bytes.data(), n).bytes != n) break;
      copyAt += n;
      done += n;
    }
    return done;
  }

  /// What the library asks of a file.
  static SF_VIRTUAL_IO* access() {
    static SF_VIRTUAL_IO io{
        [](void* self) -> sf_count_t {
          struct stat status {};
          return ::fstat(static_cast<Handle*>(self)->descriptor.get(), &status) == 0 ? status.st_size : -1;
        },
        [](sf_count_t offset, int whence, void* self) -> sf_count_t {
          return ::lseek(static_cast<Handle*>(self)->descriptor.get(), offset, whence);
        },
        [](void* bytes, sf_count_t count, void* self) -> sf_count_t {
          return std::max<ssize_t>(
              ::read(static_cast<Handle*>(self)->descriptor.get(), bytes, static_cast<std::size_t>(count)),
              0);
        },
        [](const void* bytes, sf_count_t count, void* self) -> sf_count_t {
          return static_cast<Handle*>(self)->put(bytes, count);
        },
        [](void* self) -> sf_count_t {
          return ::lseek(static_cast<Handle*>(self)->descriptor.get(), 0, SEEK_CUR);
        }};
    return &io;
  }
};

AudioWriter::AudioWriter(OpenFile file, int channels, SampleRate rate, const AudioFileKind& kind)
    : handle_(std::make_unique<Handle>()), name_(std::move(file.name)), channels_(channels) {
  SF_INFO info{};
  info.channels = channels;
  info.samplerate = rate.hertz;
  info.format = libraryFormat(kind);
  handle_->descriptor = std::move(file.descriptor);
  handle_->file.reset(sf_open_virtual(Handle::access(), SFM_WRITE, &info, handle_.get()));
  if (!handle_->file)
    throw Error("The file \"%1\" cannot be written there: is the folder writable and the disk not full?",
                name_);
  if (kind.container == Container::Wave)
    sf_command(handle_->file.get(), SFC_RF64_AUTO_DOWNGRADE, nullptr, SF_TRUE);
  handle_->format = kind.container == Container::Flac ? std::nullopt : std::optional(kind.format);
  handle_->bits = kind.format == SampleFormat::Pcm16 ? 16 : kind.format == SampleFormat::Pcm24 ? 24 : 0;
  handle_->dither = kind.dither && handle_->bits == 16;
  const auto& timeStamp = kind.timeStamp;
  sf_command(handle_->file.get(), SFC_SET_ADD_PEAK_CHUNK, nullptr, SF_FALSE);
  if (timeStamp && kind.container != Container::Flac) {
    SF_BROADCAST_INFO broadcast{};
    std::strncpy(broadcast.description, timeStamp->description.c_str(), sizeof broadcast.description - 1);
    std::strncpy(broadcast.originator, "Yewdrift", sizeof broadcast.originator - 1);
    const auto stamp = static_cast<std::uint64_t>(std::max<std::int64_t>(timeStamp->at.count, 0));
    broadcast.time_reference_low = static_cast<std::uint32_t>(stamp & 0xFFFFFFFFU);
    broadcast.time_reference_high = static_cast<std::uint32_t>(stamp >> 32U);
    broadcast.version = 1;
    sf_command(handle_->file.get(), SFC_SET_BROADCAST_INFO, &broadcast, sizeof broadcast);
  }
  if (kind.container != Container::Flac) setCues(handle_->file.get(), kind.cues);
}

AudioWriter::~AudioWriter() = default;
AudioWriter::AudioWriter(AudioWriter&&) noexcept = default;
AudioWriter& AudioWriter::operator=(AudioWriter&&) noexcept = default;

void AudioWriter::write(const float* interleaved, std::int64_t frames) {
  if (frames == 0) return;
  const auto samples = static_cast<std::size_t>(frames) * static_cast<std::size_t>(channels_);
  std::int64_t put = 0;
  if (handle_->bits == 0) {
    put = sf_writef_float(handle_->file.get(), interleaved, frames);
  } else {
    handle_->quantised.resize(samples);
    const auto scale = static_cast<float>(1 << (handle_->bits - 1));
    // What is on the steps already needs no noise, and stays as it is.
    const bool dithers =
        handle_->dither && std::any_of(interleaved, interleaved + samples, [scale](float sample) {
          return std::rint(sample * scale) != sample * scale;
        });
    std::uniform_real_distribution<float> half(-0.5F, 0.5F);
    for (std::size_t i = 0; i < samples; ++i) {
      float sample = interleaved[i];
      const float step = std::rint(sample * scale);
      if (std::clamp(step, -scale, scale - 1.0F) != step) ++handle_->clipped;
      if (dithers) sample += (half(handle_->chance) + half(handle_->chance)) / scale;
      handle_->quantised[i] = quantise(sample, handle_->bits);
    }
    put = sf_writef_int(handle_->file.get(), handle_->quantised.data(), frames);
  }
  written_ += Frames{std::max<std::int64_t>(put, 0)};
  if (put != frames)
    throw Error("The disk does not take any more of \"%1\"; what was written before is kept.", name_);
}

bool AudioWriter::takesAsItIs(const AudioReader& from) const {
  return handle_->format && from.info().format == handle_->format && from.info().channels == channels_ &&
         from.handle_->firstByte;
}

void AudioWriter::copy(const AudioReader& from, Frames at, std::int64_t frames) {
  if (at < Frames{} || at + Frames{frames} > from.info().length || !takesAsItIs(from))
    throw Error("The audio file \"%1\" is shorter than it was when it was recorded; nothing was rendered.",
                from.name());
  const std::int64_t width = static_cast<std::int64_t>(channels_) * bytesOf(*handle_->format);
  handle_->copyAt = *from.handle_->firstByte + at.count * width;
  handle_->copyFrom = from.handle_->descriptor.get();
  const sf_count_t put = sf_write_raw(handle_->file.get(), &Handle::nothing, frames * width);
  handle_->copyFrom = -1;
  written_ += Frames{std::max<std::int64_t>(put, 0) / width};
  if (put != frames * width)
    throw Error("The disk does not take any more of \"%1\"; what was written before is kept.", name_);
}

std::int64_t AudioWriter::clipped() const {
  return handle_->clipped;
}

void AudioWriter::updateHeader() {
  handle_->cutShort = false;
  sf_command(handle_->file.get(), SFC_UPDATE_HEADER_NOW, nullptr, 0);
  if (handle_->cutShort || sf_error(handle_->file.get()) != SF_ERR_NO_ERROR)
    throw Error("The file \"%1\" could not be kept readable: is the disk full?", name_);
}

void AudioWriter::sync() {
  if (handle_->descriptor.good()) syncOrThrow(handle_->descriptor.get(), name_);
}

void AudioWriter::close() {
  if (!handle_->descriptor.good()) return;
  finish();
  sync();
  handle_->descriptor = {};
}

void AudioWriter::finish() {
  if (!handle_->file) return;
  // The library does not tell of a header that the disk refused, and may read a file by its length then.
  handle_->cutShort = false;
  const bool closed = sf_close(handle_->file.release()) == 0;
  if (!closed || handle_->cutShort || framesIn(handle_->descriptor.get()) != written_)
    throw Error("The file \"%1\" could not be finished: is the disk full?", name_);
}

void lengthenAudioFile(OpenFile open, Frames length) {
  SF_INFO info{};
  const SoundFile file(sf_open_fd(open.descriptor.get(), SFM_RDWR, &info, SF_FALSE));
  if (!file) throw Error("The file \"%1\" cannot be written to.", open.name);
  const std::vector<float> silence(std::size_t{1} << 16U);
  const std::int64_t most = std::ssize(silence) / info.channels;
  sf_seek(file.get(), 0, SEEK_END | SFM_WRITE);
  for (std::int64_t there = info.frames; there < length.count;) {
    const sf_count_t frames = std::min(most, length.count - there);
    if (sf_writef_float(file.get(), silence.data(), frames) != frames)
      throw Error("The file \"%1\" could not be lengthened: is the disk full?", open.name);
    there += frames;
  }
}

AudioFileInfo probeAudioFile(OpenFile file) {
  return AudioReader(std::move(file)).info();
}

}  // namespace yewdrift
