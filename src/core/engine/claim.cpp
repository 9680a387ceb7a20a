// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/claim.h"

#include <cmath>

#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

constexpr float quiet = 0.00316F;  // -50 dB

}  // namespace

std::optional<Span> claimedWindow(const std::vector<std::vector<float>>& heard, SampleRate rate) {
  std::optional<Span> window;
  std::int64_t length = 0;
  for (const std::vector<float>& channel : heard) {
    length = static_cast<std::int64_t>(channel.size());
    for (std::int64_t i = 0; i < length; ++i) {
      if (std::abs(channel[static_cast<std::size_t>(i)]) < quiet) continue;
      if (!window) window = Span{{i}, {i + 1}};
      window->start = std::min(window->start, Frames{i});
      window->end = std::max(window->end, Frames{i + 1});
    }
  }
  if (!window) return std::nullopt;
  const Frames room = framesFromSeconds(0.1, rate);
  return Span{std::max(Frames{}, window->start - room), std::min(Frames{length}, window->end + room)};
}

PoolFile writeClaim(const SessionFolder& folder, const Session& session, const Track& track,
                    const Microphone& microphone, const std::vector<std::vector<float>>& heard,
                    const std::vector<int>& inputs) {
  const std::string stem =
      (track.microphones.size() > 1 ? track.name + "-" + microphone.name : track.name) + "-claimed";
  const std::string name = folder.newAudioName(stem);
  const std::size_t frames = heard.empty() ? 0 : heard.front().size();
  const auto width = static_cast<std::size_t>(microphone.channels);
  std::vector<float> interleaved(frames * width, 0.0F);
  for (std::size_t c = 0; c < width; ++c) {
    const auto from = std::find(inputs.begin(), inputs.end(), microphone.input + static_cast<int>(c));
    if (from == inputs.end()) continue;
    const std::vector<float>& channel = heard[static_cast<std::size_t>(from - inputs.begin())];
    for (std::size_t i = 0; i < frames; ++i) interleaved[i * width + c] = channel[i];
  }
  AudioWriter writer(folder.pathInside(name), microphone.channels, session.rate, session.format);
  writer.write(interleaved.data(), static_cast<std::int64_t>(frames));
  writer.close();
  return {name, microphone.channels, {static_cast<std::int64_t>(frames)}};
}

}  // namespace yewdrift
