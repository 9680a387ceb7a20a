// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/peaks_cache.h"

#include <sys/stat.h>

#include <cstring>

#include "core/error.h"
#include "core/store/audio_file.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;
constexpr char magic[8] = {'y', 'd', 'p', 'e', 'a', 'k', 's', '1'};

struct CacheHeader {
  char name[8] = {};
  std::int64_t channels = 0;
  std::int64_t length = 0;
  std::int64_t fileSize = 0;
  std::int64_t fileTime = 0;
};

std::string cacheName(const PoolFile& file) {
  return "cache/" + fs::path(file.path).filename().string() + ".peaks";
}

/// A cached pyramid belongs to the file as it was: same length in bytes, same time of change.
CacheHeader headerFor(const OpenFile& audio, const PoolFile& file) {
  const FileStamp stamp = stampOf(audio);
  CacheHeader header;
  std::memcpy(header.name, magic, sizeof magic);
  header.channels = file.channels;
  header.length = file.length.count;
  header.fileSize = stamp.bytes;
  header.fileTime = stamp.changed;
  return header;
}

enum class Of { ThisFile, WhateverItWas };

/// Empty where nothing is cached, or what is cached is of another file or damaged.
std::vector<PeakPyramid> readCache(const SessionDisk& disk, const PoolFile& file, CacheHeader expected,
                                   Of of = Of::ThisFile) {
  try {
    const OpenFile cached = disk.open(cacheName(file));
    const auto count =
        static_cast<std::size_t>((expected.length + PeakPyramid::baseSpan - 1) / PeakPyramid::baseSpan);
    const std::size_t size =
        sizeof expected + count * sizeof(Peak) * static_cast<std::size_t>(expected.channels);
    struct stat status {};
    if (::fstat(cached.descriptor.get(), &status) != 0 || static_cast<std::size_t>(status.st_size) != size)
      return {};
    const std::string bytes = readAll(cached, size);
    if (bytes.size() != size) return {};
    if (of == Of::WhateverItWas) {
      CacheHeader held;
      std::memcpy(&held, bytes.data(), sizeof held);
      expected.fileSize = held.fileSize;
      expected.fileTime = held.fileTime;
    }
    if (std::memcmp(bytes.data(), &expected, sizeof expected) != 0) return {};
    std::vector<PeakPyramid> peaks;
    const char* from = bytes.data() + sizeof expected;
    for (std::int64_t channel = 0; channel < expected.channels; ++channel) {
      std::vector<Peak> base(count);
      std::memcpy(base.data(), from, count * sizeof(Peak));
      from += count * sizeof(Peak);
      peaks.push_back(PeakPyramid::fromBase(std::move(base), expected.length));
    }
    return peaks;
  } catch (const Error&) {
    return {};
  }
}

void writeCache(const SessionDisk& disk, const PoolFile& file, const CacheHeader& header,
                const std::vector<PeakPyramid>& peaks) {
  std::string bytes(reinterpret_cast<const char*>(&header), sizeof header);
  for (const PeakPyramid& pyramid : peaks)
    bytes.append(reinterpret_cast<const char*>(pyramid.levels().front().data()),
                 pyramid.levels().front().size() * sizeof(Peak));
  try {
    disk.replace(cacheName(file), bytes, SessionDisk::Safety::Cache);
  } catch (const Error&) {
    return;  // they are measured again next time
  }
}

std::vector<PeakPyramid> measure(AudioReader& reader, const PoolFile& file,
                                 const std::atomic<bool>& cancelled) {
  constexpr Frames atOnce{65536};
  const auto stride = static_cast<std::size_t>(reader.info().channels);
  std::vector<PeakPyramid> peaks(static_cast<std::size_t>(file.channels));
  std::vector<float> block(static_cast<std::size_t>(atOnce.count) * stride);
  std::vector<float> one(static_cast<std::size_t>(atOnce.count));
  for (const Span part : SpanParts({{}, std::min(file.length, reader.info().length)}, atOnce)) {
    if (cancelled) return {};
    const auto n = static_cast<std::size_t>(part.length().count);
    reader.readAt(part.start, part.length().count, block.data());
    for (std::size_t channel = 0; channel < std::min(peaks.size(), stride); ++channel) {
      for (std::size_t i = 0; i < n; ++i) one[i] = block[i * stride + channel];
      peaks[channel].append(std::span(one).first(n));
    }
  }
  return peaks;
}

}  // namespace

std::vector<PeakPyramid> loadPeaks(const SessionDisk& disk, const PoolFile& file,
                                   const std::atomic<bool>& cancelled) {
  try {
    OpenFile audio = disk.open(file.path);
    const CacheHeader header = headerFor(audio, file);
    if (auto peaks = readCache(disk, file, header); !peaks.empty()) return peaks;
    AudioReader reader(std::move(audio));
    auto peaks = measure(reader, file, cancelled);
    const bool whole = !peaks.empty() && peaks.front().length() == file.length.count;
    if (whole) writeCache(disk, file, header, peaks);
    return peaks;
  } catch (const std::exception&) {
    return std::vector<PeakPyramid>(static_cast<std::size_t>(file.channels));
  }
}

std::vector<PeakPyramid> rememberedPeaks(const SessionDisk& disk, const PoolFile& file) {
  CacheHeader header;
  std::memcpy(header.name, magic, sizeof magic);
  header.channels = file.channels;
  header.length = file.length.count;
  return readCache(disk, file, header, Of::WhateverItWas);
}

std::vector<PeakPyramid> measurePeaks(OpenFile audio, const PoolFile& file,
                                      const std::atomic<bool>& cancelled) {
  AudioReader reader(std::move(audio));
  return measure(reader, file, cancelled);
}

std::vector<PeakPyramid> cachedPeaks(const SessionDisk& disk, const PoolFile& file) {
  try {
    const OpenFile audio = disk.open(file.path);
    return readCache(disk, file, headerFor(audio, file));
  } catch (const Error&) {
    return {};
  }
}

}  // namespace yewdrift
