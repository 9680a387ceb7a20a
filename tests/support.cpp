// SPDX-License-Identifier: GPL-3.0-or-later
#include "support.h"

#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <chrono>
#include <cmath>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>
#include <sstream>
#include <system_error>
#include <thread>

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::test {

TemporaryFolder::TemporaryFolder(const fs::path& in) {
  std::string pattern = (in / "yewdrift-test-XXXXXX").string();
  if (!::mkdtemp(pattern.data())) throw std::system_error(errno, std::generic_category(), pattern);
  path_ = pattern;
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  fs::remove_all(path_, ignored);
}

Samples noise(std::size_t frames, unsigned seed, float level) {
  std::mt19937 random(seed);
  std::uniform_int_distribution<int> step(-8388607, 8388607);
  Samples samples(frames);
  for (float& sample : samples) sample = std::trunc(static_cast<float>(step(random)) * level) / 8388608.0F;
  return samples;
}

Samples sine(std::size_t frames, double hertz, double rate, float level, double phase) {
  Samples samples(frames);
  for (std::size_t i = 0; i < frames; ++i)
    samples[i] =
        level *
        static_cast<float>(std::sin(2.0 * std::numbers::pi * hertz * static_cast<double>(i) / rate + phase));
  return samples;
}

void addStroke(Samples& samples, std::size_t at, double hertz, float peak) {
  for (std::size_t i = at; i < std::min(samples.size(), at + 4800); ++i) {
    const double t = static_cast<double>(i - at) / 48000.0;
    samples[i] +=
        peak * static_cast<float>(std::exp(-t * 40.0) * std::sin(2.0 * std::numbers::pi * hertz * t + 1.0));
  }
}

void writeWave(const fs::path& path, const std::vector<Samples>& channels, int rate, SampleFormat format) {
  AudioWriter writer(path, static_cast<int>(channels.size()), {rate}, format);
  Samples interleaved;
  for (std::size_t i = 0; i < channels.front().size(); ++i)
    for (const Samples& channel : channels) interleaved.push_back(channel[i]);
  writer.write(interleaved.data(), static_cast<std::int64_t>(channels.front().size()));
  writer.close();
}

std::vector<Samples> readWave(const fs::path& path) {
  AudioReader reader(path);
  const auto channels = static_cast<std::size_t>(reader.info().channels);
  const auto frames = static_cast<std::size_t>(reader.info().length.count);
  Samples interleaved(channels * frames);
  if (frames > 0) reader.readAt({}, static_cast<std::int64_t>(frames), interleaved.data());
  std::vector<Samples> result(channels, Samples(frames));
  for (std::size_t i = 0; i < frames; ++i)
    for (std::size_t c = 0; c < channels; ++c) result[c][i] = interleaved[i * channels + c];
  return result;
}

SessionFolder sessionWithLanes(const fs::path& path, const std::vector<Samples>& lanes, SampleFormat format,
                               int rate) {
  Session session;
  session.name = "Test";
  session.rate = {rate};
  session.format = format;
  SessionFolder folder = SessionFolder::create(path, session);
  session = addTrack(session, "Viola", microphonesFor(1));
  for (const Samples& lane : lanes) {
    const std::string name = newAudio(folder, "lane");
    writeWave((folder.path() / name), {lane}, rate, SampleFormat::Float32);
    session = addFileAsLane(session, session.tracks.back()->id,
                            {name, 1, Frames{static_cast<std::int64_t>(lane.size())}}, {}, "");
  }
  folder.commit("Set up", session);
  return folder;
}

std::vector<Samples> renderTrack(const SessionDisk& disk, const Session& session, const std::string& track,
                                 std::optional<Span> span) {
  const TemporaryFolder temporary;
  RenderRequest request;
  request.track = session.trackNamed(track)->id;
  request.span = span;
  request.format = SampleFormat::Float32;
  renderToFile(disk, session, request, temporary / "out.wav");
  return readWave(temporary / "out.wav");
}

std::string waveHead(int channels, int bits, int block, std::uint32_t dataSize) {
  const auto number = [](std::uint32_t value, int bytes) {
    std::string text;
    for (int i = 0; i < bytes; ++i) text += static_cast<char>(value >> (8 * i));
    return text;
  };
  return "RIFF" + number(dataSize + 36, 4) + "WAVEfmt " + number(16, 4) + number(1, 2) +
         number(static_cast<std::uint32_t>(channels), 2) + number(48000, 4) +
         number(48000U * static_cast<std::uint32_t>(block), 4) +
         number(static_cast<std::uint32_t>(block), 2) + number(static_cast<std::uint32_t>(bits), 2) + "data" +
         number(dataSize, 4);
}

bool sanitized() {
#ifdef YEWDRIFT_SANITIZED
  return true;
#else
  return false;
#endif
}

bool watchesThreads() {
#ifdef __SANITIZE_THREAD__
  return true;
#elif defined(__has_feature)
  return __has_feature(thread_sanitizer);
#else
  return false;
#endif
}

const char* toolProgram() {
  return YEWDRIFT_TOOL;
}

ToolResult shell(const std::string& line) {
  const TemporaryFolder temporary;
  std::string command = line;
  for (auto at = command.find("%T"); at != std::string::npos; at = command.find("%T"))
    command.replace(at, 2, toolProgram());
  const fs::path out = temporary / "out";
  const fs::path err = temporary / "err";
  const int status = std::system(("( " + command + " ) >" + out.string() + " 2>" + err.string()).c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), content(out), content(err)};
}

std::string tool(const std::string& arguments) {
  const ToolResult result = shell("%T " + arguments);
  INFO("yewdrift-tool " << arguments << "\n" << result.err);
  REQUIRE(result.status == 0);
  return result.out;
}

FullDisk::FullDisk(std::uint64_t bytes) {
  rlimit limit{};
  getrlimit(RLIMIT_FSIZE, &limit);
  before_ = limit.rlim_cur;
  limit.rlim_cur = bytes;
  // For good: a thread that writes just now may get the signal after there is room again.
  std::signal(SIGXFSZ, SIG_IGN);
  setrlimit(RLIMIT_FSIZE, &limit);
}

FullDisk::~FullDisk() {
  rlimit limit{};
  getrlimit(RLIMIT_FSIZE, &limit);
  limit.rlim_cur = before_;
  setrlimit(RLIMIT_FSIZE, &limit);
}

std::string content(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  std::ostringstream text;
  text << in.rdbuf();
  return std::move(text).str();
}

fs::path audioPath(const SessionFolder& folder, const PoolFile& file) {
  return folder.path() / file.path;
}

std::string newAudio(const SessionFolder& folder, const std::string& stem) {
  return folder.disk().createNumbered("audio", stem, "wav").name;
}

Session butForPool(Session session) {
  session.pool = Shared<std::vector<PoolFile>>();
  return session;
}

std::string refusal(const std::function<void()>& what) {
  try {
    what();
  } catch (const Error& error) {
    return error.what();
  }
  return {};
}

bool comesTrue(double seconds, const std::function<bool()>& holds) {
  constexpr std::chrono::milliseconds turn{2};
  for (auto passed = std::chrono::duration<double>{}; passed.count() < seconds && !holds(); passed += turn)
    std::this_thread::sleep_for(turn);
  return holds();
}

nlohmann::json show(const fs::path& session) {
  return nlohmann::json::parse(tool("show " + session.string() + " --json"));
}

}  // namespace yewdrift::test
