// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/last_sound.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/error.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

constexpr std::int64_t framesAtOnce = 16384;

/// The last frame of [span) of a file that sounds, in frames of the file.
std::optional<Frames> lastSoundIn(AudioReader& reader, Span span) {
  const auto channels = static_cast<std::size_t>(reader.info().channels);
  std::vector<float> block(static_cast<std::size_t>(framesAtOnce) * channels);
  for (Frames end = span.end; end > span.start;) {
    const Frames from = std::max(span.start, end - Frames{framesAtOnce});
    reader.readAt(from, (end - from).count, block.data());
    for (std::size_t i = static_cast<std::size_t>((end - from).count) * channels; i-- > 0;)
      if (std::abs(block[i]) >= nothingPlayed) return from + Frames{static_cast<std::int64_t>(i / channels)};
    end = from;
  }
  return std::nullopt;
}

std::optional<Frames> lastSoundOf(const SessionDisk& disk, const Session& session, const Lane& lane,
                                  Span within) {
  for (auto clip = lane.clips.rbegin(); clip != lane.clips.rend(); ++clip) {
    const Span heard = clip->window.intersect(within);
    if (heard.empty()) continue;
    std::set<int> files;
    for (const ChannelSource& source : clip->channels) files.insert(source.file);
    std::optional<Frames> last;
    for (const int file : files) try {
        AudioReader reader(disk.open((*session.pool)[static_cast<std::size_t>(file)].path));
        if (const auto found = lastSoundIn(reader, heard.shifted(-clip->origin)))
          last = std::max(last.value_or(heard.start), *found + clip->origin);
      } catch (const Error&) {
        continue;  // a file that is missing sounds nowhere
      }
    if (last) return last;
  }
  return std::nullopt;
}

}  // namespace

LastSound lastSoundOn(const SessionDisk& disk, const Session& session) {
  return
      [&disk, &session](const Lane& lane, Span within) { return lastSoundOf(disk, session, lane, within); };
}

}  // namespace yewdrift
