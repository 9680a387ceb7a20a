// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/analysis_cache.h"

#include <sys/stat.h>

#include <cstring>
#include <filesystem>
#include <string>

#include "core/error.h"

namespace yewdrift {
namespace {

constexpr char magic[8] = {'y', 'd', 'a', 'n', 'a', 'l', 'y', '3'};

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
  std::uint64_t spectra = 0;
};

std::string cacheName(const PoolFile& file) {
  return "cache/" + std::filesystem::path(file.path).filename().string() + ".analysis";
}

/// What an analysis of the file as it is begins with, but for the counts.
Header headerFor(const PoolFile& file, SampleRate rate, const FileStamp& stamp) {
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

}  // namespace

std::optional<FileAnalysis> cachedAnalysis(const SessionDisk& disk, const PoolFile& file, SampleRate rate,
                                           const FileStamp& stamp) {
  const Header expected = headerFor(file, rate, stamp);
  try {
    const OpenFile cached = disk.open(cacheName(file));
    struct stat status {};
    if (::fstat(cached.descriptor.get(), &status) != 0) return std::nullopt;
    const auto size = static_cast<std::size_t>(status.st_size);
    // No more than one value a frame of each: a cache that says else is damaged.
    const std::size_t most = sizeof(Header) + static_cast<std::size_t>(expected.length + 1) *
                                                  (2 * sizeof(LevelStep) + sizeof(BandLevels));
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
    same.spectra = header.spectra;
    if (std::memcmp(&header, &same, sizeof header) != 0 || header.pitchStep <= 0) return std::nullopt;
    const auto counts = {header.onsets, header.pitches, header.levels, header.spectra};
    for (const std::uint64_t count : counts)
      if (count > size) return std::nullopt;
    if (sizeof header + header.onsets * sizeof(std::int64_t) + header.pitches * sizeof(float) +
            header.levels * sizeof(LevelStep) + header.spectra * sizeof(BandLevels) !=
        size)
      return std::nullopt;
    const char* from = bytes.data() + sizeof header;
    FileAnalysis analysis;
    for (const std::int64_t at : got<std::int64_t>(from, header.onsets)) analysis.onsets.push_back({at});
    analysis.pitch.step = {header.pitchStep};
    analysis.pitch.cents = got<float>(from, header.pitches);
    analysis.levelStep = levelStepAt({static_cast<int>(header.rate)});
    analysis.levels = got<LevelStep>(from, header.levels);
    analysis.spectra = got<BandLevels>(from, header.spectra);
    return analysis;
  } catch (const Error&) {
    return std::nullopt;
  }
}

void keepAnalysis(const SessionDisk& disk, const PoolFile& file, SampleRate rate, const FileStamp& stamp,
                  const FileAnalysis& analysis) {
  Header header = headerFor(file, rate, stamp);
  header.pitchStep = analysis.pitch.step.count;
  header.onsets = analysis.onsets.size();
  header.pitches = analysis.pitch.cents.size();
  header.levels = analysis.levels.size();
  header.spectra = analysis.spectra.size();
  std::string bytes(reinterpret_cast<const char*>(&header), sizeof header);
  std::vector<std::int64_t> onsets;
  for (const Frames at : analysis.onsets) onsets.push_back(at.count);
  put(bytes, onsets);
  put(bytes, analysis.pitch.cents);
  put(bytes, analysis.levels);
  put(bytes, analysis.spectra);
  try {
    disk.replace(cacheName(file), bytes, SessionDisk::Safety::Cache);
  } catch (const Error&) {
    return;  // it is measured again next time
  }
}

}  // namespace yewdrift
