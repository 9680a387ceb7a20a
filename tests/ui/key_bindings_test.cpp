// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every key can be another, lasts, and does one thing only.

#include "ui/ui_tests.h"

#include "app/dialogs/keys_dialog.h"
#include "ui/impatient_rig.h"

namespace {

struct Keys {
  Keys() {
    for (const auto& [action, key] :
         {std::pair{&play, Qt::Key_Space}, {&pick, Qt::Key_F}, {&mark, Qt::Key_B}})
      action->setShortcut(key);
    step.setShortcuts({Qt::Key_E, Qt::Key_Up});
    bindings.take({&play, &pick, &mark, &step});
  }
  QAction play{"Play"};
  QAction pick{"Pick"};
  QAction mark{"Mark"};
  QAction step{"Step"};
  KeyBindings bindings;
};

QAction* named(MainWindow& window, const QString& text) {
  for (QAction* each : window.keyedActions())
    if (each->text() == text) return each;
  return nullptr;
}

}  // namespace

TEST_CASE("A key that is given to an action is taken from the one that had it; one key does one thing") {
  Keys keys;
  CHECK(keys.bindings.assign(keys.pick, Qt::Key_P) == nullptr);
  CHECK(keys.pick.shortcut() == QKeySequence(Qt::Key_P));
  CHECK(keys.bindings.isChanged(keys.pick));
  CHECK(keys.bindings.assign(keys.pick, Qt::Key_Up) == &keys.step);
  CHECK(keys.step.shortcuts() == QList<QKeySequence>{Qt::Key_E});
  CHECK(keys.bindings.assign(keys.mark, Qt::Key_Space) == &keys.play);
  CHECK(keys.play.shortcuts().isEmpty());
  CHECK(KeyBindings::keysOf(keys.play).isEmpty());
  // Taken back, it is taken from the other again.
  keys.bindings.reset(keys.play);
  CHECK(keys.play.shortcut() == QKeySequence(Qt::Key_Space));
  CHECK(keys.mark.shortcuts().isEmpty());
  keys.bindings.resetAll();
  CHECK(keys.mark.shortcut() == QKeySequence(Qt::Key_B));
  CHECK(keys.step.shortcuts() == QList<QKeySequence>{Qt::Key_E, Qt::Key_Up});
  CHECK_FALSE(keys.bindings.isChanged(keys.step));
}

TEST_CASE(
    "Changed keys last, none is remembered too, and what was bound twice in the settings is bound once") {
  {
    Keys keys;
    keys.bindings.assign(keys.pick, QKeySequence(Qt::CTRL | Qt::Key_9));
    keys.bindings.assign(keys.mark, {});
  }
  {
    Keys keys;
    CHECK(keys.pick.shortcut() == QKeySequence(Qt::CTRL | Qt::Key_9));
    CHECK(keys.mark.shortcuts().isEmpty());
    CHECK(keys.step.shortcuts().size() == 2);
    keys.bindings.reset(keys.mark);
  }
  CHECK(Keys().mark.shortcut() == QKeySequence(Qt::Key_B));
  QSettings settings;
  for (const QString& key : settings.allKeys()) settings.setValue(key, "Space");
  const Keys keys;
  CHECK(keys.play.shortcut() == QKeySequence(Qt::Key_Space));
  CHECK(keys.pick.shortcuts().isEmpty());
}

TEST_CASE("In the overview a key is pressed and holds at once, in the window, its tips and the next one") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  {
    ImpatientRig rig(path);
    rig.press(Qt::Key_F1);
    auto* dialog = rig.window->findChild<KeysDialog*>();
    REQUIRE(dialog);
    auto* table = dialog->findChild<PlainTable*>();
    auto* search = dialog->findChild<QLineEdit*>();
    search->setText("Drop a marker");
    int row = -1;
    int shown = 0;
    for (int i = 0; i < table->rowCount(); ++i)
      if (!table->isRowHidden(i)) {
        row = i;
        ++shown;
      }
    CHECK(shown == 1);
    CHECK(table->item(row, 1)->text() == "H");
    table->setCurrentCell(row, 1);
    rig.wait(64);
    const QRect cell = table->visualItemRect(table->item(row, 1));
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, cell.center());
    QTest::mouseDClick(table->viewport(), Qt::LeftButton, {}, cell.center());
    auto* field = dialog->findChild<KeyField*>();
    REQUIRE(field);
    QTest::keyClick(field, Qt::Key_F);
    rig.wait(64);
    CHECK(table->item(row, 1)->text() == "F");
    QString told;
    for (auto* label : dialog->findChildren<QLabel*>())
      if (label->accessibleName() == "What became of a key") told = label->text();
    CHECK(told.contains("Pick the take that is heard"));
    dialog->close();
    rig.turn();
    QApplication::setActiveWindow(rig.window.get());
    rig.lanes().setFocus();
    const std::size_t markers = rig.markers();
    rig.press(Qt::Key_H);
    CHECK(rig.markers() == markers);
    rig.press(Qt::Key_F);
    CHECK(rig.markers() == markers + 1);
    CHECK(named(*rig.window, "Drop a marker")->toolTip().contains("(F)"));
    CHECK_FALSE(named(*rig.window, "Pick the take that is heard")->toolTip().contains("(F)"));
  }
  ImpatientRig again(path);
  const std::size_t markers = again.markers();
  again.press(Qt::Key_F);
  CHECK(again.markers() == markers + 1);
}
