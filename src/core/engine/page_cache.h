// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/open_readers.h"
#include "core/plan/sample_source.h"
#include "core/session/session.h"
#include "core/store/audio_file.h"
#include "core/store/session_disk.h"

namespace yewdrift {

/// One audio file in pages. The audio thread looks pages up; the reader fills and evicts them. A file that is
/// shorter than the pool says may still be growing: it is looked at again from time to time, and until then
/// what it does not have is silence.
class CachedFile {
 public:
  static constexpr std::int64_t pageFrames = 8192;
  static constexpr std::uint64_t turnsBetweenLooks = 20;

  /// Opens nothing yet. `open`: where it counts as open while it is; null: nobody counts.
  CachedFile(SessionDisk disk, const PoolFile& file, std::shared_ptr<OpenReaders> open = nullptr);
  ~CachedFile();
  CachedFile(const CachedFile&) = delete;
  CachedFile& operator=(const CachedFile&) = delete;
  /// As the pool described it when it was opened.
  [[nodiscard]] Frames describedLength() const { return described_; }

  /// Audio thread. False where a page is not there; what is missing is silence.
  bool read(int channel, Frames at, int count, float* out) const noexcept;

  // -- reader
  /// Loads the pages under [from, to) that are missing and marks them as wanted in `turn`.
  void want(Frames from, Frames to, std::uint64_t turn);
  /// Marks those that are there, and loads none.
  void keep(Frames from, Frames to, std::uint64_t turn);
  /// What the audio thread may still be looking at.
  struct Retired {
    virtual ~Retired() = default;
  };
  /// It is opened again when a page is wanted that is not there.
  void close() { reader_.reset(); }
  /// Takes out the pages not wanted since `turn`; they may be freed once the audio thread cannot see them.
  void evictBefore(std::uint64_t turn, std::vector<std::unique_ptr<Retired>>& evicted);

 private:
  struct Page : Retired {
    std::vector<float> samples;  // channel after channel
    std::int64_t frames = 0;     // that the file had
    std::uint64_t wantedIn = 0;
  };
  /// As long as the file is, or was when it was looked at; whatever the pool says.
  struct Table : Retired {
    explicit Table(Frames there)
        : length(there), pages(static_cast<std::size_t>((there.count + pageFrames - 1) / pageFrames)) {}
    Frames length;
    std::vector<std::atomic<Page*>> pages;
  };
  void look(std::uint64_t turn);
  bool open();
  std::unique_ptr<Page> load(std::size_t index);

  SessionDisk disk_;
  std::string path_;
  int channels_;
  Frames described_;
  std::uint64_t looksAgainIn_ = 0;
  std::optional<AudioReader> reader_;
  std::shared_ptr<OpenReaders> open_;
  std::atomic<const Table*> shown_{nullptr};
  std::unique_ptr<Table> table_;  // null before the first look
  std::map<std::size_t, std::unique_ptr<Page>> owned_;
  std::vector<std::unique_ptr<Retired>> retired_;
};

/// Pages taken out while a block may be under way that still reads them.
class RetiredPages {
 public:
  /// `epoch`: counted up when a block begins and when it is done, odd in between; read after they were taken
  /// out. Throws nothing; the reader's.
  void keep(std::vector<std::unique_ptr<CachedFile::Retired>> pages, std::uint64_t epoch);
  /// Frees what the block under way, if there is one, cannot have seen.
  void freeUnseen(std::uint64_t epoch);
  [[nodiscard]] bool empty() const { return pages_.empty(); }

 private:
  std::vector<std::unique_ptr<CachedFile::Retired>> pages_;
  std::uint64_t since_ = 0;
};

/// The files of one plan, as its segments name them.
class CachedFiles : public SampleSource {
 public:
  using Files = std::vector<std::shared_ptr<CachedFile>>;
  /// `derived`: those named by negative numbers.
  explicit CachedFiles(Files files, Files derived = {})
      : files_(std::move(files)), derived_(std::move(derived)) {}
  bool read(int name, int channel, Frames at, int count, float* out) noexcept override {
    return file(name).read(channel, at, count, out);
  }
  [[nodiscard]] CachedFile& file(int name) const {
    return name >= 0 ? *files_[static_cast<std::size_t>(name)]
                     : *derived_[static_cast<std::size_t>(-1 - name)];
  }

 private:
  Files files_;
  Files derived_;
};

}  // namespace yewdrift
