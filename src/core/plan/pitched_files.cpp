// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/pitched_files.h"

#include <xxhash.h>

#include <cmath>
#include <cstdio>

#include "core/error.h"
#include "core/session/resolved_composite.h"
#include "core/signal/pitch_shift.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

/// Changes where what is made of a file becomes another.
constexpr const char* recipe = "pitched 1";

std::string nameFor(const SessionDisk& disk, const PoolFile& file, Cents by) {
  const OpenFile audio = disk.open(file.path);
  const FileStamp stamp = stampOf(audio);
  char key[128];
  std::snprintf(key, sizeof key, "|%lld|%d|%lld|%lld|%.2f", static_cast<long long>(file.length.count),
                file.channels, static_cast<long long>(stamp.bytes), static_cast<long long>(stamp.changed),
                by.value);
  const std::string all = recipe + std::string("|") + file.path + key;
  char name[64];
  std::snprintf(name, sizeof name, "cache/pitched-%016llx.wav",
                static_cast<unsigned long long>(XXH3_64bits(all.data(), all.size())));
  return name;
}

PoolFile described(const PoolFile& file, std::string path) {
  PoolFile pitched;
  pitched.path = std::move(path);
  pitched.channels = file.channels;
  pitched.length = file.length;
  return pitched;
}

/// Reads a pool file channel by channel; what is missing of it is silence.
class ChannelReader {
 public:
  ChannelReader(OpenFile file, int channels)
      : reader_(std::move(file)), channels_(static_cast<std::size_t>(channels)) {}
  void read(Frames at, int count, float* const* into) {
    const auto stride = static_cast<std::size_t>(reader_.info().channels);
    interleaved_.resize(static_cast<std::size_t>(count) * stride);
    reader_.readAt(at, count, interleaved_.data());
    for (std::size_t channel = 0; channel < channels_; ++channel)
      for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
        into[channel][i] = channel < stride ? interleaved_[i * stride + channel] : 0.0F;
  }

 private:
  AudioReader reader_;
  std::size_t channels_;
  std::vector<float> interleaved_;
};

void addLane(std::vector<PitchedFile>& wanted, const Session& session, const Lane& lane, Cents by) {
  if (by.value == 0.0) return;
  for (const Clip& clip : lane.clips)
    for (const ChannelSource& source : clip.channels) {
      const PoolFile& file = (*session.pool)[static_cast<std::size_t>(source.file)];
      const bool known = std::any_of(wanted.begin(), wanted.end(), [&](const PitchedFile& each) {
        return each.file.path == file.path && each.by == by;
      });
      if (!known) wanted.push_back({file, by});
    }
}

}  // namespace

std::vector<PitchedFile> pitchedFilesOf(const Session& session, const Track& track) {
  std::vector<PitchedFile> wanted;
  for (const auto& lane : track.lanes) addLane(wanted, session, *lane, lane->pitch);
  for (const Piece& piece : track.composite.picks) {
    if (piece.pitch.value == 0.0) continue;
    if (piece.lane)
      if (const Lane* lane = track.lane(*piece.lane))
        addLane(wanted, session, *lane, {lane->pitch.value + piece.pitch.value});
    for (const LaneNumber number : piece.overdubs)
      if (const Lane* lane = track.lane(number))
        addLane(wanted, session, *lane, {lane->pitch.value + piece.pitch.value});
  }
  return wanted;
}

std::vector<PitchedFile> pitchedFilesOf(const Session& session) {
  std::vector<PitchedFile> wanted;
  for (const auto& track : session.tracks) {
    const auto more = pitchedFilesOf(session, *track);
    wanted.insert(wanted.end(), more.begin(), more.end());
  }
  return wanted;
}

bool PitchedFiles::isMade(const SessionDisk& disk, const PitchedFile& wanted) {
  try {
    const AudioFileInfo info = probeAudioFile(disk.open(nameFor(disk, wanted.file, wanted.by)));
    return info.length == wanted.file.length && info.channels == wanted.file.channels;
  } catch (const Error&) {
    return false;
  }
}

bool PitchedFiles::make(const SessionDisk& disk, SampleRate rate, const PitchedFile& wanted,
                        const std::function<bool(double)>& progress) {
  if (isMade(disk, wanted)) return true;
  const std::string name = nameFor(disk, wanted.file, wanted.by);
  const std::string making = SessionDisk::temporaryName(name);
  try {
    ChannelReader reader(disk.open(wanted.file.path), wanted.file.channels);
    AudioWriter writer(disk.create(making), wanted.file.channels, rate, SampleFormat::Float32);
    const auto channels = static_cast<std::size_t>(wanted.file.channels);
    std::vector<float> interleaved;
    PitchShift shift;
    shift.channels = wanted.file.channels;
    shift.rate = rate;
    shift.length = wanted.file.length;
    shift.by = wanted.by;
    shift.read = [&](Frames at, int count, float* const* into) { reader.read(at, count, into); };
    shift.write = [&](const float* const* samples, int count) {
      interleaved.resize(static_cast<std::size_t>(count) * channels);
      for (std::size_t channel = 0; channel < channels; ++channel)
        for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
          interleaved[i * channels + channel] = samples[channel][i];
      writer.write(interleaved.data(), count);
    };
    shift.progress = progress;
    if (!shiftPitch(shift)) {
      disk.remove(making);
      return false;
    }
    writer.close();
    // What bears the name already is damaged, or somebody else was as quick: either way this one is whole.
    disk.remove(name);
    if (!disk.rename(making, name)) disk.remove(making);
    return true;
  } catch (...) {
    disk.remove(making);
    throw;
  }
}

std::optional<PoolFile> PitchedFiles::find(const PoolFile& file, Cents by) {
  if (!isMade(disk_, {file, by})) return std::nullopt;
  return described(file, nameFor(disk_, file, by));
}

}  // namespace yewdrift
