// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <optional>
#include <tuple>
#include <vector>

#include "core/plan/playback_plan.h"
#include "core/plan/sample_source.h"
#include "core/store/audio_file.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// Reads a session's pool files straight from disk, for offline rendering and measuring. Missing files are
/// silent. One thread at a time.
class FileSampleSource : public SampleSource {
 public:
  explicit FileSampleSource(SessionDisk disk, std::vector<PoolFile> files,
                            std::vector<PoolFile> derived = {});
  bool read(int file, int channel, Frames at, int count, float* out) noexcept override;
  /// A file that is there and of which something could not be read; none where all was.
  [[nodiscard]] const std::optional<std::string>& unread() const { return unread_; }

 private:
  static constexpr std::int64_t windowFrames = 4096;
  static constexpr int mostOpen = 128;
  struct OpenFile {
    std::optional<AudioReader> reader;
    bool tried = false;
    Frames windowStart;
    std::int64_t windowLength = 0;
    std::vector<float> interleaved;
  };
  void fillWindow(OpenFile& file, Frames at);
  void open(OpenFile& file, const std::string& path);

  SessionDisk disk_;
  std::vector<PoolFile> files_;
  std::vector<PoolFile> derived_;  // named by negative numbers
  std::vector<OpenFile> open_;     // of files_, and behind them of derived_
  int openCount_ = 0;
  std::optional<std::string> unread_;
};

/// Measures correlations from the pool files and remembers them.
class FileCorrelationMeter : public CorrelationMeter {
 public:
  explicit FileCorrelationMeter(SessionDisk disk) : disk_(std::move(disk)) {}
  /// The files that compile() will ask about; keeps what was measured before.
  void setFiles(const std::vector<PoolFile>& files);
  /// That file is another than it was: what was measured in it counts no more.
  void forget(const std::string& path);
  float correlation(const std::vector<ChannelSource>& a, Frames aOrigin, const std::vector<ChannelSource>& b,
                    Frames bOrigin, Span over) override;

 private:
  using Key = std::tuple<std::string, int, Frames, std::string, int, Frames, Frames>;
  SessionDisk disk_;
  std::vector<PoolFile> files_;
  std::optional<FileSampleSource> source_;
  std::map<Key, float> known_;
};

}  // namespace yewdrift
