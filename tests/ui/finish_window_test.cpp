// SPDX-License-Identifier: GPL-3.0-or-later
//
// Delivering and the audio files, in the window; lines that ride a piece; another composite heard.
#include <QMessageBox>
#include <QTimer>
#include "ui/ui_tests.h"

#include "app/dialogs/deliver_dialog.h"
#include "app/dialogs/files_dialog.h"
#include "ui/round_rig.h"

namespace {

template <typename Button>
Button* buttonIn(QWidget& parent, const QString& text) {
  for (Button* each : parent.findChildren<Button*>())
    if (each->text() == text) return each;
  return nullptr;
}

}  // namespace

TEST_CASE("What is delivered is told beforehand, written in the background, and never in place of anything") {
  const TemporaryFolder temporary;
  RoundRig rig(makePhrases(temporary));
  // A fresh desktop has no folder of documents yet: it is made with the one in it that is named by itself.
  const QByteArray home = qgetenv("HOME");
  qputenv("HOME", (temporary / "home").c_str());
  rig.press(Qt::Key_D, Qt::ControlModifier | Qt::AltModifier);
  auto* dialog = rig.window->findChild<DeliverDialog*>();
  REQUIRE(dialog);
  auto& table = *dialog->findChild<PlainTable*>();
  REQUIRE(rig.waitFor([&] { return table.rowCount() == 7; }));
  CHECK(table.item(0, 0)->text() == "stems/01 Viola.wav");
  // Takes too: three more.
  QTest::mouseClick(buttonIn<QCheckBox>(*dialog, "Takes"), Qt::LeftButton, {}, {8, 8});
  REQUIRE(rig.waitFor([&] { return table.rowCount() == 10; }));
  auto& folder = *dialog->findChild<QLineEdit*>();
  const fs::path to = folder.text().toStdString();
  CHECK(to.string().starts_with((temporary / "home").string()));
  // Not to wherever the program was started.
  for (const char* unknown : {"", "given away", "./x"}) {
    folder.setText(unknown);
    QTest::mouseClick(buttonIn<QPushButton>(*dialog, "Deliver"), Qt::LeftButton);
    CHECK_FALSE(rig.studio().jobs().busy());
    const auto labels = dialog->findChildren<QLabel*>();
    CHECK(std::any_of(labels.begin(), labels.end(),
                      [](const QLabel* label) { return label->text().contains("whole path of a folder"); }));
    CHECK_FALSE(fs::exists(unknown[0] ? unknown : "given away"));
  }
  folder.setText(QString::fromStdString(to.string()));
  QTest::mouseClick(buttonIn<QPushButton>(*dialog, "Deliver"), Qt::LeftButton);
  REQUIRE(
      rig.waitFor([&] { return !rig.studio().jobs().busy() && fs::exists(to / "stems" / "01 Viola.wav"); }));
  CHECK(rig.waitFor([&] { return rig.window->message().startsWith("10 files are delivered to "); }));
  CHECK(readWave(to / "takes" / "01 Viola - take 02 Take 2.wav").front().size() == 480000);
  // Once more into the same folder: refused, and said.
  QTest::mouseClick(buttonIn<QPushButton>(*dialog, "Deliver"), Qt::LeftButton);
  REQUIRE(rig.waitFor(
      [&] { return rig.window->message().contains("is there already, and nothing is replaced"); }));
  qputenv("HOME", home);
  // Nothing chosen, nothing to press.
  for (auto* box : dialog->findChildren<QCheckBox*>())
    if (box->isChecked() && box->text() != "Dither to 16 bit") box->click();
  REQUIRE(rig.waitFor([&] { return !buttonIn<QPushButton>(*dialog, "Deliver")->isEnabled(); }));
  dialog->close();
}

TEST_CASE(
    "The audio files are listed with who uses them; what nobody needs goes to the trash, once that is said") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  RoundRig rig(path);
  const fs::path stray = path / "audio" / "stray.wav";
  fs::copy(path / rig.studio().desk().session().pool->front().path, stray);
  rig.press(Qt::Key_F, Qt::ControlModifier | Qt::AltModifier);
  auto* dialog = rig.window->findChild<FilesDialog*>();
  REQUIRE(dialog);
  auto& table = *dialog->findChild<PlainTable*>();
  REQUIRE(rig.waitFor([&] { return table.rowCount() == 4; }));
  const auto shown = [&](int row) {
    QStringList texts;
    for (int column = 0; column < table.columnCount(); ++column) texts << table.item(row, column)->text();
    return texts;
  };
  CHECK(shown(0).mid(1, 2) == QStringList{"0:10.000", "1 channel, 32-bit float"});
  CHECK(shown(0).mid(4) == QStringList{"there", "Viola, lane 1"});
  CHECK(shown(3)[0] == "audio/stray.wav");
  CHECK(shown(3).mid(4) == QStringList{"there", "nobody"});
  CHECK(shown(3)[3] == QLocale().formattedDataSize(static_cast<qint64>(fs::file_size(stray))));
  ::setenv("XDG_DATA_HOME", (temporary / "data").c_str(), 1);
  auto* trash = buttonIn<QPushButton>(*dialog, "Move unused ones to the trash…");
  REQUIRE(trash->isEnabled());
  // Not now, then yes.
  for (const bool yes : {false, true}) {
    QTimer::singleShot(0, dialog, [&] {
      auto* box = dialog->findChild<QMessageBox*>();
      REQUIRE(box);
      CHECK(box->text().contains("audio/stray.wav"));
      for (auto* each : box->buttons())
        if ((each->text().remove('&') == "Move to the trash") == yes) return each->click();
    });
    trash->click();
    CHECK(fs::exists(stray) != yes);
  }
  ::unsetenv("XDG_DATA_HOME");
  CHECK(fs::exists(temporary / "data" / "Trash" / "files" / "stray.wav"));
  REQUIRE(rig.waitFor([&] { return table.rowCount() == 3; }));
  CHECK_FALSE(trash->isEnabled());
  // What is missing is seen first, and the file in hand stays in hand.
  table.setCurrentCell(0, 0);
  const QString inHand = shown(0)[0];
  fs::remove(path / shown(2)[0].toStdString());
  const QString gone = shown(2)[0];
  QApplication::sendEvent(dialog, std::make_unique<QEvent>(QEvent::WindowActivate).get());
  REQUIRE(rig.waitFor([&] { return shown(0)[4] == "missing"; }));
  CHECK(shown(0)[0] == gone);
  CHECK(shown(table.currentRow())[0] == inHand);
  dialog->close();
}

TEST_CASE(
    "A file of the session is heard by itself, to its end or until it is stopped, and nothing else changes") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  const fs::path quiet = path / "audio" / "quiet.wav";
  writeWave(quiet, {Samples(48000, 0.0F)});
  writeWave(path / "audio" / "right.wav", {Samples(9600, 0.0F), Samples(9600, 0.8F)});
  RoundRig rig(path);
  const Session before = rig.studio().desk().session();
  rig.studio().transport().locate({24000});
  rig.press(Qt::Key_F, Qt::ControlModifier | Qt::AltModifier);
  auto* dialog = rig.window->findChild<FilesDialog*>();
  REQUIRE(dialog);
  auto& table = *dialog->findChild<PlainTable*>();
  REQUIRE(rig.waitFor([&] { return table.rowCount() == 5; }));
  const auto row = [&](const QString& name) {
    for (int i = 0; i < table.rowCount(); ++i)
      if (table.item(i, 0)->text() == name) return i;
    return -1;
  };
  auto& transport = rig.studio().transport();
  // Silence for a second, whatever the session plays there.
  table.setCurrentCell(row("audio/quiet.wav"), 0);
  buttonIn<QPushButton>(*dialog, "Hear it")->click();
  CHECK(transport.heardFile() == "audio/quiet.wav");
  // It has a time of its own: the takes stay where they were looked at.
  rig.lanes().showSpan({{0}, {40000}});
  const Span seen = rig.lanes().visibleSpan();
  CHECK(rig.loudestWithin(700)[0] < 0.001F);
  CHECK(transport.state().rolling);
  CHECK(transport.state().position > seen.end);
  CHECK(rig.lanes().visibleSpan() == seen);
  // Another in its place; stereo stays stereo. It ends by itself, and the playhead is where it was.
  table.setCurrentCell(row("audio/right.wav"), 0);
  table.setFocus();
  QTest::keyClick(&table, Qt::Key_Return);
  const auto loudest = rig.loudestWithin(150);
  CHECK(loudest[0] < 0.001F);
  CHECK(loudest[1] > 0.7F);
  REQUIRE(rig.waitFor([&] { return !transport.state().rolling; }));
  CHECK(transport.heardFile().empty());
  CHECK(rig.waitFor([&] { return transport.state().position == Frames{24000}; }));
  // Stopped by hand, and then the session is heard again.
  table.setCurrentCell(row("audio/quiet.wav"), 0);
  buttonIn<QPushButton>(*dialog, "Hear it")->click();
  rig.wait(100);
  buttonIn<QPushButton>(*dialog, "Stop")->click();
  REQUIRE(rig.waitFor([&] { return !transport.state().rolling; }));
  CHECK(rig.waitFor([&] { return transport.state().position == Frames{24000}; }));
  buttonIn<QPushButton>(*dialog, "Hear it")->click();
  rig.wait(100);
  rig.press(Qt::Key_Space);
  REQUIRE(rig.waitFor([&] { return !transport.state().rolling; }));
  // Recording ends it, and is not ended with the file.
  table.setCurrentCell(row("audio/right.wav"), 0);
  buttonIn<QPushButton>(*dialog, "Hear it")->click();
  rig.wait(60);
  rig.studio().recording().toggleRecord();
  CHECK(rig.studio().recording().recording());
  CHECK(transport.heardFile().empty());
  rig.wait(1500);
  CHECK(rig.studio().recording().recording());
  CHECK_FALSE(buttonIn<QPushButton>(*dialog, "Hear it")->isEnabled());
  CHECK(buttonIn<QPushButton>(*dialog, "Hear it")->toolTip() == "While it is recorded, no file is heard.");
  transport.stop();
  REQUIRE(rig.waitFor([&] { return rig.track().lanes.size() == 4; }));
  rig.studio().desk().undo();
  REQUIRE(rig.waitFor([&] { return row("audio/right.wav") >= 0 && !transport.state().rolling; }));
  REQUIRE(rig.waitFor([&] { return buttonIn<QPushButton>(*dialog, "Hear it")->isEnabled(); }));
  // Going elsewhere ends it, and the playhead is there.
  buttonIn<QPushButton>(*dialog, "Hear it")->click();
  rig.wait(100);
  transport.locate({96000});
  REQUIRE(
      rig.waitFor([&] { return !transport.state().rolling && transport.state().position == Frames{96000}; }));
  transport.togglePlay();
  CHECK(rig.loudestWithin(1500)[0] > 0.05F);
  CHECK(transport.heardFile().empty());
  transport.stop();
  CHECK((rig.track() == *before.tracks.front()));
  dialog->close();
}
