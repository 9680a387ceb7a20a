// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/peaks_cache.h"

#include <cstring>
#include <fstream>

#include "core/error.h"
#include "core/store/audio_file.h"

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

fs::path cachePath(const fs::path& sessionPath, const PoolFile& file) {
  return sessionPath / "cache" / (fs::path(file.path).filename().string() + ".peaks");
}

/// A cached pyramid belongs to the file as it was: same length in bytes, same time of change.
CacheHeader headerFor(const fs::path& audio, const PoolFile& file) {
  CacheHeader header;
  std::memcpy(header.name, magic, sizeof magic);
  header.channels = file.channels;
  header.length = file.length.count;
  header.fileSize = static_cast<std::int64_t>(fs::file_size(audio));
  header.fileTime = fs::last_write_time(audio).time_since_epoch().count();
  return header;
}

std::vector<PeakPyramid> readCache(const fs::path& path, const CacheHeader& expected) {
  std::ifstream in(path, std::ios::binary);
  CacheHeader header;
  if (!in.read(reinterpret_cast<char*>(&header), sizeof header) ||
      std::memcmp(&header, &expected, sizeof header) != 0)
    return {};
  const auto perChannel =
      (fs::file_size(path) - sizeof header) / sizeof(Peak) / static_cast<std::size_t>(header.channels);
  const auto count =
      static_cast<std::size_t>((header.length + PeakPyramid::baseSpan - 1) / PeakPyramid::baseSpan);
  if (count != perChannel) return {};
  std::vector<PeakPyramid> peaks;
  for (std::int64_t channel = 0; channel < header.channels; ++channel) {
    std::vector<Peak> base(count);
    if (!in.read(reinterpret_cast<char*>(base.data()), static_cast<std::streamsize>(count * sizeof(Peak))))
      return {};
    peaks.push_back(PeakPyramid::fromBase(std::move(base), header.length));
  }
  return peaks;
}

void writeCache(const fs::path& path, const CacheHeader& header, const std::vector<PeakPyramid>& peaks) {
  std::error_code ignored;
  fs::create_directories(path.parent_path(), ignored);
  const fs::path temporary = path.string() + ".new";
  {
    std::ofstream out(temporary, std::ios::binary);
    out.write(reinterpret_cast<const char*>(&header), sizeof header);
    for (const PeakPyramid& pyramid : peaks)
      out.write(reinterpret_cast<const char*>(pyramid.levels().front().data()),
                static_cast<std::streamsize>(pyramid.levels().front().size() * sizeof(Peak)));
    if (!out) return;
  }
  fs::rename(temporary, path, ignored);
}

std::vector<PeakPyramid> measure(AudioReader& reader, const PoolFile& file,
                                 const std::atomic<bool>& cancelled) {
  constexpr std::int64_t atOnce = 65536;
  const auto stride = static_cast<std::size_t>(reader.info().channels);
  std::vector<PeakPyramid> peaks(static_cast<std::size_t>(file.channels));
  std::vector<float> block(static_cast<std::size_t>(atOnce) * stride);
  std::vector<float> one(static_cast<std::size_t>(atOnce));
  const Frames length = std::min(file.length, reader.info().length);
  for (Frames at; at < length; at += Frames{atOnce}) {
    if (cancelled) return {};
    const auto n = static_cast<std::size_t>(std::min(atOnce, (length - at).count));
    reader.readAt(at, static_cast<std::int64_t>(n), block.data());
    for (std::size_t channel = 0; channel < std::min(peaks.size(), stride); ++channel) {
      if (stride == 1) {
        peaks[channel].append(std::span(block).first(n));
        continue;
      }
      for (std::size_t i = 0; i < n; ++i) one[i] = block[i * stride + channel];
      peaks[channel].append(std::span(one).first(n));
    }
  }
  return peaks;
}

}  // namespace

std::vector<PeakPyramid> loadPeaks(const fs::path& sessionPath, const PoolFile& file,
                                   const std::atomic<bool>& cancelled) {
  const fs::path audio = sessionPath / file.path;
  try {
    const CacheHeader header = headerFor(audio, file);
    const fs::path cached = cachePath(sessionPath, file);
    if (auto peaks = readCache(cached, header); !peaks.empty()) return peaks;
    AudioReader reader(audio);
    auto peaks = measure(reader, file, cancelled);
    const bool whole = !peaks.empty() && peaks.front().length() == file.length.count;
    if (whole) writeCache(cached, header, peaks);
    return peaks;
  } catch (const std::exception&) {
    return std::vector<PeakPyramid>(static_cast<std::size_t>(file.channels));
  }
}

}  // namespace yewdrift
