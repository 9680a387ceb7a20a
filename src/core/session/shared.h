// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <utility>

namespace yewdrift {

/// A value that copies share until one of them is edited: history entries hold one copy of what did not
/// change.
template <typename T>
class Shared {
 public:
  Shared() : value_(std::make_shared<T>()) {}
  Shared(T value) : value_(std::make_shared<T>(std::move(value))) {}  // NOLINT(google-explicit-constructor)

  const T& operator*() const { return *value_; }
  const T* operator->() const { return value_.get(); }

  /// The value to change in place; made unique first.
  T& edit() {
    if (value_.use_count() > 1) value_ = std::make_shared<T>(std::as_const(*value_));
    return *value_;
  }

  /// True where both are the very same value in memory; a cheap "nothing changed".
  [[nodiscard]] bool same(const Shared& other) const { return value_ == other.value_; }
  bool operator==(const Shared& other) const { return same(other) || *value_ == *other.value_; }

 private:
  std::shared_ptr<T> value_;
};

}  // namespace yewdrift
