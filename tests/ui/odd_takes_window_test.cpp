// SPDX-License-Identifier: GPL-3.0-or-later
//
// The round over takes that nobody would want, in the window: nothing breaks, nothing is lost, words are
// clear.
#include <catch2/catch.hpp>

#include "app/bench/takes_bench.h"
#include "core/edit/edit_pieces.h"
#include "ui/round_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

namespace {

/// A good one first, so that there are phrases; then these.
fs::path makeTakes(const TemporaryFolder& temporary, const Samples& second, const Samples& third) {
  const SessionFolder folder = sessionWithLanes(temporary / "odd", {threePhrases(1), second, third});
  return temporary / "odd";
}

Samples squareWave() {
  Samples samples = threePhrases(1);
  for (std::size_t i = 0; i < samples.size(); ++i)
    if (samples[i] != 0.0F) samples[i] = (i / 60) % 2 == 0 ? 1.0F : -1.0F;
  return samples;
}

Samples lifted() {
  Samples samples = threePhrases(2);
  for (float& sample : samples) sample += 0.4F;
  return samples;
}

/// Everything of the round, once: shown, measured, heard, rated, picked, blind, in turn.
void goRound(RoundRig& rig) {
  const std::size_t lanes = rig.track().lanes.size();
  const Session before = rig.studio().desk().session();
  rig.press(Qt::Key_G, Qt::ShiftModifier);
  rig.showPage(MainWindow::TakesPage);
  for (const LanePicture picture :
       {LanePicture::Onsets, LanePicture::Level, LanePicture::Pitch, LanePicture::Waveform}) {
    for (std::size_t lane = 1; lane <= lanes; ++lane)
      REQUIRE(rig.studio().desk().apply("Show", [&](const Session& session) {
        return changeLane(session, session.tracks.front()->id, {static_cast<int>(lane)},
                          {.picture = picture});
      }));
    rig.lanes().viewport()->grab();
  }
  rig.press(Qt::Key_I);
  rig.studio().inHand().dropPhrase();
  rig.studio().transport().locate({});
  for (int phrase = 0; phrase < 3; ++phrase) {
    rig.press(Qt::Key_G);
    REQUIRE(rig.inHand() == phrase + 1);
    for (std::size_t lane = 1; lane <= lanes; ++lane) {
      rig.press(static_cast<Qt::Key>(Qt::Key_0 + static_cast<int>(lane)));
      CHECK(rig.heard() == LaneNumber{static_cast<int>(lane)});
      rig.press(Qt::Key_X);
      CHECK(rig.rating(static_cast<int>(lane), static_cast<std::size_t>(phrase)) == 1);
    }
    REQUIRE(rig.waitFor([&] {
      const auto evidence = rig.studio().analysis().evidence();
      return evidence && std::all_of(evidence->takes.begin(), evidence->takes.end(),
                                     [](const CellEvidence& cell) { return cell.measured; });
    }));
    CHECK(rig.table().rowCount() == static_cast<int>(lanes));
    rig.press(Qt::Key_F);
    // A take that has nothing there, or but a moment of it, is not picked, and that is said.
    const Span cell = rig.phrases()[static_cast<std::size_t>(phrase)].cell;
    const auto without = spansWithout(rig.track(), *rig.heard(), cell);
    if (!without.empty())
      CHECK(rig.window->message().contains("has nothing"));
    else
      CHECK(rig.played(static_cast<std::size_t>(phrase)) == rig.heard());
  }
  rig.press(Qt::Key_I);
  rig.press(Qt::Key_P);
  rig.press(Qt::Key_1);
  rig.press(Qt::Key_F);
  rig.press(Qt::Key_P);
  rig.lanes().viewport()->grab();
  while (!(rig.studio().desk().session() == before)) {
    REQUIRE(rig.studio().desk().history().undoLabel());
    rig.studio().desk().undo();
  }
}

}  // namespace

TEST_CASE("The round over square waves at full scale and an offset input: measured, heard, never louder") {
  const TemporaryFolder temporary;
  RoundRig rig(makeTakes(temporary, squareWave(), lifted()));
  goRound(rig);
  rig.press(Qt::Key_S);
  rig.press(Qt::Key_I);
  REQUIRE(rig.waitFor([&] { return !rig.studio().listening().measuring(); }));
  // What is at full scale is turned down to the others, and nothing past full scale.
  CHECK(rig.studio().listening().trimOf(LaneNumber{2})->value < -6.0);
  const auto evidence = rig.studio().analysis().evidence();
  REQUIRE(evidence);
  CHECK(evidence->takes[1].overs > 0);
  CHECK(evidence->takes[2].overs == 0);
}

TEST_CASE("The round over silence and a take of one sample") {
  const TemporaryFolder temporary;
  RoundRig rig(makeTakes(temporary, Samples(480000, 0.0F), Samples(1, 0.5F)));
  goRound(rig);
  rig.press(Qt::Key_G);
  const auto evidence = rig.studio().analysis().evidence();
  REQUIRE(evidence);
  CHECK_FALSE(evidence->takes[1].loudness);
  CHECK_FALSE(evidence->takes[1].pitch);
  CHECK_FALSE(evidence->takes[2].there);
  CHECK(rig.table().item(1, TakesBench::Loudness)->text() == "–");
  CHECK(rig.table().item(2, TakesBench::Sounds)->text() == "–");
}

TEST_CASE("Gains of -200 dB, pitches to their ends and notes in any script are kept as they were given") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  const QString note = QString::fromUtf8("two\nlines, \xd7\xa9\xd7\x9c\xd7\x95\xd7\x9d \xe2\x80\xae\tand on");
  {
    RoundRig rig(path);
    rig.press(Qt::Key_G);
    rig.press(Qt::Key_2);
    const auto change = [&](const LaneChange& to) {
      return rig.studio().desk().apply("Change", [&](const Session& session) {
        return changeLane(session, session.tracks.front()->id, {2}, to);
      });
    };
    CHECK(change({.gain = Decibels{-200.0}}));
    CHECK(change({.note = note.toStdString()}));
    CHECK(change({.pitch = Cents{2400.0}}));
    CHECK_FALSE(change({.pitch = Cents{2400.5}}));
    CHECK(rig.window->message().contains("2400 cents"));
    CHECK(change({.pitch = Cents{-2400.0}}));
    rig.press(Qt::Key_I);
    rig.lanes().viewport()->grab();
    goRound(rig);
    CHECK(rig.track().lane({2})->pitch.value == -2400.0);
  }
  RoundRig rig(path);
  CHECK(rig.track().lane({2})->gain.value == -200.0);
  CHECK(rig.track().lane({2})->note == note.toStdString());
  CHECK(rig.track().lane({2})->pitch.value == -2400.0);
}
