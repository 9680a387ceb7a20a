// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes as a session's log of steps: it opens as its document says, and whatever can be undone is sound.
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  static const std::string document = [] {
    const fuzz::fs::path path = fuzz::scratch();
    SessionFolder folder = SessionFolder::create(path, Session{});
    folder.commit("Set up", fuzz::someSession());
    for (int i = 0; i < 4; ++i) folder.commit("Loop", setLoop(folder.session(), Span{{0}, {1000 + i}}));
    std::ifstream in(path / "session.json");
    return std::string(std::istreambuf_iterator<char>(in), {});
  }();
  const fuzz::fs::path path = fuzz::scratch();
  fuzz::fs::create_directories(path / "audio");
  fuzz::put(path / "session.json", document);
  fuzz::put(path / "steps.log", fuzz::textOf(data, size));
  SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Read);
  try {
    while (folder.history().undoLabel()) {
      folder.editHistory().undo();
      checkInvariants(folder.session());
    }
    while (folder.history().redoLabel()) folder.editHistory().redo();
  } catch (const Error&) {
    return 0;
  }
  fuzz::fs::remove(path / "session.json");
  try {
    checkInvariants(SessionFolder::open(path, SessionFolder::Access::Read).session());
  } catch (const Error&) {
    return 0;
  }
  return 0;
}
