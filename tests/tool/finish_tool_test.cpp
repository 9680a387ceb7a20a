// SPDX-License-Identifier: GPL-3.0-or-later
//
// Flatten, deliver, pool and sheet, as scripts and other programs rely on them.
#include <cstring>
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

using nlohmann::json;

namespace {

std::string contentOf(const fs::path& file) {
  std::ifstream in(file, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  return text.str();
}

/// Two tracks: "Voice" with three takes of noise and two joins, and "Drum & Bell" with one.
struct Finished {
  explicit Finished(const std::string& format = "float") {
    tool("new " + s + " --rate 48000 --tempo 100 --meter 3/4 --format " + format);
    std::string files;
    for (unsigned i = 0; i < 3; ++i) files += " " + wave(i + 1);
    tool("add " + s + " --track Voice" + files);
    tool("add " + s + " --track 'Drum & Bell' --at 1000f " + wave(9));
    tool("pick " + s + " --track Voice --lane 1 --span 10000f..24000f");
    tool("pick " + s + " --track Voice --lane 2 --span 24000f..30000f");
    tool("marker " + s + " --at 12000f --name 'Second verse'");
    tool("marker " + s + " --at 86400f --name End");
  }
  std::string wave(unsigned seed) const {
    const std::string file = (folder / ("take" + std::to_string(seed) + ".wav")).string();
    writeWave(file, {noise(48000, seed, 0.3F)}, 48000, SampleFormat::Float32);
    return file;
  }
  [[nodiscard]] json show() const { return json::parse(tool("show " + s + " --json")); }
  [[nodiscard]] Samples render(const std::string& more) const {
    tool("render " + s + " --format float --out " + (folder / "out.wav").string() + " " + more);
    return readWave(folder / "out.wav").front();
  }
  [[nodiscard]] fs::path to(const std::string& name) const { return folder / "delivery" / name; }
  std::string deliver(const std::string& more) const {
    return tool("deliver " + s + " --to " + (folder / "delivery").string() + " " + more);
  }
  void refuses(const std::string& command, int status = 1) const {
    const json before = show();
    const ToolResult result = shell("%T " + command);
    INFO(command << ": " << result.err);
    CHECK(result.status == status);
    CHECK(std::count(result.err.begin(), result.err.end(), '\n') == 1);
    CHECK(show() == before);
  }

  TemporaryFolder folder;
  std::string s = (folder / "s").string();
};

double largestDifference(const Samples& a, const Samples& b) {
  REQUIRE(a.size() == b.size());
  double largest = 0.0;
  for (std::size_t i = 0; i < a.size(); ++i)
    largest = std::max(largest, std::abs(double{a[i]} - double{b[i]}));
  return largest;
}

}  // namespace

TEST_CASE("tool: flatten reads back what it wrote and says how near it is; the other lanes stay, or go") {
  const Finished f("pcm24");
  const Samples before = f.render("--track Voice");
  const std::string said = tool("flatten " + f.s + " --track Voice");
  CHECK(said.find("Read back, it differs from what plays live by -14") != std::string::npos);
  CHECK(largestDifference(f.render("--track Voice"), before) <= 0.5 / 8388608.0);
  CHECK(f.show()["tracks"][0]["lanes"].size() == 4);
  tool("undo " + f.s);
  tool("flatten " + f.s + " --track Voice --lanes archive");
  json lanes = f.show()["tracks"][0]["lanes"];
  REQUIRE(lanes.size() == 4);
  for (std::size_t i = 0; i < 3; ++i) CHECK(lanes[i]["setAside"] == true);
  CHECK(lanes[3]["setAside"] == false);
  tool("undo " + f.s);
  tool("flatten " + f.s + " --track Voice --lanes remove");
  lanes = f.show()["tracks"][0]["lanes"];
  REQUIRE(lanes.size() == 1);
  CHECK(lanes[0]["number"] == 4);
  CHECK(largestDifference(f.render("--track Voice"), before) <= 0.5 / 8388608.0);
  tool("undo " + f.s);
  CHECK(f.show()["tracks"][0]["lanes"].size() == 3);
  // Floats hold what plays live as it is.
  const Finished exact;
  CHECK(tool("flatten " + exact.s + " --track Voice").find("bit for bit") != std::string::npos);
}

TEST_CASE("tool: stems add up to the mix, and what was delivered nulls in a new session") {
  const Finished f;
  const auto mix = [&](const std::string& session) {
    tool("render " + session + " --format float --span 0f..49000f --out " + (f.folder / "mix.wav").string());
    return readWave(f.folder / "mix.wav");
  };
  const auto before = mix(f.s);
  const Samples composite = f.render("--track Voice --span 0f..49000f");
  const json said = json::parse(f.deliver("--json"));
  std::vector<std::string> names;
  for (const json& file : said["files"]) {
    names.push_back(file["name"]);
    CHECK(fs::file_size(f.to(file["name"])) == file["bytes"].get<std::uint64_t>());
    CHECK(file["estimated"] == false);
  }
  CHECK(names == std::vector<std::string>{
                     "stems/01 Voice.wav", "stems/02 Drum & Bell.wav", "takes/01 Voice - take 01 take1.wav",
                     "takes/01 Voice - take 02 take2.wav", "takes/01 Voice - take 03 take3.wav",
                     "takes/02 Drum & Bell - take 01 take9.wav", "composites/01 Voice.wav",
                     "composites/02 Drum & Bell.wav", "s tempo.mid", "s markers.txt", "s edits.json",
                     "s edits.txt", "s takes.html", "s takes.pdf"});
  // All begin together and are as long as the session.
  for (std::size_t i = 0; i < 8; ++i) CHECK(readWave(f.to(names[i])).front().size() == 49000);
  const auto voice = readWave(f.to("stems/01 Voice.wav"));
  const auto drum = readWave(f.to("stems/02 Drum & Bell.wav"));
  REQUIRE(voice.size() == 2);
  for (std::size_t side = 0; side < 2; ++side) {
    Samples sum = voice[side];
    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += drum[side][i];
    CHECK(largestDifference(sum, before[side]) < 1e-6);
  }
  CHECK(readWave(f.to("composites/01 Voice.wav")).front() == composite);
  CHECK(readWave(f.to("takes/01 Voice - take 02 take2.wav")).front() ==
        f.render("--track Voice --lane 2 --span 0f..49000f"));
  // Into a new session: the stems as backing tracks are the mix again.
  const std::string other = (f.folder / "other").string();
  tool("new " + other + " --rate 48000 --format float");
  tool("add " + other + " --track A --backing '" + f.to("stems/01 Voice.wav").string() + "'");
  tool("add " + other + " --track B --backing '" + f.to("stems/02 Drum & Bell.wav").string() + "'");
  const auto again = mix(other);
  for (std::size_t side = 0; side < 2; ++side) CHECK(largestDifference(again[side], before[side]) < 1e-6);
}

TEST_CASE(
    "tool: a delivery never replaces a file, tells beforehand what it writes, and leaves nothing where it "
    "fails") {
  const Finished f;
  const json planned = json::parse(f.deliver("--dry-run --json"));
  CHECK(planned["files"].size() == 14);
  CHECK(planned["files"][0]["estimated"] == true);
  CHECK_FALSE(fs::exists(f.folder / "delivery"));
  f.deliver("--what takes");
  // The header is not foretold.
  const auto size = fs::file_size(f.to("takes/01 Voice - take 01 take1.wav"));
  CHECK(std::abs(static_cast<double>(size) - planned["files"][2]["bytes"].get<double>()) < 2000.0);
  CHECK_FALSE(fs::exists(f.to("stems")));
  const std::string one = contentOf(f.to("takes/01 Voice - take 01 take1.wav"));
  f.refuses("deliver " + f.s + " --to " + (f.folder / "delivery").string() + " --what stems,takes");
  CHECK_FALSE(fs::exists(f.to("stems")));
  CHECK(contentOf(f.to("takes/01 Voice - take 01 take1.wav")) == one);
  f.refuses("deliver " + f.s + " --to " + f.s + "/audio --what stems");
  f.refuses("deliver " + f.s + " --to " + (f.folder / "x").string() + " --what stems,everything", 2);
  f.refuses("deliver " + f.s + " --to " + (f.folder / "x").string() + " --format flac --depth float");
  f.refuses("deliver " + f.s + " --to " + (f.folder / "x").string() + " --rate 7");
  f.refuses("deliver " + f.s + " --to /proc/x --what markers");
  CHECK_FALSE(fs::exists(f.folder / "x"));
  // A file that is missing in the middle of it: nothing is left.
  fs::remove(fs::path(f.s) / f.show()["pool"].back()["path"].get<std::string>());
  const ToolResult broken =
      shell("%T deliver " + f.s + " --to " + (f.folder / "y").string() + " --what takes");
  CHECK(broken.status == 1);
  CHECK_FALSE(fs::exists(f.folder / "y"));
}

TEST_CASE("tool: other programs read what is delivered") {
  const Finished f("pcm24");
  f.deliver("--what stems,takes,tempo --format flac");
  for (const char* name : {"stems/01 Voice.flac", "takes/01 Voice - take 01 take1.flac"})
    CHECK(shell("flac --test --silent '" + f.to(name).string() + "'").status == 0);
  // The MIDI file, read back by midicsv: a bar of 3/4 at 100 bpm lasts 1.8 s (common practice), so 86,400
  // frames are bar 2, 2,880 ticks; 12,000 frames are 0.25 s, 400 ticks at 960 ticks a quarter.
  const ToolResult midi = shell("midicsv '" + f.to("s tempo.mid").string() + "'");
  CHECK(midi.status == 0);
  for (const char* line :
       {"0, 0, Header, 0, 1, 960\n", "1, 0, Tempo, 600000\n", "1, 0, Time_signature, 3, 2, 24, 8\n",
        "1, 400, Marker_t, \"Second verse\"\n", "1, 2880, Marker_t, \"End\"\n", "1, 2880, End_track\n"})
    CHECK(midi.out.find(line) != std::string::npos);

  // RF64 as EBU Tech 3306 has it, and WAV with cues and a time stamp; sox and ffprobe read both.
  fs::remove_all(f.folder / "delivery");
  f.deliver("--what stems --format rf64 --depth pcm16");
  const std::string rf64 = contentOf(f.to("stems/01 Voice.wav"));
  CHECK(rf64.substr(0, 4) == "RF64");
  CHECK(rf64.substr(4, 4) == "\xFF\xFF\xFF\xFF");
  CHECK(rf64.substr(8, 8) == "WAVEds64");
  CHECK(rf64.find("Second verse") != std::string::npos);
  CHECK(shell("soxi -s '" + f.to("stems/01 Voice.wav").string() + "'").out == "49000\n");
  fs::remove_all(f.folder / "delivery");
  f.deliver("--what stems");
  const std::string file = contentOf(f.to("stems/01 Voice.wav"));
  CHECK(file.substr(0, 4) == "RIFF");
  CHECK(file.find("bext") != std::string::npos);
  const auto cue = file.find("cue ");
  REQUIRE(cue != std::string::npos);
  CHECK(file[cue + 8] == 1);  // the marker behind the end is not in it
  CHECK(file.find("Second verse") != std::string::npos);
  const auto sample = [&](std::size_t at) {
    std::uint32_t value = 0;
    std::memcpy(&value, file.data() + at, 4);
    return value;
  };
  CHECK(sample(cue + 12 + 4) == 12000);
  CHECK(sample(cue + 12 + 20) == 12000);
  const ToolResult probe = shell("ffprobe -v error -show_entries stream=duration_ts '" +
                                 f.to("stems/01 Voice.wav").string() + "'");
  CHECK(probe.out.find("duration_ts=49000") != std::string::npos);
}

TEST_CASE("tool: to 16 bit with dither as theory has it, and without where it is not needed or not wanted") {
  TemporaryFolder folder;
  const std::string s = (folder / "s").string();
  tool("new " + s + " --rate 48000 --format float");
  // A steady third of a step: without dither it is lost.
  const Samples steady(96000, 1.0F / 3.0F / 32768.0F);
  writeWave(folder / "steady.wav", {steady}, 48000, SampleFormat::Float32);
  Samples even(48000);
  for (std::size_t i = 0; i < even.size(); ++i)
    even[i] = static_cast<float>(static_cast<int>(i % 601) - 300) / 32768.0F;
  writeWave(folder / "even.wav", {even}, 48000, SampleFormat::Float32);
  tool("add " + s + " --track Steady " + (folder / "steady.wav").string());
  tool("add " + s + " --track Even " + (folder / "even.wav").string());
  const auto delivered = [&](const std::string& name, const std::string& more) {
    fs::remove_all(folder / "d");
    tool("deliver " + s + " --to " + (folder / "d").string() + " --what takes --depth pcm16 " + more);
    return readWave(folder / "d" / "takes" / name).front();
  };
  const Samples dithered = delivered("01 Steady - take 01 steady.wav", "");
  double mean = 0.0;
  double square = 0.0;
  for (const float sample : dithered) {
    const double error = (sample - steady.front()) * 32768.0;
    mean += error;
    square += error * error;
  }
  mean /= static_cast<double>(dithered.size());
  square /= static_cast<double>(dithered.size());
  // Of triangular dither the error has no mean, and a variance of a quarter of a step squared, whatever the
  // signal (Lipshitz, Wannamaker, Vanderkooy, "Quantization and Dither", JAES 40, 1992).
  CHECK(std::abs(mean) < 0.01);
  CHECK(square == Approx(0.25).epsilon(0.03));
  const Samples plain = delivered("01 Steady - take 01 steady.wav", "--no-dither");
  CHECK(std::all_of(plain.begin(), plain.end(), [](float sample) { return sample == 0.0F; }));
  const Samples untouched = delivered("02 Even - take 01 even.wav", "");
  CHECK(Samples(untouched.begin(), untouched.begin() + 48000) == even);
}

TEST_CASE("tool: the edit list and the takes are enough to rebuild the composite, bit for bit") {
  const Finished f;
  tool("join " + f.s + " --track Voice --at 24000f --curve s --bend 0.4 --length 30ms");
  tool("piece " + f.s + " --track Voice --at 26000f --gain -4.5 --slip 1.25ms");
  tool("composite " + f.s + " --track Voice --fade-in 20ms");
  f.deliver("--what edits");
  const std::string rebuilt = (f.folder / "rebuilt").string();
  const ToolResult python = shell("/usr/bin/python3 " YEWDRIFT_DOCS "/rebuild_composites.py '" +
                                  f.to("s edits.json").string() + "' " + f.s + " " + rebuilt);
  INFO(python.err);
  REQUIRE(python.status == 0);
  CHECK(readWave(fs::path(rebuilt) / "Voice.wav").front() == f.render("--track Voice --span 0f..48000f"));
  CHECK(readWave(fs::path(rebuilt) / "Drum & Bell.wav").front() ==
        f.render("--track 'Drum & Bell' --span 0f..49000f"));
  const json list = json::parse(contentOf(f.to("s edits.json")));
  CHECK(list["rate"] == 48000);
  CHECK(list["tracks"][0]["pieces"][2]["take"] == "take2");
  CHECK(list["tracks"][0]["pieces"][2]["slip"] == 60);
  CHECK(list["tracks"][0]["joins"][1]["curve"] == "s");
  const std::string text = contentOf(f.to("s edits.txt"));
  CHECK(text.find("lane 2 \"take2\"") != std::string::npos);
  CHECK(text.find("slip 60f") != std::string::npos);
}

TEST_CASE("tool: the pool tells who uses what, finds what is missing, and trashes what nobody needs") {
  const Finished f;
  const auto pool = [&] { return json::parse(tool("pool " + f.s + " --json")); };
  json files = pool()["files"];
  REQUIRE(files.size() == 4);
  for (const json& file : files) {
    CHECK(file["state"] == "there");
    CHECK(file["needed"] == "session");
    CHECK(file["length"] == 48000);
    CHECK(file["bytes"].get<int>() > 192000);
  }
  CHECK(files[1]["users"] == json::array({{{"track", "Voice"}, {"lane", 2}}}));
  tool("cut " + f.s + " --track Voice --lane 2 --span 0.3s..0.4s");  // in two pieces it is one user
  CHECK(pool()["files"][1]["users"] == files[1]["users"]);
  // Discarded, only the history needs it.
  tool("lane " + f.s + " --track 'Drum & Bell' --lane 1 --discard");
  CHECK(pool()["files"][3]["needed"] == "history");
  CHECK(pool()["unusedBytes"] == 0);

  // Moved away by somebody, and called otherwise.
  const fs::path first = fs::path(f.s) / files[0]["path"].get<std::string>();
  const fs::path second = fs::path(f.s) / files[1]["path"].get<std::string>();
  const std::string content = contentOf(first);
  fs::create_directories(f.folder / "elsewhere" / "deep");
  fs::rename(first, f.folder / "elsewhere" / "deep" / first.filename());
  CHECK(pool()["files"][0]["state"] == "missing");
  CHECK(shell("%T check " + f.s).status == 1);
  CHECK(tool("pool " + f.s + " --relink " + (f.folder / "elsewhere").string()).find("is back") !=
        std::string::npos);
  CHECK(contentOf(first) == content);
  CHECK(pool()["files"][0]["state"] == "there");
  fs::rename(second, f.folder / "elsewhere" / "other name.wav");
  fs::remove(f.folder / "elsewhere" / "deep" / first.filename());
  tool("pool " + f.s + " --relink " + (f.folder / "elsewhere").string());
  CHECK(pool()["files"][1]["state"] == "there");
  CHECK(shell("%T check " + f.s).status == 0);
  f.refuses("pool " + f.s + " --relink " + (f.folder / "nowhere").string());
  f.refuses("pool " + f.s + " --yes", 2);

  // What nobody refers to goes to the trash, with a note that brings it back.
  const fs::path stray = fs::path(f.s) / "audio" / "stray one.wav";
  fs::copy(first, stray);
  CHECK(pool()["unusedBytes"].get<std::uint64_t>() == fs::file_size(stray));
  const fs::path trash = f.folder / "data" / "Trash";
  ::setenv("XDG_DATA_HOME", (f.folder / "data").c_str(), 1);
  const std::string told = tool("pool " + f.s + " --trash-unused");
  CHECK(told.find("audio/stray one.wav") != std::string::npos);
  CHECK(fs::exists(stray));
  tool("pool " + f.s + " --trash-unused --yes");
  ::unsetenv("XDG_DATA_HOME");
  CHECK_FALSE(fs::exists(stray));
  CHECK(contentOf(trash / "files" / "stray one.wav") == content);
  const std::string note = contentOf(trash / "info" / "stray one.wav.trashinfo");
  CHECK(note.find("[Trash Info]\nPath=") == 0);
  CHECK(note.find("/audio/stray%20one.wav\nDeletionDate=20") != std::string::npos);
  CHECK((fs::status(trash).permissions() & fs::perms::all) == fs::perms::owner_all);
  CHECK(pool()["unusedBytes"] == 0);
  CHECK(pool()["files"].size() == 4);
}
