// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>

namespace yewdrift {

/// A system library that a machine may lack, loaded when it is first needed and kept.
class SharedLibrary {
 public:
  /// Not open where there is no such library.
  explicit SharedLibrary(const char* soname);
  [[nodiscard]] bool open() const { return handle_ != nullptr; }
  /// Sets `function` to that symbol; false, and the library counts as not open, where it has none.
  template <typename Function>
  bool load(const char* symbol, Function*& function) {
    function = reinterpret_cast<Function*>(find(symbol));
    if (!function) handle_.reset();
    return function != nullptr;
  }

 private:
  [[nodiscard]] void* find(const char* symbol) const;
  std::shared_ptr<void> handle_;
};

}  // namespace yewdrift
