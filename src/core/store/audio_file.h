// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.h"
#include "core/store/open_file.h"

namespace yewdrift {

struct AudioFileInfo {
  int channels = 1;
  SampleRate rate;
  Frames length;
  bool wave = false;                   // a WAV, BWF or RF64 file
  std::optional<SampleFormat> format;  // where it is one of ours
};

/// Reads any file the audio library knows. Opening throws Error with a sentence that says what is wrong:
/// missing, empty, not audio. One thread at a time.
class AudioReader {
 public:
  explicit AudioReader(OpenFile file) : AudioReader(std::move(file), Header::AsItIs) {}
  /// PutRight: where a WAV header is wrong about what follows, what follows counts.
  enum class Header { AsItIs, PutRight };
  AudioReader(OpenFile file, Header header);
  /// A file outside any session.
  explicit AudioReader(const std::filesystem::path& path) : AudioReader(openAnywhere(path)) {}
  ~AudioReader();
  AudioReader(AudioReader&&) noexcept;
  AudioReader& operator=(AudioReader&&) noexcept;

  [[nodiscard]] const AudioFileInfo& info() const { return info_; }
  /// What sentences call it.
  [[nodiscard]] const std::string& name() const { return name_; }
  /// Reads `frames` interleaved frames from `at`; what the file does not have is silence. Returns how many
  /// frames came from the file.
  std::int64_t readAt(Frames at, std::int64_t frames, float* interleaved);
  /// The next `frames` frames from where it is, whatever its header says of its length; fewer at its end.
  std::int64_t readOn(std::int64_t frames, float* interleaved);
  /// Whether the header had to be put right.
  [[nodiscard]] bool putRight() const;
  /// The frames that the header says there are, which can be more than there are.
  [[nodiscard]] Frames promised() const;
  /// The share of the file's bytes that have been read, 0..1.
  [[nodiscard]] double shareRead() const;

 private:
  friend class AudioWriter;
  struct Handle;
  std::unique_ptr<Handle> handle_;
  std::string name_;
  AudioFileInfo info_;
};

/// Where a file belongs in its session, and what it is.
struct TimeStamp {
  Frames at;
  std::string description;
};

enum class Container {
  Wave,  // RF64 once it grows beyond what WAV can say (EBU Tech 3306)
  Rf64,  // from the start
  Flac,  // 16 or 24 bit
};

/// A spot that the file names; WAV only ("cue " and "LIST" of Multimedia Programming Interface and Data
/// Specifications 1.0, IBM and Microsoft 1991).
struct CuePoint {
  Frames at;  // of the file
  std::string name;
};

struct AudioFileKind {
  SampleFormat format = SampleFormat::Pcm24;
  Container container = Container::Wave;
  /// To 16 bit with noise of triangular density and two steps' width, where the material has more (S.
  /// Lipshitz et al., "Quantization and Dither", JAES 40, 1992).
  bool dither = false;
  std::optional<TimeStamp> timeStamp{};  // not in FLAC
  std::vector<CuePoint> cues{};
};

/// Writes WAV, as RF64 once it grows beyond what WAV can say (EBU Tech 3306). With a time stamp the file
/// carries a broadcast chunk that says so (EBU Tech 3285).
class AudioWriter {
 public:
  AudioWriter(OpenFile file, int channels, SampleRate rate, const AudioFileKind& kind);
  AudioWriter(OpenFile file, int channels, SampleRate rate, SampleFormat format,
              const std::optional<TimeStamp>& timeStamp = std::nullopt)
      : AudioWriter(std::move(file), channels, rate,
                    AudioFileKind{format, Container::Wave, false, timeStamp, {}}) {}
  /// A file outside any session; what was there is gone.
  AudioWriter(const std::filesystem::path& path, int channels, SampleRate rate, SampleFormat format,
              const std::optional<TimeStamp>& timeStamp = std::nullopt)
      : AudioWriter(createAnywhere(path), channels, rate, format, timeStamp) {}
  ~AudioWriter();
  AudioWriter(AudioWriter&&) noexcept;
  AudioWriter& operator=(AudioWriter&&) noexcept;

  /// Throws Error where the disk does not take it.
  void write(const float* interleaved, std::int64_t frames);
  /// Whether that file holds samples just as this one does, so that they can be copied.
  [[nodiscard]] bool takesAsItIs(const AudioReader& from) const;
  /// Frames of it from `at` on, byte for byte and by the file system itself where that can. Throws Error
  /// where the file has not that many, or the disk does not take them.
  void copy(const AudioReader& from, Frames at, std::int64_t frames);
  /// Makes the header say what has been written so far, so that the file can be read after a crash. Throws
  /// Error where the disk does not take it.
  void updateHeader();
  /// Finishes the file: whoever reads it now finds all of it. The disk may not have it yet.
  void finish();
  /// Waits until the disk has what was written. Any thread, while no other finishes it.
  void sync();
  /// Finishes the file, waits until the disk has it, and closes it.
  void close();
  [[nodiscard]] Frames written() const { return written_; }
  /// How many samples lay beyond full scale and were cut off there; in floats none are.
  [[nodiscard]] std::int64_t clipped() const;

 private:
  struct Handle;
  std::unique_ptr<Handle> handle_;
  std::string name_;
  int channels_ = 1;
  Frames written_;
};

/// What a file is. Throws Error as opening it does.
AudioFileInfo probeAudioFile(OpenFile file);
inline AudioFileInfo probeAudioFile(const std::filesystem::path& path) {
  return probeAudioFile(openAnywhere(path));
}

/// Silence behind its end until a file of ours, open to be changed, is that long. Throws Error where the disk
/// does not take it.
void lengthenAudioFile(OpenFile file, Frames length);

}  // namespace yewdrift
