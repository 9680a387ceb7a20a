// SPDX-License-Identifier: GPL-3.0-or-later
//
// Bad input: one clear sentence, the right exit status, and the session on disk as it was.
#include "tool/tool_tests.h"

namespace {

void refuses(const std::string& arguments, int status, const std::string& words) {
  const ToolResult result = shell("%T " + arguments);
  INFO("yewdrift-tool " << arguments << "\n" << result.err);
  CHECK(result.status == status);
  CHECK(result.out.empty());
  CHECK_THAT(result.err, Catch::Contains(words));
  CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
}

}  // namespace

TEST_CASE(
    "tool: what cannot be done is one sentence and exit 1; wrong usage is exit 2; nothing is half done") {
  const TemporaryFolder folder;
  const std::string s = (folder / "s").string();
  const std::string wave = (folder / "a.wav").string();
  writeWave(wave, {noise(48000, 1)});
  std::ofstream(folder / "text.wav") << "not music";
  std::ofstream(folder / "zero.wav");
  tool("new " + s);
  tool("add " + s + " --track Viola " + wave);
  const std::string before = content(folder / "s/session.json");
  const auto files = std::distance(fs::recursive_directory_iterator(folder / "s"), {});
  const std::string viola = s + " --track Viola ";

  refuses("new " + s, 1, "something in it");
  refuses("new " + (folder / "n").string() + " --rate 0", 1, "not at 0");
  refuses("new " + (folder / "n").string() + " --rate 384000", 1, "44100 to 192000");
  refuses("new " + (folder / "n").string() + " --tempo 0", 1, "tempo");
  refuses("new " + (folder / "n").string() + " --meter 4", 1, "meter");
  refuses("new " + (folder / "n").string() + " --format mp3", 2, "format");
  refuses("new /proc/nothing", 1, "cannot be made");
  refuses("add " + viola + (folder / "text.wav").string(), 1, "not an audio file");
  refuses("add " + viola + (folder / "zero.wav").string(), 1, "empty");
  refuses("add " + viola + wave + " " + (folder / "missing.wav").string(), 1, "missing");
  refuses("add " + viola + "--at 9007199254740993f " + wave, 1, "beyond");
  refuses("add " + s + " " + wave, 2, "--track");
  refuses("pick " + viola + "--span 5f..5f --lane 1", 1, "empty");
  refuses("pick " + viola + "--span 0s..1s --lane 9", 1, "no lane 9");
  refuses("pick " + viola + "--span 0s..1s --lane many", 1, "lane number");
  refuses("pick " + s + " --track Cello --span 0s..1s --lane 1", 1, "no track named");
  refuses("join " + viola + "--at 0s --length 10ms", 1, "no joins");
  refuses("window " + viola + "--lane 1 --span 5s..6s", 1, "no material");
  refuses("record " + viola + "--performance " + wave + " --from 0s --loop 1s..1s", 1, "empty");
  refuses("record " + viola + "--performance " + wave + " --from 0s --loop 0f..10f", 1, "at least 64");
  refuses("record " + viola + "--performance " + wave + " --from 2s --loop 0s..1s", 1,
          "behind the loop's end");
  refuses("record " + viola + "--performance " + wave + " --from 2s --to 1s", 1, "stop before it starts");
  refuses("record " + viola + "--performance " + wave + " --from 0s --to 1s --punch 3s..4s", 1,
          "outside what is recorded");
  refuses("record " + viola + "--performance " + (folder / "text.wav").string() + " --from 0s --to 1s", 1,
          "not an audio file");
  refuses("record " + viola + "--performance " + wave + " --from 0s", 2, "--to");
  refuses("record " + viola + "--performance " + wave + " --from 0s --to 1s --block 0", 2, "--block");
  refuses("render " + viola + "--out /nowhere/at/all.wav", 1, "cannot be written");
  refuses("flatten " + viola + "--out /nowhere/at/all.wav", 1, "cannot be written");
  refuses("show " + folder.path().string(), 1, "not a session folder");
  refuses("dance " + s, 2, "");
  refuses("", 2, "");

  CHECK(content(folder / "s/session.json") == before);
  CHECK(std::distance(fs::recursive_directory_iterator(folder / "s"), {}) == files);
  CHECK_FALSE(fs::exists(folder / "n"));
}

TEST_CASE("tool: damaged sessions are refused by every command that opens one") {
  const TemporaryFolder folder;
  const std::string s = (folder / "s").string();
  tool("new " + s);
  for (const auto& [text, words] :
       {std::pair{"{", "not valid JSON"},
        {"{\"format\":\"yewdrift-session\",\"version\":99,\"session\":{}}", "newer"},
        {"{\"format\":\"yewdrift-session\",\"version\":1,\"session\":{}}", "older"}}) {
    std::ofstream(folder / "s/session.json", std::ios::trunc) << text;
    for (const std::string& command :
         {"show " + s, "check " + s, "undo " + s, "render " + s + " --out " + (folder / "x.wav").string()})
      refuses(command, 1, words);
    CHECK(content(folder / "s/session.json") == text);
  }
}
