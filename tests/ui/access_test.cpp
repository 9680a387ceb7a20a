// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a screen reader finds: everything has a name, and a value where it shows one; colours can be told
// apart (WCAG 2.2: 1.4.3 text 4.5:1, 1.4.11 controls and graphics 3:1).
#include <QAccessible>
#include <QStyle>
#include <cmath>
#include "ui/ui_tests.h"

#include "app/look/system_theme.h"
#include "ui/every_dialog.h"

namespace {

struct Walk {
  int objects = 0;
  QStringList nameless;
  void through(QAccessibleInterface* at, const QString& path) {
    if (!at || !at->isValid()) return;
    const QAccessible::State state = at->state();
    if (state.invisible) return;
    ++objects;
    const QString name = at->text(QAccessible::Name);
    const QString here = path + "/" + (name.isEmpty() ? QString::number(at->role(), 16) : name);
    switch (at->role()) {
      case QAccessible::Button:
      case QAccessible::CheckBox:
      case QAccessible::ComboBox:
      case QAccessible::EditableText:
      case QAccessible::Slider:
      case QAccessible::SpinBox:
      case QAccessible::Table:
      case QAccessible::List:
      case QAccessible::ListItem:
      case QAccessible::Indicator:
      case QAccessible::ProgressBar:
      case QAccessible::Graphic:
      case QAccessible::MenuItem:
      case QAccessible::PageTab:
        if (name.trimmed().isEmpty()) nameless << here;
        break;
      default:
        break;
    }
    if (at->role() == QAccessible::Graphic || at->role() == QAccessible::Indicator)
      if (at->text(QAccessible::Value).isEmpty()) nameless << here + " (no value)";
    // What fields are made of is theirs to tell.
    if (at->role() == QAccessible::SpinBox || at->role() == QAccessible::ComboBox) return;
    for (int i = 0; i < at->childCount(); ++i) through(at->child(i), here);
  }
};

/// Relative luminance and contrast ratio after WCAG 2.2.
double luminance(const QColor& colour) {
  const auto part = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
  return 0.2126 * part(colour.redF()) + 0.7152 * part(colour.greenF()) + 0.0722 * part(colour.blueF());
}

double contrast(const QColor& a, const QColor& b) {
  const double light = std::max(luminance(a), luminance(b));
  const double dark = std::min(luminance(a), luminance(b));
  return (light + 0.05) / (dark + 0.05);
}

}  // namespace

TEST_CASE("Everything that can be reached or read has a name, and a value where it shows one") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Pick", [=](const Session& s) {
    return pick(s, id, {{100000}, {200000}}, LaneNumber{1});
  }));
  rig.studio().inHand().takeJoin(Frames{200000});
  rig.studio().messages().warn("The disk is full.");
  for (int page = 0; page < rig.window->bench().count(); ++page) {
    rig.window->bench().setCurrentIndex(page);
    rig.turn();
    Walk walk;
    walk.through(QAccessible::queryAccessibleInterface(rig.window.get()), {});
    INFO("page " << page << ": " << walk.nameless.join("\n").toStdString());
    CHECK(walk.nameless.isEmpty());
    CHECK(walk.objects > 60);
  }
}

TEST_CASE("Every control of the dialogs has a name") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const EveryDialog dialogs(rig);
  for (QWidget* dialog : dialogs.all()) {
    REQUIRE(dialog->isVisible());
    Walk walk;
    walk.through(QAccessible::queryAccessibleInterface(dialog), {});
    INFO(dialog->windowTitle().toStdString() << ": " << walk.nameless.join("\n").toStdString());
    CHECK(walk.nameless.isEmpty());
    CHECK(walk.objects > 5);
  }
}

TEST_CASE("Takes, pieces and joins are read, found and acted on where they are shown") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Pick", [=](const Session& s) {
    return pick(s, id, {{96000}, {192000}}, LaneNumber{1});
  }));
  rig.turn();
  QAccessibleInterface* lanes = QAccessible::queryAccessibleInterface(&rig.lanes());
  REQUIRE(lanes);
  QStringList names;
  for (int i = 0; i < lanes->childCount(); ++i) names << lanes->child(i)->text(QAccessible::Name);
  REQUIRE(names.size() == 3 + 3 + 2);
  CHECK(names[0].startsWith("Lane 1"));
  CHECK(names[3] == "Piece from lane 3");
  CHECK(names[4] == "Piece from lane 1");
  CHECK(names[6] == "Join at 2|1");
  CHECK(lanes->child(4)->text(QAccessible::Description) == "2|1 to 3|1, picked");
  CHECK(lanes->child(5)->text(QAccessible::Description).endsWith(", the newest take"));
  CHECK(lanes->child(0)->text(QAccessible::Value).contains("plays 2|1 to 3|1"));
  CHECK(lanes->text(QAccessible::Value).contains("the composite is heard"));
  CHECK(lanes->indexOfChild(lanes->child(5)) == 5);
  CHECK(lanes->child(1)->parent() == lanes);
  const QRect row = lanes->child(1)->rect();
  CHECK(row.topLeft() == rig.view()->mapToGlobal(rig.lanes().laneRect(1).topLeft()));
  CHECK(lanes->childAt(row.center().x(), row.center().y()) == lanes->child(1));
  const auto press = [&](int index) {
    auto* action = lanes->child(index)->actionInterface();
    REQUIRE(action);
    action->doAction(QAccessibleActionInterface::pressAction());
  };
  press(1);
  CHECK(rig.studio().inHand().heardLane() == LaneNumber{2});
  CHECK(lanes->child(1)->state().selected);
  CHECK(lanes->child(1)->text(QAccessible::Value).startsWith("is heard"));
  CHECK_FALSE(lanes->child(0)->state().selected);
  press(4);
  CHECK(rig.studio().inHand().selection() == Span{{96000}, {192000}});
  press(7);
  CHECK(rig.studio().inHand().join() == Frames{192000});
  CHECK(lanes->child(7)->state().selected);
}

TEST_CASE(
    "State, position, measures and levels are read as they are now; Play is called Stop while it plays") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  rig.turn();
  const auto value = [&](QWidget* of) {
    return QAccessible::queryAccessibleInterface(of)->text(QAccessible::Value);
  };
  auto* state = rig.window->findChild<RecordState*>();
  CHECK(value(state) == "Ready");
  CHECK(value(rig.named<QLabel>("Position in bars and beats")) == "2|1");
  CHECK(value(rig.named<QLabel>("What will be recorded")).contains("Viola"));
  CHECK(value(&rig.window->song()).contains("playhead at 2|1"));
  CHECK(rig.named<QToolButton>("Play"));
  rig.press(Qt::Key_Space);
  rig.wait(300);
  CHECK(rig.named<QToolButton>("Stop"));
  CHECK(value(state).startsWith("Playing"));
  QAccessibleInterface* meter = QAccessible::queryAccessibleInterface(rig.named<LevelMeter>("Output left"));
  REQUIRE(meter->valueInterface());
  CHECK(meter->valueInterface()->currentValue().toDouble() > -40.0);
  CHECK(meter->text(QAccessible::Value).contains("dB"));
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
  rig.press(Qt::Key_N, Qt::ShiftModifier);
  rig.wait(100);
  CHECK_FALSE(value(state).startsWith("Ready"));
  rig.press(Qt::Key_Space);
  REQUIRE(rig.settled());
}

TEST_CASE("Every pair of colours can be told apart in both themes, by text 4.5 to 1, by controls 3 to 1") {
  for (const Theme& theme : {lightTheme(), darkTheme()}) {
    const std::array grounds{theme.window, theme.surface, theme.sunken};
    for (const QColor& ground : grounds) {
      INFO((theme.dark ? "dark, on " : "light, on ") << ground.name().toStdString());
      CHECK(contrast(theme.text, ground) >= 4.5);
      CHECK(contrast(theme.faintText, ground) >= 4.5);
      for (const QColor& graphic : {theme.control, theme.inHand, theme.chosen, theme.recording})
        CHECK(contrast(graphic, ground) >= 3.0);
    }
    CHECK(contrast(theme.onInHand, theme.inHand) >= 4.5);
    CHECK(contrast(theme.onChosen, theme.chosen) >= 4.5);
    CHECK(contrast(theme.onRecording, theme.recording) >= 4.5);
    CHECK(contrast(theme.window, theme.text) >= 4.5);  // an urgent message
  }
}

TEST_CASE("As the system: its portal counts before the colours it hands out") {
  const QColor light("#f0f0f0");
  const QColor dark("#202020");
  CHECK_FALSE(desktopIsDark(std::nullopt, light));
  CHECK(desktopIsDark(std::nullopt, dark));
  CHECK(desktopIsDark(1U, light));
  CHECK_FALSE(desktopIsDark(2U, dark));
  CHECK(desktopIsDark(0U, dark));
  CHECK_FALSE(desktopIsDark(0U, light));
}
