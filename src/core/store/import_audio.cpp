// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/import_audio.h"

#include <sys/stat.h>

#include <cmath>
#include <vector>

#include "core/error.h"
#include "core/session/limits.h"
#include "core/signal/resampler.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;
constexpr std::int64_t blockFrames = 16384;
constexpr std::uintmax_t leftFree = std::uintmax_t{64} << 20;  // of the disk
constexpr std::uintmax_t mostExpansion = 200;                  // no format packs audio tighter than that

std::uintmax_t sizeOf(const OpenFile& file) {
  struct stat status {};
  return ::fstat(file.descriptor.get(), &status) == 0 ? static_cast<std::uintmax_t>(status.st_size) : 0;
}

/// Reads a file from its start to where it really ends, block by block.
class Source {
 public:
  /// `fold`: both sides of what is stereo become one.
  Source(const fs::path& path, const ImportProgress& progress, bool fold = false)
      : open_(openAnywhere(path)),
        size_(sizeOf(open_)),
        reader_(std::move(open_), AudioReader::Header::PutRight),
        progress_(progress),
        fold_(fold && reader_.info().channels == 2),
        block_(static_cast<std::size_t>(blockFrames * reader_.info().channels)) {}

  [[nodiscard]] const AudioFileInfo& info() const { return reader_.info(); }
  [[nodiscard]] const std::string& name() const { return reader_.name(); }
  [[nodiscard]] std::uintmax_t size() const { return size_; }
  [[nodiscard]] std::int64_t silenced() const { return silenced_; }
  [[nodiscard]] const float* block() const { return block_.data(); }
  [[nodiscard]] bool folds() const { return fold_; }
  /// Of what next() gives.
  [[nodiscard]] int channels() const { return fold_ ? 1 : info().channels; }
  /// Once all of it is read: the seconds that the file says it has, but does not. What a packed format says
  /// may be wrong by some of its own blocks.
  [[nodiscard]] double missingSeconds() const {
    constexpr double exactness = 0.1;
    const Frames promised = reader_.promised();
    const double missing = secondsFromFrames(promised - read_, info().rate);
    return promised <= maximumPosition && missing > exactness ? missing : 0.0;
  }
  /// Its header tells what follows.
  [[nodiscard]] bool honest() const { return !reader_.putRight(); }

  /// The next frames; none at the end. Throws Error where it was cancelled.
  std::int64_t next() {
    if (progress_ && !progress_(reader_.shareRead()))
      throw Error("Importing was cancelled; nothing was changed.");
    const std::int64_t got = ended_ ? 0 : reader_.readOn(blockFrames, block_.data());
    ended_ = got < blockFrames;
    read_ += Frames{got};
    if (read_ > maximumPosition) throw Error("\"%1\" is longer than a session can be.", name());
    for (std::size_t i = 0; i < static_cast<std::size_t>(got * info().channels); ++i)
      if (!std::isfinite(block_[i])) {
        block_[i] = 0.0F;
        ++silenced_;
      }
    if (fold_)
      for (std::size_t i = 0; i < static_cast<std::size_t>(got); ++i)
        block_[i] = 0.5F * (block_[2 * i] + block_[2 * i + 1]);
    return got;
  }

 private:
  OpenFile open_;
  std::uintmax_t size_;
  AudioReader reader_;
  const ImportProgress& progress_;
  bool fold_;
  std::vector<float> block_;
  Frames read_;
  bool ended_ = false;
  std::int64_t silenced_ = 0;
};

void decode(Source& source, AudioWriter& writer) {
  while (const std::int64_t n = source.next()) writer.write(source.block(), n);
}

void resample(Source& source, AudioWriter& writer, SampleRate rate) {
  Resampler resampler(source.info().rate, rate, source.channels());
  const auto write = [&](const float* made, std::int64_t frames) { writer.write(made, frames); };
  while (const std::int64_t n = source.next()) resampler.feed(source.block(), n, write);
  resampler.finish(write);
}

void requireRoom(const SessionDisk& disk, const Source& source, SampleRate rate) {
  const AudioFileInfo& info = source.info();
  if (info.length > maximumPosition) return;  // it does not say how long it is
  const double bytes =
      static_cast<double>(info.length.count) * info.channels * sizeof(float) * rate.hertz / info.rate.hertz;
  if (bytes > static_cast<double>(source.size() * mostExpansion)) return;  // it is wrong about that
  const std::uintmax_t room = disk.room();
  if (bytes + leftFree <= static_cast<double>(room)) return;
  const auto megabytes = [](double size) { return static_cast<std::int64_t>(size / 1e6); };
  throw Error("There is no room for \"%1\": it needs %2 MB, and %3 MB are free on the session's disk.",
              source.name(), megabytes(bytes), megabytes(static_cast<double>(room)));
}

/// A WAV file of ours, all of which is there and made of numbers, can be taken as it is.
std::optional<Frames> lengthIfSound(Source& source, SampleRate rate) {
  const AudioFileInfo& info = source.info();
  if (!info.wave || !info.format || info.rate != rate || !source.honest()) return std::nullopt;
  Frames read;
  while (const std::int64_t n = source.next()) read += Frames{n};
  const bool sound = source.silenced() == 0 && read == info.length && read.count > 0;
  return sound ? std::optional(read) : std::nullopt;
}

void requireRate(const Source& source) {
  const int hertz = source.info().rate.hertz;
  if (hertz < limits::lowestImportRate || hertz > limits::highestImportRate)
    throw Error("\"%1\" says that it is at %2 Hz; files from 4 kHz to 768 kHz can be imported.",
                source.name(), hertz);
}

}  // namespace

std::vector<Sentence> noticesOf(const std::string& file, const Imported& imported) {
  std::vector<Sentence> notices;
  if (imported.silenced > 0)
    notices.push_back(
        Sentence("In \"%1\" %n samples were no number or infinite; they are silence now.|"
                 "In \"%1\" one sample was no number or infinite; it is silence now.",
                 file, Count{imported.silenced}));
  if (imported.folded)
    notices.push_back(
        Sentence("\"%1\" is stereo and its track has one channel: both sides were mixed to one.", file));
  if (imported.missingSeconds > 0.0)
    notices.push_back(Sentence("\"%1\" is cut short: its last %2 s are missing, the rest was taken.", file,
                               Decimal{imported.missingSeconds, 1}));
  return notices;
}

Imported importAudio(const SessionDisk& disk, const ImportWish& wish, const fs::path& file,
                     const ImportProgress& progress) {
  const SampleRate rate = wish.rate;
  const bool fold = wish.channels == 1;
  Source look(file, progress);
  requireRate(look);
  requireRoom(disk, look, rate);
  PendingFile pending(disk, "audio", file.stem().string());
  const bool folds = fold && look.info().channels == 2;
  if (const auto length = folds ? std::nullopt : lengthIfSound(look, rate)) {
    const OpenFile copy = pending.take();
    copyBytes(openAnywhere(file), copy);
    return {{pending.keep(), look.info().channels, *length}};
  }
  Source source(file, progress, fold);
  AudioWriter writer(pending.take(), source.channels(), rate, SampleFormat::Float32);
  if (source.info().rate == rate)
    decode(source, writer);
  else
    resample(source, writer, rate);
  if (writer.written().count == 0) throw Error("The audio file \"%1\" holds no sound.", source.name());
  writer.close();
  return {{pending.keep(), source.channels(), writer.written()},
          source.silenced(),
          source.folds(),
          source.missingSeconds()};
}

}  // namespace yewdrift
