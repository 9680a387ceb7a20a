// SPDX-License-Identifier: GPL-3.0-or-later
//
// The composite in the window: split, merged, slipped; picks over nothing; several of them, by keys and
// menus.
#include <QToolTip>
#include "ui/ui_tests.h"

#include "core/edit/edit_pieces.h"
#include "ui/round_rig.h"

namespace {

struct CompositeRig : RoundRig {
  using RoundRig::RoundRig;
  QPoint inComposite(Frames at) { return {lanes().xOf(at), lanes().compositeRect().center().y()}; }
  QPoint inLane(int index, Frames at) { return {lanes().xOf(at), lanes().laneRect(index).center().y() - 6}; }
  const Piece& piece(Frames at) { return *studio().inHand().composite(track()).pieceAt(at); }
  void drag(QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = {}) {
    QTest::mousePress(view(), Qt::LeftButton, modifiers, from);
    for (int step = 1; step <= 4; ++step) {
      const QPointF at = QPointF(from) + QPointF(to - from) * step / 4.0;
      QMouseEvent event(QEvent::MouseMove, at, view()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                        modifiers);
      QApplication::sendEvent(view(), &event);
    }
    QTest::mouseRelease(view(), Qt::LeftButton, modifiers, to);
    turn();
  }
  /// Answers the question for a name that the key asks.
  void answer(const QString& name, int key, Qt::KeyboardModifiers modifiers) {
    QTimer::singleShot(0, window.get(), [name] {
      auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
      REQUIRE(dialog);
      dialog->setTextValue(name);
      dialog->accept();
    });
    press(key, modifiers);
    QApplication::setActiveWindow(window.get());
    lanes().setFocus();
  }
};

}  // namespace

TEST_CASE(
    "With Ctrl a drag on the composite slips its piece, as far as it has material, and says by how much") {
  const TemporaryFolder temporary;
  CompositeRig rig(makePhrases(temporary));
  REQUIRE(rig.studio().desk().apply("Pick", [](const Session& s) {
    return pick(s, s.tracks.front()->id, {{150000}, {300000}}, LaneNumber{1});
  }));
  const std::size_t before = rig.steps();
  const QPoint from = rig.inComposite({220000});
  const QPoint to = from + QPoint(5, 0);
  const Frames by = rig.lanes().geometry().frameAt(to.x()) - rig.lanes().geometry().frameAt(from.x());
  rig.drag(from, to, Qt::ControlModifier);
  CHECK(rig.piece({220000}).slip == by);
  CHECK(rig.piece({220000}).span == Span{{150000}, {300000}});
  CHECK(rig.steps() == before + 1);
  CHECK_FALSE(rig.studio().inHand().selection());
  // To the left and beyond what there is.
  rig.drag(from, {rig.lanes().xOf({0}) - 400, from.y()}, Qt::ControlModifier);
  CHECK(rig.piece({220000}).slip == Frames{-180000});
  rig.studio().desk().undo();
  CHECK(rig.piece({220000}).slip == by);
  // While it is dragged it is told, and heard; Escape lets it be.
  QTest::mousePress(rig.view(), Qt::LeftButton, Qt::ControlModifier, from);
  rig.move(rig.view(), to);
  rig.move(rig.view(), to + QPoint(20, 0));
  CHECK(rig.piece({220000}).slip > by);
  CHECK(QToolTip::text() == slipInWords(rig.piece({220000}).slip, {48000}));
  rig.press(Qt::Key_Escape);
  QTest::mouseRelease(rig.view(), Qt::LeftButton, Qt::ControlModifier, to);
  CHECK(rig.piece({220000}).slip == by);

  // A millisecond by key, at the playhead.
  rig.studio().transport().locate({220000});
  rig.press(Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
  CHECK(rig.piece({220000}).slip == by - Frames{48});
  CHECK(rig.window->message().contains("ms later"));
  rig.press(Qt::Key_Right, Qt::AltModifier | Qt::ShiftModifier, 2);
  rig.press(Qt::Key_Right, Qt::ShiftModifier);  // some desktops take the other one
  CHECK(rig.piece({220000}).slip == by + Frames{96});
}

TEST_CASE("The composite is faded in and out by grips at its ends") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  const LanesGeometry view = rig.lanes().geometry();
  REQUIRE(view.endFades);
  CHECK(view.endFades->composite == Span{{}, {480000}});
  const int top = rig.lanes().compositeRect().top() + 5;
  const auto grip = [&](Frames at) { return QPoint(rig.lanes().xOf(at), top); };
  rig.drag(rig.view(), grip({}), grip({96000}));
  const Frames in = rig.lanes().geometry().frameAt(grip({96000}).x());
  CHECK(rig.track().composite.fadeIn.length == in);
  CHECK(rig.track().composite.fadeOut.length == Frames{});
  CHECK(rig.steps() == 1);
  CHECK(rig.lanes().spoken().contains(
      QString("the composite fades in over %L1 ms").arg(static_cast<double>(in.count) / 48.0, 0, 'f', 1)));
  CHECK_FALSE(rig.lanes().spoken().contains("fades out"));
  CHECK(rig.studio().desk().history().undoLabel() == "Fade the composite in");
  CHECK(rig.track().composite.picks.empty());
  // From where it is now, and never beyond the composite's end.
  rig.drag(rig.view(), grip(in), grip({48000}));
  CHECK(rig.track().composite.fadeIn.length == rig.lanes().geometry().frameAt(grip({48000}).x()));
  rig.drag(rig.view(), grip(rig.track().composite.fadeIn.length), grip({}) - QPoint(30, 0));
  CHECK(rig.track().composite.fadeIn.length == Frames{});
  const int before = rig.lanes().xOf({480000});
  rig.drag(rig.view(), {before, top}, grip({360000}));
  const Frames out = Frames{480000} - rig.lanes().geometry().frameAt(grip({360000}).x());
  CHECK(rig.track().composite.fadeIn.length == Frames{});
  CHECK(rig.track().composite.fadeOut.length == out);
  CHECK(rig.studio().desk().history().undoLabel() == "Fade the composite out");
  const std::size_t steps = rig.steps();
  rig.press(rig.view(), grip(Frames{480000} - out));
  rig.move(rig.view(), grip({100000}));
  CHECK(rig.track().composite.fadeOut.length > out);
  rig.press(Qt::Key_Escape);
  rig.release(rig.view(), grip({100000}));
  CHECK(rig.track().composite.fadeOut.length == out);
  // Below the grips it is a selection as ever.
  rig.drag(rig.view(), rig.inComposite(Frames{480000} - out), rig.inComposite({200000}));
  CHECK(rig.track().composite.fadeOut.length == out);
  CHECK(rig.studio().inHand().selection());
  CHECK(rig.steps() == steps);
}

TEST_CASE("Composites are kept under names, used in turn, compared and removed, in the window") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  {
    CompositeRig rig(path);
    rig.press(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(rig.window->message().contains("only this composite: keep it under a name (Ctrl+Shift+K)"));
    rig.answer("  Calm ", Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(compositeNames(rig.track()) == std::vector<std::string>{"Composite 1", "Calm"});
    rig.answer("Calm", Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(rig.window->message().contains("has a composite \"Calm\" already"));
    rig.drag(rig.inLane(0, {200000}), rig.inLane(0, {300000}));
    const Span picked = rig.piece({250000}).span;
    CHECK(rig.piece({250000}).lane == LaneNumber{1});
    rig.press(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(rig.window->message().contains("\"Calm\" plays"));
    CHECK(rig.piece({250000}).lane == LaneNumber{3});
    rig.press(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    CHECK(rig.piece({250000}).lane == LaneNumber{1});
    CHECK(rig.choose(rig.view(), rig.inComposite({250000}), "Show where \"Calm\" differs"));
    CHECK(rig.studio().inHand().selection() == picked);
    CHECK(rig.window->message().contains("differs in 1 place"));
    CHECK(rig.choose(rig.view(), rig.inComposite(picked.start + Frames{9000}),
                     "Composites of this track/Calm"));
    CHECK(compositeNames(rig.track()).front() == "Calm");
    CHECK(rig.choose(rig.view(), rig.inComposite(picked.start + Frames{9000}), "Remove \"Composite 1\""));
    CHECK(compositeNames(rig.track()) == std::vector<std::string>{"Calm"});
    rig.studio().desk().undo();
  }
  CompositeRig rig(path);
  CHECK(compositeNames(rig.track()) == std::vector<std::string>{"Calm", "Composite 1"});
}
