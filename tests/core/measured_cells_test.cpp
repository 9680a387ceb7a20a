// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is measured of cells is what their definitions say, worked out plainly from what is known of the
// files: wherever takes lie, however they are cut, turned and pitched.
#include "core/core_tests.h"

#include "core/known_takes.h"

namespace {

constexpr std::int64_t cellStep = 480;
constexpr std::int64_t cellSteps = 600;
using CellValues = std::vector<double>;

double middleOfValues(CellValues values) {
  std::sort(values.begin(), values.end());
  const std::size_t half = values.size() / 2;
  return values.size() % 2 == 1 ? values[half] : (values[half - 1] + values[half]) / 2.0;
}
double spreadOfValues(const CellValues& values) {
  CellValues away;
  for (const double value : values) away.push_back(std::abs(value - middleOfValues(values)));
  return middleOfValues(away);
}

struct KnownFiles {
  explicit KnownFiles(unsigned seed) : random(seed) {
    session.rate = rate;
    session = addTrack(session, "Voice", microphonesFor(1));
    const int takes = 1 + below(5);
    for (int i = 0; i < takes; ++i) addTake();
    const std::int64_t first = 100 + below(50);
    phrases = {{{at(first), at(first + 50)}, false, {}}, {{at(first + 50 + below(60)), {}}, false, {}}};
    phrases[1].span.end = phrases[1].span.start + Frames{cellStep * (30 + below(150))};
  }
  int below(int most) { return std::uniform_int_distribution(0, most - 1)(random); }
  static Frames at(std::int64_t steps) { return Frames{steps * cellStep}; }
  [[nodiscard]] TrackId id() const { return session.tracks.front()->id; }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }

  void addTake() {
    FileAnalysis analysis;
    analysis.levelStep = Frames{cellStep};
    analysis.pitch.step = Frames{cellStep};
    std::int64_t onset = below(9000);
    for (; onset < cellSteps * cellStep; onset += 3000 + below(20000)) analysis.onsets.push_back({onset});
    // Notes a second of an octave apart, now and then none.
    for (std::int64_t k = 0; k < cellSteps; ++k) {
      const double note = 1200.0 * static_cast<double>(k / 100 % 3);
      analysis.pitch.cents.push_back(below(4) == 0 ? std::nanf("") : static_cast<float>(note + below(90)));
      LevelStep level;
      level.square = static_cast<float>(std::pow(10.0, -0.073 * below(95)));
      level.weighted = level.square;
      level.peak = std::sqrt(level.square) * 1.5F;
      level.overs = static_cast<std::uint16_t>(below(20) == 0 ? 2 : 0);
      level.clicks = static_cast<std::uint16_t>(below(30) == 0 ? 1 : 0);
      analysis.levels.push_back(level);
    }
    analyses.push_back(std::move(analysis));
    session =
        addFileAsLane(session, id(), {"audio/" + std::to_string(analyses.size()) + ".wav", 1, at(cellSteps)},
                      at(below(60)), "take");
    const LaneNumber made = session.tracks.front()->lanes.back()->number;
    LaneChange change;
    change.pitch = Cents{static_cast<double>(below(40))};
    change.gain = Decibels{-static_cast<double>(below(12))};
    session = changeLane(session, id(), made, change);
    if (below(3) == 0) {
      const std::int64_t from = 150 + below(100);
      session = cutLane(session, id(), made, {at(from), at(from + 20 + below(60))});
    }
    if (below(6) == 0) session = setLaneAside(session, id(), made, true);
  }
  [[nodiscard]] const FileAnalysis& of(const Clip& clip) const {
    return analyses[static_cast<std::size_t>(clip.channels.front().file)];
  }

  // -- plainly
  [[nodiscard]] CellValues onsets(const Lane& lane) const {
    CellValues found;
    for (const Clip& clip : lane.clips)
      for (const Frames each : of(clip).onsets)
        if (const Frames there = each + clip.origin; clip.window.contains(there) && span().contains(there))
          found.push_back(static_cast<double>(there.count));
    return found;
  }
  /// Moment by moment; none: not a number.
  [[nodiscard]] CellValues pitches(const Lane& lane) const {
    CellValues found;
    for (Frames moment = span().start; moment < span().end; moment += Frames{cellStep}) {
      found.push_back(std::nan(""));
      for (const Clip& clip : lane.clips)
        if (clip.window.contains(moment))
          found.back() =
              of(clip).pitch.cents[static_cast<std::size_t>((moment - clip.origin).count / cellStep)] +
              lane.pitch.value;
    }
    return found;
  }
  [[nodiscard]] std::vector<LevelStep> levels(const Lane& lane, Span within, bool captured) const {
    std::vector<LevelStep> found;
    const float gain = static_cast<float>(std::pow(10.0, lane.gain.value / 20.0));
    for (const Clip& clip : lane.clips) {
      for (Frames moment = within.start; moment < within.end; moment += Frames{cellStep}) {
        if (!(captured ? clip.extent() : clip.window).contains(moment)) continue;
        LevelStep level = of(clip).levels[static_cast<std::size_t>((moment - clip.origin).count / cellStep)];
        level.square *= gain * gain;
        level.weighted *= gain * gain;
        level.peak *= gain;
        found.push_back(level);
      }
      if (captured) break;
    }
    return found;
  }
  [[nodiscard]] Span span() const { return phrases[1].span; }
  [[nodiscard]] std::vector<const Lane*> takes() const {
    std::vector<const Lane*> found;
    for (const auto& lane : track().lanes)
      if (!lane->setAside) found.push_back(&*lane);
    return found;
  }
  [[nodiscard]] CellValues againstOthers(std::size_t index) const {
    CellValues distances;
    for (const double own : onsets(*takes()[index])) {
      CellValues away;
      for (std::size_t other = 0; other < takes().size(); ++other) {
        if (other == index) continue;
        std::optional<double> nearest;
        for (const double theirs : onsets(*takes()[other]))
          if (std::abs(own - theirs) <= 0.150 * rate.hertz &&
              (!nearest || std::abs(own - theirs) < std::abs(*nearest)))
            nearest = own - theirs;
        if (nearest) away.push_back(*nearest / 48.0);
      }
      if (!away.empty()) distances.push_back(middleOfValues(away));
    }
    return distances;
  }
  [[nodiscard]] CellValues pitchAgainstOthers(std::size_t index) const {
    CellValues distances;
    const CellValues own = pitches(*takes()[index]);
    for (std::size_t moment = 0; moment < own.size(); ++moment) {
      CellValues others;
      for (std::size_t other = 0; other < takes().size(); ++other)
        if (const double theirs = pitches(*takes()[other])[moment];
            other != index && std::abs(theirs - own[moment]) <= 600.0)
          others.push_back(theirs);
      if (!others.empty()) distances.push_back(own[moment] - middleOfValues(others));
    }
    return distances;
  }

  std::mt19937 random;
  Session session;
  std::vector<FileAnalysis> analyses;
  std::vector<Phrase> phrases;
};

CellValues awayFromSemitones(const CellValues& pitches, double from, double to) {
  CellValues away;
  for (std::size_t i = 0; i < pitches.size(); ++i)
    if (!std::isnan(pitches[i]) &&
        static_cast<double>(i) >= std::floor(from * static_cast<double>(pitches.size())) &&
        static_cast<double>(i) < std::floor(to * static_cast<double>(pitches.size()) + 1e-9))
      away.push_back(pitches[i] - 100.0 * std::round(pitches[i] / 100.0));
  return away;
}

void checkMiddleOf(const std::optional<double>& found, const CellValues& values, std::size_t least) {
  REQUIRE(found.has_value() == (values.size() >= least));
  if (found) CHECK(*found == Approx(middleOfValues(values)).margin(0.01));
}

}  // namespace

TEST_CASE("What is measured of cells is what it is defined as, whatever takes there are") {
  for (unsigned seed = 1; seed <= 120; ++seed) {
    INFO("seed " << seed);
    const KnownFiles known(seed);
    const auto find = [&](int file) { return &known.analyses[static_cast<std::size_t>(file)]; };
    const auto cells = measureCells(known.session.ruler(), known.track(), known.phrases, 1, find, 2);
    const auto takes = known.takes();
    REQUIRE(cells.size() == takes.size());
    for (std::size_t i = 0; i < cells.size(); ++i) {
      const Lane& lane = *takes[i];
      const CellMeasures& cell = cells[i];
      INFO("lane " << lane.number.value);
      CHECK(cell.lane == lane.number);
      CHECK(cell.measured);
      const Span span = known.span();
      const std::vector<LevelStep> levels = known.levels(lane, span, false);
      CHECK(cell.there == !levels.empty());
      if (levels.empty()) continue;
      const Loudness loudness = loudnessOf(levels);
      REQUIRE(cell.loudness.has_value() == loudness.lufs.has_value());
      if (cell.loudness) CHECK(*cell.loudness == Approx(*loudness.lufs).margin(0.001));
      float peak = 0.0F;
      float loudest = 0.0F;
      int overs = 0;
      int clicks = 0;
      for (const LevelStep& level : levels) {
        peak = std::max(peak, level.peak);
        loudest = std::max(loudest, level.square);
        overs += level.overs;
        clicks += level.clicks;
      }
      CHECK(*cell.peak == Approx(20.0 * std::log10(peak)).margin(0.001));
      CHECK(cell.overs == overs);
      CHECK(cell.clicks == clicks);
      const auto sounding = std::count_if(levels.begin(), levels.end(), [&](const LevelStep& level) {
        return level.square >= std::max(1e-6F, loudest * 1e-4F);
      });
      CHECK(cell.sounding == Frames{sounding * cellStep});
      // The rest before it: 300 to 30 ms, no earlier than the phrase before it ends, at least 50 ms of it.
      const Span rest{std::max(known.phrases[0].span.end, span.start - Frames{14400}),
                      span.start - Frames{1440}};
      const bool long_ = rest.length() >= Frames{2400};
      REQUIRE(cell.noise.has_value() == long_);
      if (long_) {
        double sum = 0.0;
        const auto captured = known.levels(lane, rest, true);
        for (const LevelStep& level : captured) sum += level.square;
        CHECK(*cell.noise ==
              Approx(10.0 * std::log10(sum / static_cast<double>(captured.size()))).margin(0.001));
      }
      const CellValues timing = known.againstOthers(i);
      checkMiddleOf(cell.timing, timing, 1);
      if (cell.timing) CHECK(*cell.timingSpread == Approx(spreadOfValues(timing)).margin(0.01));
      const CellValues pitch = known.pitchAgainstOthers(i);
      checkMiddleOf(cell.pitch, pitch, 5);
      if (cell.pitch) CHECK(*cell.pitchSpread == Approx(spreadOfValues(pitch)).margin(0.01));
      const CellValues own = known.pitches(lane);
      checkMiddleOf(cell.intonation, awayFromSemitones(own, 0.0, 1.0), 5);
      const CellValues first = awayFromSemitones(own, 0.0, 1.0 / 3.0);
      const CellValues last = awayFromSemitones(own, 2.0 / 3.0, 1.0);
      REQUIRE(cell.drift.has_value() == (first.size() >= 5 && last.size() >= 5));
      if (cell.drift) CHECK(*cell.drift == Approx(middleOfValues(last) - middleOfValues(first)).margin(0.01));
      // An eighth of 120 bpm is 12,000 frames.
      CellValues grid;
      for (const double onset : known.onsets(lane))
        grid.push_back((onset - 12000.0 * std::round(onset / 12000.0)) / 48.0);
      checkMiddleOf(cell.grid, grid, 1);
    }
  }
}
