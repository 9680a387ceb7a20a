// SPDX-License-Identifier: GPL-3.0-or-later
//
// Random hands in the real window: keys, clicks, drags, wheels, menus and dialogs, at any place and in any
// order, while it plays and records. Whatever they do: the window stays, the session keeps its invariants, is
// the same when it is opened again, and undone to its start it is what it was.
#include <QDialog>
#include <QDir>
#include <QMenuBar>
#include <QTemporaryDir>
#include <iostream>
#include <nlohmann/json.hpp>
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

class RandomHands {
 public:
  RandomHands(ImpatientRig& rig, unsigned seed) : rig_(rig), random_(seed) { watch(); }

  void act() {
    switch (pick(16)) {
      case 0:
      case 1:
        return chooseAction();
      case 2:
      case 3:
        return click();
      case 4:
      case 5:
        return drag();
      case 6:
        return openContextMenu();
      case 7:
        return wheel();
      case 8:
      case 9:
        return pressKey();
      case 10:
        return type();
      case 11:
        return roll();
      case 12:
        return undoOrRedo();
      case 13:
        if (pick(4) == 0) return changeDevice();
        [[fallthrough]];
      case 14:
        if (pick(4) == 0) return changeWindow();
        [[fallthrough]];
      default:
        say("wait");
        return rig_.wait(32 * (1 + pick(60)));
    }
  }
  /// Whatever is open is closed; what rolls is stopped.
  void rest() {
    for (int i = 0; i < 20 && QApplication::activePopupWidget(); ++i)
      QApplication::activePopupWidget()->close();
    for (QWidget* each : QApplication::topLevelWidgets())
      if (each != rig_.window.get() && each->isVisible() && qobject_cast<QDialog*>(each)) each->close();
    rig_.turn();
    rig_.studio().transport().stop();
    REQUIRE(rig_.settled());
    REQUIRE(rig_.waitFor([&] { return !rig_.studio().jobs().busy(); }));
    rig_.studio().desk().dropHeld();
    rig_.turn();
  }
  [[nodiscard]] const std::string& story() const { return story_; }

 private:
  int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
  void say(const std::string& what) {
    story_ += what + "; ";
    if (std::getenv("YEWDRIFT_RANDOM_HANDS_TELL")) std::cerr << what << std::endl;
  }

  /// What waits for an answer in an event loop of its own gets one there.
  void watch() {
    QTimer::singleShot(1, &guard_, [this] {
      watch();
      answer();
    });
  }
  void answer() {
    if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) return answerMenu(*menu);
    if (QWidget* popup = QApplication::activePopupWidget()) {
      QTest::keyClick(popup, pick(2) == 0 ? Qt::Key_Escape : Qt::Key_Return);
      if (popup->isVisible()) popup->close();
      return;
    }
    auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
    if (!dialog) return;
    say("answer " + std::string(dialog->metaObject()->className()));
    // Files beyond the test's own folder are not chosen.
    if (QString(dialog->metaObject()->className()).contains("File") ||
        dialog->inherits("yewdrift::app::NewSessionDialog") || pick(3) == 0)
      return dialog->reject();
    if (auto* line = dialog->findChild<QLineEdit*>()) QTest::keyClicks(line, words());
    dialog->accept();
  }
  void answerMenu(QMenu& menu) {
    std::vector<QAction*> actions;
    const std::function<void(const QMenu&)> collect = [&](const QMenu& in) {
      for (QAction* each : in.actions()) {
        if (each->menu()) collect(*each->menu());
        if (!each->menu() && each->isEnabled() && !each->isSeparator() && allowed(*each))
          actions.push_back(each);
      }
    };
    collect(menu);
    const QPointer<QAction> chosen =
        actions.empty() || pick(6) == 0
            ? nullptr
            : actions[static_cast<std::size_t>(pick(static_cast<int>(actions.size())))];
    while (QWidget* popup = QApplication::activePopupWidget()) popup->close();
    if (!chosen) return;
    say("menu \"" + chosen->text().toStdString() + "\"");
    chosen->trigger();
  }
  static bool allowed(const QAction& action) {
    return action.text() != "Close" && !action.text().contains("folder");
  }

  void chooseAction() {
    std::vector<QAction*> actions;
    for (QAction* each : rig_.window->findChildren<QAction*>())
      if (each->isEnabled() && each->isVisible() && !each->isSeparator() && !each->menu() && allowed(*each))
        actions.push_back(each);
    QAction* const chosen = actions[static_cast<std::size_t>(pick(static_cast<int>(actions.size())))];
    say("action \"" + chosen->text().toStdString() + "\"");
    chosen->trigger();
    rig_.turn();
  }

  /// Some place in some window that takes events now, and what lies there.
  struct Place {
    QPointer<QWidget> widget;
    QPoint at;
  };
  Place somewhere() {
    std::vector<QWidget*> tops;
    for (QWidget* each : QApplication::topLevelWidgets())
      if (each->isVisible() && (each == rig_.window.get() || qobject_cast<QDialog*>(each)))
        tops.push_back(each);
    QWidget* top = tops[static_cast<std::size_t>(pick(static_cast<int>(tops.size())))];
    QPoint at{pick(top->width()), pick(top->height())};
    // Half of the time one of the many small things rather than one of the large ones.
    if (pick(2) == 0) {
      std::vector<QWidget*> all;
      for (QWidget* each : top->findChildren<QWidget*>())
        if (each->isVisible() && each->isEnabled() && !each->visibleRegion().isEmpty()) all.push_back(each);
      if (!all.empty()) {
        const QWidget* const one = all[static_cast<std::size_t>(pick(static_cast<int>(all.size())))];
        const QRect seen = one->visibleRegion().boundingRect();
        at = one->mapTo(top, seen.topLeft() + QPoint(pick(seen.width()), pick(seen.height())));
      }
    }
    QWidget* found = top->childAt(at);
    if (!found) found = top;
    return {found, found->mapFrom(top, at)};
  }
  std::string nameOf(const Place& place) {
    return std::string(place.widget->metaObject()->className()) + " " +
           place.widget->accessibleName().toStdString() + " at " + std::to_string(place.at.x()) + "," +
           std::to_string(place.at.y());
  }
  Qt::KeyboardModifiers modifiers() {
    Qt::KeyboardModifiers held;
    for (const auto each : {Qt::ShiftModifier, Qt::ControlModifier, Qt::AltModifier})
      held.setFlag(each, pick(5) == 0);
    return held;
  }

  void click() {
    const Place place = somewhere();
    if (!place.widget->isEnabled()) return;
    const auto held = modifiers();
    const bool twice = pick(4) == 0;
    say((twice ? "double click on " : "click on ") + nameOf(place));
    QTest::mouseClick(place.widget, Qt::LeftButton, held, place.at);
    if (twice && place.widget) QTest::mouseDClick(place.widget, Qt::LeftButton, held, place.at);
    rig_.turn();
  }
  void drag() {
    const Place place = somewhere();
    if (!place.widget->isEnabled()) return;
    const auto held = modifiers();
    say("drag on " + nameOf(place));
    QTest::mousePress(place.widget, Qt::LeftButton, held, place.at);
    QPoint at = place.at;
    for (int i = pick(8); i >= 0; --i) {
      if (!place.widget) return;
      at += QPoint(pick(201) - 100, pick(61) - 30);
      QMouseEvent move(QEvent::MouseMove, QPointF(at), place.widget->mapToGlobal(QPointF(at)), Qt::NoButton,
                       Qt::LeftButton, held);
      QApplication::sendEvent(place.widget, &move);
      if (pick(3) == 0) rig_.turn();
    }
    // Something else may come before the button is let go.
    if (pick(5) == 0) pressKey();
    if (pick(8) == 0) chooseAction();
    if (place.widget) QTest::mouseRelease(place.widget, Qt::LeftButton, held, at);
    rig_.turn();
  }
  void openContextMenu() {
    const Place place = somewhere();
    say("right click on " + nameOf(place));
    QContextMenuEvent event(QContextMenuEvent::Mouse, place.at, place.widget->mapToGlobal(place.at));
    QApplication::sendEvent(place.widget, &event);
    rig_.turn();
  }
  void wheel() {
    const Place place = somewhere();
    say("wheel on " + nameOf(place));
    QWheelEvent event(QPointF(place.at), place.widget->mapToGlobal(QPointF(place.at)), {},
                      {0, 120 * (pick(9) - 4)}, Qt::NoButton, modifiers(), Qt::NoScrollPhase, false);
    QApplication::sendEvent(place.widget, &event);
    rig_.turn();
  }
  void pressKey() {
    static constexpr std::array keys = {Qt::Key_Space,  Qt::Key_Return,   Qt::Key_Escape,    Qt::Key_Tab,
                                        Qt::Key_Left,   Qt::Key_Right,    Qt::Key_Up,        Qt::Key_Down,
                                        Qt::Key_Home,   Qt::Key_End,      Qt::Key_Backspace, Qt::Key_Delete,
                                        Qt::Key_PageUp, Qt::Key_PageDown, Qt::Key_F2,        Qt::Key_Menu};
    const int which = pick(60);
    const int key = which < static_cast<int>(keys.size()) ? keys[static_cast<std::size_t>(which)]
                    : which < 28                          ? Qt::Key_0 + pick(10)
                                                          : Qt::Key_A + pick(26);
    const auto held = modifiers();
    const QKeySequence sequence(static_cast<int>(key) | static_cast<int>(held.toInt()));
    if (QKeySequence::keyBindings(QKeySequence::Quit).contains(sequence) || !QApplication::focusWidget())
      return;
    say("key " + sequence.toString().toStdString());
    rig_.press(key, held);
  }
  void roll() {
    say("roll");
    app::Studio& studio = rig_.studio();
    if (pick(3) == 0)
      studio.transport().togglePlay();
    else if (pick(2) == 0)
      studio.recording().toggleRecord();
    else
      studio.recording().punchByHand();
    rig_.turn();
  }
  void undoOrRedo() {
    say("undo or redo");
    for (int i = pick(6); i >= 0; --i) rig_.studio().desk().undo();
    if (pick(2) == 0)
      for (int i = pick(6); i >= 0; --i) rig_.studio().desk().redo();
    rig_.turn();
  }
  void changeDevice() {
    say("another device, or none");
    if (pick(3) == 0)
      rig_.studio().device().unplugForTest();
    else
      rig_.studio().device().open(app::AudioChoice{});
    rig_.turn();
  }
  void changeWindow() {
    say("another size");
    rig_.window->resize(600 + pick(1400), 300 + pick(900));
    rig_.turn();
  }
  QString words() {
    static const QStringList texts{"7|2.5", "0:03.2", "-12", "4",    "99999999999",
                                   "",      "tender", "1e9", "a, b", "%1 %n"};
    return texts[pick(static_cast<int>(texts.size()))];
  }
  void type() {
    QWidget* focus = QApplication::focusWidget();
    if (!focus || (!qobject_cast<QLineEdit*>(focus) && !focus->inherits("QAbstractSpinBox")))
      return pressKey();
    const QString text = words();
    say("type \"" + text.toStdString() + "\"");
    if (auto* line = qobject_cast<QLineEdit*>(focus)) line->selectAll();
    QTest::keyClicks(focus, text);
    if (QApplication::focusWidget()) QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    rig_.turn();
  }

  ImpatientRig& rig_;
  std::mt19937 random_;
  std::string story_;
  QObject guard_;
};

int asked(const char* name, int otherwise) {
  const char* const value = std::getenv(name);
  return value ? std::atoi(value) : otherwise;
}

/// Takes of noise, takes of phrases, or nothing at all yet; or a copy of a session that is named.
fs::path makeStart(const TemporaryFolder& temporary, int seed) {
  if (const char* const named = std::getenv("YEWDRIFT_RANDOM_HANDS_SESSION")) {
    fs::copy(named, temporary / "session", fs::copy_options::recursive);
    return temporary / "session";
  }
  if (seed % 3 == 0) return makePhrases(temporary);
  if (seed % 3 == 1) return makeWindowSession(temporary);
  const fs::path path = temporary / "session";
  const Session nothing;
  SessionFolder::create(path, seed % 2 ? addTrack(nothing, "Viola", microphonesFor(2)) : nothing);
  return path;
}

}  // namespace

TEST_CASE("Whatever random hands do in the window, it stays, and the session is whole") {
  const int first = asked("YEWDRIFT_RANDOM_HANDS_SEED", 1);
  // What is typed may name a folder: all of it stays in one that goes.
  const QTemporaryDir home;
  qputenv("HOME", home.path().toUtf8());
  QDir::setCurrent(home.path());
  for (int seed = first; seed < first + asked("YEWDRIFT_RANDOM_HANDS", 4); ++seed) {
    INFO("seed " << seed);
    const TemporaryFolder temporary;
    const fs::path path = makeStart(temporary, seed);
    Session start;
    Session end;
    {
      ImpatientRig rig(path);
      start = rig.studio().desk().session();
      RandomHands hands(rig, static_cast<unsigned>(seed));
      for (int i = 0; i < 150; ++i) {
        hands.act();
        REQUIRE(rig.window->isVisible());
      }
      INFO(hands.story());
      hands.rest();
      end = rig.studio().desk().session();
      CHECK_NOTHROW(checkInvariants(end));
    }
    WindowRig again(path);
    INFO(nlohmann::json::diff(toJson(end), toJson(again.studio().desk().session())).dump());
    CHECK(again.studio().desk().session() == end);
    app::SessionDesk& desk = again.studio().desk();
    for (int i = 0; i < 1000 && desk.history().undoLabel(); ++i) desk.undo();
    Session undone = desk.session();
    undone.recording = start.recording;
    undone.pool = start.pool;
    INFO(nlohmann::json::diff(toJson(start), toJson(undone)).dump());
    CHECK(undone == start);
  }
}
