// SPDX-License-Identifier: GPL-3.0-or-later
//
// A power cut: what was written since the last sync of a file is gone, what was named since the last sync of
// a folder may be there or not. Commands are traced call by call; at every call the folder is put together as
// it could be found afterwards, and opened.
#include <memory>
#include "tool/tool_tests.h"

#include "kill_rig.h"

namespace {

/// What survives of the names in the folder.
enum class Names { OnlySynced, All };

/// A folder as the disk has it, call by call.
class DiskModel {
 public:
  explicit DiskModel(const fs::path& folder) {
    for (const auto& entry : fs::recursive_directory_iterator(folder)) {
      const std::string name = "/" + entry.path().lexically_relative(folder).string();
      if (entry.is_directory())
        folders_.insert(name);
      else
        now_[name] = std::make_shared<File>(File{content(entry.path()), content(entry.path())});
    }
    synced_ = now_;
  }

  void apply(const std::string& line) {
    std::vector<std::string> parts;
    std::istringstream in(line);
    for (std::string part; std::getline(in, part, '\t');) parts.push_back(part);
    const std::string& what = parts.at(0);
    if (what == "folder") {
      folders_.insert(parts.at(1));
    } else if (what == "make") {
      now_[parts.at(1)] = std::make_shared<File>();
    } else if (what == "write") {
      std::string& bytes = now_.at(parts.at(1))->written;
      const std::size_t at = std::stoul(parts.at(2));
      const std::string& hex = parts.at(3);
      bytes.resize(std::max(bytes.size(), at + hex.size() / 2));
      for (std::size_t i = 0; i < hex.size() / 2; ++i)
        bytes[at + i] = static_cast<char>(std::stoi(hex.substr(2 * i, 2), nullptr, 16));
    } else if (what == "truncate") {
      now_.at(parts.at(1))->written.resize(std::stoul(parts.at(2)));
    } else if (what == "rename") {
      now_[parts.at(2)] = now_.at(parts.at(1));
      now_.erase(parts.at(1));
    } else if (what == "exchange") {
      std::swap(now_.at(parts.at(1)), now_.at(parts.at(2)));
    } else if (what == "remove") {
      now_.erase(parts.at(1));
    } else if (what == "sync") {
      const std::string name = parts.size() > 1 ? parts.at(1) : std::string();
      if (const auto file = now_.find(name); file != now_.end())
        file->second->kept = file->second->written;
      else
        syncNames(name);
    } else {
      FAIL("unknown call: " << what);
    }
  }

  void putTogether(const fs::path& folder, Names names) const {
    fs::remove_all(folder);
    fs::create_directories(folder);
    for (const std::string& each : folders_) fs::create_directories(folder.string() + each);
    for (const auto& [name, file] : names == Names::All ? now_ : synced_)
      std::ofstream(folder.string() + name, std::ios::binary) << file->kept;
  }

 private:
  struct File {
    std::string written;
    std::string kept;
  };
  using Files = std::map<std::string, std::shared_ptr<File>>;

  static std::string folderOf(const std::string& name) { return name.substr(0, name.rfind('/')); }
  void syncNames(const std::string& folder) {
    std::erase_if(synced_, [&](const auto& each) { return folderOf(each.first) == folder; });
    for (const auto& [name, file] : now_)
      if (folderOf(name) == folder) synced_[name] = file;
  }

  Files now_;
  Files synced_;
  std::set<std::string> folders_;
};

}  // namespace

TEST_CASE("After a power cut at any call the session is as before or as after, and every take is whole") {
  const Sessions sessions;
  for (const std::string& command : sessions.commands()) {
    const Change change(sessions, command);
    const std::string s = sessions.copied();
    DiskModel disk(s);
    const fs::path trace = sessions.folder / "trace";
    fs::remove(trace);
    REQUIRE(shell(sessions.environment("YEWDRIFT_KILL_TRACE=" + trace.string()) + change.arguments).status ==
            0);
    std::vector<std::string> lines;
    std::ifstream in(trace);
    for (std::string line; std::getline(in, line);) lines.push_back(line);
    REQUIRE(lines.size() >= 5);
    for (std::size_t cut = 0; cut <= lines.size(); ++cut) {
      if (cut > 0) disk.apply(lines[cut - 1]);
      // Between writes nothing happens that a cut could tell apart.
      if (cut < lines.size() && lines[cut].rfind("write", 0) == 0 && cut > 0 &&
          lines[cut - 1].rfind("write", 0) == 0)
        continue;
      if (cut % stride != 0 && cut < lines.size()) continue;
      for (const Names names : {Names::OnlySynced, Names::All}) {
        INFO(command << ", cut after call " << cut << " of " << lines.size()
                     << (names == Names::All ? ", all names there" : ", only what was synced"));
        disk.putTogether(sessions.work, names);
        CHECK(strays(s).empty());
        const bool done = change.doneIn(s, sessions.folder / "heard.wav");
        // Once it was said to be done it stays so.
        if (cut == lines.size()) REQUIRE(done);
      }
    }
  }
}
