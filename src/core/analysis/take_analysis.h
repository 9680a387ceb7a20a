// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "core/analysis/file_analysis.h"
#include "core/plan/sample_source.h"

namespace yewdrift {

/// What is known of a file, or null while it is not known.
using FindAnalysis = std::function<const FileAnalysis*(int file)>;

/// Where things begin in a lane in [span), in session frames; of what is audible, of its first microphone.
std::vector<Frames> onsetsIn(const Lane& lane, Span span, const FindAnalysis& find);
/// How high it is at a session frame; NaN where it has no pitch, or is silent. The lane's own pitch counts.
float pitchAt(const Lane& lane, Frames at, const FindAnalysis& find);
/// The same every `step` frames from the span's start.
std::vector<float> pitchIn(const Lane& lane, Span span, Frames step, const FindAnalysis& find);
/// By how much what a lane plays at a session frame is turned up or down beyond its own gain and line.
using GainAt = std::function<float(Frames at)>;
/// What a line that rides a level turns it by.
float factorAt(const LevelLine& line, Frames at);
/// Its levels in [span), audible parts one after the other, all channels together; the lane's gain counts,
/// and the line that rides its level. To ten milliseconds.
std::vector<LevelStep> levelsIn(const Lane& lane, Span span, const FindAnalysis& find,
                                const GainAt& turned = {});
/// The same as those microphones of its track are mixed: each by its gain, and peaks at the worst add up.
std::vector<LevelStep> mixedLevelsIn(const Lane& lane, Span span, const FindAnalysis& find,
                                     const std::vector<Microphone>& microphones, const GainAt& turned = {});
/// The level of what was captured, heard or not, in [span), in dB; none where there is nothing.
std::optional<double> captureLevelIn(const Lane& lane, Span span, const FindAnalysis& find);
/// False while a file that the lane plays in [span) is not known.
bool isAnalysed(const Lane& lane, Span span, const FindAnalysis& find);

/// The first microphone of a take over a session span, as one signal; silence where it is not audible,
/// and in all that was not read yet where it is cancelled.
std::vector<float> takeSamples(const Track& track, const Lane& lane, Span span, SampleSource& source,
                               const std::atomic<bool>* cancelled = nullptr);

}  // namespace yewdrift
