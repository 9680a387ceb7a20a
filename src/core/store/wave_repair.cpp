// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/wave_repair.h"

#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>

#include "core/store/transfer.h"

namespace yewdrift {
namespace {

constexpr int mostChunks = 1000;
constexpr std::int64_t largestSize = 0xFFFFFFFELL;
constexpr std::int64_t elsewhere = 0xFFFFFFFFLL;  // a size that "ds64" has
constexpr std::int64_t smallestLong = 0x7FFF0000LL;
constexpr std::int64_t headBytes = 12;
constexpr std::int64_t longSizesBytes = 28;  // without a table

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
  const std::int64_t done = readFrom(descriptor_.get(), at, into, count).bytes;
  for (const Patch& patch : patches_)
    for (std::int64_t i = 0; i < 4; ++i)
      if (const std::int64_t place = patch.at + i - at; place >= 0 && place < done)
        static_cast<unsigned char*>(into)[place] = patch.bytes[static_cast<std::size_t>(i)];
  return done;
}

std::int64_t RepairedFile::readOn(void* into, std::int64_t count) {
  const auto head = static_cast<std::int64_t>(otherHead_.size());
  const std::int64_t fromHead = std::clamp<std::int64_t>(head - position_, 0, count);
  std::copy_n(otherHead_.begin() + std::min(position_, head), fromHead, static_cast<unsigned char*>(into));
  std::int64_t n = fromHead;
  n += readBytes(static_cast<char*>(into) + n, count - n, position_ + n - added());
  position_ += n;
  return n;
}

std::int64_t RepairedFile::added() const {
  return otherHead_.empty() ? 0 : static_cast<std::int64_t>(otherHead_.size()) - headBytes;
}

std::int64_t RepairedFile::numberAt(std::int64_t at, int bytes) const {
  unsigned char found[8] = {};
  (void)readBytes(found, bytes, at);
  std::uint64_t number = 0;
  for (int i = bytes; i-- > 0;) number = number << 8U | found[i];
  return static_cast<std::int64_t>(number);
}

void RepairedFile::patch(std::int64_t at, std::int64_t value) {
  Patch patch{at, {}};
  for (std::size_t i = 0; i < 4; ++i)
    patch.bytes[i] = static_cast<unsigned char>(static_cast<std::uint64_t>(value) >> 8U * i & 0xFFU);
  patches_.push_back(patch);
}

void RepairedFile::patchLong(std::int64_t at, std::int64_t value) {
  patch(at, value & 0xFFFFFFFFLL);
  patch(at + 4, value >> 32);
}

void RepairedFile::findPatches() {
  char head[headBytes] = {};
  if (readBytes(head, headBytes, 0) != headBytes || std::memcmp(head + 8, "WAVE", 4) != 0) return;
  const bool longer = std::memcmp(head, "RF64", 4) == 0;
  if (!longer && std::memcmp(head, "RIFF", 4) != 0) return;
  std::int64_t frame = 1;  // bytes of one
  std::int64_t at = headBytes;
  for (int chunk = 0; chunk < mostChunks && at + 8 <= length_; ++chunk) {
    char name[4] = {};
    if (readBytes(name, 4, at) != 4) return;
    std::int64_t size = numberAt(at + 4, 4);
    const std::int64_t body = at + 8;
    if (std::memcmp(name, "fmt ", 4) == 0) frame = std::max<std::int64_t>(1, numberAt(body + 12, 2));
    if (longer && std::memcmp(name, "ds64", 4) == 0) longSizes_ = body;
    if (std::memcmp(name, "data", 4) == 0) {
      if (longer && longSizes_ == 0) return;
      if (longer && size == elsewhere) size = numberAt(longSizes_ + 8, 8);
      const std::int64_t there = length_ - body;
      // Beyond what 32 bits hold, with sign or without, a size says too little; samples follow then.
      const bool tooLittle =
          !longer && there >= smallestLong && size < there && !chunkFollows(body + size + size % 2);
      // Programs that write to a pipe put the largest size, with or without sign, for one that they do not
      // know.
      constexpr std::int64_t unknownFrom = 0x7FFFF000;
      const bool known = longer || size < unknownFrom;
      if (known && size > there) promised_ = size;
      if (size <= 0 || size > there || tooLittle) putRight(at, frame);
      return;
    }
    at = body + size + size % 2;
  }
}

/// Whether there is a chunk, or the file's end, and not samples.
bool RepairedFile::chunkFollows(std::int64_t at) const {
  char name[4] = {};
  if (at >= length_) return true;
  if (readBytes(name, 4, at) != 4) return false;
  return std::all_of(name, name + 4, [](char c) { return c >= ' ' && c <= '~'; }) &&
         numberAt(at + 4, 4) <= length_ - at - 8;
}

void RepairedFile::putRight(std::int64_t dataChunk, std::int64_t frame) {
  const std::int64_t body = dataChunk + 8;
  const std::int64_t whole = (length_ - body) / frame * frame;
  if (longSizes_ == 0 && body + whole <= largestSize) {
    patch(4, body + whole - 8);
    patch(dataChunk + 4, whole);
    return;
  }
  patch(dataChunk + 4, elsewhere);
  if (longSizes_ > 0) {
    patchLong(longSizes_, body + whole - 8);
    patchLong(longSizes_ + 8, whole);
    patchLong(longSizes_ + 16, whole / frame);
    return;
  }
  const auto text = [this](const char* name) { otherHead_.insert(otherHead_.end(), name, name + 4); };
  const auto number = [this](std::int64_t value, int bytes) {
    for (int i = 0; i < bytes; ++i)
      otherHead_.push_back(static_cast<unsigned char>(static_cast<std::uint64_t>(value) >> (8 * i)));
  };
  text("RF64");
  number(elsewhere, 4);
  text("WAVE");
  text("ds64");
  number(longSizesBytes, 4);
  number(body + whole + longSizesBytes, 8);  // all but the first eight bytes
  number(whole, 8);
  number(whole / frame, 8);
  number(0, 4);
}

SF_VIRTUAL_IO* RepairedFile::access() {
  static SF_VIRTUAL_IO access{
      [](void* file) -> sf_count_t { return of(file).seenLength(); },
      [](sf_count_t offset, int whence, void* file) -> sf_count_t {
        RepairedFile& self = of(file);
        const std::int64_t from = whence == SEEK_SET   ? 0
                                  : whence == SEEK_CUR ? self.position_
                                                       : self.seenLength();
        self.position_ = std::max<std::int64_t>(0, from + offset);
        return self.position_;
      },
      [](void* into, sf_count_t count, void* file) -> sf_count_t { return of(file).readOn(into, count); },
      [](const void*, sf_count_t, void*) -> sf_count_t { return 0; },
      [](void* file) -> sf_count_t { return of(file).position_; }};
  return &access;
}

}  // namespace yewdrift
