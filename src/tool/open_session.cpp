// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/open_session.h"

#include "core/error.h"

#include <iostream>

namespace yewdrift::tool {
namespace {

SessionFolder opened(const std::string& session, SessionFolder::Access access) {
  SessionFolder folder = SessionFolder::open(session, access);
  for (const Sentence& notice : folder.notices()) std::cerr << "yewdrift-tool: " << notice << "\n";
  return folder;
}

}  // namespace

SessionFolder openToChange(const std::string& session) {
  return opened(session, SessionFolder::Access::Write);
}

SessionFolder openToLook(const std::string& session) {
  return opened(session, SessionFolder::Access::Read);
}

LaneNumber laneNumber(const std::string& text) {
  std::size_t used = 0;
  long long value = 0;
  try {
    value = std::stoll(text, &used);
  } catch (const std::exception&) {
    used = 0;
  }
  if (used == 0 || used != text.size()) throw Error("\"%1\" is not a lane number.", text);
  if (value < 1 || value > 1'000'000'000) throw Error("Lanes are numbered from 1.");
  return {static_cast<int>(value)};
}

}  // namespace yewdrift::tool
