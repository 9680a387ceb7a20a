// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <filesystem>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "core/engine/sample_ring.h"
#include "core/session/session.h"
#include "core/signal/peaks.h"
#include "core/store/audio_file.h"

namespace yewdrift {

/// One file of a roll: which device inputs go into it, and the new file itself.
struct CaptureFile {
  CaptureFile(std::vector<int> from, OpenFile into)
      : inputs(std::move(from)), file(std::make_shared<OpenFile>(std::move(into))) {}
  /// Outside any session; throws Error where it cannot be made.
  CaptureFile(std::vector<int> from, const std::filesystem::path& into)
      : CaptureFile(std::move(from), createAnywhere(into)) {}

  std::vector<int> inputs;
  std::shared_ptr<OpenFile> file;  // until a stream has taken it
};

/// What a roll records: everything from its first frame to its end plus the round trip, each microphone to a
/// growing file. The audio thread pushes, a writer writes, a finisher closes; whoever looks on reads peaks.
class CaptureStream {
 public:
  /// Takes the files, of which there is one at least, each with an input, and makes room for `bufferFrames`
  /// between the two threads. Throws Error where a file cannot be written to.
  CaptureStream(const std::vector<CaptureFile>& files, SampleRate rate, SampleFormat format,
                std::size_t bufferFrames);

  // -- audio thread
  /// Takes `frames` frames of the inputs from `offset` on. Where there is no room, as much silence follows
  /// later, so that what comes after lies where it was played; lostFrames() counts it.
  void push(const float* const* inputs, int inputCount, int offset, int frames) noexcept;
  /// Its roll has ended: `body` frames of it are what was played in it, and with what is played some seconds
  /// on the files will be `whole` frames long. Where it is complete before, silence stands in for the rest,
  /// so that takes can be made as soon as the body is there.
  void endsAt(Frames body, Frames whole) noexcept {
    whole_.store(whole.count, std::memory_order_relaxed);
    body_.store(body.count, std::memory_order_release);
  }
  void markComplete() noexcept { complete_.store(true, std::memory_order_release); }

  // -- writer thread
  /// Writes what has arrived; never waits for a sync.
  void write();

  // -- finisher thread
  /// Closes the files once the stream is complete and all of it is written, then waits until the disk has
  /// them; true from then on.
  bool finish();
  /// While it is recorded, once a second: makes sure that what was written survives a power cut.
  void syncNowAndThen();

  /// Both, one after the other, for whoever has one thread.
  bool drain() {
    write();
    return finish();
  }

  // -- any thread
  [[nodiscard]] bool closed() const { return closed_.load(std::memory_order_acquire); }
  /// Closed, and the disk has it, or has refused: see failure().
  [[nodiscard]] bool safe() const { return safe_.load(std::memory_order_acquire); }
  /// All that was played in the roll is written, or will never be.
  [[nodiscard]] bool bodyWritten() const;
  /// What was played in the roll: all of it once it has ended, until then what is written.
  [[nodiscard]] Frames body() const;
  /// The frames that its files have, or will have once what follows the roll is written.
  [[nodiscard]] Frames whole() const;
  [[nodiscard]] Frames written() const { return {written_.load(std::memory_order_acquire)}; }
  [[nodiscard]] std::int64_t lostFrames() const { return lost_.load(); }
  /// A sentence where the disk stopped taking the recording.
  [[nodiscard]] std::optional<Sentence> failure() const;
  /// Brings `shown` up to the peaks so far of one file's first channel; copies only what is new.
  void updatePeaks(std::size_t file, PeakPyramid& shown) const;

 private:
  struct Sink {
    AudioWriter writer;
    std::vector<int> inputs;
    std::size_t firstChannel = 0;
    PeakPyramid peaks;  // guarded by mutex_
  };
  void payWithSilence() noexcept;
  void writeBlock(std::size_t frames);
  void fillUp();
  void keepReadable();
  void fail(const Sentence& sentence);
  template <typename Work>
  void tryTo(Work work);

  std::vector<Sink> sinks_;
  std::vector<int> inputs_;  // of all sinks, in order
  SampleRate rate_;
  SampleRing ring_;
  std::vector<float> interleaved_;
  std::vector<float> part_;
  std::vector<float> mono_;
  std::int64_t sinceHeader_ = 0;
  std::int64_t synced_ = 0;  // finisher thread: of written_
  std::size_t owed_ = 0;     // audio thread: frames of silence in place of what was lost
  std::atomic<std::int64_t> body_{-1};
  std::atomic<std::int64_t> whole_{-1};
  std::atomic<bool> complete_{false};
  std::atomic<bool> allWritten_{false};
  std::atomic<bool> closed_{false};
  std::atomic<bool> safe_{false};
  std::atomic<std::int64_t> written_{0};
  std::atomic<std::int64_t> readable_{0};  // so much of it do the headers tell
  std::atomic<std::int64_t> lost_{0};
  mutable std::mutex mutex_;
  std::optional<Sentence> failure_;
};

}  // namespace yewdrift
