// SPDX-License-Identifier: GPL-3.0-or-later
//
// Histories of format version 1 (docs/session-format.md), step by step: what is carried over, what is left
// out and said to be, and what is too long.
#include "core/store/version_1.h"

#include <nlohmann/json.hpp>
#include "core/core_tests.h"

namespace {

using nlohmann::json;

/// Four markers one after the other, the last two of them undone: three states before the present one, two
/// behind it.
struct Old {
  Old() : disk((fs::create_directory(temporary / "s"), temporary / "s")) {
    states.push_back(addTrack(Session{}, "Viola", microphonesFor(1)));
    for (int i = 0; i < 4; ++i)
      states.push_back(addMarker(states.back(), Frames{i * 100}, "step " + std::to_string(i)));
  }
  /// Each line as long as that, filled up with room.
  void write(std::size_t longest = 0) {
    std::ofstream out(temporary / "s" / "history.log", std::ios::binary);
    for (std::size_t i = 0; i < 4; ++i) {
      offsets.push_back(out.tellp());
      const json before = toJson(states[i]);
      const json after = toJson(states[i + 1]);
      std::string line = json{{"label", "step " + std::to_string(i)},
                              {"back", jsonDelta(after, before)},
                              {"forth", jsonDelta(before, after)}}
                             .dump();
      if (line.size() < longest) line.insert(line.size() - 1, longest - line.size(), ' ');
      out << line << (i < 3 ? "\n" : "");
    }
  }
  [[nodiscard]] CarriedHistory carried(const json& done, const json& undone, std::size_t now,
                                       std::size_t document = 0) const {
    json all{{"history", {{"done", done}, {"undone", undone}}}};
    if (document > 0) {
      all["more"] = "";
      all["more"] = std::string(document - all.dump().size(), 'x');
      REQUIRE(all.dump().size() == document);
    }
    return historyOfVersion1(disk, all, states[now]);
  }
  void check(const CarriedHistory& found, std::size_t first, std::size_t now, std::size_t last,
             bool complete) const {
    CHECK(found.complete == complete);
    History history = found.history;
    CHECK(history.now() == states[now]);
    CHECK(history.doneCount() == now - first);
    REQUIRE(history.steps().size() == last - first);
    for (std::size_t i = now; i-- > first;) {
      CHECK(history.undoLabel() == "step " + std::to_string(i));
      history.undo();
      CHECK((history.now() == states[i]));
    }
    for (std::size_t i = first; i < last; ++i) {
      CHECK(history.redoLabel() == "step " + std::to_string(i));
      history.redo();
      CHECK((history.now() == states[i + 1]));
    }
  }
  TemporaryFolder temporary;
  SessionDisk disk;
  std::vector<Session> states;
  std::vector<std::int64_t> offsets;
};

constexpr std::size_t most = std::size_t{64} << 20;

}  // namespace

TEST_CASE("Of a history of version 1 everything is carried over, done and undone") {
  Old old;
  old.write();
  const auto& at = old.offsets;
  old.check(old.carried({at[0], at[1]}, {at[3], at[2]}, 2), 0, 2, 4, true);
  old.check(old.carried({at[0], at[1], at[2], at[3]}, json::array(), 4), 0, 4, 4, true);
  old.check(old.carried(json::array(), {at[3], at[2], at[1], at[0]}, 0), 0, 0, 4, true);
  old.check(old.carried(json::array(), json::array(), 2), 2, 2, 2, true);
  const CarriedHistory none = historyOfVersion1(old.disk, json::object(), old.states[1]);
  old.check(none, 1, 1, 1, true);
}

TEST_CASE("What cannot be read of it is left out with all that lies behind it, and that is said") {
  Old old;
  old.write();
  const auto& at = old.offsets;
  const auto end = static_cast<std::int64_t>(fs::file_size(old.temporary / "s" / "history.log"));
  for (const json& bad : {json(-1), json(end), json(end + 1), json(at[1] + 1), json("x")}) {
    INFO(bad);
    old.check(old.carried({bad, at[1]}, {at[3], at[2]}, 2), 1, 2, 4, false);
    old.check(old.carried({at[0], at[1]}, {bad, at[2]}, 2), 0, 2, 3, false);
  }
  fs::remove(old.temporary / "s" / "history.log");
  old.check(old.carried({at[0], at[1]}, {at[3], at[2]}, 2), 2, 2, 2, false);
  // Where it has no steps nothing is missing.
  old.check(old.carried(json::array(), json::array(), 2), 2, 2, 2, true);
}

TEST_CASE("What lies so far back that reading it would take long is left out") {
  Old lines;
  lines.write(most / 3 - 10);
  const auto& at = lines.offsets;
  lines.check(lines.carried({at[0], at[1], at[2], at[3]}, json::array(), 4), 1, 4, 4, false);
  Old documents;
  documents.write();
  const auto& to = documents.offsets;
  const json all{to[0], to[1], to[2], to[3]};
  documents.check(documents.carried(all, json::array(), 4, most / 4), 0, 4, 4, true);
  documents.check(documents.carried(all, json::array(), 4, most / 4 + 1), 1, 4, 4, false);
}
