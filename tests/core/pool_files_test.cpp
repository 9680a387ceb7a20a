// SPDX-License-Identifier: GPL-3.0-or-later
//
// Missing files are found again: by how they sounded where that is known, else by name or by being the only
// one.
#include "core/store/pool_files.h"

#include "core/core_tests.h"

namespace {

/// A session whose first take is gone, and a folder of others where it may be.
struct Lost {
  explicit Lost(bool remembered)
      : folder(sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)})) {
    const std::atomic<bool> goesOn{false};
    const PoolFile& file = folder.session().pool->front();
    if (remembered) REQUIRE(loadPeaks(folder.disk(), file, goesOn).size() == 1);
    path = file.path;
    fs::remove(folder.path() / path);
    fs::create_directories(temporary / "elsewhere" / "deep");
  }
  void put(const std::string& name, unsigned seed, std::size_t frames = 9000, int rate = 48000) const {
    writeWave(temporary / "elsewhere" / name, {noise(frames, seed)}, rate, SampleFormat::Float32);
  }
  /// Where it is found; empty: nowhere.
  [[nodiscard]] std::string found() const {
    const auto all = findMissing(folder, temporary / "elsewhere");
    if (all.empty()) return {};
    CHECK(all.size() == 1);
    CHECK(all.front().path == path);
    return fs::relative(all.front().found, temporary / "elsewhere").string();
  }

  TemporaryFolder temporary;
  SessionFolder folder;
  std::string path;
};

}  // namespace

TEST_CASE("Of files of one length, what sounds as the missing one did is it, whatever it is called") {
  const Lost lost(true);
  const std::string name = fs::path(lost.path).filename().string();
  lost.put(name, 7);  // of its name and length, another sound
  CHECK(lost.found().empty());
  lost.put("deep/other.wav", 8);
  CHECK(lost.found().empty());
  lost.put("deep/called so.wav", 1);
  CHECK(lost.found() == "deep/called so.wav");
  // Of its name it is that one, before any other that sounds the same.
  lost.put(name, 1);
  CHECK(lost.found() == name);
  fs::remove(lost.temporary / "elsewhere" / name);
  // What can be read no more by then is passed over.
  lost.put("deep/called so.wav", 9);
  lost.put("z.wav", 1);
  CHECK(lost.found() == "z.wav");
  // The one that is there has not been looked for.
  CHECK(fs::exists(lost.folder.path() / (*lost.folder.session().pool)[1].path));
}
