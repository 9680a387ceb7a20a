// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/instruments.h"

#include <espeak-ng/speak_lib.h>
#include <fluidsynth.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <filesystem>
#include <memory>
#include <numbers>

#include "core/error.h"

namespace yewdrift::demo {
namespace {

struct FluidDeleter {
  void operator()(fluid_settings_t* settings) const { delete_fluid_settings(settings); }
  void operator()(fluid_synth_t* synth) const { delete_fluid_synth(synth); }
};

/// Makes the library ready. It sets up its modulators when the first synthesizer is made; a second one, made
/// on another thread meanwhile, would play without them.
void prepareLibrary() {
  static const std::unique_ptr<fluid_settings_t, FluidDeleter> settings(new_fluid_settings());
  static const std::unique_ptr<fluid_synth_t, FluidDeleter> first(new_fluid_synth(settings.get()));
}

std::string soundFont() {
  for (const char* path : {"/usr/share/sounds/sf2/TimGM6mb.sf2", "/usr/share/sounds/sf2/default-GM.sf2"})
    if (std::filesystem::exists(path)) return path;
  throw Error("The sound font for the demo is not installed; run scripts/setup.sh.");
}

struct Event {
  double at;
  bool on;
  Note note;
};

std::vector<Event> eventsOf(const std::vector<Note>& notes) {
  std::vector<Event> events;
  for (const Note& note : notes) {
    events.push_back({note.start, true, note});
    events.push_back({note.start + note.length, false, note});
  }
  std::stable_sort(events.begin(), events.end(), [](const Event& a, const Event& b) { return a.at < b.at; });
  return events;
}

std::size_t frameAt(double seconds) {
  return static_cast<std::size_t>(std::llround(std::max(seconds, 0.0) * demoRate));
}

}  // namespace

Stereo playInstrument(int program, const std::vector<Note>& notes, double seconds, double reverb) {
  prepareLibrary();
  const std::unique_ptr<fluid_settings_t, FluidDeleter> settings(new_fluid_settings());
  fluid_settings_setnum(settings.get(), "synth.sample-rate", demoRate);
  fluid_settings_setnum(settings.get(), "synth.gain", 0.8);
  fluid_settings_setint(settings.get(), "synth.chorus.active", 0);
  fluid_settings_setint(settings.get(), "synth.reverb.active", reverb > 0.0 ? 1 : 0);
  fluid_settings_setnum(settings.get(), "synth.reverb.level", reverb);
  const std::unique_ptr<fluid_synth_t, FluidDeleter> synth(new_fluid_synth(settings.get()));
  if (!synth || fluid_synth_sfload(synth.get(), soundFont().c_str(), 1) < 0)
    throw Error("The sound font for the demo cannot be read.");
  fluid_synth_program_change(synth.get(), 0, program);
  fluid_synth_pitch_wheel_sens(synth.get(), 0, 2);

  Stereo out{Signal(frameAt(seconds)), Signal(frameAt(seconds))};
  std::size_t done = 0;
  auto renderTo = [&](std::size_t end) {
    end = std::min(end, out.left.size());
    if (end <= done) return;
    fluid_synth_write_float(synth.get(), static_cast<int>(end - done), out.left.data() + done, 0, 1,
                            out.right.data() + done, 0, 1);
    done = end;
  };
  for (const Event& event : eventsOf(notes)) {
    renderTo(frameAt(event.at));
    if (event.on) {
      fluid_synth_pitch_bend(synth.get(), 0, 8192 + static_cast<int>(event.note.cents / 200.0 * 8191.0));
      fluid_synth_noteon(synth.get(), 0, event.note.key, event.note.velocity);
    } else {
      fluid_synth_noteoff(synth.get(), 0, event.note.key);
    }
  }
  renderTo(out.left.size());
  return out;
}

std::vector<Signal> playFrameDrum(const std::vector<Stroke>& strokes, double seconds, std::uint32_t seed) {
  constexpr std::array<double, 8> ratios{1.0, 1.593, 2.135, 2.295, 2.653, 2.917, 3.5, 4.06};
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(-1.0, 1.0);
  const std::size_t length = frameAt(seconds);
  std::vector<Signal> microphones(3, Signal(length));
  for (const Stroke& stroke : strokes) {
    const double base = (stroke.kind == 0   ? 92.0
                         : stroke.kind == 1 ? 128.0
                                            : 170.0) *
                        (1.0 + 0.004 * unit(random));
    const std::size_t start = frameAt(stroke.start);
    const std::size_t ring = std::min(frameAt(1.0), length > start ? length - start : 0);
    for (std::size_t mode = 0; mode < ratios.size(); ++mode) {
      const double frequency = base * ratios[mode];
      const double decay = (stroke.kind == 0 ? 4.5 : 9.0) * (1.0 + 0.55 * static_cast<double>(mode));
      const double weight =
          stroke.strength * (stroke.kind == 0 ? 1.0 / (1.0 + 1.2 * static_cast<double>(mode))
                                              : 0.5 / (1.0 + std::abs(static_cast<double>(mode) - 3.0)));
      const double phase = unit(random) * 0.3;
      // A decaying rotation: the same as exp(-decay t)·sin(2 pi f t + phase), without a sine for every
      // sample.
      const std::complex<double> turn =
          std::polar(std::exp(-decay / demoRate), 2.0 * std::numbers::pi * frequency / demoRate);
      std::complex<double> swing = std::polar(weight, phase);
      for (std::size_t i = 0; i < ring; ++i, swing *= turn) {
        const double attack = std::min(1.0, static_cast<double>(i) * 900.0 / demoRate);
        const auto sample = static_cast<float>(attack * swing.imag());
        microphones[0][start + i] += sample * (mode > 1 ? 1.0F : 0.8F);
        microphones[2][start + i] += sample * (mode < 2 ? 1.1F : 0.15F);
        const std::size_t far = start + i + 430;  // some three metres away
        if (far < length) microphones[1][far] += sample * 0.45F;
      }
    }
    // The hand on the skin.
    const std::size_t slap = std::min<std::size_t>(frameAt(0.02), ring);
    for (std::size_t i = 0; i < slap; ++i) {
      const double t = static_cast<double>(i) / demoRate;
      const auto noise = static_cast<float>(unit(random) * stroke.strength *
                                            (stroke.kind == 0 ? 0.12 : 0.35) * std::exp(-260.0 * t));
      microphones[0][start + i] += noise;
      if (start + i + 430 < length) microphones[1][start + i + 430] += noise * 0.3F;
    }
  }
  // Early reflections of a small hall at the room microphone.
  Signal& room = microphones[1];
  const Signal dry = room;
  for (const auto& [delay, gain] :
       {std::pair{0.031, 0.34F}, {0.047, 0.27F}, {0.071, 0.21F}, {0.103, 0.15F}, {0.149, 0.1F}})
    addAt(room, dry, delay, gain);
  room.resize(length);
  normalise({&microphones[0], &microphones[1], &microphones[2]}, 0.7F);
  return microphones;
}

Signal speak(const std::string& text, int wordsPerMinute, int pitch) {
  // The library knows one voice a process and is never closed: opened a second time it waits for ever.
  static const int rate = espeak_Initialize(AUDIO_OUTPUT_SYNCHRONOUS, 0, nullptr, 0);
  static std::vector<short>* collecting = nullptr;
  std::vector<short> spoken;
  if (rate <= 0) throw Error("The narrator's voice is not installed; run scripts/setup.sh.");
  collecting = &spoken;
  espeak_SetSynthCallback([](short* samples, int count, espeak_EVENT*) {
    if (samples) collecting->insert(collecting->end(), samples, samples + count);
    return 0;
  });
  espeak_SetVoiceByName("en");
  espeak_SetParameter(espeakRATE, wordsPerMinute, 0);
  espeak_SetParameter(espeakPITCH, pitch, 0);
  espeak_Synth(text.c_str(), text.size() + 1, 0, POS_CHARACTER, 0, espeakCHARS_UTF8, nullptr, nullptr);
  // Band-limited speech: a windowed-sinc interpolation to 48 kHz loses nothing of it.
  const double step = static_cast<double>(rate) / demoRate;
  Signal out(static_cast<std::size_t>(static_cast<double>(spoken.size()) / step));
  constexpr int half = 12;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double at = static_cast<double>(i) * step;
    const auto centre = static_cast<long>(std::floor(at));
    double sum = 0.0;
    for (long k = centre - half + 1; k <= centre + half; ++k) {
      if (k < 0 || k >= static_cast<long>(spoken.size())) continue;
      const double x = (at - static_cast<double>(k)) * std::numbers::pi;
      const double sinc = std::abs(x) < 1e-9 ? 1.0 : std::sin(x) / x;
      const double window = 0.5 + 0.5 * std::cos(x / half);
      sum += spoken[static_cast<std::size_t>(k)] * sinc * window;
    }
    out[i] = static_cast<float>(sum / 32768.0);
  }
  return out;
}

void addAt(Signal& signal, const Signal& what, double seconds, float gain) {
  const std::size_t start = frameAt(seconds);
  for (std::size_t i = 0; i < what.size() && start + i < signal.size(); ++i)
    signal[start + i] += what[i] * gain;
}

void normalise(const std::vector<Signal*>& signals, float peak) {
  float loudest = 1e-9F;
  for (const Signal* signal : signals)
    for (const float sample : *signal) loudest = std::max(loudest, std::abs(sample));
  for (Signal* signal : signals)
    for (float& sample : *signal) sample *= peak / loudest;
}

void addRoom(Signal& signal, float level, std::uint32_t seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<float> unit(-1.0F, 1.0F);
  float low = 0.0F;
  for (float& sample : signal) {
    low += 0.08F * (unit(random) - low);
    sample += low * level;
  }
}

void addKnock(Signal& signal, double seconds, std::uint32_t seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<float> unit(-1.0F, 1.0F);
  Signal knock(frameAt(0.25));
  float low = 0.0F;
  for (std::size_t i = 0; i < knock.size(); ++i) {
    const auto t = static_cast<float>(i) / demoRate;
    low += 0.15F * (unit(random) - low);
    knock[i] =
        (low * 1.6F + 0.5F * std::sin(2.0F * std::numbers::pi_v<float> * 170.0F * t)) * std::exp(-24.0F * t);
  }
  addAt(signal, knock, seconds, 0.5F);
}

}  // namespace yewdrift::demo
