// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/take_analysis.h"

#include <cmath>
#include <limits>
#include <map>
#include <set>

#include "core/session/resolved_composite.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

constexpr float none = std::numeric_limits<float>::quiet_NaN();

/// Calls `each` with every clip that is audible in `span`, and the part that is.
template <typename Each>
void forEachAudible(const Lane& lane, Span span, Each each) {
  for (const Clip& clip : lane.clips)
    if (const Span part = clip.window.intersect(span); !part.empty()) each(clip, part);
}

/// How a file's levels go into those of a clip.
struct Share {
  float power = 1.0F;  // of its mean squares
  float peak = 1.0F;
  bool mixed = false;  // peaks add up, else the largest counts
};

/// The files of a clip, each once, as it is captured.
std::map<int, Share> filesOf(const Clip& clip) {
  std::map<int, Share> files;
  for (const ChannelSource& source : clip.channels) files[source.file] = {};
  return files;
}

/// The same as its microphones are mixed. Of a file that holds several their loudness is taken for equal.
std::map<int, Share> filesOf(const Clip& clip, const std::vector<Microphone>& microphones) {
  std::map<int, Share> files;
  std::map<int, int> channels;
  std::size_t channel = 0;
  for (const Microphone& microphone : microphones) {
    const float gain = factorOf(microphone.gain);
    std::set<int> here;
    for (int i = 0; i < microphone.channels && channel < clip.channels.size(); ++i, ++channel) {
      const int file = clip.channels[channel].file;
      Share& share = files.try_emplace(file, Share{0.0F, 0.0F, true}).first->second;
      share.power += gain * gain;
      ++channels[file];
      if (here.insert(file).second) share.peak += gain;
    }
  }
  for (auto& [file, share] : files) share.power /= static_cast<float>(channels[file]);
  return files;
}

/// Adds the steps of a file in [from, to) of it to `steps`, from `first` on; `gainAt` is asked for the middle
/// of each, in frames of the file.
template <typename Gain>
void addLevels(const FileAnalysis& analysis, const Share& share, Frames from, Frames to, Gain gainAt,
               std::size_t first, std::vector<LevelStep>& steps) {
  const std::int64_t step = analysis.levelStep.count;
  if (step <= 0) return;
  const std::int64_t begin = (from.count + step / 2) / step;
  // What is named beyond the file's end is not there.
  const std::int64_t end = std::min(std::max(begin + 1, (to.count + step / 2) / step),
                                    static_cast<std::int64_t>(analysis.levels.size()));
  if (end <= begin) return;
  steps.resize(std::max(steps.size(), first + static_cast<std::size_t>(end - begin)));
  for (std::int64_t i = std::max<std::int64_t>(begin, 0); i < end; ++i) {
    const LevelStep& level = analysis.levels[static_cast<std::size_t>(i)];
    LevelStep& sum = steps[first + static_cast<std::size_t>(i - begin)];
    const float gain = gainAt(Frames{i * step + step / 2});
    const float peak = level.peak * gain * share.peak;
    sum.weighted += level.weighted * gain * gain * share.power;
    sum.square = std::max(sum.square, level.square * gain * gain * share.power);
    sum.peak = share.mixed ? sum.peak + peak : std::max(sum.peak, peak);
    sum.overs = static_cast<std::uint16_t>(sum.overs + level.overs);
    sum.clicks = static_cast<std::uint16_t>(sum.clicks + level.clicks);
  }
}

template <typename Files>
std::vector<LevelStep> levelsOf(const Lane& lane, Span span, const FindAnalysis& find, const GainAt& turned,
                                Files filesOfClip) {
  std::vector<LevelStep> steps;
  const float gain = factorOf(lane.gain);
  forEachAudible(lane, span, [&](const Clip& clip, Span part) {
    const auto gainAt = [&](Frames inFile) {
      const Frames at = clip.origin + inFile;
      return gain * factorAt(lane.level, at) * (turned ? turned(at) : 1.0F);
    };
    const std::size_t first = steps.size();
    for (const auto& [file, share] : filesOfClip(clip))
      if (const FileAnalysis* analysis = find(file))
        addLevels(*analysis, share, part.start - clip.origin, part.end - clip.origin, gainAt, first, steps);
  });
  return steps;
}

}  // namespace

std::vector<Frames> onsetsIn(const Lane& lane, Span span, const FindAnalysis& find) {
  std::vector<Frames> onsets;
  forEachAudible(lane, span, [&](const Clip& clip, Span part) {
    const FileAnalysis* analysis = clip.channels.empty() ? nullptr : find(clip.channels.front().file);
    if (!analysis) return;
    const auto& all = analysis->onsets;
    for (auto at = std::lower_bound(all.begin(), all.end(), part.start - clip.origin);
         at != all.end() && *at + clip.origin < part.end; ++at)
      onsets.push_back(*at + clip.origin);
  });
  return onsets;
}

float pitchAt(const Lane& lane, Frames at, const FindAnalysis& find) {
  const Clip* clip = clipAt(lane, at);
  if (!clip || clip->channels.empty()) return none;
  const FileAnalysis* analysis = find(clip->channels.front().file);
  if (!analysis || analysis->pitch.step.count <= 0) return none;
  const std::int64_t step = (at - clip->origin).count / analysis->pitch.step.count;
  if (step < 0 || step >= static_cast<std::int64_t>(analysis->pitch.cents.size())) return none;
  return analysis->pitch.cents[static_cast<std::size_t>(step)] + static_cast<float>(lane.pitch.value);
}

std::vector<float> pitchIn(const Lane& lane, Span span, Frames step, const FindAnalysis& find) {
  std::vector<float> pitches;
  for (Frames at = span.start; at < span.end; at += step) pitches.push_back(pitchAt(lane, at, find));
  return pitches;
}

float factorAt(const LevelLine& line, Frames at) {
  return line.empty() ? 1.0F : factorOf(levelAt(line, at));  // mostly there is none, and it is asked often
}

std::vector<LevelStep> levelsIn(const Lane& lane, Span span, const FindAnalysis& find, const GainAt& turned) {
  return levelsOf(lane, span, find, turned, [](const Clip& clip) { return filesOf(clip); });
}

std::vector<LevelStep> mixedLevelsIn(const Lane& lane, Span span, const FindAnalysis& find,
                                     const std::vector<Microphone>& microphones, const GainAt& turned) {
  return levelsOf(lane, span, find, turned, [&](const Clip& clip) { return filesOf(clip, microphones); });
}

std::optional<double> captureLevelIn(const Lane& lane, Span span, const FindAnalysis& find) {
  const float gain = factorOf(lane.gain);
  const auto clip = std::find_if(lane.clips.begin(), lane.clips.end(), [span](const Clip& each) {
    return each.extent().start <= span.start && span.end <= each.extent().end;
  });
  if (clip == lane.clips.end()) return std::nullopt;
  std::vector<LevelStep> steps;
  for (const auto& [file, share] : filesOf(*clip))
    if (const FileAnalysis* analysis = find(file))
      addLevels(
          *analysis, share, span.start - clip->origin, span.end - clip->origin,
          [gain](Frames) { return gain; }, 0, steps);
  if (steps.empty()) return std::nullopt;
  double sum = 0.0;
  for (const LevelStep& step : steps) sum += step.square;
  constexpr double quietest = 1e-15;  // -150 dB
  return 10.0 * std::log10(std::max(quietest, sum / static_cast<double>(steps.size())));
}

bool isAnalysed(const Lane& lane, Span span, const FindAnalysis& find) {
  bool all = true;
  forEachAudible(lane, span, [&](const Clip& clip, Span) {
    for (const auto& [file, share] : filesOf(clip)) all = all && find(file) != nullptr;
  });
  return all;
}

std::vector<float> takeSamples(const Track& track, const Lane& lane, Span span, SampleSource& source,
                               const std::atomic<bool>* cancelled) {
  std::vector<float> samples(static_cast<std::size_t>(std::max<std::int64_t>(0, span.length().count)));
  const auto channels =
      static_cast<std::size_t>(track.microphones.empty() ? 1 : track.microphones.front().channels);
  constexpr Frames atOnce{65536};
  std::vector<float> block(static_cast<std::size_t>(atOnce.count));
  forEachAudible(lane, span, [&](const Clip& clip, Span audible) {
    for (const Span part : SpanParts(audible, atOnce)) {
      if (cancelled && *cancelled) return;
      const auto frames = static_cast<int>(part.length().count);
      for (std::size_t channel = 0; channel < channels; ++channel) {
        const ChannelSource from = clip.channels[channel];
        source.read(from.file, from.channel, part.start - clip.origin, frames, block.data());
        for (std::size_t i = 0; i < static_cast<std::size_t>(frames); ++i)
          samples[static_cast<std::size_t>((part.start - span.start).count) + i] +=
              block[i] / static_cast<float>(channels);
      }
    }
  });
  return samples;
}

}  // namespace yewdrift
