// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cstddef>
#include <iterator>
#include <memory>
#include <vector>

namespace yewdrift {

/// An immutable sequence in chunks. `replaced` makes a new sequence that shares every chunk it does not
/// touch, so that a thousand versions of ten thousand elements stay small. Reading is by index or iterator.
template <typename T>
class SharedSequence {
  static constexpr std::size_t chunkSize = 128;
  using Chunk = std::vector<T>;

 public:
  class Iterator {
   public:
    using iterator_category = std::random_access_iterator_tag;
    using value_type = T;
    using difference_type = std::ptrdiff_t;
    using pointer = const T*;
    using reference = const T&;

    Iterator() = default;
    Iterator(const SharedSequence* owner, std::size_t index) : owner_(owner) { moveTo(index); }
    reference operator*() const { return (*owner_->chunks_[chunk_])[index_ - start_]; }
    pointer operator->() const { return &**this; }
    reference operator[](difference_type n) const { return *(*this + n); }
    Iterator& operator++() {
      // Walking stays within a chunk for a long while; only at its end the next one is looked up.
      if (++index_ == next_) moveTo(index_);
      return *this;
    }
    Iterator operator++(int) {
      const Iterator before = *this;
      ++*this;
      return before;
    }
    Iterator& operator--() { return moveTo(index_ - 1); }
    Iterator operator--(int) {
      const Iterator before = *this;
      --*this;
      return before;
    }
    Iterator& operator+=(difference_type n) {
      return moveTo(static_cast<std::size_t>(static_cast<difference_type>(index_) + n));
    }
    Iterator& operator-=(difference_type n) { return *this += -n; }
    friend Iterator operator+(Iterator it, difference_type n) { return it += n; }
    friend Iterator operator+(difference_type n, Iterator it) { return it += n; }
    friend Iterator operator-(Iterator it, difference_type n) { return it -= n; }
    friend difference_type operator-(const Iterator& a, const Iterator& b) {
      return static_cast<difference_type>(a.index_) - static_cast<difference_type>(b.index_);
    }
    bool operator==(const Iterator& other) const { return index_ == other.index_; }
    auto operator<=>(const Iterator& other) const { return index_ <=> other.index_; }

   private:
    Iterator& moveTo(std::size_t index) {
      index_ = index;
      if (index_ < owner_->size()) {
        chunk_ = owner_->chunkOf(index_);
        start_ = owner_->starts_[chunk_];
        next_ = owner_->starts_[chunk_ + 1];
      }
      return *this;
    }

    const SharedSequence* owner_ = nullptr;
    std::size_t index_ = 0;
    std::size_t chunk_ = 0;
    std::size_t start_ = 0;  // of the chunk
    std::size_t next_ = 0;   // start of the chunk after it
  };

  SharedSequence() = default;
  explicit SharedSequence(const std::vector<T>& all) {
    append(all.begin(), all.end());
    index();
  }

  [[nodiscard]] std::size_t size() const { return starts_.empty() ? 0 : starts_.back(); }
  [[nodiscard]] bool empty() const { return size() == 0; }
  const T& operator[](std::size_t i) const {
    const std::size_t c = chunkOf(i);
    return (*chunks_[c])[i - starts_[c]];
  }
  [[nodiscard]] Iterator begin() const { return {this, 0}; }
  [[nodiscard]] Iterator end() const { return {this, size()}; }

  /// This sequence with elements [from, to) replaced by `insert`.
  [[nodiscard]] SharedSequence replaced(std::size_t from, std::size_t to,
                                        const std::vector<T>& insert) const {
    if (empty()) return SharedSequence(insert);
    const std::size_t first = chunkOf(std::min(from, size() - 1));
    const std::size_t last = chunkOf(std::min(std::max(from, to > 0 ? to - 1 : 0), size() - 1));
    std::vector<T> middle(begin() + static_cast<std::ptrdiff_t>(starts_[first]),
                          begin() + static_cast<std::ptrdiff_t>(from));
    middle.insert(middle.end(), insert.begin(), insert.end());
    middle.insert(middle.end(), begin() + static_cast<std::ptrdiff_t>(to),
                  begin() + static_cast<std::ptrdiff_t>(std::max(to, starts_[last + 1])));
    SharedSequence result;
    result.chunks_.assign(chunks_.begin(), chunks_.begin() + static_cast<std::ptrdiff_t>(first));
    result.append(middle.begin(), middle.end());
    result.chunks_.insert(result.chunks_.end(), chunks_.begin() + static_cast<std::ptrdiff_t>(last) + 1,
                          chunks_.end());
    result.index();
    return result;
  }

  bool operator==(const SharedSequence& other) const {
    return chunks_ == other.chunks_ || std::equal(begin(), end(), other.begin(), other.end());
  }

 private:
  [[nodiscard]] std::size_t chunkOf(std::size_t i) const {
    return static_cast<std::size_t>(std::upper_bound(starts_.begin(), starts_.end(), i) - starts_.begin()) -
           1;
  }

  template <typename It>
  void append(It from, It to) {
    while (from != to) {
      const auto n = std::min<std::ptrdiff_t>(to - from, static_cast<std::ptrdiff_t>(chunkSize));
      chunks_.push_back(std::make_shared<const Chunk>(from, from + n));
      from += n;
    }
  }

  void index() {
    starts_.clear();
    if (chunks_.empty()) return;
    starts_.push_back(0);
    for (const auto& chunk : chunks_) starts_.push_back(starts_.back() + chunk->size());
  }

  std::vector<std::shared_ptr<const Chunk>> chunks_;
  std::vector<std::size_t> starts_;  // of each chunk, and the total at the end
};

}  // namespace yewdrift
