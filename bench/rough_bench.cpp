// SPDX-License-Identifier: GPL-3.0-or-later
//
// The rough composite over 200 phrases and 30 takes, once they are analysed (figure: 200 ms); with its edits.
#include <benchmark/benchmark.h>

#include <random>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/joins/rough_composite.h"

namespace {

using namespace yewdrift;

constexpr SampleRate rate{48000};
constexpr int phraseCount = 200;
constexpr int takeCount = 30;
constexpr double phraseSeconds = 3.0;

struct Part {
  Part() {
    session.rate = rate;
    session = addTrack(std::move(session), "Voice", microphonesFor(1));
    std::vector<Span> found;
    for (int i = 0; i < phraseCount; ++i) found.push_back({at(i, 0.0), at(i, 2.2)});
    std::mt19937 random(1);
    for (int take = 0; take < takeCount; ++take) {
      FileAnalysis analysis;
      analysis.levelStep = levelStepAt(rate);
      const auto steps = static_cast<std::size_t>(phraseCount * phraseSeconds * 100.0);
      analysis.levels.resize(steps);
      analysis.spectra.resize(steps);
      for (std::size_t k = 0; k < steps; ++k) {
        const bool sounds = std::fmod(static_cast<double>(k) * 0.01, phraseSeconds) < 2.2;
        analysis.levels[k].square = sounds ? 0.01F : 1e-7F;
        for (auto& band : analysis.spectra[k])
          band = static_cast<std::uint8_t>((sounds ? 120 : 50) + random() % 40);
      }
      analyses.push_back(std::move(analysis));
      session = addFileAsLane(session, session.tracks[0]->id,
                              {"audio/" + std::to_string(take) + ".wav", 1, at(phraseCount, 0.0)}, {}, {});
    }
    phrases = resolvePhrases(*session.tracks[0], found, session.ruler(), false);
  }
  static Frames at(int phrase, double seconds) {
    return framesFromSeconds(phrase * phraseSeconds + seconds, rate);
  }

  Session session;
  std::vector<FileAnalysis> analyses;
  std::vector<Phrase> phrases;
};

void roughCompositeOf200PhrasesAnd30Takes(benchmark::State& state) {
  const Part part;
  const FindAnalysis find = [&](int file) { return &part.analyses[static_cast<std::size_t>(file)]; };
  for (auto _ : state) {
    const Track& track = *part.session.tracks[0];
    const RoughComposite rough = roughComposite(part.session, track, part.phrases, find);
    benchmark::DoNotOptimize(playRough(part.session, track.id, rough.pieces));
  }
}
BENCHMARK(roughCompositeOf200PhrasesAnd30Takes)->Unit(benchmark::kMillisecond);

}  // namespace
