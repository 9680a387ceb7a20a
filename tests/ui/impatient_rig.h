// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollBar>
#include <QSlider>
#include <QSpinBox>
#include <QTableWidget>

#include "ui/recording_rig.h"

namespace yewdrift::test {

/// A window under hands that are busy: presses, moves and keys one by one.
struct ImpatientRig : RecordingRig {
  explicit ImpatientRig(const fs::path& path) : RecordingRig(path) {
    QApplication::setActiveWindow(window.get());
    lanes().setFocus();
    setOptions([](RecordingOptions& o) { o.snap = Snap::Off; });
  }
  QWidget* view() { return lanes().viewport(); }
  void press(QWidget* on, QPoint at, Qt::MouseButton button = Qt::LeftButton) {
    QTest::mousePress(on, button, {}, at);
  }
  void release(QWidget* on, QPoint at, Qt::MouseButton button = Qt::LeftButton) {
    QTest::mouseRelease(on, button, {}, at);
  }
  static void move(QWidget* on, QPoint to, Qt::MouseButtons held = Qt::LeftButton) {
    QMouseEvent event(QEvent::MouseMove, QPointF(to), on->mapToGlobal(QPointF(to)), Qt::NoButton, held, {});
    QApplication::sendEvent(on, &event);
  }
  static void wheel(QWidget* on, QPoint angle, QPoint pixels = {}, Qt::KeyboardModifiers modifiers = {}) {
    const QPointF at = QRectF(on->rect()).center();
    QWheelEvent event(at, on->mapToGlobal(at), pixels, angle, Qt::NoButton, modifiers, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(on, &event);
  }
  /// A key at whatever has the focus, as the window system brings it; `times` of it are repeats.
  void press(int key, Qt::KeyboardModifiers modifiers = {}, int times = 1) {
    const QString text = key >= Qt::Key_A && key <= Qt::Key_Z && !(modifiers & Qt::ControlModifier)
                             ? QString(QChar(key)).toLower()
                             : QString();
    for (int i = 0; i < times; ++i) {
      QWidget* focus = QApplication::focusWidget();
      if (!qt_sendShortcutOverrideEvent(focus, 0, key, modifiers, text, i > 0, 1)) {
        QKeyEvent event(QEvent::KeyPress, key, modifiers, text, i > 0);
        QApplication::sendEvent(QApplication::focusWidget(), &event);
      }
      turn();
    }
  }
  /// Chooses from the menu that opens on a right click there, or from one within it. False where it has
  /// nothing of that name.
  bool choose(QWidget* on, QPoint at, const QString& text) {
    wait(64);
    bool chosen = false;
    QTimer::singleShot(0, window.get(), [&] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      REQUIRE(menu);
      QAction* found = nullptr;
      const std::function<void(const QMenu&)> look = [&](const QMenu& in) {
        for (QAction* each : in.actions()) {
          const QString path = in.title().isEmpty() ? each->text() : in.title() + "/" + each->text();
          if (path.contains(text) && each->isEnabled() && !each->menu()) found = each;
          if (each->menu()) look(*each->menu());
        }
      };
      look(*menu);
      chosen = found != nullptr;
      if (found) found->trigger();
      menu->close();
    });
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, on->mapToGlobal(at));
    QApplication::sendEvent(on, &event);
    turn();
    return chosen;
  }
  /// Types into what has the focus.
  void type(const QString& text) { QTest::keyClicks(QApplication::focusWidget(), text); }
  template <typename Widget>
  Widget* named(const QString& name) {
    for (const bool visible : {true, false})
      for (auto* each : window->findChildren<Widget*>())
        if (each->accessibleName() == name && each->isVisible() == visible) return each;
    FAIL("nothing is called " << name.toStdString());
    return nullptr;
  }
  std::size_t steps() { return studio().desk().history().doneCount(); }
  std::size_t markers() { return studio().desk().session().markers.size(); }
  std::vector<Frames> joins() {
    std::vector<Frames> found;
    for (const Join& join : studio().inHand().composite(track()).joins) found.push_back(join.at);
    return found;
  }
  void addSecondTrack() {
    REQUIRE(studio().desk().apply("Add", [](Session s) {
      s = addTrack(std::move(s), "Second", microphonesFor(1));
      for (std::size_t i = 0; i < 2; ++i) s = addFileAsLane(s, s.tracks.back()->id, (*s.pool)[i], {}, "take");
      return s;
    }));
    turn();
  }
};

}  // namespace yewdrift::test
