// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/performer.h"

#include <algorithm>

namespace yewdrift {

void Performer::perform(std::span<const PlayedStretch> played, int frames, float* const* inputs,
                        int inputCount) noexcept {
  for (std::size_t p = 0; p < parts_.size(); ++p) {
    int done = 0;
    for (const PlayedStretch& stretch : played) {
      play(parts_[p], states_[p], done, stretch.offset - done, inputs, inputCount);
      follow(parts_[p], states_[p], stretch, inputs, inputCount);
      done = stretch.offset + stretch.frames;
    }
    play(parts_[p], states_[p], done, frames - done, inputs, inputCount);
  }
}

void Performer::follow(const PerformerPart& part, State& state, const PlayedStretch& stretch,
                       float* const* inputs, int inputCount) noexcept {
  if (stretch.started) state.voices.clear();
  if (stretch.jumped) {
    ++state.pass;
    state.waiting = true;
    if (part.ringAfterJump)
      for (Voice& voice : state.voices)
        if (!voice.dying) voice = {voice.performance, voice.next, *part.ringAfterJump, true};
    if (stretch.position > part.at) startVoice(part, state, stretch.position - part.at);
  }
  int lead = stretch.frames;
  const bool reached =
      state.waiting && part.at >= stretch.position && part.at < stretch.position + Frames{stretch.frames};
  if (reached) lead = static_cast<int>((part.at - stretch.position).count);
  play(part, state, stretch.offset, lead, inputs, inputCount);
  if (!reached) return;
  startVoice(part, state, {});
  play(part, state, stretch.offset + lead, stretch.frames - lead, inputs, inputCount);
}

void Performer::startVoice(const PerformerPart& part, State& state, Frames from) noexcept {
  state.waiting = false;
  if (part.performances.empty() || state.voices.size() == mostVoices) return;
  const std::size_t pass = std::max<std::size_t>(state.pass, 1) - 1;
  const std::size_t count = part.performances.size();
  state.voices.push_back({part.startOver ? pass % count : std::min(pass, count - 1), from, {}, false});
}

void Performer::play(const PerformerPart& part, State& state, int offset, int frames, float* const* inputs,
                     int inputCount) noexcept {
  if (frames <= 0) return;
  for (Voice& voice : state.voices) {
    const Performance& performance = part.performances[voice.performance];
    const auto n =
        static_cast<int>(std::clamp<std::int64_t>((performance.length() - voice.next).count, 0, frames));
    for (std::size_t channel = 0; channel < performance.channels.size(); ++channel) {
      const int input = part.firstInput + static_cast<int>(channel);
      if (input >= inputCount) break;
      const float* from = performance.channels[channel].data() + voice.next.count;
      float* to = inputs[input] + offset;
      if (!voice.dying) {
        for (int i = 0; i < n; ++i) to[i] += from[i];
      } else {
        const auto ring = static_cast<float>(part.ringAfterJump->count);
        for (int i = 0; i < n; ++i)
          to[i] += from[i] * std::max(0.0F, static_cast<float>(voice.fadeLeft.count - i) / ring);
      }
    }
    voice.next += Frames{frames};
    voice.fadeLeft -= Frames{frames};
  }
  std::erase_if(state.voices, [&part](const Voice& voice) {
    return voice.next >= part.performances[voice.performance].length() ||
           (voice.dying && voice.fadeLeft.count <= 0);
  });
}

}  // namespace yewdrift
