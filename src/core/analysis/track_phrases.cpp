// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/track_phrases.h"

#include <algorithm>
#include <set>

namespace yewdrift {

namespace {

/// Of the first microphone; of what is measured.
TakePeaks peaksOf(const Lane& lane, std::size_t channels, const FindPeaks& find) {
  TakePeaks take;
  for (const Clip& clip : lane.clips) {
    ClipPeaks clipPeaks{{}, clip.origin, clip.window};
    for (std::size_t channel = 0; channel < std::min(channels, clip.channels.size()); ++channel) {
      const ChannelSource source = clip.channels[channel];
      const auto* peaks = find(source.file);
      if (peaks && static_cast<std::size_t>(source.channel) < peaks->size())
        clipPeaks.channels.push_back(&(*peaks)[static_cast<std::size_t>(source.channel)]);
    }
    if (!clipPeaks.channels.empty()) take.push_back(std::move(clipPeaks));
  }
  return take;
}

}  // namespace

std::vector<Span> findPhrasesIn(const Track& track, SampleRate rate, const FindPeaks& find,
                                const std::atomic<bool>* cancelled) {
  const auto channels =
      static_cast<std::size_t>(track.microphones.empty() ? 1 : track.microphones.front().channels);
  // What was flattened rests where its takes did, and says nothing more; without them it stands for them.
  const bool anyTake = std::any_of(track.lanes.begin(), track.lanes.end(),
                                   [](const auto& lane) { return !lane->setAside && !lane->flattened; });
  std::vector<TakePeaks> takes;
  for (const auto& lane : track.lanes)
    if (!lane->setAside && !(anyTake && lane->flattened)) takes.push_back(peaksOf(*lane, channels, find));
  std::erase_if(takes, [](const TakePeaks& take) { return take.empty(); });
  return findPhrases(takes, rate, track.phraseRules, cancelled);
}

std::vector<Phrase> phrasesOf(const Session& session, const Track& track, const FindPeaks& find) {
  return resolvePhrases(track, findPhrasesIn(track, session.rate, find), session.ruler(),
                        session.recording.grid);
}

std::vector<PoolFile> filesOfTakes(const Session& session, const Track& track, bool all) {
  std::vector<PoolFile> files;
  std::set<int> known;
  for (const auto& lane : track.lanes) {
    if (lane->setAside && !all) continue;
    for (const Clip& clip : lane->clips)
      for (const ChannelSource& source : clip.channels)
        if (known.insert(source.file).second)
          files.push_back((*session.pool)[static_cast<std::size_t>(source.file)]);
  }
  return files;
}

}  // namespace yewdrift
