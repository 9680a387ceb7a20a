// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/samples_store.h"

#include <QMetaObject>
#include <algorithm>
#include <iterator>

#include "core/store/audio_file.h"

namespace yewdrift::app {
namespace {

constexpr std::size_t mostWanted = 1024;  // who scrolls on does not wait for what was passed by

/// One channel after the other; nothing where the file cannot be read.
std::vector<float> readStretch(const SessionDisk& disk, const PoolFile& file, Frames from,
                               std::int64_t frames) {
  try {
    AudioReader reader(disk.open(file.path));
    const auto channels = static_cast<std::size_t>(reader.info().channels);
    const auto count = static_cast<std::size_t>(frames);
    std::vector<float> interleaved(count * channels);
    reader.readAt(from, frames, interleaved.data());
    std::vector<float> samples(interleaved.size());
    for (std::size_t i = 0; i < count; ++i)
      for (std::size_t channel = 0; channel < channels; ++channel)
        samples[channel * count + i] = interleaved[i * channels + channel];
    return samples;
  } catch (const std::exception&) {
    return {};  // the pool says what is wrong with it; the wave is drawn from what peaks there are
  }
}

}  // namespace

SamplesStore::SamplesStore(SessionDisk disk, QObject* parent) : QObject(parent), disk_(std::move(disk)) {
  pool_.setMaxThreadCount(1);
}

SamplesStore::~SamplesStore() {
  pool_.waitForDone();
}

bool SamplesStore::read(const PoolFile& file, int channel, Frames from, std::span<float> out) {
  ++asked_;
  std::fill(out.begin(), out.end(), 0.0F);
  const Frames first = std::max(from, Frames{});
  const Frames end = std::min(from + Frames{static_cast<std::int64_t>(out.size())}, file.length);
  bool whole = true;
  // All of it is asked for, so that it comes together.
  for (std::int64_t index = first.count / stretchFrames; index * stretchFrames < end.count; ++index) {
    const Samples* const samples = stretch(file, index);
    const auto begins = static_cast<std::size_t>(channel) * static_cast<std::size_t>(stretchFrames);
    if (!samples || samples->size() < begins + static_cast<std::size_t>(stretchFrames)) {
      whole = false;
      continue;
    }
    const std::int64_t start = std::max(first.count, index * stretchFrames);
    const std::int64_t count = std::min(end.count, (index + 1) * stretchFrames) - start;
    std::copy_n(samples->begin() + static_cast<std::ptrdiff_t>(begins) + start - index * stretchFrames, count,
                out.begin() + start - from.count);
  }
  return whole;
}

const SamplesStore::Samples* SamplesStore::stretch(const PoolFile& file, std::int64_t index) {
  const Key key{file.path, index};
  const auto [it, fresh] = entries_.try_emplace(key);
  it->second.askedFor = asked_;
  if (fresh) {
    wanted_.emplace_back(key, file);
    if (wanted_.size() > mostWanted) {
      entries_.erase(wanted_.front().first);
      wanted_.pop_front();
    }
    fetchNext();
  }
  return it->second.samples.get();
}

void SamplesStore::lookAgain(const std::string& path) {
  ++generation_;
  std::erase_if(wanted_, [&](const auto& each) { return each.first.first == path; });
  for (auto it = entries_.lower_bound({path, 0}); it != entries_.end() && it->first.first == path;) {
    if (it->second.samples) kept_ -= static_cast<std::int64_t>(it->second.samples->size());
    it = entries_.erase(it);
  }
  emit ready();
}

void SamplesStore::lookForMissing() {
  ++generation_;  // what is under way may have looked before
  std::erase_if(entries_,
                [](const auto& each) { return each.second.samples && each.second.samples->empty(); });
  emit ready();
}

void SamplesStore::fetchNext() {
  if (fetching_ || wanted_.empty()) return;
  fetching_ = true;
  auto [key, file] = std::move(wanted_.back());
  wanted_.pop_back();
  pool_.start([this, key = std::move(key), file = std::move(file), generation = generation_] {
    auto samples = std::make_shared<const Samples>(
        readStretch(disk_, file, Frames{key.second * stretchFrames}, stretchFrames));
    QMetaObject::invokeMethod(this, [this, key, generation, samples] { take(key, generation, samples); });
  });
}

void SamplesStore::take(const Key& key, std::uint64_t generation, std::shared_ptr<const Samples> samples) {
  fetching_ = false;
  if (const auto entry = entries_.find(key); entry != entries_.end() && !entry->second.samples) {
    if (generation == generation_) {
      kept_ += static_cast<std::int64_t>(samples->size());
      entry->second.samples = std::move(samples);
      makeRoom();
    } else {
      entries_.erase(entry);  // it may be what the file held before
    }
  }
  fetchNext();
  // A picture that waits for many is painted once.
  if (!fetching_ || wanted_.size() % 16 == 0) emit ready();
}

/// What was not asked for the longest goes; never what is asked for just now.
void SamplesStore::makeRoom() {
  while (kept_ > most) {
    auto oldest = entries_.end();
    for (auto it = entries_.begin(); it != entries_.end(); ++it)
      if (it->second.samples && !it->second.samples->empty() &&
          (oldest == entries_.end() || it->second.askedFor < oldest->second.askedFor))
        oldest = it;
    if (oldest == entries_.end()) return;
    kept_ -= static_cast<std::int64_t>(oldest->second.samples->size());
    entries_.erase(oldest);
  }
}

}  // namespace yewdrift::app
