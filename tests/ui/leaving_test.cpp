// SPDX-License-Identifier: GPL-3.0-or-later
//
// Closing the window in the middle of things; and what hands do beside: wheels, menus of amounts, lamps.
#include <QInputDialog>
#include <QToolButton>
#include <catch2/catch.hpp>

#include "app/bench/join_bench.h"
#include "app/views/level_meter.h"
#include "ui/round_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

TEST_CASE("Closed while it records, the take is kept, and then the window goes") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  Samples kept;
  {
    ImpatientRig rig(path);
    rig.setOptions([](RecordingOptions& o) {
      o.loop = false;
      o.preRoll.amount = 0;
    });
    rig.studio().transport().locate({});
    rig.press(Qt::Key_N, Qt::ShiftModifier);
    REQUIRE(rig.rollTo(60000));
    CHECK_FALSE(rig.window->close());
    CHECK(rig.window->isVisible());
    CHECK(rig.window->message().contains("stopped and kept"));
    REQUIRE(rig.waitFor([&] { return !rig.window->isVisible(); }));
    REQUIRE(rig.track().lanes.size() == 4);
    kept = rig.samplesOf({4});
    CHECK(kept.size() >= 55000);
    CHECK(kept == performance(0, 0, static_cast<std::int64_t>(kept.size())));
  }
  const SessionFolder again = SessionFolder::open(path, SessionFolder::Access::Write);
  CHECK(again.notices().empty());
  REQUIRE(again.session().tracks.front()->lanes.size() == 4);
  CHECK(again.session().tracks.front()->lanes.back()->clips.front().window.length().count ==
        static_cast<std::int64_t>(kept.size()));
}

TEST_CASE(
    "Closed while something is done that cannot be done again, it waits for that and for nothing else") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  std::atomic<bool> goesOn{true};
  std::atomic<bool> cancelled{false};
  rig.studio().jobs().start("Writing", Jobs::Cancel::Never, [&](Jobs::Run&) {
    while (goesOn) QThread::msleep(1);
  });
  rig.studio().jobs().start("Looking", Jobs::Cancel::Possible, [&](Jobs::Run& job) {
    while (job.tell(0.5)) QThread::msleep(1);
    cancelled = job.cancelled();
  });
  CHECK_FALSE(rig.window->close());
  CHECK(rig.window->message().contains("Writing: the window closes"));
  rig.wait(500);
  CHECK(rig.window->isVisible());
  goesOn = false;
  REQUIRE(rig.waitFor([&] { return !rig.window->isVisible(); }));
  CHECK(cancelled);
}

TEST_CASE("A new track is asked for its name, listens to a free input and is in hand; no name, no track") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const auto name = [&](const QString& text, bool accepts) {
    QApplication::setActiveWindow(rig.window.get());
    rig.lanes().setFocus();
    QTimer::singleShot(0, rig.window.get(), [&, text, accepts] {
      auto* dialog = rig.window->findChild<QInputDialog*>();
      REQUIRE(dialog);
      dialog->setTextValue(text);
      accepts ? dialog->accept() : dialog->reject();
    });
    rig.press(Qt::Key_N, Qt::ControlModifier);
    rig.turn();
    return rig.studio().desk().session().tracks.size();
  };
  CHECK(name("Drum", false) == 1);
  CHECK(name("   ", true) == 1);
  REQUIRE(name("  Drum ", true) == 2);
  CHECK(rig.track().name == "Drum");
  CHECK(rig.track().microphones.front().input == 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Add the track Drum");
}

TEST_CASE(
    "How far the others are dimmed, and how much lies around, is chosen beside its button, and is on then") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const auto chooses = [&](const QString& text) {
    for (auto* button : rig.window->findChildren<QToolButton*>())
      for (QAction* each : button->menu() ? button->menu()->actions() : QList<QAction*>())
        if (each->text() == text) {
          each->trigger();
          rig.turn();
          return;
        }
    FAIL("nothing offers " << text.toStdString());
  };
  const auto& options = rig.studio().listening().options();
  rig.studio().listening().setOptions({});
  chooses("Dimmed by 18 dB");
  CHECK(options.others == ListeningOptions::Others::Dimmed);
  CHECK(options.dimmedBy == 18.0);
  CHECK_FALSE(options.around);
  chooses("4 s on either side");
  CHECK(options.around);
  CHECK(options.aroundSeconds == 4.0);
  CHECK(options.dimmedBy == 18.0);
  rig.studio().listening().setOptions({});
}

TEST_CASE("With Ctrl the wheel goes closer to what is under the pointer, and away from it") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.lanes().showSpan({{100000}, {300000}});
  rig.turn();
  const int x = rig.view()->rect().center().x();
  const auto under = [&] { return rig.lanes().geometry().frameAt(x); };
  const Span before = rig.lanes().visibleSpan();
  const Frames there = under();
  rig.wheel(rig.view(), {0, 240}, {}, Qt::ControlModifier);
  rig.turn();
  const Span closer = rig.lanes().visibleSpan();
  CHECK(closer.length() < before.length());
  const double pixel = static_cast<double>(before.length().count) / rig.view()->width();
  CHECK(std::abs(static_cast<double>((under() - there).count)) <= 2.0 * pixel);
  rig.wheel(rig.view(), {0, -240}, {}, Qt::ControlModifier);
  rig.turn();
  CHECK(std::abs(static_cast<double>((rig.lanes().visibleSpan().start - before.start).count)) <= 2.0 * pixel);
  CHECK(rig.lanes().visibleSpan().length() > closer.length());
  // Under the magnifier it does so without.
  rig.drag(rig.lanes().viewport(), rig.inLane(0, {150000}), rig.inLane(0, {250000}));
  rig.studio().transport().locate({150000});
  rig.press(Qt::Key_J);
  rig.turn();
  auto& picture = rig.window->joinBench().picture();
  REQUIRE(rig.waitFor([&] { return picture.shown().has_value(); }));
  const Frames wide = picture.shown()->span.length();
  rig.wheel(&picture, {0, 120});
  rig.turn();
  CHECK(picture.shown()->span.length() < wide);
  rig.wheel(&picture, {0, -240});
  rig.turn();
  CHECK(picture.shown()->span.length() > wide);
}

TEST_CASE("The lamp of a meter stays lit once it went over, until it is clicked") {
  LevelMeter meter("Output left");
  meter.resize(120, 12);
  meter.feed(0.5F);
  CHECK_FALSE(meter.spoken().contains("went over"));
  meter.feed(1.0F);
  CHECK(meter.spoken().contains("went over"));
  meter.feed(0.1F);
  CHECK(meter.spoken().contains("went over"));
  QTest::mouseClick(&meter, Qt::LeftButton);
  CHECK_FALSE(meter.spoken().contains("went over"));
}
