// SPDX-License-Identifier: GPL-3.0-or-later
// Any text as a session's document: a sentence, or a session that comes back as it was written.
#include <nlohmann/json.hpp>

#include "core/store/json_values.h"
#include "core/store/session_json.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  try {
    const Session session =
        sessionFromJson(parsedJson(fuzz::textOf(data, size), Sentence::verbatim("session.json")));
    checkInvariants(session);
    if (!(sessionFromJson(nlohmann::json::parse(toJson(session).dump())) == session)) std::abort();
  } catch (const Error& e) {
    if (std::string(e.what()).empty()) std::abort();
  }
  return 0;
}
