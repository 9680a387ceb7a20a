// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/transfer.h"

#include <unistd.h>

#include <cerrno>

namespace yewdrift {
namespace {

/// `step` is told how many went through and how many are left; it answers as read() and write() do.
template <typename Step>
Transfer throughAll(std::int64_t count, Step step) noexcept {
  Transfer transfer;
  while (transfer.bytes < count) {
    const std::int64_t n = step(transfer.bytes, static_cast<std::size_t>(count - transfer.bytes));
    if (n == 0) break;
    if (n > 0)
      transfer.bytes += n;
    else if (errno != EINTR)
      return {transfer.bytes, errno};
  }
  return transfer;
}

}  // namespace

Transfer readFrom(int descriptor, std::int64_t at, void* into, std::int64_t count) noexcept {
  return throughAll(count, [&](std::int64_t done, std::size_t left) {
    return ::pread(descriptor, static_cast<char*>(into) + done, left, static_cast<off_t>(at + done));
  });
}

Transfer writeOn(int descriptor, const void* bytes, std::int64_t count) noexcept {
  return throughAll(count, [&](std::int64_t done, std::size_t left) {
    return ::write(descriptor, static_cast<const char*>(bytes) + done, left);
  });
}

Transfer copyOn(int from, std::int64_t at, int to, std::int64_t count) noexcept {
  off64_t place = at;
  return throughAll(count, [&](std::int64_t, std::size_t left) {
    return ::copy_file_range(from, &place, to, nullptr, left, 0);
  });
}

}  // namespace yewdrift
