// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <utility>

#include "core/error.h"
#include "core/sentence.h"

namespace yewdrift {

/// A file descriptor that is closed with its owner.
class Descriptor {
 public:
  Descriptor() = default;
  explicit Descriptor(int value) : value_(value) {}
  ~Descriptor() { close(); }
  Descriptor(Descriptor&& other) noexcept : value_(std::exchange(other.value_, -1)) {}
  Descriptor& operator=(Descriptor&& other) noexcept {
    if (this != &other) {
      close();
      value_ = std::exchange(other.value_, -1);
    }
    return *this;
  }
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;

  [[nodiscard]] int get() const { return value_; }
  [[nodiscard]] bool good() const { return value_ >= 0; }

 private:
  void close();

  int value_ = -1;
};

/// A regular file that is open, and what a sentence about it calls it.
struct OpenFile {
  Descriptor descriptor;
  std::string name;
};

/// A file that a person named, wherever it lies: links are followed. Throws Error with a sentence where it is
/// missing, cannot be read, or is no regular file; never waits for one that is a pipe.
OpenFile openAnywhere(const std::filesystem::path& path);

/// Makes a file, or empties one that is there, for whoever was given the place by a person.
OpenFile createAnywhere(const std::filesystem::path& path);

/// What tells a file from what it was: its length in bytes, and when it was changed, in nanoseconds. What is
/// kept of a file in a cache belongs to it as long as both are the same.
struct FileStamp {
  std::int64_t bytes = 0;
  std::int64_t changed = 0;
};
FileStamp stampOf(const OpenFile& file);

// -- what both a session's folder and other places need; `what` is what a sentence calls the file

/// That a file cannot be written, and why (an errno value); the session's own files are called by what they
/// hold.
[[nodiscard]] Error notWritten(const std::string& name, int error);
/// Throws Error where not all of it is taken.
void writeAll(int descriptor, const std::string& content, const std::string& what);
/// Waits until the disk has it. Throws Error where the disk refuses; a file system that has no syncing to
/// offer is no loss of what was written.
void syncOrThrow(int descriptor, const std::string& what);
/// All of a file; throws Error where it is longer than `limit` or cannot be read.
std::string readAll(const OpenFile& file, std::uintmax_t limit);
/// All of one file into another, from their starts on.
void copyBytes(const OpenFile& from, const OpenFile& to);
/// What the system says of a failure, as the end of a sentence.
Sentence reasonOf(int error);

}  // namespace yewdrift
