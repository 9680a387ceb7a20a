// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/limits.h"

#include <algorithm>

#include "core/error.h"

namespace yewdrift {
namespace {

/// The length of the character that begins at `at`, or 0 where none does (Unicode 15, table 3-7).
std::size_t characterAt(const std::string& text, std::size_t at) {
  const auto byte = [&](std::size_t i) {
    return at + i < text.size() ? static_cast<unsigned char>(text[at + i]) : 0U;
  };
  const auto follows = [&](std::size_t i, unsigned from = 0x80, unsigned to = 0xBF) {
    return byte(i) >= from && byte(i) <= to;
  };
  const unsigned first = byte(0);
  if (first < 0x80) return 1;
  if (first >= 0xC2 && first <= 0xDF) return follows(1) ? 2 : 0;
  if (first == 0xE0) return follows(1, 0xA0) && follows(2) ? 3 : 0;
  if (first == 0xED) return follows(1, 0x80, 0x9F) && follows(2) ? 3 : 0;
  if (first >= 0xE1 && first <= 0xEF) return follows(1) && follows(2) ? 3 : 0;
  if (first == 0xF0) return follows(1, 0x90) && follows(2) && follows(3) ? 4 : 0;
  if (first >= 0xF1 && first <= 0xF3) return follows(1) && follows(2) && follows(3) ? 4 : 0;
  if (first == 0xF4) return follows(1, 0x80, 0x8F) && follows(2) && follows(3) ? 4 : 0;
  return 0;
}

}  // namespace

void checkStaysInside(const std::string& name) {
  const auto leadsOut = [&name] {
    throw Error("The session names a file outside its own folder (\"%1\"); it was not opened.",
                readableText(name).substr(0, 200));
  };
  if (name.empty() || name.front() == '/' || name.size() > limits::textBytes ||
      name.find('\0') != std::string::npos)
    leadsOut();
  for (std::size_t from = 0; from <= name.size();) {
    const std::size_t end = std::min(name.find('/', from), name.size());
    const std::string part = name.substr(from, end - from);
    if (part.empty() || part == "." || part == "..") leadsOut();
    from = end + 1;
  }
}

std::string readableText(const std::string& text) {
  std::string readable;
  for (std::size_t at = 0; at < text.size() && readable.size() + 4 < limits::textBytes;) {
    const std::size_t length = characterAt(text, at);
    readable += length > 0 ? text.substr(at, length) : "\uFFFD";
    at += std::max<std::size_t>(length, 1);
  }
  return readable;
}

bool isReadable(const std::string& text) {
  if (text.size() > limits::textBytes) return false;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = characterAt(text, at);
    if (length == 0) return false;
    at += length;
  }
  return true;
}

}  // namespace yewdrift
