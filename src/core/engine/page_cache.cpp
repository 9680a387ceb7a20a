// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/page_cache.h"

#include <algorithm>

#include "core/error.h"

namespace yewdrift {

void OpenReaders::used(CachedFile& file) {
  const std::lock_guard guard(mutex_);
  open_.remove(&file);
  open_.push_front(&file);
  if (open_.size() <= most_) return;
  open_.back()->close();
  open_.pop_back();
}

void OpenReaders::forget(const CachedFile& file) {
  const std::lock_guard guard(mutex_);
  std::erase(open_, &file);
}

CachedFile::CachedFile(std::filesystem::path path, const PoolFile& file, std::shared_ptr<OpenReaders> open)
    : path_(std::move(path)),
      channels_(file.channels),
      described_(file.length),
      length_(file.length),
      open_(std::move(open)) {
  try {
    length_ = std::min(length_, probeAudioFile(path_).length);
  } catch (const Error&) {
    length_ = {};  // a missing file is silent; opening the session has said so
  }
  pages_ = std::vector<std::atomic<Page*>>(
      static_cast<std::size_t>((length_.count + pageFrames - 1) / pageFrames));
}

CachedFile::~CachedFile() {
  if (open_) open_->forget(*this);
}

bool CachedFile::read(int channel, Frames at, int count, float* out) const noexcept {
  bool whole = true;
  for (int done = 0; done < count;) {
    const std::int64_t frame = at.count + done;
    if (frame < 0 || frame >= length_.count) {
      // Outside the file there is silence, up to its start or for good.
      const auto n =
          frame < 0 ? static_cast<int>(std::min<std::int64_t>(count - done, -frame)) : count - done;
      std::fill_n(out + done, n, 0.0F);
      done += n;
      continue;
    }
    const std::int64_t offset = frame % pageFrames;
    const auto n = static_cast<int>(std::min<std::int64_t>(count - done, pageFrames - offset));
    const Page* page = pages_[static_cast<std::size_t>(frame / pageFrames)].load();
    if (page) {
      std::copy_n(page->samples.data() + channel * pageFrames + offset, n, out + done);
    } else {
      std::fill_n(out + done, n, 0.0F);
      whole = false;
    }
    done += n;
  }
  return whole;
}

void CachedFile::want(Frames from, Frames to, std::uint64_t turn) {
  from = std::max(from, Frames{});
  to = std::min(to, length_);
  for (std::int64_t frame = from.count - from.count % pageFrames; frame < to.count; frame += pageFrames) {
    const auto index = static_cast<std::size_t>(frame / pageFrames);
    auto& page = owned_[index];
    if (!page) {
      page = load(index);
      pages_[index].store(page.get());
    }
    page->wantedIn = turn;
  }
}

void CachedFile::keep(Frames from, Frames to, std::uint64_t turn) {
  const auto first = static_cast<std::size_t>(std::max(from, Frames{}).count / pageFrames);
  for (auto it = owned_.lower_bound(first);
       it != owned_.end() && static_cast<std::int64_t>(it->first) * pageFrames < to.count; ++it)
    it->second->wantedIn = turn;
}

std::unique_ptr<CachedFile::Page> CachedFile::load(std::size_t index) {
  auto page = std::make_unique<Page>();
  page->samples.assign(static_cast<std::size_t>(channels_ * pageFrames), 0.0F);
  // Open only while its pages are wanted: a session may have more files than a process may open.
  if (!reader_) {
    try {
      reader_.emplace(path_);
    } catch (const Error&) {
      return page;  // gone since the plan was made; silent, as a missing file is
    }
  }
  if (open_) open_->used(*this);
  const auto stride = static_cast<std::size_t>(reader_->info().channels);
  std::vector<float> interleaved(static_cast<std::size_t>(pageFrames) * stride);
  reader_->readAt(Frames{static_cast<std::int64_t>(index) * pageFrames}, pageFrames, interleaved.data());
  for (std::size_t channel = 0; channel < std::min(stride, static_cast<std::size_t>(channels_)); ++channel)
    for (std::size_t i = 0; i < static_cast<std::size_t>(pageFrames); ++i)
      page->samples[channel * static_cast<std::size_t>(pageFrames) + i] = interleaved[i * stride + channel];
  return page;
}

void CachedFile::evictBefore(std::uint64_t turn, std::vector<std::unique_ptr<Page>>& evicted) {
  for (auto it = owned_.begin(); it != owned_.end();) {
    if (it->second->wantedIn >= turn) {
      ++it;
      continue;
    }
    pages_[it->first].store(nullptr);
    evicted.push_back(std::move(it->second));
    it = owned_.erase(it);
  }
  if (!owned_.empty()) return;
  if (open_) open_->forget(*this);
  close();
}

}  // namespace yewdrift
