// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <sndfile.h>

#include <array>
#include <cstdint>
#include <vector>

#include "core/store/open_file.h"

namespace yewdrift {

/// A file as the audio library sees it, with the sizes in a WAV header put right: a program that was killed,
/// or wrote to a pipe, leaves 0 there or more than follows. Layout: Microsoft/IBM Multimedia Programming
/// Interface and Data Specifications 1.0, RIFF and WAVE. One thread at a time.
class RepairedFile {
 public:
  explicit RepairedFile(Descriptor descriptor);

  /// Whether anything had to be put right.
  [[nodiscard]] bool repaired() const { return !patches_.empty(); }
  /// How far it has been read, in bytes.
  [[nodiscard]] std::int64_t position() const { return position_; }
  /// For sf_open_virtual, with this object as its user data.
  [[nodiscard]] static SF_VIRTUAL_IO* access();

 private:
  struct Patch {
    std::int64_t at = 0;
    std::array<unsigned char, 4> bytes{};
  };
  void findPatches();
  [[nodiscard]] std::int64_t readBytes(void* into, std::int64_t count, std::int64_t at) const;
  [[nodiscard]] std::uint32_t numberAt(std::int64_t at) const;
  void patch(std::int64_t at, std::int64_t value);

  Descriptor descriptor_;
  std::int64_t length_ = 0;
  std::int64_t position_ = 0;
  std::vector<Patch> patches_;
};

}  // namespace yewdrift
