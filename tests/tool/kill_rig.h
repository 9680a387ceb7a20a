// SPDX-License-Identifier: GPL-3.0-or-later
//
// Sessions that commands work on while their programs die, or their disk refuses, at a call of our choice.
#pragma once

#include <catch2/catch.hpp>
#include <fstream>
#include <nlohmann/json.hpp>
#include <regex>

#include "support.h"

namespace yewdrift::test {

/// Sweeps over every call take their time where everything is checked.
inline const int stride = sanitized() ? 9 : 1;

/// A session of two takes of a drum with two microphones, in which one was picked; and a third take.
struct Sessions {
  Sessions() {
    for (int take = 0; take < 3; ++take) {
      const std::string name = (folder / ("t" + std::to_string(take) + ".wav")).string();
      writeWave(name,
                {noise(9600, static_cast<unsigned>(take)), noise(9600, static_cast<unsigned>(take) + 10)});
      files.push_back(name);
    }
    tool("new " + base.string());
    tool("add " + base.string() + " --track Drum " + files[0] + " " + files[1]);
    tool("pick " + base.string() + " --track Drum --span 0f..5000f --lane 1");
  }
  /// A fresh copy to be harmed.
  [[nodiscard]] std::string copied() const {
    fs::remove_all(work);
    fs::copy(base, work, fs::copy_options::recursive);
    return work.string();
  }
  [[nodiscard]] std::string environment(const std::string& more = {}) const {
    return "env LD_PRELOAD=" YEWDRIFT_KILL_LIBRARY " YEWDRIFT_KILL_FOLDER=" + work.string() + " " + more +
           " %T ";
  }
  [[nodiscard]] std::string killedAt(int call) const {
    return environment("YEWDRIFT_KILL_AT=" + std::to_string(call));
  }
  /// What the command does to the folder, call by call; temporary names without their numbers.
  [[nodiscard]] std::vector<std::string> calls(const std::string& command) const {
    fs::remove(folder / "log");
    const ToolResult result = shell(environment("YEWDRIFT_KILL_LOG=" + (folder / "log").string()) + command);
    INFO(result.err);
    REQUIRE(result.status == 0);
    std::vector<std::string> lines;
    std::ifstream log(folder / "log");
    const std::regex number(R"(/\.([^/]*)\.[0-9a-f]{16}\.new$)");
    for (std::string line; std::getline(log, line);)
      lines.push_back(std::regex_replace(line, number, "/$1.new"));
    return lines;
  }
  /// What each command is called, with the session in place of WORK.
  [[nodiscard]] std::vector<std::string> commands() const {
    return {"pick WORK --track Drum --span 5000f..7000f --lane 1",
            "undo WORK",
            "add WORK --track Drum " + files[2],
            "add WORK --track New " + files[2] + " " + files[0],
            "flatten WORK --track Drum --out " + (folder / "flat.wav").string(),
            "options WORK --pre-roll 3bars",
            "track WORK --track Voice --make"};
  }
  [[nodiscard]] std::string inWork(std::string command) const {
    return command.replace(command.find("WORK"), 4, work.string());
  }

  TemporaryFolder folder;
  std::vector<std::string> files;
  const fs::path base = folder / "base";
  const fs::path work = folder / "work";
};

inline std::string shown(const std::string& session) {
  return tool("show " + session + " --json");
}

inline std::string heard(const std::string& session, const fs::path& out) {
  tool("render " + session + " --track Drum --out " + out.string());
  return content(out);
}

/// The pool keeps what came into it, whatever is taken back.
inline nlohmann::json withoutPool(const std::string& session) {
  nlohmann::json parsed = nlohmann::json::parse(session);
  parsed.erase("pool");
  return parsed;
}

/// What a command does to a session that nobody disturbs, to be held against what is found when somebody did.
struct Change {
  Change(const Sessions& sessions, const std::string& command) : arguments(sessions.inWork(command)) {
    const std::string session = sessions.copied();
    const fs::path out = sessions.folder / "heard.wav";
    before = shown(session);
    heardBefore = heard(session, out);
    calls = static_cast<int>(sessions.calls(arguments).size());
    after = shown(session);
    heardAfter = heard(session, out);
    INFO(command);
    REQUIRE(calls >= 5);
  }
  /// Whether the session there is as after the command; it must be as before it otherwise.
  [[nodiscard]] bool doneIn(const std::string& session, const fs::path& out) const {
    const std::string now = shown(session);
    const bool done = now == after;
    REQUIRE((now == before || done));
    REQUIRE((heard(session, out) == (done ? heardAfter : heardBefore)));
    return done;
  }
  /// How it records is shown by no report, and is no step.
  [[nodiscard]] bool isStep() const { return after != before; }

  std::string arguments;
  std::string before;
  std::string heardBefore;
  std::string after;
  std::string heardAfter;
  int calls = 0;
};

/// The names of what is left in a session that nobody has a use for. A whole file that the program died
/// before naming is none: "check" tells of it, and can bring it in.
inline std::vector<std::string> strays(const fs::path& session) {
  std::vector<std::string> names;
  const std::string report = tool("check " + session.string());  // which also tidies up
  for (const auto& entry : fs::recursive_directory_iterator(session))
    if (const std::string name = entry.path().filename().string();
        name.ends_with(".new") || name.rfind("recording", 0) == 0)
      names.push_back(name);
  const std::regex unneeded("\"([^\"]*)\" is in the folder, but nothing refers to it");
  for (auto each = std::sregex_iterator(report.begin(), report.end(), unneeded);
       each != std::sregex_iterator(); ++each)
    if (const std::string name = (*each)[1];
        shell("sox " + (session / name).string() + " -n stat").status != 0)
      names.push_back(name);
  return names;
}

}  // namespace yewdrift::test
