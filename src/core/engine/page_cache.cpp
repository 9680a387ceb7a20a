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

CachedFile::CachedFile(SessionDisk disk, const PoolFile& file, std::shared_ptr<OpenReaders> open)
    : disk_(std::move(disk)),
      path_(file.path),
      channels_(file.channels),
      described_(file.length),
      open_(std::move(open)) {}

CachedFile::~CachedFile() {
  if (open_) open_->forget(*this);
}

bool CachedFile::read(int channel, Frames at, int count, float* out) const noexcept {
  bool whole = true;
  const Table* table = shown_.load();
  for (int done = 0; done < count;) {
    const std::int64_t frame = at.count + done;
    if (frame < 0 || !table || frame >= table->length.count) {
      // Outside the file there is silence, up to its start or for good; behind a file not looked at, nobody
      // knows.
      const auto n =
          frame < 0 ? static_cast<int>(std::min<std::int64_t>(count - done, -frame)) : count - done;
      std::fill_n(out + done, n, 0.0F);
      whole = whole && (frame < 0 || table);
      done += n;
      continue;
    }
    const std::int64_t offset = frame % pageFrames;
    const auto n = static_cast<int>(std::min<std::int64_t>(count - done, pageFrames - offset));
    const Page* page = table->pages[static_cast<std::size_t>(frame / pageFrames)].load();
    if (page)
      std::copy_n(page->samples.data() + channel * pageFrames + offset, n, out + done);
    else
      std::fill_n(out + done, n, 0.0F);
    whole = whole && page;
    done += n;
  }
  return whole;
}

bool CachedFile::open() {
  // Only while its pages are wanted: a session may have more files than a process may open.
  try {
    if (!reader_) reader_.emplace(disk_.open(path_));
  } catch (const Error&) {
    return false;
  }
  if (open_) open_->used(*this);
  return true;
}

void CachedFile::look(std::uint64_t turn) {
  looksAgainIn_ = turn + turnsBetweenLooks;
  close();
  // A missing file is silent; opening the session has said so.
  const Frames there = std::min(described_, open() ? reader_->info().length : Frames{});
  if (table_ && table_->length == there) return;
  auto table = std::make_unique<Table>(there);
  for (auto it = owned_.begin(); it != owned_.end() && it->first < table->pages.size(); ++it)
    table->pages[it->first].store(it->second.get());
  shown_.store(table.get());
  if (table_) retired_.push_back(std::move(table_));
  table_ = std::move(table);
}

void CachedFile::want(Frames from, Frames to, std::uint64_t turn) {
  from = std::max(from, Frames{});
  if (from >= to || from >= described_) return;
  if (!table_ || (table_->length < described_ && turn >= looksAgainIn_)) look(turn);
  const std::int64_t end = std::min(to, table_->length).count;
  for (std::int64_t frame = from.count - from.count % pageFrames; frame < end; frame += pageFrames) {
    const auto index = static_cast<std::size_t>(frame / pageFrames);
    auto& page = owned_[index];
    if (!page || page->frames < std::min(pageFrames, table_->length.count - frame)) {
      auto fuller = load(index);
      table_->pages[index].store(fuller.get());
      if (page) retired_.push_back(std::move(page));
      page = std::move(fuller);
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
  const std::int64_t first = static_cast<std::int64_t>(index) * pageFrames;
  page->frames = std::min(pageFrames, table_->length.count - first);
  if (!open()) return page;  // gone since it was looked at; silent, as a missing file is
  const auto stride = static_cast<std::size_t>(reader_->info().channels);
  std::vector<float> interleaved(static_cast<std::size_t>(pageFrames) * stride);
  reader_->readAt(Frames{first}, pageFrames, interleaved.data());
  for (std::size_t channel = 0; channel < std::min(stride, static_cast<std::size_t>(channels_)); ++channel)
    for (std::size_t i = 0; i < static_cast<std::size_t>(pageFrames); ++i)
      page->samples[channel * static_cast<std::size_t>(pageFrames) + i] = interleaved[i * stride + channel];
  return page;
}

void CachedFile::evictBefore(std::uint64_t turn, std::vector<std::unique_ptr<Retired>>& evicted) {
  for (auto& each : retired_) evicted.push_back(std::move(each));
  retired_.clear();
  for (auto it = owned_.begin(); it != owned_.end();) {
    if (it->second->wantedIn >= turn) {
      ++it;
      continue;
    }
    if (it->first < table_->pages.size()) table_->pages[it->first].store(nullptr);
    evicted.push_back(std::move(it->second));
    it = owned_.erase(it);
  }
  if (!owned_.empty()) return;
  if (open_) open_->forget(*this);
  close();
}

void RetiredPages::keep(std::vector<std::unique_ptr<CachedFile::Retired>> pages, std::uint64_t epoch) {
  for (auto& each : pages) pages_.push_back(std::move(each));
  since_ = epoch;
}

void RetiredPages::freeUnseen(std::uint64_t epoch) {
  const bool blockUnderWay = epoch % 2 == 1;
  if (blockUnderWay && epoch == since_) return;
  pages_.clear();
}

}  // namespace yewdrift
