// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is measured of takes, phrase by phrase: against signals of which it is known.
#include "core/core_tests.h"

#include <chrono>
#include <tuple>

namespace {

constexpr SampleRate evidenceRate{48000};

/// Five seconds over noise at -70 dB; from 1 s to 4 s notes begin every half second, later by `late` frames
/// and higher by `cents`.
Samples notes(double late, double cents, float level = 0.3F, unsigned seed = 1) {
  Samples samples = noise(240000, seed, std::sqrt(3.0F) * 0.000316F);
  const double hertz = 220.0 * std::exp2(cents / 1200.0);
  for (int note = 0; note < 6; ++note) {
    const auto from = static_cast<std::size_t>(48000 + 24000 * note + late);
    for (std::size_t i = 0; i < 22000; ++i) {
      const double t = static_cast<double>(i) / 48000.0;
      double tone = 0.0;
      for (int partial = 1; partial <= 5; ++partial)
        tone += std::sin(6.283185307 * hertz * partial * t) / partial;
      samples[from + i] += level * static_cast<float>(tone * std::min(1.0, t / 0.003) * std::exp(-t * 2.0) *
                                                      std::min(1.0, (0.4583 - t) / 0.01));
    }
  }
  return samples;
}

struct Measured {
  explicit Measured(const std::vector<Samples>& takes)
      : folder(sessionWithLanes(temporary / "s", takes)),
        session(folder.session()),
        jobs(folder.disk(), evidenceRate) {
    jobs.want(filesOfTakes(session, track()));
    jobs.wait();
  }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }
  [[nodiscard]] FindAnalysis find() {
    return [this](int file) -> const FileAnalysis* {
      auto& known = found[file];
      if (!known) known = jobs.find((*session.pool)[static_cast<std::size_t>(file)].path);
      return known.get();
    };
  }
  std::vector<PhraseEvidence> evidence(const std::vector<Phrase>& phrases, int divisions = 0) {
    return evidenceOf(session, track(), phrases, find(), divisions);
  }

  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
  AnalysisJobs jobs;
  std::map<int, std::shared_ptr<const FileAnalysis>> found;
};

const Phrase phrase{{{48000}, {192000}}, false, {{0}, {240000}}};

Samples tone(double decibels, std::size_t frames = 240000) {
  return sine(frames, 1000.0, 48000.0, static_cast<float>(std::pow(10.0, decibels / 20.0)));
}

}  // namespace

TEST_CASE("Clicks are found in playing, and playing is none") {
  Samples clicked = notes(0, 0.0);
  for (const std::size_t at : {60000U, 100000U, 150000U}) clicked[at] += 0.6F;
  Measured takes({clicked, notes(0, 0.0), tone(-1.0)});
  const auto found = takes.evidence({phrase});
  CHECK(found[0].takes[0].clicks == 3);
  CHECK(found[0].takes[1].clicks == 0);
  CHECK(found[0].takes[2].clicks == 0);
}

TEST_CASE("An analysis is kept on disk for the file as it is, and one that is damaged is made anew") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {notes(0, 0.0)});
  const PoolFile file = (*folder.session().pool)[0];
  const std::atomic<bool> cancelled{false};
  std::vector<double> told;
  const auto tell = [&](double share) { told.push_back(share); };
  const FileAnalysis first = analyseFile(folder.disk(), file, evidenceRate, cancelled, tell);
  CHECK(first.onsets.size() == 6);
  CHECK(first.spectra.size() == first.levels.size());
  CHECK_FALSE(told.empty());
  const auto again = [&] {
    told.clear();
    const FileAnalysis next = analyseFile(folder.disk(), file, evidenceRate, cancelled, tell);
    CHECK(next.onsets == first.onsets);
    CHECK(next.levels.size() == first.levels.size());
    CHECK(next.spectra == first.spectra);
    REQUIRE(next.pitch.cents.size() == first.pitch.cents.size());
    for (std::size_t i = 0; i < next.pitch.cents.size(); ++i)
      REQUIRE((next.pitch.cents[i] == first.pitch.cents[i] ||
               (std::isnan(next.pitch.cents[i]) && std::isnan(first.pitch.cents[i]))));
    return !told.empty();
  };
  CHECK_FALSE(again());
  const fs::path cache = temporary / "s" / "cache";
  fs::path kept;
  for (const auto& entry : fs::directory_iterator(cache))
    if (entry.path().extension() == ".analysis") kept = entry.path();
  REQUIRE(!kept.empty());
  const std::string whole = content(kept);
  for (const std::size_t length : {0UL, 5UL, 79UL, 80UL, whole.size() - 1, whole.size() / 2}) {
    fs::resize_file(kept, length);
    CHECK(again());
    CHECK_FALSE(again());
  }
  // Counts that lead beyond the file.
  for (const std::size_t at : {48U, 56U, 64U, 72U}) {
    std::string broken = whole;
    broken[at + 6] = '\x7f';
    std::ofstream(kept, std::ios::binary) << broken;
    CHECK(again());
  }
  // More than memory holds.
  fs::resize_file(kept, std::uintmax_t{1} << 40);
  CHECK(again());
  // A file that is another by now.
  fs::last_write_time(audioPath(folder, file), fs::file_time_type::clock::now() + std::chrono::hours(1));
  CHECK(again());
  const std::atomic<bool> stopped{true};
  fs::remove(kept);
  CHECK(analyseFile(folder.disk(), file, evidenceRate, stopped, tell).onsets.empty());
  CHECK_FALSE(fs::exists(kept));
  // Samples that are no numbers are silence.
  Samples broken = notes(0, 0.0);
  Samples silenced = broken;
  for (std::size_t i = 0; i < broken.size(); i += 11) {
    broken[i] = i % 2 == 0 ? NAN : INFINITY;
    silenced[i] = 0.0F;
  }
  PoolFile other = file;
  std::vector<FileAnalysis> both;
  for (const auto& [name, signal] : {std::pair{"broken", &broken}, {"silenced", &silenced}}) {
    other.path = std::string("audio/") + name + ".wav";
    writeWave(temporary / "s" / other.path, {*signal}, 48000, SampleFormat::Float32);
    both.push_back(analyseFile(folder.disk(), other, evidenceRate, cancelled));
  }
  CHECK(both[0].onsets == both[1].onsets);
  CHECK(both[0].spectra == both[1].spectra);
  for (std::size_t i = 0; i < both[0].levels.size(); ++i)
    REQUIRE(both[0].levels[i].weighted == both[1].levels[i].weighted);
  PoolFile missing = file;
  missing.path = "audio/none.wav";
  CHECK(analyseFile(folder.disk(), missing, evidenceRate, cancelled).levels.empty());
}

TEST_CASE("What is being measured goes on while it is wanted, and is given up once it is not") {
  const Samples longer = sine(3000000, 440.0, 48000.0);
  const auto measure = [&](const std::function<void(AnalysisJobs&, const std::vector<PoolFile>&)>& meanwhile,
                           bool both) {
    const TemporaryFolder temporary;
    const SessionFolder folder = sessionWithLanes(temporary / "s", {longer, notes(0, 0.0)});
    const std::vector<PoolFile> pool = *folder.session().pool;
    std::atomic<int> told{0};
    std::atomic<bool> held{true};
    AnalysisJobs jobs(
        folder.disk(), evidenceRate,
        [&] {
          ++told;
          while (held) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        },
        1);
    jobs.want(pool);
    CHECK(comesTrue(20.0, [&] { return told > 0; }));  // it is in the midst of the first
    meanwhile(jobs, pool);
    held = false;
    CHECK(comesTrue(60.0, [&] { return jobs.share() == 1.0; }));
    CHECK((jobs.find(pool[0].path) != nullptr) == both);
    CHECK(jobs.find(pool[1].path));
    return told.load();
  };
  const int all = measure([](AnalysisJobs&, const auto&) {}, true);
  // Wanted again, in another order: nothing of it is done twice.
  CHECK(measure([](AnalysisJobs& jobs, const auto& pool) { jobs.want({pool[1], pool[0]}); }, true) == all);
  const int without = measure([](AnalysisJobs& jobs, const auto& pool) { jobs.want({pool[1]}); }, false);
  CHECK(without < all / 2);
  CHECK(measure([](AnalysisJobs& jobs, const auto& pool) { jobs.forget(pool[0].path); }, false) == without);
}

TEST_CASE("Of a file of several channels all of them are measured, to its end") {
  const TemporaryFolder temporary;
  const std::atomic<bool> cancelled{false};
  const SessionFolder folder = sessionWithLanes(temporary / "s", {tone(-20.0)});
  // Softer on the right, and in its last second loud there only.
  Samples left = tone(-20.0);
  Samples right = tone(-35.0);
  const Samples loud = tone(-12.0);
  std::fill(left.begin() + 192000, left.end(), 0.0F);
  std::copy(loud.begin() + 192000, loud.end(), right.begin() + 192000);
  writeWave(temporary / "s/audio/both.wav", {left, right}, 48000, SampleFormat::Float32);
  const FileAnalysis found =
      analyseFile(folder.disk(), {"audio/both.wav", 2, {static_cast<std::int64_t>(left.size())}},
                  evidenceRate, cancelled);
  REQUIRE(found.levels.size() == left.size() / 480);
  CHECK(found.spectra.size() == found.levels.size());
  for (const auto& [from, to] : {std::pair{20U, 380U}, {420U, 490U}, {20U, 490U}}) {
    INFO(from << " to " << to);
    Samples interleaved;
    for (std::size_t i = from * 480; i < to * 480; ++i) {
      interleaved.push_back(left[i]);
      interleaved.push_back(right[i]);
    }
    LoudnessMeter meter(2, evidenceRate);
    meter.add(interleaved);
    const Loudness all = meter.finish();
    const Loudness steps = loudnessOf({found.levels.begin() + from, found.levels.begin() + to});
    CHECK(steps.lufs.value() == Approx(all.lufs.value()).margin(0.15));
    CHECK(steps.peak == Approx(all.peak).margin(1e-4));
  }
}
