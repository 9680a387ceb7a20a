// SPDX-License-Identifier: GPL-3.0-or-later
// Any text as a step of the history: it does not fit, or leads to a session and back.
#include <nlohmann/json.hpp>

#include "core/store/json_values.h"
#include "core/store/session_delta.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  using Direction = HistoryStep::Direction;
  static const Session session = fuzz::someSession();
  for (const Direction there : {Direction::Forth, Direction::Back}) try {
      const nlohmann::json delta = parsedJson(fuzz::textOf(data, size), Sentence::verbatim("A step"));
      const Session next = applyDelta(session, delta, there);
      checkInvariants(next);
      const Session back =
          applyDelta(next, delta, there == Direction::Forth ? Direction::Back : Direction::Forth);
      if (!sessionDelta(back, session).empty()) std::abort();
    } catch (const Error& e) {
      if (std::string(e.what()).empty()) std::abort();
    }
  return 0;
}
