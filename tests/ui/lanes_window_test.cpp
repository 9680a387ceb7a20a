// SPDX-License-Identifier: GPL-3.0-or-later
//
// The lanes themselves: folded, fitted, dragged higher; levels, phrases and takes moved on the picture; files
// dropped; takes lined up.
#include <QDropEvent>
#include <QHelpEvent>
#include <QMimeData>
#include <QToolTip>

#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct LanesRig : RoundRig {
  using RoundRig::RoundRig;
  void show(int lane, LanePicture picture) {
    REQUIRE(studio().desk().apply("Show", [&](const Session& s) {
      return changeLane(s, s.tracks.front()->id, {lane}, LaneChange{.picture = picture});
    }));
    turn();
  }
  const Lane& lane(int number) { return *track().lane({number}); }
  void dropOn(QWidget* on, QPoint at, const std::vector<fs::path>& files) {
    QMimeData data;
    QList<QUrl> urls;
    for (const fs::path& file : files) urls << QUrl::fromLocalFile(QString::fromStdString(file.string()));
    data.setUrls(urls);
    QDragEnterEvent enters(at, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(on, &enters);
    CHECK(enters.isAccepted());
    QDropEvent drops(QPointF(at), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(on, &drops);
  }
  bool choose(QPoint at, const QString& text) { return ImpatientRig::choose(view(), at, text); }
};

}  // namespace

TEST_CASE("The edge of a phrase is dragged, stays a person's, and never passes its neighbour") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  const Phrase first = rig.phrases()[0];
  const Phrase second = rig.phrases()[1];
  const int y = rig.lanes().phraseRowRect().center().y();
  const auto x = [&](Frames at) { return rig.lanes().xOf(at); };
  rig.drag(rig.view(), {x(first.span.end), y}, {x(first.span.end + Frames{24000}), y});
  CHECK(std::abs((rig.phrases()[0].span.end - first.span.end).count - 24000) < 1500);
  CHECK(rig.phrases()[0].set);
  CHECK(rig.phrases()[0].span.start == first.span.start);
  CHECK(rig.phrases()[1].span == second.span);
  CHECK(rig.steps() == 1);
  rig.drag(rig.view(), {x(rig.phrases()[0].span.end), y}, {x(second.span.end), y});
  CHECK(rig.phrases()[0].span.end <= second.span.start);
  CHECK(rig.phrases().size() == 3);
  rig.studio().desk().undo();
  rig.studio().desk().undo();
  CHECK(rig.phrases()[0].span == first.span);
  // And by the menu they are as they are found again.
  rig.drag(rig.view(), {x(first.span.end), y}, {x(first.span.end + Frames{24000}), y});
  CHECK(rig.choose({x(first.span.start + Frames{20000}), y}, "Phrases as they are found"));
  CHECK_FALSE(rig.phrases()[0].set);
}

TEST_CASE("A level is ridden on the picture: points are made, moved, and dragged away; the composite's too") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  rig.show(2, LanePicture::Level);
  const auto point = [&](const QRect& row, Frames at, double level) {
    return QPoint(rig.lanes().xOf(at), static_cast<int>(std::lround(LanesGeometry::levelY(row, {level}))));
  };
  rig.window->resize(1280, 1000);
  rig.turn();
  const QRect row = rig.lanes().laneRect(1);
  rig.drag(rig.view(), point(row, {100000}, 0.0), point(row, {100000}, -12.0));
  REQUIRE(rig.lane(2).level.size() == 1);
  const double step = 60.0 / row.height();
  CHECK(rig.lane(2).level[0].gain.value == Approx(-12.0).margin(step));
  CHECK(std::abs(rig.lane(2).level[0].at.count - 100000) < 1000);
  CHECK(rig.steps() == 2);
  rig.drag(rig.view(), point(row, {300000}, -12.0), point(row, {300000}, 6.0));
  REQUIRE(rig.lane(2).level.size() == 2);
  CHECK(rig.lane(2).level[1].gain.value == Approx(6.0).margin(step));
  CHECK(rig.lane(2).level[0].gain.value == Approx(-12.0).margin(step));
  // A point is taken hold of, not doubled.
  rig.drag(rig.view(), point(row, rig.lane(2).level[0].at, rig.lane(2).level[0].gain.value),
           point(row, {150000}, -6.0));
  REQUIRE(rig.lane(2).level.size() == 2);
  CHECK(std::abs(rig.lane(2).level[0].at.count - 150000) < 1000);
  rig.drag(rig.view(), point(row, rig.lane(2).level[0].at, rig.lane(2).level[0].gain.value),
           {rig.lanes().xOf({150000}), row.bottom() + 60});
  REQUIRE(rig.lane(2).level.size() == 1);
  CHECK(rig.lane(2).level[0].gain.value == Approx(6.0).margin(step));
  // Beside the line it is picked as ever.
  const QRect composite = rig.lanes().geometry().compositeWaveRect();
  CHECK(rig.lanes().geometry().hit({rig.lanes().xOf({200000}), row.bottom() - 4}).part ==
        LanesGeometry::Part::Lane);
  CHECK(rig.lanes().geometry().hit(point(composite, {200000}, 0.0)).part == LanesGeometry::Part::Composite);
  rig.press(Qt::Key_R, Qt::ControlModifier);
  const std::size_t before = rig.steps();
  rig.drag(rig.view(), point(composite, {200000}, 0.0), point(composite, {200000}, -20.0));
  REQUIRE(rig.track().composite.level.size() == 1);
  CHECK(rig.track().composite.level[0].gain.value == Approx(-20.0).margin(60.0 / composite.height()));
  CHECK(rig.steps() == before + 1);
  rig.press(Qt::Key_Escape);
  rig.studio().desk().undo();
  CHECK(rig.track().composite.level.empty());
}

TEST_CASE("With Ctrl a drag moves the take in time, and nothing is picked; Escape takes it back") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  const Frames origin = rig.lane(2).clips.front().origin;
  const auto from = rig.inLane(1, {100000});
  const auto to = rig.inLane(1, {112000});
  rig.drag(rig.view(), from, to, Qt::ControlModifier);
  const Frames moved = rig.lanes().geometry().frameAt(to.x()) - rig.lanes().geometry().frameAt(from.x());
  CHECK(rig.lane(2).clips.front().origin == origin + moved);
  CHECK(rig.track().composite.picks.empty());
  CHECK(rig.steps() == 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Nudge a take");
  QTest::mousePress(rig.view(), Qt::LeftButton, Qt::ControlModifier, from);
  rig.move(rig.view(), to);
  rig.move(rig.view(), to + QPoint(9, 0));
  rig.press(Qt::Key_Escape);
  QTest::mouseRelease(rig.view(), Qt::LeftButton, Qt::ControlModifier, to);
  CHECK(rig.lane(2).clips.front().origin == origin + moved);
  CHECK(rig.steps() == 1);
}

TEST_CASE("A take is dragged by its head to another place; the others make room while it is") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  const auto order = [&] {
    std::vector<int> numbers;
    for (const Lane* lane : rig.lanes().rows()) numbers.push_back(lane->number.value);
    return numbers;
  };
  const auto head = [&](int row) { return QPoint(60, rig.lanes().laneRect(row).center().y()); };
  REQUIRE(order() == std::vector{1, 2, 3});
  const auto composite = [&] { return rig.studio().inHand().composite(rig.track()).pieces; };
  const auto before = composite();
  rig.press(rig.view(), head(0));
  rig.move(rig.view(), head(1));
  CHECK(order() == std::vector{2, 1, 3});
  rig.move(rig.view(), head(2) + QPoint(0, 300));
  CHECK(order() == std::vector{2, 3, 1});
  rig.move(rig.view(), head(2));
  CHECK(order() == std::vector{2, 3, 1});
  CHECK(rig.steps() == 0);
  rig.release(rig.view(), head(2));
  CHECK(order() == std::vector{2, 3, 1});
  CHECK(rig.steps() == 1);
  CHECK(rig.studio().desk().history().undoLabel() == "Move a take");
  CHECK_FALSE(rig.heard());  // it was no click
  CHECK(composite() == before);
  rig.studio().desk().undo();
  CHECK(order() == std::vector{1, 2, 3});
  // Escape takes it back; where it was, it leaves no step.
  rig.press(rig.view(), head(2));
  rig.move(rig.view(), head(0));
  CHECK(order() == std::vector{3, 1, 2});
  rig.press(Qt::Key_Escape);
  rig.release(rig.view(), head(0));
  CHECK(order() == std::vector{1, 2, 3});
  rig.drag(rig.view(), head(1), head(1) + QPoint(40, 6));
  CHECK(order() == std::vector{1, 2, 3});
  CHECK(rig.steps() == 0);
}

TEST_CASE("Files are dropped on the takes where they are to lie, and on the list of tracks") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  const Samples played = noise(48000, 9, 0.2F);
  writeWave(temporary / "dropped.wav", {played}, 48000, SampleFormat::Float32);
  const int x = rig.lanes().xOf({240000});
  rig.dropOn(rig.view(), {x, rig.lanes().laneRect(0).center().y()}, {temporary / "dropped.wav"});
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 4; }));
  const Lane& lane = *rig.track().lanes.back();
  CHECK(lane.name == "dropped");
  CHECK(lane.clips.front().origin == rig.lanes().geometry().frameAt(x));
  CHECK(rig.samplesOf(lane.number) == played);
  // Beside the rows of the list: a backing track; on one of them: its takes.
  auto* list = rig.window->findChild<TrackList*>();
  rig.dropOn(list->viewport(), {20, list->viewport()->height() - 5}, {temporary / "dropped.wav"});
  REQUIRE(rig.waitFor([&] { return rig.studio().desk().session().tracks.size() == 2; }));
  CHECK(rig.studio().desk().session().tracks.back()->backing);
  CHECK(rig.studio().desk().session().tracks.back()->name == "dropped");
  auto* row = list->findChild<TrackRow*>();
  rig.wait(64);
  rig.dropOn(list->viewport(), row->mapTo(list->viewport(), row->rect().center()),
             {temporary / "dropped.wav"});
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 5; }));
  // What is no file of this computer is refused with a word, and what is no sound too.
  QMimeData foreign;
  foreign.setUrls({QUrl("https://example.org/a.wav")});
  QDragEnterEvent enters({x, 100}, Qt::CopyAction, &foreign, Qt::LeftButton, {});
  QApplication::sendEvent(rig.view(), &enters);
  QDropEvent drops(QPointF(x, 100), Qt::CopyAction, &foreign, Qt::LeftButton, {});
  QApplication::sendEvent(rig.view(), &drops);
  CHECK(rig.window->message().contains("Only files from this computer"));
  std::ofstream(temporary / "words.wav") << "no sound at all";
  rig.dropOn(rig.view(), {x, 100}, {temporary / "words.wav"});
  CHECK(rig.waitFor([&] { return rig.window->message().contains("words.wav"); }));
  CHECK(rig.track().lanes.size() == 5);
}

TEST_CASE("A take is lined up: what was found and how sure it is is told before it moves") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  // The same performance as the first, 300 frames late.
  REQUIRE(rig.studio().desk().apply("Late", [](Session s) {
    return addFileAsLane(s, s.tracks.front()->id, s.pool->front(), {300}, "late");
  }));
  rig.press(Qt::Key_4);
  rig.press(Qt::Key_E, Qt::ControlModifier);
  auto* dialog = rig.window->findChild<LineUpDialog*>();
  REQUIRE(dialog);
  auto* found = rig.named<QLabel>("What was found");
  REQUIRE(rig.waitFor([&] { return found->text().contains("300"); }));
  CHECK(found->text().contains("late"));
  CHECK(found->text().contains("sureness"));
  CHECK(rig.lane(4).clips.front().origin == Frames{300});
  // Against one that only begins where it does it is less exact, and that is told.
  auto* reference = rig.named<QComboBox>("Line up to");
  reference->setCurrentIndex(1);
  emit reference->activated(1);
  QPushButton* takeIt = nullptr;
  for (auto* each : dialog->findChildren<QPushButton*>())
    if (each->text() == "Move it there") takeIt = each;
  REQUIRE(takeIt);
  REQUIRE(rig.waitFor([&] { return !rig.studio().lineUp().looking(); }));
  CHECK(found->text().contains("few milliseconds"));
  reference->setCurrentIndex(0);
  emit reference->activated(0);
  REQUIRE(rig.waitFor([&] { return takeIt->isEnabled(); }));
  // Nudged meanwhile it is looked for anew, and what was found before is not taken.
  REQUIRE(rig.studio().desk().apply(
      "Nudge", [&](const Session& s) { return nudgeLane(s, s.tracks.front()->id, {4}, {120}); }));
  CHECK_FALSE(takeIt->isEnabled());
  REQUIRE(rig.waitFor([&] { return takeIt->isEnabled(); }));
  CHECK(found->text().contains("420"));
  // What changes elsewhere asks nothing.
  REQUIRE(rig.studio().desk().apply("Rename", [&](const Session& s) {
    return changeLane(s, s.tracks.front()->id, {2}, {.name = "other"});
  }));
  CHECK(takeIt->isEnabled());
  QTest::mouseClick(takeIt, Qt::LeftButton);
  CHECK(rig.lane(4).clips.front().origin == Frames{0});
  CHECK(rig.studio().desk().history().undoLabel() == "Line up lane 4");
}

TEST_CASE("All takes are brought in sight by a key, thirty too; heights are dragged") {
  const TemporaryFolder temporary;
  LanesRig rig(makePhrases(temporary));
  REQUIRE(rig.studio().desk().apply("Many", [](Session s) {
    for (int i = 0; i < 27; ++i)
      s = addFileAsLane(s, s.tracks.front()->id, (*s.pool)[static_cast<std::size_t>(i % 3)], {}, "more");
    return s;
  }));
  rig.window->resize(1280, 1000);
  rig.turn();
  CHECK(rig.lanes().geometry().hiddenHeight() > 0);
  rig.press(Qt::Key_E, Qt::ShiftModifier);
  const LanesGeometry fitted = rig.lanes().geometry();
  CHECK(fitted.hiddenHeight() == 0);
  CHECK(fitted.lanesArea().contains(fitted.rowRect(29).adjusted(0, 0, 0, -1)));
  CHECK(fitted.rowHeight() >= LanesGeometry::smallestRowHeight);
  rig.press(Qt::Key_E, Qt::ShiftModifier);
  CHECK(rig.lanes().geometry().rowHeight() > fitted.rowHeight());
  // The heard take stays in sight while it moves up past all others, and one that moves for it does not.
  rig.studio().inHand().hear(LaneNumber{30});
  for (int row = 28; row >= 0; --row) {
    rig.press(Qt::Key_Up, Qt::ControlModifier);
    REQUIRE(rig.lanes().rows()[static_cast<std::size_t>(row)]->number == LaneNumber{30});
    REQUIRE(rig.lanes().geometry().lanesArea().contains(rig.lanes().laneRect(row).adjusted(0, 0, 0, -1)));
  }
  for (int i = 0; i < 29; ++i) rig.press(Qt::Key_Z, Qt::ControlModifier);
  rig.studio().inHand().hear(std::nullopt);
  CHECK(rig.steps() == 1);

  rig.lanes().verticalScrollBar()->setValue(0);
  const QRect row = rig.lanes().laneRect(0);
  rig.drag(rig.view(), {60, row.bottom() - 1}, {60, row.bottom() + 49});
  CHECK(rig.lanes().geometry().rowHeight() == row.height() + 50);
  CHECK(rig.steps() == 1);  // nothing of it is in the session
  const QRect higher = rig.lanes().laneRect(0);
  rig.drag(rig.view(), {60, higher.bottom() - 1}, {60, higher.bottom() - 400});
  CHECK(rig.lanes().geometry().rowHeight() == LanesGeometry::smallestRowHeight);
}
