// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a person does in a long day besides recording: files of all kinds come in, stretches are flattened,
// places are typed, a rough composite and picks of single phrases take turns, a passage is picked up again
// and again, the disk is full for a while. Each act checks what came of it.
#pragma once

#include <fstream>
#include <random>

#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/joins/pick_over.h"
#include "support.h"
#include "ui/driven_desk.h"
#include "ui/only_asked.h"

namespace yewdrift::test {

class BusyDay {
 public:
  /// `asked` is what the next step is for.
  BusyDay(DrivenDesk& desk, std::mt19937& random, Asked& asked)
      : desk_(desk), random_(random), asked_(asked) {}

  /// The files that come in, some of which cannot.
  static void makeForeignFiles(const fs::path& folder) {
    fs::create_directories(folder);
    writeWave(folder / "take-mono.wav", {noise(30000, 9, 0.3F)});
    writeWave(folder / "take-pair.wav", {noise(20000, 10, 0.3F), noise(20000, 11, 0.3F)});
    writeWave(folder / "take-other-rate.wav", {noise(9000, 12, 0.3F)}, 44100);
    const std::string cut = content(folder / "take-mono.wav");
    std::ofstream(folder / "take-cut.wav", std::ios::binary) << cut.substr(0, cut.size() / 2);
    std::ofstream(folder / "take-words.wav") << "no sound at all";
    std::ofstream(folder / "take-nothing.wav").flush();
  }

  /// A composite was flattened as a whole, which may set its takes aside.
  [[nodiscard]] bool flattensWhole() const { return flattensWhole_; }

  void import() {
    static const std::vector<std::string> all{"mono",  "pair",    "other-rate", "cut",
                                              "words", "nothing", "gone"};
    QStringList files;
    for (int i = pick(3); i >= 0; --i)
      files << QString::fromStdString(
          desk_.path() / "cache" /
          ("take-" + all[static_cast<std::size_t>(pick(static_cast<int>(all.size())))] + ".wav"));
    desk_.studio().files().importFiles(files, pick(6) == 0);
  }

  /// A stretch, or all of it: to the nearest step of its format it sounds as before, and beyond the file just
  /// as before.
  void flatten() {
    const TrackId id = track(desk_.session()).id;
    app::FlattenWish wish;
    if (pick(3) != 0) {
      const Frames at{pick(70000)};
      wish.span = Span{at, at + Frames{1 + pick(20000)}};
    } else {
      wish.lanes = static_cast<OtherLanes>(pick(3));
      flattensWhole_ = true;  // its job may end much later
    }
    if (!quiet()) return desk_.studio().files().flatten(id, wish);
    const Session before = desk_.studio().desk().present();
    if (before.track(id)->lanes.empty()) return;
    const int made = before.track(id)->lanesMade;
    const Span all{Frames{}, Frames{120000}};
    const auto was = renderedTrack(desk_.studio().desk().disk(), before, id, all);
    desk_.studio().files().flatten(id, wish);
    desk_.waitForJobs();
    const Session& after = desk_.studio().desk().present();
    if (after.track(id)->lanesMade == made) return;
    const auto is = renderedTrack(desk_.studio().desk().disk(), after, id, all);
    const Span file = after.track(id)->lane({made + 1})->clips.front().window;
    REQUIRE(was.size() == is.size());
    const std::size_t channels = was.size() / 120000;
    for (std::size_t i = 0; i < was.size(); ++i) {
      const bool inFile = file.contains(Frames{static_cast<std::int64_t>(i / channels)});
      const bool cut = inFile && after.format != SampleFormat::Float32;
      const float expected = cut ? std::clamp(was[i], -1.0F, 1.0F - 1.0F / (1 << 23)) : was[i];
      if (std::abs(is[i] - expected) <= (inFile ? 1.0F / (1 << 23) : 0.0F)) continue;
      FAIL("frame " << i / channels << " played " << was[i] << " and plays " << is[i] << "; flattened is "
                    << file.start.count << " to " << file.end.count << "; the composite was"
                    << told(*before.track(id), before.rate) << " and is"
                    << told(*after.track(id), after.rate));
    }
  }

  /// The place of a join, typed: there it lies then, or nothing has changed.
  void typeBoundary() {
    desk_.studio().desk().keepHeld();
    const Session before = desk_.studio().desk().present();
    const Track& chosen = track(before);
    const ResolvedComposite composite = resolve(chosen, before.rate);
    if (composite.joins.empty()) return;
    const Frames at =
        composite.joins[static_cast<std::size_t>(pick(static_cast<int>(composite.joins.size())))].at;
    const Frames to = at + Frames{pick(60000) - 30000};
    asked_.composite[chosen.id] = {{std::min(at, to), std::max(at, to)}};
    asked_.lanes = {chosen.id};
    const bool done = desk_.studio().desk().apply(
        "Type", [&](const Session& s) { return moveBoundaryExactly(s, chosen.id, at, to); });
    const Session& after = desk_.studio().desk().present();
    if (!done) CHECK((after == before));
    const auto pieces = resolve(*after.track(chosen.id), after.rate).pieces;
    if (done && at != to)
      CHECK(std::any_of(pieces.begin(), pieces.end(),
                        [to](const Piece& piece) { return piece.span.start == to; }));
  }

  void cutPhrases() {
    const TrackId id = inHand();
    const auto phrases = desk_.studio().inHand().phrases();
    if (!phrases.empty())
      desk_.studio().desk().apply("Cut", [&, at = Frames{pick(60000)}](const Session& s) {
        return addPhraseEdge(s, id, phrases, at);
      });
  }
  void rate() {
    const TrackId id = inHand();
    const auto phrases = desk_.studio().inHand().phrases();
    const Track& rated = *desk_.session().track(id);
    if (phrases.empty() || rated.lanes.empty()) return;
    const LaneNumber lane = rated.lanes[below(rated.lanes.size())]->number;
    asked_.lanes = {id};
    desk_.studio().desk().apply(
        "Rate", [&, phrase = phrases[below(phrases.size())], rating = pick(6)](const Session& s) {
          return changeCell(s, id, lane, phrase, rating, {});
        });
  }
  void roughComposite() {
    inHand();
    desk_.studio().rough().make(pick(4) == 0);
  }
  /// One phrase, or any stretch: what says that it plays the take does, and a person chose it.
  void pickTake() {
    const TrackId id = inHand();
    const auto phrases = desk_.studio().inHand().phrases();
    const Session before = desk_.studio().desk().present();
    const Track& chosen = *before.track(id);
    if (chosen.lanes.empty()) return;
    PickRequest request{.track = id, .over = {}, .lane = chosen.lanes[below(chosen.lanes.size())]->number};
    const Frames at{pick(60000)};
    request.over.span = {at, at + Frames{1 + pick(20000)}};
    if (pick(3) != 0 && !phrases.empty()) request.over = phraseOver(phrases, below(phrases.size()));
    Picked picked;
    const auto pickIt = [&](const Session& s) {
      picked = pickOver(s, request, phrases, desk_.studio().analysis().finder());
      return picked.session;
    };
    try {
      pickIt(before);
    } catch (const Error&) {
      return;
    }
    asked_.composite[id] = picked.spans;
    asked_.composite[id].push_back(request.over.span);
    if (request.over.kind == PickOver::Kind::Phrase) {
      // What the phrase played before, and the rests around it, are the neighbours' where it has other edges.
      const std::size_t phrase = request.over.phrase;
      const Span& own = phrases[phrase].span;
      asked_.composite[id].push_back(
          {phrase > 0 ? phrases[phrase - 1].span.end : own.start,
           phrase + 1 < phrases.size() ? phrases[phrase + 1].span.start : own.end});
      const auto was = resolve(chosen, before.rate);
      if (const Piece* const piece = was.pieceAt(own.start + Frames{own.length().count / 2}))
        asked_.composite[id].push_back(piece->span);
    }
    if (!desk_.studio().desk().apply("Pick", pickIt)) return;
    const Track& now = *desk_.studio().desk().present().track(id);
    const auto composite = resolve(now, before.rate);
    for (const Span& span : picked.spans)
      for (const Frames place : {span.start, span.end - Frames{1}}) {
        const Piece* const piece = composite.pieceAt(place);
        CHECK((piece && piece->plays(*request.lane)));
        CHECK(chooserAt(now, place) == Chooser::Person);
      }
  }

  /// The last attempt plays from its start to its end; beyond, all is as before the first one slipped.
  void pickUpOverAndOver() {
    if (!quiet()) return;
    app::Studio& studio = desk_.studio();
    RecordingOptions options = studio.desk().options();
    options.loop = options.punch = options.playBack = options.setAside = options.keepWhole = false;
    options.countInBars = options.passes = 0;
    options.result = PassResult::NewLane;
    options.backUpSeconds = 0.3;
    options.leadSeconds = 0.1;
    studio.desk().setOptions(options);
    const TrackId id = track(desk_.session()).id;
    for (const auto& each : Session(desk_.session()).tracks)
      studio.desk().apply("Arm", [&](const Session& s) {
        return setTrackSwitch(s, each->id, TrackSwitch::Arm, each->id == id);
      });
    // Into a lane that a person chose, which holds more than the attempts: it stays among the takes.
    std::optional<LaneNumber> into;
    const Track& chosen = *desk_.session().track(id);
    if (pick(4) == 0 && !chosen.lanes.empty()) into = chosen.lanes[below(chosen.lanes.size())]->number;
    if (into && chosen.lane(*into)->setAside) into.reset();
    studio.desk().apply("Into", [&](const Session& s) { return setRecordInto(s, id, into); });
    studio.transport().stop();
    const Frames start{20000 + pick(20000)};
    studio.transport().locate(start);
    desk_.settle();
    const Session before = studio.desk().present();
    if (into) asked_.lanes = {id};
    studio.recording().toggleRecord();
    const int attempts = 1 + pick(3);
    Frames from = start;
    for (int i = 0; i < attempts; ++i) {
      // Now and then it slips before anything was recorded.
      desk_.run(pick(4) == 0 ? 400 : 6000 + pick(20000), 200);
      if (pick(3) != 0) from = Frames{15000 + pick(30000)};
      studio.inHand().select(Span{from, from + Frames{100}});
      studio.recording().backUpAndPickUp();
      for (int wait = 0; wait < 400 && !studio.recording().recording(); ++wait) desk_.run(200, 200);
    }
    desk_.run(30000 + pick(10000), 200);
    studio.transport().stop();
    desk_.settle();
    if (into) {
      const Lane* const lane = studio.desk().present().track(id)->lane(*into);
      CHECK((lane && !lane->setAside));
      asked_.lanes = {id};
      studio.desk().apply("Into", [&](const Session& s) { return setRecordInto(s, id, {}); });
      return;
    }
    const auto lanes = studio.recording().lastRecorded();
    if (lanes.size() != 1 || lanes.front().brokenOff) return;
    const Track& is = *studio.desk().present().track(id);
    // Nothing was recorded by the last attempt: what was recorded before is another matter.
    if (lanes.front().track != id || !is.lane(lanes.front().lane) ||
        before.track(id)->lane(lanes.front().lane))
      return;
    const Lane& last = *is.lane(lanes.front().lane);
    const Span window = last.clips.front().window;
    const auto now = resolve(is, before.rate);
    const auto then = resolve(*before.track(id), before.rate);
    INFO("was " << inWords(then) << "\nis " << inWords(now) << "\nlanes before "
                << before.track(id)->lanesMade);
    for (Frames at = window.start; at < window.end; at += Frames{501}) {
      INFO("attempt from " << window.start.count << " to " << window.end.count << ", at " << at.count);
      CHECK((now.pieceAt(at) && now.pieceAt(at)->plays(last.number)));
    }
    for (const Join& join : then.joins)
      if (join.at > window.end + Frames{2000}) CHECK((now.joinAt(join.at) && *now.joinAt(join.at) == join));
    for (Frames at = window.end; at < Frames{150000}; at += Frames{501}) {
      const Piece* const was = playedAt(then, at);
      const Piece* const piece = playedAt(now, at);
      INFO("attempt from " << window.start.count << " to " << window.end.count << ", behind it at "
                           << at.count);
      CHECK((was == nullptr) == (piece == nullptr));
      if (was && piece) CHECK(playTheSame(*was, *piece));
    }
  }

  /// What was done meanwhile is told as not saved, and is saved once there is room; or it is lost, and
  /// nothing else, where the window closes before.
  void fillDisk() {
    if (!quiet() || !desk_.studio().desk().flushToDisk()) return;
    const Session before = desk_.studio().desk().present();
    const bool closes = pick(3) == 0;
    std::vector<std::string> labels;
    {
      const FullDisk full;
      for (int i = pick(3); i >= 0; --i) {
        labels.push_back("Note " + std::to_string(i));
        desk_.studio().desk().apply(QString::fromStdString(labels.back()), [&](const Session& s) {
          return addMarker(s, Frames{pick(60000)}, "Note");
        });
        if (pick(2) == 0) desk_.run(1000, 500);
      }
      CHECK_FALSE(desk_.studio().desk().flushToDisk());
      CHECK(desk_.studio().desk().unsavedSteps() == labels);
      if (closes) desk_.close();
    }
    if (closes) {
      desk_.open();
      CHECK((desk_.session() == before));
      return;
    }
    CHECK(desk_.studio().desk().flushToDisk());
    CHECK((SessionFolder::open(desk_.path(), SessionFolder::Access::Read).session() ==
           desk_.studio().desk().present()));
  }

 private:
  int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
  std::size_t below(std::size_t size) { return static_cast<std::size_t>(pick(static_cast<int>(size))); }
  static std::string inWords(const ResolvedComposite& composite) {
    std::string words;
    for (const Piece& piece : composite.pieces)
      words += std::to_string(piece.lane ? piece.lane->value : 0) + (piece.picked ? "p" : "") + ":" +
               std::to_string(piece.span.start.count) + ".." + std::to_string(piece.span.end.count) + " ";
    return words;
  }
  const Track& track(const Session& s) { return *s.tracks[below(s.tracks.size())]; }
  TrackId inHand() {
    const TrackId id = track(desk_.session()).id;
    desk_.studio().inHand().takeTrack(id);
    return id;
  }
  /// Nothing is on its way into the session.
  bool quiet() {
    app::Studio& studio = desk_.studio();
    return !studio.recording().capturing() && studio.recording().settled() && !studio.jobs().busy() &&
           !studio.transport().state().rolling && studio.device().alive() && !studio.desk().holding();
  }

  DrivenDesk& desk_;
  bool flattensWhole_ = false;
  std::mt19937& random_;
  Asked& asked_;
};

}  // namespace yewdrift::test
