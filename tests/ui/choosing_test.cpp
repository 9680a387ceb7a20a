// SPDX-License-Identifier: GPL-3.0-or-later
//
// Choosing by piece and by punch, in the window by keys and mouse, with what is heard compared sample by
// sample; gestures are counted as the events that are sent.
#include "ui/ui_tests.h"

#include "core/joins/pick_over.h"
#include "ui/impatient_rig.h"
#include "ui/recording_rig.h"

namespace {

struct ChoosingRig : RecordingRig {
  explicit ChoosingRig(const fs::path& path) : RecordingRig(path) {
    lanes().showSpan({{}, {480000}});
    turn();
  }
  void press(Qt::Key which, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    ++gestures;
    key(which, modifiers);
    turn();
  }
  void click(QPoint at) {
    ++gestures;
    QTest::mouseClick(view(), Qt::LeftButton, Qt::NoModifier, at);
    turn();
  }
  QWidget* view() { return lanes().viewport(); }
  /// From the menu that opens there; false where it has no such thing.
  bool chooseAt(QPoint at, const QString& text) {
    bool chosen = false;
    QTimer::singleShot(0, window.get(), [&] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      REQUIRE(menu);
      for (QAction* each : menu->actions())
        if (each->text() == text && each->isEnabled()) {
          chosen = true;
          each->trigger();
          break;
        }
      menu->close();
    });
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, view()->mapToGlobal(at));
    QApplication::sendEvent(view(), &event);
    QApplication::setActiveWindow(window.get());
    lanes().setFocus();
    turn();
    return chosen;
  }
  InHand& hand() { return studio().inHand(); }
  const Session& session() { return studio().desk().session(); }
  Samples heard() {
    return renderTrack(studio().desk().disk(), session(), "Viola", Span{{}, {480000}}).front();
  }
  std::string plays() {
    std::string text;
    for (const Piece& piece : hand().composite(track()).pieces)
      text += std::to_string(piece.span.start.count) + ":" +
              (piece.lane ? std::to_string(piece.lane->value) : "-") + " ";
    return text;
  }
  int gestures = 0;
};

/// The same but for what lies within `span` and five milliseconds, half a crossfade, on either side.
bool sameOutside(const Samples& a, const Samples& b, const std::vector<Span>& spans) {
  const Frames fade{240};
  for (std::size_t i = 0; i < a.size(); ++i) {
    const Frames at{static_cast<std::int64_t>(i)};
    const bool inside = std::any_of(spans.begin(), spans.end(), [&](Span span) {
      return Span{span.start - fade, span.end + fade}.contains(at);
    });
    if (!inside && a[i] != b[i]) return false;
  }
  return a.size() == b.size();
}

}  // namespace

TEST_CASE("Three rounds over two punches: a pass for each by two keys, and the rest bit for bit as before") {
  const TemporaryFolder temporary;
  ChoosingRig rig(makeWindowSession(temporary));
  const std::vector<Span> punches{{{108000}, {120000}}, {{156000}, {168000}}};
  REQUIRE(rig.studio().desk().apply("P", [&](const Session& s) {
    return setPunches(s, {{punches[0].start, punches[0].end}, {punches[1].start, punches[1].end}});
  }));
  rig.setOptions([](RecordingOptions& o) { o.passes = 3; });
  const Samples before = rig.heard();
  rig.key(Qt::Key_N, Qt::ShiftModifier);
  REQUIRE(rig.settled());
  REQUIRE(rig.waitFor([&] { return rig.studio().recording().settled(); }));
  REQUIRE(rig.track().lanes.size() == 6);
  CHECK(rig.hand().unit() == Unit::Punch);
  CHECK(rig.hand().unitNumber() == 1);
  rig.gestures = 0;
  rig.press(Qt::Key_E);
  rig.press(Qt::Key_F);
  rig.press(Qt::Key_G);
  CHECK(rig.hand().unitNumber() == 2);
  rig.press(Qt::Key_E);
  rig.press(Qt::Key_F);
  CHECK(rig.gestures <= 6);
  CHECK(rig.plays() == "0:3 108000:6 120000:3 156000:5 168000:3 ");
  // What was picked is heard, and nothing else: not the handles between the punches, nor the round before.
  const Samples after = rig.heard();
  CHECK(sameOutside(before, after, punches));
  for (const auto& [lane, punch] : {std::pair{6, punches[0]}, {5, punches[1]}}) {
    const Samples take = rig.samplesOf({lane}, punch == punches[0] ? 0 : 1);
    CHECK(std::equal(take.begin() + 240, take.end() - 240, after.begin() + punch.start.count + 240));
  }
  // Undone one by one, and a punch that is moved meanwhile stays in hand.
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.plays() == "0:3 108000:6 120000:3 156000:6 168000:3 ");
  CHECK(rig.hand().unitNumber() == 2);
  REQUIRE(rig.studio().desk().apply("M", [&](const Session& s) {
    return setPunches(s, {{punches[0].start, punches[0].end}, {Frames{157000}, punches[1].end}});
  }));
  CHECK(rig.hand().unitSpan() == Span{{157000}, {168000}});
  REQUIRE(rig.studio().desk().apply("R", [](const Session& s) { return setPunches(s, {}); }));
  CHECK(rig.hand().unit() == Unit::None);
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("not there any more"));
}

TEST_CASE("Split at a place and choose another take from there: click, split, take key, pick") {
  for (const int takes : {2, 20, 3}) {
    const TemporaryFolder temporary;
    ChoosingRig rig(makeWindowSession(temporary));
    const TrackId id = rig.hand().trackId();
    REQUIRE(rig.studio().desk().apply("T", [&](Session s) {
      for (int lane = 4; lane <= takes; ++lane)
        s = addFileAsLane(std::move(s), id, (*s.pool)[static_cast<std::size_t>(lane % 3)], {}, "take");
      return takes < 3 ? removeLane(std::move(s), id, {3}) : s;
    }));
    const std::string newest = "0:" + std::to_string(takes) + " ";
    const Samples before = rig.heard();
    rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Off; });
    rig.gestures = 0;
    rig.click(rig.inComposite({200000}));
    CHECK(rig.hand().unit() == Unit::Piece);
    rig.press(Qt::Key_C, Qt::ShiftModifier);
    const auto split = rig.hand().unitSpan();
    REQUIRE(split);
    CHECK(std::abs(split->start.count - 200000) < 3000);
    // At a zero crossing of what plays there, where nothing is snapped to.
    const auto at = static_cast<std::size_t>(split->start.count);
    CHECK(before[at - 1] * before[at] <= 0.0F);
    rig.press(Qt::Key_D);
    rig.press(Qt::Key_F);
    CHECK(rig.gestures == 4);
    CHECK(rig.plays() == newest + std::to_string(split->start.count) + ":1 ");
    CHECK(sameOutside(before, rig.heard(), {{split->start, {480000}}}));
    if (takes != 3) continue;
    // The piece stays the stretch in hand however takes come and go; its neighbour does not change with it.
    rig.press(Qt::Key_3);
    rig.press(Qt::Key_F);
    CHECK(rig.heard() == before);
    CHECK(rig.hand().unitSpan()->start == split->start);
    rig.press(Qt::Key_D);
    rig.press(Qt::Key_2);
    rig.press(Qt::Key_F);
    CHECK(rig.plays() == newest + std::to_string(split->start.count) + ":2 ");
    // From piece to piece by the keys that step through phrases.
    rig.press(Qt::Key_S);
    CHECK(rig.hand().unitSpan() == Span{{0}, split->start});
    rig.press(Qt::Key_S);
    CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("no other piece"));
  }
}

TEST_CASE("Drags are caught by edges that are there, leave no sliver, and say when they did nothing") {
  const TemporaryFolder temporary;
  ChoosingRig rig(makeWindowSession(temporary));
  rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Off; });
  const auto shortest = [&] {
    Frames least{maximumPosition};
    for (const Piece& piece : rig.hand().composite(rig.track()).pieces)
      least = std::min(least, piece.span.length());
    return least;
  };
  rig.drag(rig.view(), rig.inLane(0, {100000}), rig.inLane(0, {200000}));
  const QPoint near(2, 0);
  rig.drag(rig.view(), rig.inLane(1, {200000}) + near, rig.inLane(1, {300000}));
  rig.drag(rig.view(), rig.inLane(1, {50000}), rig.inLane(1, {100000}) - near);
  CHECK(shortest() > Frames{2400});
  CHECK(rig.hand().composite(rig.track()).pieces.size() == 5);
  rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Bar; });
  const std::string before = rig.plays();
  rig.drag(rig.view(), rig.inLane(2, {130000}), rig.inLane(2, {140000}));
  CHECK(rig.plays() == before);
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("snap to the same place"));
}

TEST_CASE("Six tracks become one mic set by three gestures, and come back by one") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Write);
    Session session = folder.session();
    for (int i = 0; i < 5; ++i) session = duplicateTrack(session, session.tracks.front()->id);
    folder.commit("Tracks", session);
  }
  ChoosingRig rig(path);
  REQUIRE(rig.session().tracks.size() == 6);
  std::vector<TrackRow*> rows;
  for (auto* row : rig.window->findChildren<TrackRow*>()) rows.push_back(row);
  std::sort(rows.begin(), rows.end(), [](TrackRow* a, TrackRow* b) { return a->y() < b->y(); });
  REQUIRE(rows.size() == 6);
  // On the row itself, beside its controls.
  const QPoint place(4, 8);
  QTest::mouseClick(rows.front(), Qt::LeftButton, Qt::NoModifier, place);
  QTest::mouseClick(rows.back(), Qt::LeftButton, Qt::ShiftModifier, place);
  rig.turn();
  CHECK(rig.hand().tracksInHand().size() == 6);
  rig.key(Qt::Key_M);
  CHECK(std::none_of(rig.session().tracks.begin(), rig.session().tracks.end(),
                     [](const auto& track) { return track->armed; }));
  rig.key(Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
  REQUIRE(rig.session().tracks.size() == 1);
  CHECK(rig.track().microphones.size() == 6);
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.session().tracks.size() == 6);
  // One along, and no more, by Ctrl.
  QTest::mouseClick(rows[1], Qt::LeftButton, Qt::NoModifier, place);
  QTest::mouseClick(rows[3], Qt::LeftButton, Qt::ControlModifier, place);
  CHECK(rig.hand().tracksInHand().size() == 2);
  rig.key(Qt::Key_Down, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(rig.session().tracks[2]->id == rows[1]->track());
  CHECK(rig.session().tracks[4]->id == rows[3]->track());
}

TEST_CASE(
    "On rulers a drag draws, also inside a span; with Ctrl it moves the span; edges are dragged as ever") {
  const TemporaryFolder temporary;
  ChoosingRig rig(makeWindowSession(temporary));
  const auto on = [&](std::int64_t at) {
    return QPoint(rig.lanes().xOf({at}), rig.lanes().rulerRect().center().y());
  };
  rig.setOptions([](RecordingOptions& o) { o.snap = Snap::Beat; });
  REQUIRE(rig.session().loop == Span{{96000}, {192000}});
  rig.drag(rig.view(), on(120000), on(240000));
  CHECK(rig.session().loop == Span{{120000}, {240000}});
  rig.drag(rig.view(), on(168000), on(216000), Qt::ControlModifier);
  CHECK(rig.session().loop == Span{{168000}, {288000}});
  rig.drag(rig.view(), on(288000), on(312000));
  CHECK(rig.session().loop == Span{{168000}, {312000}});
  rig.drag(rig.view(), on(200000), on(203000));
  CHECK(rig.session().loop == Span{{168000}, {312000}});
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("snap to the same place"));
}

TEST_CASE("What is in hand becomes the only punch; fades of many are set at once, and only what is ticked") {
  const TemporaryFolder temporary;
  ChoosingRig rig(makeWindowSession(temporary));
  REQUIRE(rig.studio().desk().apply("P", [&](const Session& s) {
    const TrackId id = rig.hand().trackId();
    return pick(setPunches(s, {{Frames{1000}, Frames{2000}}, {Frames{3000}, Frames{4000}}}), id,
                {{200000}, {300000}}, LaneNumber{1});
  }));
  rig.hand().select(Span{{100000}, {150000}});
  rig.press(Qt::Key_U, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(rig.punches() == std::vector<Punch>{{Frames{100000}, Frames{150000}}});
  rig.hand().letGoOfUnit();
  rig.press(Qt::Key_J, Qt::ControlModifier | Qt::AltModifier);
  auto* dialog = rig.window->findChild<FadesDialog*>();
  REQUIRE(dialog);
  for (auto* field : dialog->findChildren<QDoubleSpinBox*>())
    if (field->accessibleName() == "Length of crossfades") field->setValue(20.0);
  for (auto* button : dialog->findChildren<QPushButton*>())
    if (button->text() == "Set them") QTest::mouseClick(button, Qt::LeftButton);
  rig.turn();
  CHECK_THAT(rig.window->message().toStdString(), Catch::Contains("2 crossfades"));
  for (const Join& join : rig.hand().composite(rig.track()).joins)
    CHECK(join.shape == JoinShape{{480}, {480}, Curve::Matched, 0.0});
  CHECK(rig.track().composite.fadeIn == EndFade{});
}
