// SPDX-License-Identifier: GPL-3.0-or-later
//
// Takes that sound the same are judged the same, whichever way their files lie in the session: later, cut
// from several files, out of longer files, or recorded softly and turned up.
#include "core/core_tests.h"

#include "core/analysis/level_matching.h"
#include "core/analysis/line_up_takes.h"
#include "core/joins/join_finder.h"
#include "core/joins/phrase_pick.h"
#include "core/known_takes.h"

namespace {

constexpr std::int64_t takeLength = 330'000;
/// Everything is measured in steps that are divisors of this.
constexpr std::int64_t wholeSteps = 122'880;

struct FilesWay {
  const char* name;
  std::int64_t later = 0;       // frames that all lie later in the session
  std::int64_t lead = 0;        // frames of the files before the take begins
  std::int64_t anotherAt = -1;  // from there on the take is played from another file
  double softer = 0.0;          // decibels by which its lane turns up what its file has less
  double marginDecibels = 0.001;
  double marginCents = 0.001;
  double marginMilliseconds = 0.001;  // of onsets, which the detector finds by absolute levels
};

/// Phrases of notes with rests between them, over a quiet room: each take in its own time and tuning.
Samples phrasesPlayed(unsigned take) {
  Chance chance(take);
  Samples played = noise(takeLength, take, 0.001F);
  for (std::int64_t phrase = 20'000; phrase + 60'000 < takeLength; phrase += 90'000) {
    std::int64_t at = phrase + chance.below(2500);
    for (int note = 0; note < 3; ++note) {
      const std::int64_t end = at + 14'000 + chance.below(5000);
      const double hertz = 220.0 * std::exp2((note * 4.0 + 0.2 * take + 0.1 * chance.below(3)) / 12.0);
      for (std::int64_t i = at; i < end; ++i) {
        const double edge = std::min({1.0, double(i - at) / 300.0, double(end - i) / 2000.0});
        const double turn = 2.0 * std::numbers::pi * hertz * double(i - at) / 48000.0;
        played[std::size_t(i)] +=
            float((0.1 + 0.05 * take) * edge * (std::sin(turn) + 0.4 * std::sin(3.0 * turn)));
      }
      at = end + 300 + chance.below(1500);
    }
  }
  return played;
}

/// The session, and what is measured of its files.
struct LaidTakes {
  TemporaryFolder temporary;
  Session session;
  std::optional<SessionFolder> folder;
  std::vector<FileAnalysis> analyses;
  std::vector<std::vector<PeakPyramid>> peaks;

  explicit LaidTakes(const FilesWay& way) {
    session.rate = rate;
    session.format = SampleFormat::Float32;
    folder.emplace(SessionFolder::create(temporary / "s", session));
    session = addTrack(session, "Viola", microphonesFor(1));
    for (unsigned take = 1; take <= 3; ++take) lay(static_cast<int>(take), phrasesPlayed(take), way);
    const std::atomic<bool> never{false};
    for (const PoolFile& file : *session.pool) {
      analyses.push_back(analyseFile(folder->disk(), file, rate, never));
      peaks.push_back(loadPeaks(folder->disk(), file, never));
    }
  }
  void lay(int take, Samples played, const FilesWay& way) {
    for (float& sample : played) sample *= factorOf(Decibels{-way.softer});
    played.insert(played.begin(), std::size_t(way.lead), 0.0F);
    const int files = way.anotherAt < 0 ? 1 : 2;
    for (int i = 0; i < files; ++i) {
      const std::string path = newAudio(*folder, "take");
      writeWave(folder->path() / path, {played}, rate.hertz, SampleFormat::Float32);
      session = addFileAsLane(session, id(), {path, 1, {takeLength + way.lead}}, {way.later - way.lead}, "");
    }
    const Span all{{way.later}, {way.later + takeLength}};
    LaneNumber lane = track().lanes.back()->number;
    session = pullWindow(session, id(), lane, all);
    if (files == 2) {  // the first file up to there in the same lane
      Track changed = track();
      Lane both = *changed.lanes.back();
      Clip first = changed.lanes[changed.lanes.size() - 2]->clips.front();
      first.window = {all.start, all.start + Frames{way.anotherAt}};
      both.clips.front().window.start = first.window.end;
      both.clips.insert(both.clips.begin(), first);
      lane = both.number = LaneNumber{take};
      changed.lanes.pop_back();
      changed.lanes.back() = both;
      session.tracks.front() = changed;
    }
    session = changeLane(session, id(), lane, {.gain = Decibels{way.softer}});
  }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }
  [[nodiscard]] TrackId id() const { return track().id; }
  [[nodiscard]] FindAnalysis find() const {
    return [this](int file) { return &analyses[std::size_t(file)]; };
  }
};

/// What is said of the takes: a text for each thing, and its numbers.
struct ToldOfTakes {
  std::vector<std::string> what;
  std::vector<double> numbers;
  std::vector<double> margins;
  void tell(const std::string& text, double number, double margin = 0.0) {
    what.push_back(text);
    numbers.push_back(number);
    margins.push_back(margin);
  }
  void tell(const std::string& text, Span span) {
    tell(text + " from", double(span.start.count));
    tell(text + " to", double(span.end.count));
  }
  void tell(const std::string& text, const std::optional<double>& number, double margin) {
    tell(text, number.value_or(-9999.0), margin);
  }
  void tell(const ResolvedComposite& composite, const std::string& text) {
    for (const Piece& piece : composite.pieces) {
      tell(text + " piece", piece.span);
      tell(text + " lane", piece.lane ? piece.lane->value : 0);
      tell(text + " overdubs", double(piece.overdubs.size()));
    }
  }
};

ToldOfTakes toldOfTakes(const LaidTakes& laid, const FilesWay& way) {
  ToldOfTakes told;
  const auto place = [&](Span span) { return span.shifted(Frames{-way.later}); };
  const auto composite = [&](const Session& of, const std::string& text) {
    ResolvedComposite resolved = resolve(*of.tracks.front(), rate);
    for (Piece& piece : resolved.pieces) piece.span = place(piece.span);
    told.tell(resolved, text);
  };
  const FindPeaks peaks = [&](int file) { return &laid.peaks[std::size_t(file)]; };
  const std::vector<Phrase> phrases = phrasesOf(laid.session, laid.track(), peaks);
  for (const Phrase& phrase : phrases) told.tell("phrase", place(phrase.span));
  for (std::size_t index = 0; index < phrases.size(); ++index)
    for (const CellMeasures& cell :
         measureCells(laid.session.ruler(), laid.track(), phrases, index, laid.find(), 0)) {
      told.tell("loudness", cell.loudness, way.marginDecibels);
      told.tell("peak", cell.peak, way.marginDecibels);
      told.tell("noise", cell.noise, way.marginDecibels);
      told.tell("pitch", cell.pitch, way.marginCents);
      told.tell("pitch spread", cell.pitchSpread, way.marginCents);
      told.tell("intonation", cell.intonation, way.marginCents);
      told.tell("drift", cell.drift, way.marginCents);
      told.tell("timing", cell.timing, way.marginMilliseconds);
      told.tell("timing spread", cell.timingSpread, way.marginMilliseconds);
      told.tell("sounding", double(cell.sounding.count));
      told.tell("clicks", cell.clicks);
    }
  const Span some = phrases[1].span;
  const LevelMatching levels = matchLevels(laid.session, laid.track(), some, laid.find(), true);
  for (const auto& [lane, gain] : levels.lanes) told.tell("turned", gain.value, way.marginDecibels);
  const RoughComposite rough = roughComposite(laid.session, laid.track(), phrases, laid.find());
  Session session = playRough(laid.session, laid.id(), rough.pieces, true);
  composite(session, "rough");
  told.tell("audibility", rough.audibility, 0.02);
  for (std::size_t index = 0; index < phrases.size(); ++index) {
    session = pickPhrase(session, laid.id(), phrases, index, LaneNumber{1 + int(index * 2 % 3)}, laid.find())
                  .session;
    composite(session, "picked " + std::to_string(index));
  }
  const Improvement improved = improveJoins(laid.folder->disk(), session, laid.id(), defaultWish(rate), {});
  composite(improved.session, "improved");
  for (const ImprovedJoin& join : improved.joins) {
    told.tell("before", join.before.total(), 0.01);
    told.tell("now", join.now.cost.total(), 0.01);
    told.tell("fades in before", double(join.now.shape.before.count));
    told.tell("fades in after", double(join.now.shape.after.count));
  }
  FileSampleSource source(laid.folder->disk(), *laid.session.pool, {});
  for (std::size_t take = 1; take < 3; ++take) {
    const LineUp over = lineUpTakes(laid.session, laid.track(), *laid.track().lanes[take],
                                    *laid.track().lanes[0], {}, Frames{4800}, source);
    told.tell("lined up", double(over.offset.count), 2.0);
    told.tell("sureness", over.sureness, 0.02);
  }
  return told;
}

}  // namespace

TEST_CASE("Takes that sound the same are judged the same, whichever way their files lie in the session") {
  const FilesWay plain{"as they are"};
  const LaidTakes asTheyAre(plain);
  const ToldOfTakes expected = toldOfTakes(asTheyAre, plain);
  REQUIRE(expected.what.size() > 100);
  const Samples sound = renderTrack(*asTheyAre.folder, asTheyAre.session, "Viola")[0];
  for (const FilesWay& way : {FilesWay{.name = "later", .later = wholeSteps},
                              FilesWay{.name = "out of longer files", .lead = wholeSteps},
                              FilesWay{.name = "from two files", .anotherAt = 139'680},
                              FilesWay{.name = "recorded softly",
                              .softer = 6.0,
                              .marginDecibels = 0.05,
                              .marginCents = 8.0,
                              .marginMilliseconds = 1e5}}) {
    INFO(way.name);
    const LaidTakes laid(way);
    const Samples other = renderTrack(*laid.folder, laid.session, "Viola")[0];
    for (std::int64_t i = 0; i < takeLength; i += 7)
      if (std::abs(i - way.anotherAt) > 120)  // where two files meet they are faded
        REQUIRE(other[std::size_t(i)] == Approx(sound[std::size_t(i)]).margin(1e-6));
    const ToldOfTakes told = toldOfTakes(laid, way);
    for (std::size_t i = 0; i < std::min(told.what.size(), expected.what.size()); ++i) {
      INFO(i << ": " << expected.what[i]);
      REQUIRE(told.what[i] == expected.what[i]);
      CHECK(told.numbers[i] == Approx(expected.numbers[i]).margin(told.margins[i]));
    }
    CHECK(told.what.size() == expected.what.size());
  }
}
