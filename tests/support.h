// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <random>
#include <string>
#include <vector>

#include "core/edit/recorded_roll.h"
#include "core/plan/offline_render.h"
#include "core/store/audio_file.h"
#include "core/store/session_folder.h"

namespace yewdrift::test {

namespace fs = std::filesystem;
using Samples = std::vector<float>;

/// What stands before the samples of a WAV file at 48 kHz, in frames of `block` bytes, with whatever the data
/// chunk is to say of its size.
std::string waveHead(int channels, int bits, int block, std::uint32_t dataSize);

/// A folder of its own that goes with the test.
class TemporaryFolder {
 public:
  explicit TemporaryFolder(const fs::path& in = fs::temp_directory_path());
  ~TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  [[nodiscard]] fs::path operator/(const std::string& name) const { return path_ / name; }
  [[nodiscard]] const fs::path& path() const { return path_; }

 private:
  fs::path path_;
};

/// Numbers that are the same with every library: its own distributions are not.
class Chance {
 public:
  explicit Chance(unsigned seed) : random_(seed) {}
  int below(int most) { return static_cast<int>(random_() % static_cast<unsigned>(most)); }
  double between(double least, double most) { return least + (most - least) * below(10'001) / 10'000.0; }

 private:
  std::mt19937 random_;
};

/// Noise on the 24-bit grid, so that files of 24 bits hold it exactly.
Samples noise(std::size_t frames, unsigned seed, float level = 0.5F);
Samples sine(std::size_t frames, double hertz, double rate, float level = 0.5F, double phase = 0.0);
/// A stroke: at once loud, 20 dB down after 58 ms.
void addStroke(Samples& samples, std::size_t at, double hertz, float peak = 0.5F);

void writeWave(const fs::path& path, const std::vector<Samples>& channels, int rate = 48000,
               SampleFormat format = SampleFormat::Pcm24);
/// All channels of a file.
std::vector<Samples> readWave(const fs::path& path);

/// A session with one mono track "Viola" whose lanes play the given signals from frame 0.
SessionFolder sessionWithLanes(const fs::path& path, const std::vector<Samples>& lanes,
                               SampleFormat format = SampleFormat::Float32, int rate = 48000);

/// The track alone, as flattening would render it.
std::vector<Samples> renderTrack(const SessionDisk& disk, const Session& session, const std::string& track,
                                 std::optional<Span> span = std::nullopt);
inline std::vector<Samples> renderTrack(const SessionFolder& folder, const Session& session,
                                        const std::string& track, std::optional<Span> span = std::nullopt) {
  return renderTrack(folder.disk(), session, track, span);
}

/// The sentence with which it is refused; nothing where it is not.
std::string refusal(const std::function<void()>& what);
/// Whether it holds within so many seconds, of which none is waited for nothing. They are counted in turns
/// that this program was given: one for which the machine is held up is no longer than any other.
bool comesTrue(double seconds, const std::function<bool()>& holds);

/// Whether the code under test is sanitized, and takes ten times as long; the tests themselves need not know
/// when they are compiled.
bool sanitized();
/// Whether that is for threads.
bool watchesThreads();
/// The headless companion that was built with this code.
const char* toolProgram();

struct ToolResult {
  int status = 0;
  std::string out;
  std::string err;
};
/// Runs a shell command line; %T is the headless companion.
ToolResult shell(const std::string& line);
/// Runs the companion; fails the test unless it exits with 0. Returns its standard output.
std::string tool(const std::string& arguments);
/// While it lives, no file can grow beyond so many bytes, whoever writes it: a disk that is full.
class FullDisk {
 public:
  explicit FullDisk(std::uint64_t bytes = 0);
  ~FullDisk();
  FullDisk(const FullDisk&) = delete;
  FullDisk& operator=(const FullDisk&) = delete;

 private:
  std::uint64_t before_;
};

/// A file's bytes.
std::string content(const fs::path& path);
/// Where a file of the pool lies.
fs::path audioPath(const SessionFolder& folder, const PoolFile& file);
/// A new empty file "audio/<stem>-NNN.wav" in the session, by name.
std::string newAudio(const SessionFolder& folder, const std::string& stem);
/// The session without its pool, which undo leaves as it is.
Session butForPool(Session session);

nlohmann::json show(const fs::path& session);

}  // namespace yewdrift::test
