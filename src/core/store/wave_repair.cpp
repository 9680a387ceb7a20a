// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/wave_repair.h"

#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>

namespace yewdrift {
namespace {

constexpr int mostChunks = 1000;
constexpr std::int64_t largestSize = 0xFFFFFFFELL;

RepairedFile& of(void* file) {
  return *static_cast<RepairedFile*>(file);
}

}  // namespace

RepairedFile::RepairedFile(Descriptor descriptor) : descriptor_(std::move(descriptor)) {
  struct stat status {};
  if (::fstat(descriptor_.get(), &status) == 0) length_ = status.st_size;
  findPatches();
}

std::int64_t RepairedFile::readBytes(void* into, std::int64_t count, std::int64_t at) const {
  std::int64_t done = 0;
  while (done < count) {
    const ssize_t n = ::pread(descriptor_.get(), static_cast<char*>(into) + done,
                              static_cast<std::size_t>(count - done), static_cast<off_t>(at + done));
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    done += n;
  }
  for (const Patch& patch : patches_)
    for (std::int64_t i = 0; i < 4; ++i)
      if (const std::int64_t place = patch.at + i - at; place >= 0 && place < done)
        static_cast<unsigned char*>(into)[place] = patch.bytes[static_cast<std::size_t>(i)];
  return done;
}

std::uint32_t RepairedFile::numberAt(std::int64_t at) const {
  unsigned char bytes[4] = {};
  (void)readBytes(bytes, 4, at);
  return static_cast<std::uint32_t>(bytes[0]) | static_cast<std::uint32_t>(bytes[1]) << 8U |
         static_cast<std::uint32_t>(bytes[2]) << 16U | static_cast<std::uint32_t>(bytes[3]) << 24U;
}

void RepairedFile::patch(std::int64_t at, std::int64_t value) {
  Patch patch{at, {}};
  for (std::size_t i = 0; i < 4; ++i)
    patch.bytes[i] = static_cast<unsigned char>(static_cast<std::uint64_t>(value) >> 8U * i & 0xFFU);
  patches_.push_back(patch);
}

void RepairedFile::findPatches() {
  char head[12] = {};
  if (readBytes(head, 12, 0) != 12 || std::memcmp(head, "RIFF", 4) != 0 ||
      std::memcmp(head + 8, "WAVE", 4) != 0)
    return;
  std::int64_t frame = 1;  // bytes of one
  std::int64_t at = 12;
  for (int chunk = 0; chunk < mostChunks && at + 8 <= length_; ++chunk) {
    char name[4] = {};
    if (readBytes(name, 4, at) != 4) return;
    const std::int64_t size = numberAt(at + 4);
    const std::int64_t body = at + 8;
    if (std::memcmp(name, "fmt ", 4) == 0) frame = std::max<std::int64_t>(1, numberAt(body + 12) & 0xFFFFU);
    if (std::memcmp(name, "data", 4) == 0) {
      const std::int64_t there = length_ - body;
      if (size != 0 && size <= there) return;
      const std::int64_t whole = std::min(there, largestSize - body) / frame * frame;
      patch(4, body + whole - 8);
      patch(at + 4, whole);
      return;
    }
    at = body + size + size % 2;
  }
}

SF_VIRTUAL_IO* RepairedFile::access() {
  static SF_VIRTUAL_IO access{
      [](void* file) -> sf_count_t { return of(file).length_; },
      [](sf_count_t offset, int whence, void* file) -> sf_count_t {
        RepairedFile& self = of(file);
        const std::int64_t from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? self.position_ : self.length_;
        self.position_ = std::max<std::int64_t>(0, from + offset);
        return self.position_;
      },
      [](void* into, sf_count_t count, void* file) -> sf_count_t {
        RepairedFile& self = of(file);
        const std::int64_t n = self.readBytes(into, count, self.position_);
        self.position_ += n;
        return n;
      },
      [](const void*, sf_count_t, void*) -> sf_count_t { return 0; },
      [](void* file) -> sf_count_t { return of(file).position_; }};
  return &access;
}

}  // namespace yewdrift
