// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>

namespace yewdrift {

/// How many bytes went through. Where those are not all, `error` says why as the system does; 0 where the
/// file ends there.
struct Transfer {
  std::int64_t bytes = 0;
  int error = 0;
};

// However often the system interrupts it or takes a part only. Any thread; nothing is thrown.

/// From a place in a file; where it goes on reading by itself stays as it was.
Transfer readFrom(int descriptor, std::int64_t at, void* into, std::int64_t count) noexcept;
/// On from where the file stands.
Transfer writeOn(int descriptor, const void* bytes, std::int64_t count) noexcept;
/// From a place in one file on to where the other stands, without its bytes coming by here.
Transfer copyOn(int from, std::int64_t at, int to, std::int64_t count) noexcept;

}  // namespace yewdrift
