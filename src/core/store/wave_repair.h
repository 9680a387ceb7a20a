// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <sndfile.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "core/store/open_file.h"

namespace yewdrift {

/// A file as the audio library sees it, with the sizes in a WAV header put right: a program that was killed,
/// or wrote to a pipe, leaves 0 there or more than follows, or what is left of a size that 32 bits do not
/// hold. Then it is seen as RF64. Layouts: Microsoft/IBM Multimedia Programming Interface and Data
/// Specifications 1.0, RIFF and WAVE; EBU Tech 3306, RF64. One thread at a time.
class RepairedFile {
 public:
  explicit RepairedFile(Descriptor descriptor);

  /// Whether anything had to be put right.
  [[nodiscard]] bool repaired() const { return !patches_.empty(); }
  /// The bytes of samples that the header says there are, where that is more than there are and no sign of a
  /// length that was not known when the header was written.
  [[nodiscard]] std::optional<std::int64_t> promisedBytes() const { return promised_; }
  /// How far it has been read, in bytes.
  [[nodiscard]] std::int64_t position() const { return std::max<std::int64_t>(0, position_ - added()); }
  /// For sf_open_virtual, with this object as its user data.
  [[nodiscard]] static SF_VIRTUAL_IO* access();

 private:
  struct Patch {
    std::int64_t at = 0;
    std::array<unsigned char, 4> bytes{};
  };
  void findPatches();
  void putRight(std::int64_t dataChunk, std::int64_t frame);
  [[nodiscard]] bool chunkFollows(std::int64_t at) const;
  /// Bytes of the file, patched, from a place in it.
  [[nodiscard]] std::int64_t readBytes(void* into, std::int64_t count, std::int64_t at) const;
  /// Bytes as the library sees them, from where it is.
  std::int64_t readOn(void* into, std::int64_t count);
  [[nodiscard]] std::int64_t numberAt(std::int64_t at, int bytes) const;
  void patch(std::int64_t at, std::int64_t value);
  void patchLong(std::int64_t at, std::int64_t value);
  /// How many bytes the library sees before those of the file.
  [[nodiscard]] std::int64_t added() const;
  [[nodiscard]] std::int64_t seenLength() const { return length_ + added(); }

  Descriptor descriptor_;
  std::int64_t length_ = 0;
  std::int64_t position_ = 0;
  std::vector<Patch> patches_;
  std::optional<std::int64_t> promised_;
  std::int64_t longSizes_ = 0;            // where the body of a "ds64" chunk is; 0: none
  std::vector<unsigned char> otherHead_;  // seen instead of the first 12 bytes
};

}  // namespace yewdrift
