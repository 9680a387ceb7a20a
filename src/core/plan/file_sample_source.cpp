// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/file_sample_source.h"

#include <algorithm>

#include "core/error.h"
#include "core/signal/correlation.h"

namespace yewdrift {

FileSampleSource::FileSampleSource(SessionDisk disk, std::vector<PoolFile> files,
                                   std::vector<PoolFile> derived)
    : disk_(std::move(disk)),
      files_(std::move(files)),
      derived_(std::move(derived)),
      open_(files_.size() + derived_.size()) {}

void FileSampleSource::fillWindow(OpenFile& file, Frames at) {
  const auto stride = static_cast<std::size_t>(file.reader->info().channels);
  file.interleaved.resize(static_cast<std::size_t>(windowFrames) * stride);
  file.windowStart = at;
  file.windowLength = windowFrames;
  const std::int64_t got = file.reader->readAt(at, windowFrames, file.interleaved.data());
  const Span there = Span{at, at + Frames{windowFrames}}.intersect({{}, file.reader->info().length});
  if (got < there.length().count) unread_ = file.reader->name();
}

void FileSampleSource::open(OpenFile& file, const std::string& path) {
  // A process may open only so many files; beyond that all are closed and opened again as they are needed.
  if (openCount_ >= mostOpen) {
    for (OpenFile& other : open_) other = OpenFile{};
    openCount_ = 0;
  }
  file.tried = true;
  ++openCount_;
  file.reader.emplace(disk_.open(path));
}

bool FileSampleSource::read(int index, int channel, Frames at, int count, float* out) noexcept {
  try {
    OpenFile& file = open_.at(index >= 0 ? static_cast<std::size_t>(index)
                                         : files_.size() + static_cast<std::size_t>(-1 - index));
    if (!file.tried) open(file, fileNamed(index, files_, derived_).path);
    if (!file.reader || channel >= file.reader->info().channels) {
      std::fill_n(out, count, 0.0F);
      return false;
    }
    const auto stride = static_cast<std::size_t>(file.reader->info().channels);
    for (int done = 0; done < count;) {
      const Frames here = at + Frames{done};
      if (here < file.windowStart || here >= file.windowStart + Frames{file.windowLength})
        fillWindow(file, here);
      const std::int64_t offset = (here - file.windowStart).count;
      const int n = static_cast<int>(std::min<std::int64_t>(count - done, file.windowLength - offset));
      const float* in = file.interleaved.data() + static_cast<std::size_t>(offset) * stride +
                        static_cast<std::size_t>(channel);
      if (stride == 1)
        std::copy_n(in, n, out + done);
      else
        for (int i = 0; i < n; ++i) out[done + i] = in[static_cast<std::size_t>(i) * stride];
      done += n;
    }
    return true;
  } catch (const std::exception&) {
    std::fill_n(out, count, 0.0F);
    return false;
  }
}

void FileCorrelationMeter::setFiles(const std::vector<PoolFile>& files) {
  if (source_ && files == files_) return;
  files_ = files;
  source_.emplace(disk_, files_);
}

void FileCorrelationMeter::forget(const std::string& path) {
  std::erase_if(known_, [&path](const auto& entry) {
    return std::get<0>(entry.first) == path || std::get<3>(entry.first) == path;
  });
  source_.reset();
}

float FileCorrelationMeter::correlation(const std::vector<ChannelSource>& a, Frames aOrigin,
                                        const std::vector<ChannelSource>& b, Frames bOrigin, Span over) {
  if (!source_ || a.empty() || b.empty() || over.empty()) return 0.0F;
  const auto& fileA = files_[static_cast<std::size_t>(a.front().file)].path;
  const auto& fileB = files_[static_cast<std::size_t>(b.front().file)].path;
  const Key key{fileA,        a.front().channel, over.start - aOrigin,
                fileB,        b.front().channel, over.start - bOrigin,
                over.length()};
  const auto found = known_.find(key);
  if (found != known_.end()) return found->second;
  // A crossfade of minutes is judged by its middle ten seconds' worth of frames.
  const Frames longest{480000};
  if (over.length() > longest) {
    over.start += Frames{(over.length() - longest).count / 2};
    over.end = over.start + longest;
  }
  const auto count = static_cast<std::size_t>(over.length().count);
  std::vector<float> left(count);
  std::vector<float> right(count);
  CorrelationSums sums;
  for (std::size_t channel = 0; channel < a.size(); ++channel) {  // of one track: both have as many
    source_->read(a[channel].file, a[channel].channel, over.start - aOrigin, static_cast<int>(count),
                  left.data());
    source_->read(b[channel].file, b[channel].channel, over.start - bOrigin, static_cast<int>(count),
                  right.data());
    sums.add(left, right);
  }
  return known_[key] = static_cast<float>(sums.correlation());
}

}  // namespace yewdrift
