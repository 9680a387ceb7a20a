// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/open_session.h"

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

}  // namespace yewdrift::tool
