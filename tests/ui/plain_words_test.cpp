// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the views say, without a view: the record state and positions in words.
#include "ui/ui_tests.h"

#include "app/desk/position_words.h"
#include "app/desk/record_words.h"

namespace {

constexpr SampleRate rate{48000};

/// Says what the record state is, as it is drawn: large, and beside it.
QString said(const RollingNow& now) {
  const RecordWords words(now, rate);
  return words.word + " / " + words.detail;
}

Ruler ruler() {
  TempoMap tempo;
  return {rate, tempo};
}

/// Numbers are written as there, as long as it lives.
struct WrittenAs {
  explicit WrittenAs(const QLocale& locale) { QLocale::setDefault(locale); }
  ~WrittenAs() { QLocale::setDefault(QLocale::c()); }
  WrittenAs(const WrittenAs&) = delete;
  WrittenAs& operator=(const WrittenAs&) = delete;
};

}  // namespace

TEST_CASE("The record state tells the most pressing thing, and what comes of it") {
  RollingNow now;
  CHECK(said(now) == "Stopped / ");
  now.armed = true;
  CHECK(said(now) == "Ready / ");
  now.autoPunchStandsBy = true;
  CHECK(said(now) == "Ready / automatic punch stands by");
  now.engine.rolling = true;
  CHECK(said(now) == "Playing / ");
  now.standingBy = true;
  CHECK(said(now) == "Playing / all is captured; [N] punches in");
  now.engine.rolling = false;

  // A device that is needed and gone, until another one is on its way.
  now.deviceNeeded = true;
  CHECK(said(now) == "No audio device / [Ctrl+D] chooses one");
  now.deviceOpening = true;
  CHECK(said(now) == "Opening / all is captured; [N] punches in");
  now.deviceOpening = false;
  now.deviceAlive = true;
  CHECK(said(now) == "Ready / all is captured; [N] punches in");

  // A roll that records.
  now.recording = true;
  now.engine.rolling = true;
  now.engine.round = 3;
  CHECK(said(now) == "Rolling in / pass 3 comes");
  now.growing = {3, LaneNumber{7}};
  CHECK(said(now) == "Rolling / pass 3, lane 7");
  CHECK_FALSE(RecordWords(now, rate).recording);
  now.engine.recording = true;
  CHECK(said(now) == "Recording / pass 3, lane 7");
  CHECK(RecordWords(now, rate).recording);
  now.passes = 5;
  CHECK(said(now) == "Recording / pass 3 of 5, lane 7");
  now.engine.recording = false;
  now.playsBack = true;
  CHECK(said(now) == "Rolling / pass 3 of 5, lane 7");
  now.engine.round = 4;
  CHECK(said(now) == "Playing back / pass 3 of 5, lane 7");

  // The count-in goes before all of it: half a second of 120 is one beat, a frame more begins the next.
  now.engine.countIn = Frames{96000};
  CHECK(said(now) == "Counting in / 4 beats to go");
  now.engine.countIn = Frames{96001};
  CHECK(said(now) == "Counting in / 5 beats to go");
  now.engine.countIn = Frames{96000};
  now.beatsPerMinute = 60.0;
  CHECK(said(now) == "Counting in / 2 beats to go");
  now.engine.countIn = Frames{1};
  CHECK(said(now) == "Counting in / 1 beat to go");
}

TEST_CASE("The record state is read aloud as word and detail, and is armed or not") {
  RollingNow now;
  CHECK(RecordWords(now, rate).spoken() == "Stopped");
  CHECK_FALSE(RecordWords(now, rate).armed);
  now.armed = now.autoPunchStandsBy = true;
  CHECK(RecordWords(now, rate).spoken() == "Ready, automatic punch stands by");
  CHECK(RecordWords(now, rate).armed);
  CHECK(RecordWords(now, rate) == RecordWords(now, rate));
  CHECK_FALSE(RecordWords(now, rate) == RecordWords(RollingNow{}, rate));
}

TEST_CASE(
    "A position in a field is understood as that very frame, in bars or by the clock, as numbers are "
    "written") {
  std::mt19937 random(90125);
  for (const QLocale& locale : {QLocale::c(), QLocale(QLocale::German)})
    for (const SampleRate at : {SampleRate{44100}, SampleRate{48000}, SampleRate{192000}})
      for (const bool grid : {true, false}) {
        const WrittenAs here(locale);
        const PositionWords words(Ruler{at, TempoMap{}, grid});
        for (int i = 0; i < 200; ++i) {
          const Frames frame{std::uniform_int_distribution<std::int64_t>(0, 1'000'000'000)(random)};
          INFO(words.inField(frame).toStdString() << " for " << frame.count);
          REQUIRE(words.typed(words.inField(frame)) == frame);
        }
      }
  const PositionWords bars(ruler());
  CHECK(bars.inField(Frames{96000}) == "2|1");
  CHECK(bars.inField(Frames{96001}) == "96001f");
  CHECK(bars.shown(Frames{96000}) == "2|1");
  CHECK(bars.shown(Span{Frames{96000}, Frames{192000}}) == "2|1 to 3|1");
  const PositionWords clock = PositionWords::byClock(ruler());
  CHECK(clock.inField(Frames{120000}) == "2.500s");
  CHECK(clock.inField(Frames{120001}) == "2.500021s");
  CHECK(clock.shown(Frames{120000}) == "0:02.500");
  CHECK(clock.shown(Span{Frames{}, Frames{120000}}) == "0:00.000 to 0:02.500");
  CHECK(clock.typed("  3|1 ") == Frames{192000});
  CHECK_FALSE(clock.typed("   "));
  CHECK_THROWS_AS(clock.typed("soon"), Error);
  CHECK_THROWS_AS(clock.typed("-1s"), Error);
  const WrittenAs german{QLocale(QLocale::German)};
  CHECK(clock.inField(Frames{120000}) == "2,500s");
  CHECK(clock.typed("0,5s") == Frames{24000});
  CHECK(clock.typed("0.5s") == Frames{24000});
}
