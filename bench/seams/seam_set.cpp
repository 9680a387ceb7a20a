// SPDX-License-Identifier: GPL-3.0-or-later
#include "seams/seam_set.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/store/audio_file.h"

namespace yewdrift::bench {
namespace {

using demo::Note;
using demo::Signal;

constexpr double rate = demo::demoRate;

class Chance {
 public:
  explicit Chance(std::uint32_t seed) : random_(seed) {}
  double between(double low, double high) { return std::uniform_real_distribution(low, high)(random_); }
  double around(double middle, double spread) { return std::normal_distribution(middle, spread)(random_); }
  int whole(int low, int high) { return std::uniform_int_distribution(low, high)(random_); }
  std::uint32_t seed() { return static_cast<std::uint32_t>(random_()); }

 private:
  std::mt19937 random_;
};

Frames framesAt(double seconds) {
  return Frames{std::llround(seconds * rate)};
}

std::size_t sampleAt(double seconds) {
  return static_cast<std::size_t>(std::max(0.0, seconds) * rate);
}

void addNoise(Signal& signal, double decibels, double darkness, std::uint32_t seed) {
  std::mt19937 random(seed);
  std::normal_distribution<float> noise;
  const auto gain = static_cast<float>(std::pow(10.0, decibels / 20.0));
  const auto keep = static_cast<float>(darkness);
  // What the filter takes away of the power is given back.
  const float back = std::sqrt((1.0F + keep) / (1.0F - keep));
  float low = 0.0F;
  for (float& sample : signal) {
    low = keep * low + (1.0F - keep) * noise(random);
    sample += gain * back * low;
  }
}

void turn(Signal& signal, double decibels) {
  const auto gain = static_cast<float>(std::pow(10.0, decibels / 20.0));
  for (float& sample : signal) sample *= gain;
}

/// A melody with rests, as a player plays it twice; seams in held notes, around attacks and in rests.
SeamKind instrument(const std::string& name, int program, int lowest, double noteSeconds, Chance& chance) {
  SeamKind kind{name, {}, {}, {}};
  std::vector<Note> first;
  std::vector<Note> second;
  double at = 0.6;
  for (int i = 0; i < 80; ++i) {
    const int key = lowest + chance.whole(0, 14);
    const double length = noteSeconds * chance.between(0.8, 1.3);
    for (auto* take : {&first, &second})
      take->push_back({at + chance.around(0.0, 0.012), length * chance.between(0.85, 0.97), key,
                       90 + chance.whole(-14, 14), chance.around(0.0, 6.0)});
    if (i % 2 == 1) {
      const double places[] = {at + length * chance.between(0.3, 0.75), at + chance.between(-0.04, 0.04),
                               at + length + chance.between(-0.05, 0.05)};
      kind.seams.push_back(framesAt(places[chance.whole(0, 2)]));
    }
    at += length + (chance.whole(0, 3) == 0 ? chance.between(0.15, 0.4) : 0.0);
  }
  kind.first = demo::playInstrument(program, first, at + 1.0, 0.0).left;
  kind.second = demo::playInstrument(program, second, at + 1.0, 0.0).left;
  for (auto* signal : {&kind.first, &kind.second}) addNoise(*signal, -78.0, 0.5, chance.seed());
  return kind;
}

SeamKind speech(Chance& chance) {
  const char* lines[] = {"The ferry leaves when the last lantern is lit.",
                         "Nobody on the bank had seen the water so still.",
                         "She counted the steps down to the landing, and counted them again.",
                         "Take the rope, said the old man, and do not look at the moon.",
                         "There were seven of them, and each carried a light.",
                         "Slowly, very slowly, the boat turned into the stream."};
  SeamKind kind{"speech", {}, {}, {}};
  double at = 0.4;
  for (int round = 0; round < 4; ++round) {
    for (const char* line : lines) {
      const int pace = chance.whole(130, 155);
      const int pitch = chance.whole(30, 45);
      const Signal one = demo::speak(line, pace, pitch);
      const Signal other = demo::speak(line, pace + chance.whole(-3, 3), pitch + chance.whole(-3, 3));
      const double seconds = static_cast<double>(std::max(one.size(), other.size())) / rate;
      kind.first.resize(sampleAt(at + seconds + 1.0), 0.0F);
      kind.second.resize(kind.first.size(), 0.0F);
      demo::addAt(kind.first, one, at + chance.between(0.0, 0.03));
      demo::addAt(kind.second, other, at + chance.between(0.0, 0.03));
      // Not everywhere: where a person would want to change over, give or take.
      kind.seams.push_back(framesAt(at + chance.between(0.2, 0.45) * seconds));
      kind.seams.push_back(framesAt(at + chance.between(0.55, 0.8) * seconds));
      kind.seams.push_back(framesAt(at + seconds + chance.between(-0.15, 0.2)));
      at += seconds + 0.5;
    }
  }
  for (auto* signal : {&kind.first, &kind.second}) addNoise(*signal, -66.0, 0.8, chance.seed());
  return kind;
}

SeamKind drum(Chance& chance) {
  SeamKind kind{"frame drum", {}, {}, {}};
  std::vector<demo::Stroke> first;
  std::vector<demo::Stroke> second;
  double at = 0.5;
  for (int i = 0; i < 110; ++i) {
    const int stroke = chance.whole(0, 2);
    first.push_back({at + chance.around(0.0, 0.008), stroke, chance.between(0.6, 1.0)});
    second.push_back({at + chance.around(0.0, 0.008), stroke, chance.between(0.6, 1.0)});
    const double pause = 0.16 * chance.whole(1, 4);
    if (i % 2 == 1)
      kind.seams.push_back(framesAt(at + (chance.whole(0, 1) ? chance.between(-0.03, 0.03) : pause * 0.6)));
    at += pause;
  }
  kind.first = demo::playFrameDrum(first, at + 1.0, chance.seed())[0];
  kind.second = demo::playFrameDrum(second, at + 1.0, chance.seed())[0];
  return kind;
}

/// A string under a bow: a sawtooth that swells, its pitch swaying, through two resonances.
Signal bowed(const std::vector<Note>& notes, double seconds, Chance& chance) {
  Signal signal(sampleAt(seconds), 0.0F);
  for (const Note& note : notes) {
    double phase = chance.between(0.0, 1.0);
    const double sway = chance.between(4.8, 5.8);
    const double swayPhase = chance.between(0.0, 6.0);
    const double hertz = 440.0 * std::exp2((note.key - 69 + note.cents / 100.0) / 12.0);
    double low = 0.0;
    double lower = 0.0;
    for (std::size_t i = sampleAt(note.start);
         i < std::min(signal.size(), sampleAt(note.start + note.length)); ++i) {
      const double t = static_cast<double>(i) / rate - note.start;
      phase +=
          hertz * std::exp2(0.15 * std::sin(2.0 * std::numbers::pi * sway * t + swayPhase) / 12.0) / rate;
      const double saw = 2.0 * (phase - std::floor(phase)) - 1.0;
      const double swell = std::min({1.0, t / 0.09, (note.length - t) / 0.07});
      low += 0.25 * (saw - low);
      lower += 0.03 * (low - lower);
      signal[i] += static_cast<float>(0.004 * note.velocity * swell * (low - 0.5 * lower));
    }
  }
  return signal;
}

SeamKind bowedModel(Chance& chance) {
  SeamKind kind{"bowed string", {}, {}, {}};
  std::vector<Note> first;
  std::vector<Note> second;
  double at = 0.5;
  for (int i = 0; i < 70; ++i) {
    const int key = 48 + chance.whole(0, 16);
    const double length = chance.between(0.5, 1.1);
    for (auto* take : {&first, &second})
      take->push_back({at + chance.around(0.0, 0.01), length * 0.98, key, 80 + chance.whole(-15, 15),
                       chance.around(0.0, 7.0)});
    if (i % 2 == 1) kind.seams.push_back(framesAt(at + chance.between(0.0, 1.0) * length));
    at += length + (chance.whole(0, 4) == 0 ? 0.25 : 0.0);
  }
  kind.first = bowed(first, at + 0.6, chance);
  kind.second = bowed(second, at + 0.6, chance);
  for (auto* signal : {&kind.first, &kind.second}) addNoise(*signal, -72.0, 0.7, chance.seed());
  return kind;
}

/// Nothing but two rooms, one darker and louder than the other.
SeamKind rooms(Chance& chance) {
  SeamKind kind{"room tone", Signal(sampleAt(62.0), 0.0F), Signal(sampleAt(62.0), 0.0F), {}};
  addNoise(kind.first, -58.0, 0.9, chance.seed());
  addNoise(kind.second, -53.0, 0.6, chance.seed());
  for (int i = 0; i < 40; ++i) kind.seams.push_back(framesAt(1.0 + 1.5 * i + chance.between(0.0, 0.5)));
  return kind;
}

/// Breaths before short phrases, at other moments in either take.
SeamKind breaths(Chance& chance) {
  SeamKind kind{"breaths", Signal(sampleAt(64.0), 0.0F), Signal(sampleAt(64.0), 0.0F), {}};
  std::vector<Note> notes[2];
  Signal* takes[] = {&kind.first, &kind.second};
  for (int i = 0; i < 40; ++i) {
    const double at = 1.0 + 1.55 * i;
    const int key = 57 + chance.whole(0, 9);
    for (int take = 0; take < 2; ++take) {
      const double shift = chance.around(0.0, 0.012);
      notes[take].push_back({at + 0.5 + shift, 0.7, key, 85 + chance.whole(-8, 8), chance.around(0.0, 5.0)});
      Signal breath(sampleAt(0.28), 0.0F);
      addNoise(breath, -34.0, 0.55, chance.seed());
      for (std::size_t k = 0; k < breath.size(); ++k)
        breath[k] *= static_cast<float>(std::pow(
            std::sin(std::numbers::pi * static_cast<double>(k) / static_cast<double>(breath.size())), 1.5));
      demo::addAt(*takes[take], breath, at + 0.12 + chance.between(-0.05, 0.05));
    }
    kind.seams.push_back(framesAt(at + chance.between(0.0, 0.5)));
  }
  for (int take = 0; take < 2; ++take) {
    const Signal tones = demo::playInstrument(52, notes[take], 64.0, 0.0).left;
    demo::addAt(*takes[take], tones, 0.0);
    addNoise(*takes[take], -70.0, 0.6, chance.seed());
  }
  return kind;
}

Signal readRecording(const std::filesystem::path& path) {
  AudioReader reader(path);
  const auto info = reader.info();
  std::vector<float> interleaved(static_cast<std::size_t>(info.length.count * info.channels));
  reader.readAt({}, info.length.count, interleaved.data());
  // To 48 kHz along straight lines: what is joined is a recording, whatever it went through.
  Signal signal(static_cast<std::size_t>(static_cast<double>(info.length.count) * rate / info.rate.hertz));
  for (std::size_t i = 0; i < signal.size(); ++i) {
    const double place = static_cast<double>(i) * info.rate.hertz / rate;
    const auto k = static_cast<std::size_t>(place);
    const auto at = [&](std::size_t frame) {
      return frame < static_cast<std::size_t>(info.length.count)
                 ? interleaved[frame * static_cast<std::size_t>(info.channels)]
                 : 0.0F;
    };
    const auto part = static_cast<float>(place - static_cast<double>(k));
    signal[i] = at(k) * (1.0F - part) + at(k + 1) * part;
  }
  return signal;
}

/// The same recording, as another take: another pace by a percent or two, and with it another pitch.
Signal retaken(const Signal& signal, double pace, double decibels) {
  Signal other(static_cast<std::size_t>(static_cast<double>(signal.size()) / pace));
  for (std::size_t i = 0; i < other.size(); ++i) {
    const double place = static_cast<double>(i) * pace;
    const auto k = static_cast<std::size_t>(place);
    const auto part = static_cast<float>(place - static_cast<double>(k));
    other[i] = k + 1 < signal.size() ? signal[k] * (1.0F - part) + signal[k + 1] * part : 0.0F;
  }
  turn(other, decibels);
  return other;
}

SeamKind recordings(const std::string& name, std::vector<std::filesystem::path> files, Chance& chance) {
  SeamKind kind{name, {}, {}, {}};
  std::sort(files.begin(), files.end());
  double at = 0.4;
  for (int i = 0; i < 48 && !files.empty(); ++i) {
    Signal one;
    try {
      one =
          readRecording(files[static_cast<std::size_t>(chance.whole(0, static_cast<int>(files.size()) - 1))]);
    } catch (const std::exception&) {
      continue;
    }
    if (one.size() > sampleAt(2.5)) one.resize(sampleAt(2.5));
    if (one.size() < sampleAt(0.3)) continue;
    demo::normalise({&one}, 0.6F);
    const Signal other = retaken(one, 1.0 + chance.around(0.0, 0.012), chance.around(0.0, 1.5));
    const double seconds = static_cast<double>(one.size()) / rate;
    kind.first.resize(sampleAt(at + seconds + 1.2), 0.0F);
    kind.second.resize(kind.first.size(), 0.0F);
    demo::addAt(kind.first, one, at + chance.between(0.0, 0.015));
    demo::addAt(kind.second, other, at + chance.between(0.0, 0.015));
    kind.seams.push_back(framesAt(at + chance.between(0.0, 1.0) * seconds));
    at += seconds + 0.45;
  }
  addNoise(kind.first, -68.0, 0.7, chance.seed());
  addNoise(kind.second, -66.0, 0.6, chance.seed());
  return kind;
}

std::vector<std::filesystem::path> filesUnder(const std::filesystem::path& folder,
                                              const std::string& suffix) {
  std::vector<std::filesystem::path> files;
  if (!std::filesystem::is_directory(folder)) return files;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder))
    if (entry.is_regular_file() && entry.path().extension() == suffix) files.push_back(entry.path());
  return files;
}

/// A seam at every one of them; those that come too close to each other are left out.
void keepApart(std::vector<SeamKind>& kinds) {
  for (SeamKind& kind : kinds) {
    std::sort(kind.seams.begin(), kind.seams.end());
    std::vector<Frames> apart;
    for (const Frames seam : kind.seams)
      if (apart.empty() || seam - apart.back() > framesAt(0.5)) apart.push_back(seam);
    kind.seams = apart;
  }
}

}  // namespace

std::vector<SeamKind> makeModelSeams(std::uint32_t seed) {
  Chance chance(seed);
  std::vector<SeamKind> kinds{drum(chance), bowedModel(chance), rooms(chance)};
  SeamKind apart = bowedModel(chance);
  apart.name = "other level and floor";
  turn(apart.second, -4.0);
  addNoise(apart.second, -50.0, 0.7, chance.seed());
  kinds.push_back(std::move(apart));
  keepApart(kinds);
  return kinds;
}

std::vector<SeamKind> makeSeams(std::uint32_t seed, const std::filesystem::path& packages) {
  Chance chance(seed);
  std::vector<SeamKind> kinds;
  kinds.push_back(instrument("viola", 41, 50, 0.7, chance));
  kinds.push_back(instrument("flute", 73, 62, 0.6, chance));
  kinds.push_back(instrument("piano", 0, 48, 0.5, chance));
  kinds.push_back(instrument("guitar", 24, 43, 0.45, chance));
  kinds.push_back(instrument("double bass", 32, 28, 0.55, chance));
  kinds.push_back(instrument("choir", 52, 55, 0.9, chance));
  kinds.push_back(instrument("trumpet", 56, 55, 0.5, chance));
  kinds.push_back(speech(chance));
  kinds.push_back(drum(chance));
  kinds.push_back(bowedModel(chance));
  kinds.push_back(rooms(chance));
  kinds.push_back(breaths(chance));
  SeamKind floors = instrument("other noise floor", 73, 60, 0.6, chance);
  addNoise(floors.second, -50.0, 0.7, chance.seed());
  kinds.push_back(std::move(floors));
  SeamKind levels = instrument("other level", 41, 50, 0.7, chance);
  turn(levels.second, -4.0);
  kinds.push_back(std::move(levels));
  if (auto files = filesUnder(packages, ".ogg"); !files.empty())
    kinds.push_back(recordings("recorded speech", std::move(files), chance));
  if (auto files = filesUnder("/usr/share/sounds/alsa", ".wav"); !files.empty())
    kinds.push_back(recordings("recorded words", std::move(files), chance));
  keepApart(kinds);
  return kinds;
}

}  // namespace yewdrift::bench
