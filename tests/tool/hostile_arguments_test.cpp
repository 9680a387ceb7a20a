// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every option of every command, given what a slip of the hand, a broken script or an attacker may write
// there. The commands and options are taken from the help, so that none is forgotten.
#include <iostream>
#include "tool/tool_tests.h"

#include "core/session/limits.h"
#include "tool/commands.h"

namespace {

/// What a command line did, run in this process, so that thousands are tried in seconds.
ToolResult here(const std::vector<std::string>& arguments) {
  std::ostringstream out;
  std::ostringstream err;
  std::streambuf* const outBefore = std::cout.rdbuf(out.rdbuf());
  std::streambuf* const errBefore = std::cerr.rdbuf(err.rdbuf());
  const int status = static_cast<int>(yewdrift::tool::run(arguments));
  std::cout.rdbuf(outBefore);
  std::cerr.rdbuf(errBefore);
  return {status, out.str(), err.str()};
}

struct HelpedCommand {
  std::string name;
  std::vector<std::string> options;   // those that take a value
  std::vector<std::string> flags;     // those that take none
  std::vector<std::string> required;  // of the options
};

std::vector<HelpedCommand> commandsOfTheHelp() {
  std::vector<HelpedCommand> commands;
  std::istringstream help(here({"--help"}).out);
  static const std::regex commandLine("^  ([a-z-]+) {2,}.*");
  static const std::regex optionLine("^  (--[a-z-]+)( \\S+)?.*");
  bool listed = false;
  std::smatch found;
  for (std::string line; std::getline(help, line);) {
    listed = listed || line == "Subcommands:";
    if (!listed || !std::regex_match(line, found, commandLine)) continue;
    HelpedCommand command{found[1], {}, {}, {}};
    if (command.name == "devices" || command.name == "measure") continue;  // they ask real devices
    std::istringstream options(here({command.name, "--help"}).out);
    while (std::getline(options, line)) {
      if (!std::regex_match(line, found, optionLine) || found[1] == "--driver" || found[1] == "--help-all")
        continue;
      (found[2].matched ? command.options : command.flags).push_back(found[1]);
      if (line.find(" REQUIRED") != std::string::npos) command.required.push_back(found[1]);
    }
    commands.push_back(command);
  }
  return commands;
}

const std::vector<std::string>& hostileValues() {
  static const std::vector<std::string> values{"",
                                               "-",
                                               "--",
                                               "-1",
                                               "0",
                                               "3",
                                               "0.5",
                                               "1e308",
                                               "-1e308",
                                               "nan",
                                               "-inf",
                                               "1e400",
                                               "99999999999999999999",
                                               "9223372036854775807",
                                               "-9223372036854775808",
                                               "9223372036854775807f",
                                               "-9223372036854775808f",
                                               "4000000000000000f",
                                               "1e18s",
                                               "nans",
                                               "2147483647",
                                               "-2147483648",
                                               "0|0",
                                               "2147483647|2147483647",
                                               "2s..1s",
                                               "0f..9223372036854775807f",
                                               "-5s..1s",
                                               "..",
                                               "1s..",
                                               "9999999999bars",
                                               "1s=1e308",
                                               "1s=nan",
                                               "0f=-3",
                                               std::string(20000, 'x'),
                                               "\x01\x02",
                                               "\xff\xfe\n\xc3",
                                               "a/b",
                                               "../../x",
                                               "%s%n%1",
                                               "\xf0\x9f\x8e\xbb"};
  return values;
}

/// Session and history as they are on disk, and what else lies there.
std::map<std::string, std::string> everythingIn(const fs::path& folder) {
  std::map<std::string, std::string> files;
  for (const fs::directory_entry& each : fs::recursive_directory_iterator(folder))
    if (each.is_regular_file() && each.path().filename() != ".lock" &&
        each.path().string().find("/cache/") == std::string::npos)
      files[fs::relative(each.path(), folder).string()] = content(each.path());
  return files;
}

/// A session with all that commands refer to; each command line works on a copy.
class Victim {
 public:
  Victim() : folder_("/dev/shm") {
    writeWave(wave(), {noise(12000, 1, 0.3F)});
    writeWave(folder_ / "b.wav", {sine(12000, 440.0, 48000.0, 0.3F)});
    yewdrift::test::tool("new " + made().string());
    yewdrift::test::tool("add " + made().string() + " --track V " + wave() + " " +
                         (folder_ / "b.wav").string());
    yewdrift::test::tool("add " + made().string() + " --track W " + wave());
    yewdrift::test::tool("pick " + made().string() + " --track V --span 3000f..6000f --lane 1");
    yewdrift::test::tool("loop " + made().string() + " --span 1000f..9000f");
    yewdrift::test::tool("marker " + made().string() + " --at 0f --name A");
    before_ = everythingIn(made());
    renew();
    fs::create_directories(folder_ / "in");
    was_ = fs::current_path();
    fs::current_path(folder_ / "in");  // where relative names lead
  }
  ~Victim() { fs::current_path(was_); }
  Victim(const Victim&) = delete;
  Victim& operator=(const Victim&) = delete;

  [[nodiscard]] std::string wave() const { return (folder_ / "a.wav").string(); }
  [[nodiscard]] std::string session() const { return (folder_ / "s").string(); }
  [[nodiscard]] bool unchanged() const { return everythingIn(session()) == before_; }
  void renew() const {
    fs::remove_all(session());
    fs::copy(made(), session(), fs::copy_options::recursive);
  }
  /// What makes a command whole but for one option.
  [[nodiscard]] std::string plain(const std::string& option) const {
    static const std::map<std::string, std::string> values{
        {"--track", "V"}, {"--lane", "1"},        {"--span", "2000f..4000f"}, {"--at", "3000f"},
        {"--from", "0f"}, {"--to", "9000f"},      {"--out", "out.wav"},       {"--rating", "3"},
        {"--bar", "2"},   {"--point", "3000f=-3"}};
    if (option == "--performance") return wave();
    const auto found = values.find(option);
    return found == values.end() ? "1" : found->second;
  }
  [[nodiscard]] std::vector<std::string> line(const HelpedCommand& command, const std::string& odd) const {
    std::vector<std::string> arguments{command.name, command.name == "new" ? "new" : session()};
    if (command.name == "add") arguments.push_back(wave());
    const auto add = [&](const std::string& option) {
      if (option != odd) arguments.insert(arguments.end(), {option, plain(option)});
    };
    for (const std::string& option : command.required) add(option);
    for (const std::string option : {"--track", "--at", "--lane"}) {
      const auto among = [&](const std::vector<std::string>& list) {
        return std::find(list.begin(), list.end(), option) != list.end();
      };
      if (among(command.options) && !among(command.required) && command.name != "render") add(option);
    }
    return arguments;
  }

 private:
  TemporaryFolder folder_;
  std::map<std::string, std::string> before_;
  fs::path was_;
  [[nodiscard]] fs::path made() const { return folder_ / "made"; }
};

void checkSaid(const ToolResult& result) {
  CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
  CHECK(result.err.size() < 900);
  CHECK(isReadable(result.err));
  for (const char* inner : {"json.", "exception", "std::", "basic_", "stod", "stoi", "stoll", "bad_alloc",
                            "assert", "convert", "override", "(null)"})
    CHECK_THAT(result.err, !Catch::Contains(inner));
}

}  // namespace

TEST_CASE(
    "tool: whatever stands behind an option, one sentence, nothing half done, and a session that opens") {
  const Victim victim;
  const std::vector<HelpedCommand> commands = commandsOfTheHelp();
  REQUIRE(commands.size() > 30);
  // Each value has its turn somewhere, also where everything takes ten times as long.
  const std::size_t every = sanitized() ? 5 : 1;
  int tried = 0;
  int done = 0;
  for (const HelpedCommand& command : commands)
    for (const std::string& option : command.options)
      for (std::size_t i = static_cast<std::size_t>(tried) % every; i < hostileValues().size(); i += every) {
        const std::string& value = hostileValues()[i];
        std::vector<std::string> arguments = victim.line(command, option);
        arguments.push_back(option + "=" + value);
        const ToolResult result = here(arguments);
        INFO(command.name << " " << option << "=" << value.substr(0, 60) << "\n"
                          << result.out.substr(0, 500) << result.err.substr(0, 1000));
        ++tried;
        CHECK(result.status >= 0);
        CHECK(result.status <= 2);
        if (result.status != 0) {
          checkSaid(result);
          CHECK(victim.unchanged());
          if (!victim.unchanged()) victim.renew();
          continue;
        }
        ++done;
        const std::string changed = command.name == "new" ? "new" : victim.session();
        const ToolResult checked = here({"check", changed});
        INFO(checked.err);
        CHECK(checked.status == 0);
        CHECK(here({"show", changed, "--json"}).status == 0);
        fs::remove_all("new");
        victim.renew();
      }
  CHECK(tried * static_cast<int>(every) > 3000);
  CHECK(done * static_cast<int>(every) > 300);  // names, mostly: what is odd is not what is wrong
}

TEST_CASE("tool: a flag takes no value, whatever it would be") {
  const Victim victim;
  int flags = 0;
  for (const HelpedCommand& command : commandsOfTheHelp())
    for (const std::string& flag : command.flags)
      for (const char* value : {"1", "no", "1e308", "nan"}) {
        std::vector<std::string> arguments = victim.line(command, flag);
        arguments.push_back(flag + "=" + value);
        const ToolResult result = here(arguments);
        INFO(command.name << " " << flag << "=" << value << "\n" << result.err);
        CHECK(result.status == 2);
        checkSaid(result);
        CHECK_THAT(result.err, Catch::Contains(flag + " takes no value"));
        CHECK(victim.unchanged());
        ++flags;
      }
  CHECK(flags > 60);
}
