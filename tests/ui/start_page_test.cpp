// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is seen without a session: those of late, a new one, another folder, the demo.
#include <QMimeData>
#include <QTest>
#include "ui/ui_tests.h"

#include "app/desk/recent_sessions.h"
#include "app/window/window_place.h"

namespace {

struct StartRig {
  QString make(const std::string& name, int seconds) const {
    const fs::path path = temporary / name;
    SessionFolder folder =
        sessionWithLanes(path, {noise(static_cast<std::size_t>(48000 * seconds), 1, 0.3F),
                                noise(static_cast<std::size_t>(48000 * seconds), 2, 0.3F)});
    Session session = folder.session();
    session.name = name;
    folder.editHistory().replacePresent(session);
    folder.save();
    return QString::fromStdString(path.string());
  }
  StartPage& start() {
    windows.start();
    QTest::qWait(20);
    return page();
  }
  StartPage& page() {
    REQUIRE(windows.startPage());
    return *windows.startPage();
  }
  RecentList& list() { return page().recent(); }
  bool looked() {
    return comesTrueInWindow(
        [&] {
          for (int row = 0; row < list().count(); ++row)
            if (list().seenAt(row).state == RecentList::Seen::State::Looking) return false;
          return true;
        },
        10000);
  }
  [[nodiscard]] bool shows(const QString& folder) const {
    return windows.window() &&
           QString::fromStdString(windows.window()->studio().desk().folderPath().string()) == folder;
  }
  QPushButton* button(const QString& text) {
    for (QPushButton* each : page().findChildren<QPushButton*>())
      if (each->text() == text) return each;
    FAIL("There is no button " << text.toStdString());
    return nullptr;
  }
  TemporaryFolder temporary;
  SessionWindows windows{DeviceDesk::Mode::Absent};
};

}  // namespace

TEST_CASE("The start page of who never opened a session says what to do") {
  StartRig rig;
  StartPage& page = rig.start();
  CHECK(page.isVisible());
  CHECK_FALSE(rig.list().isVisible());
  bool said = false;
  for (const QLabel* label : page.findChildren<QLabel*>())
    said = said || (label->isVisible() && label->text().contains("None yet"));
  CHECK(said);
  for (const char* text : {"New session…", "Open a session…", "The demo: The Lantern Ferry"})
    CHECK(rig.button(text)->isEnabled());
  CHECK(page.message().isEmpty());
}

TEST_CASE("Sessions that were opened are listed, the latest first, with what they hold; Enter opens one") {
  StartRig rig;
  const QString first = rig.make("First", 3);
  const QString second = rig.make("Second", 65);
  for (const QString& folder : {first, second, first}) {
    rig.windows.open(folder, std::nullopt);
    rig.windows.window()->close();
    QTest::qWait(50);
  }
  StartPage& page = rig.start();
  REQUIRE(rig.list().count() == 2);
  CHECK(rig.list().folderAt(0) == first);
  CHECK(rig.list().folderAt(1) == second);
  REQUIRE(rig.looked());
  CHECK(rig.list().spokenAt(0).startsWith("First, 0:03, 1 track, 2 takes, opened "));
  CHECK(rig.list().spokenAt(1).startsWith("Second, 1:05, 1 track, 2 takes, opened "));
  CHECK(rig.list().spokenAt(1).endsWith(second));
  CHECK(rig.list().item(1)->data(Qt::AccessibleTextRole).toString() == rig.list().spokenAt(1));
  REQUIRE(rig.list().seenAt(0).glimpse.rows.size() == 1);
  CHECK(rig.list().seenAt(0).glimpse.rows.front().front().colour == 2);  // the newest take plays

  // The picture is drawn in the colour of the take that plays.
  const QImage drawn = rig.list().viewport()->grab().toImage();
  const QRect box = rig.list().visualItemRect(rig.list().item(0));
  int coloured = 0;
  for (int x = box.left(); x < box.center().x(); ++x)
    for (int y = box.top(); y < box.bottom(); ++y) coloured += drawn.pixelColor(x, y) == takeColour(2);
  CHECK(coloured > 300);

  rig.list().setFocus();
  QTest::keyClick(&rig.list(), Qt::Key_Down);
  QTest::keyClick(&rig.list(), Qt::Key_Return);
  REQUIRE(comesTrueInWindow([&] { return rig.shows(second); }, 5000));
  CHECK_FALSE(rig.windows.startPage());
  (void)page;
}

TEST_CASE("The demo is made on demand, can be cancelled without a trace, and opens as soon as it is there") {
  if (watchesThreads()) {
    WARN("Not under the thread sanitizer: it does not survive a thread that starts another program.");
    return;
  }
  StartRig rig;
  REQUIRE_FALSE(DemoMaker::program().isEmpty());
  fs::remove_all(DemoMaker::folder().toStdString());
  rig.start();
  const QString text = "The demo: The Lantern Ferry";
  QTest::mouseClick(rig.button(text), Qt::LeftButton);
  CHECK(rig.page().message().contains("being made"));
  CHECK_FALSE(rig.button(text)->isEnabled());
  const QString making = DemoMaker::folder() + ".making";
  REQUIRE(comesTrueInWindow([&] { return QFileInfo::exists(making); }, 10000));
  QTest::mouseClick(rig.button("Cancel"), Qt::LeftButton);
  REQUIRE(comesTrueInWindow([&] { return rig.page().message().contains("was not made"); }, 10000));
  CHECK_FALSE(QFileInfo::exists(making));
  CHECK_FALSE(DemoMaker::isThere());
  CHECK(rig.button(text)->isEnabled());

  QTest::mouseClick(rig.button(text), Qt::LeftButton);
  REQUIRE(comesTrueInWindow([&] { return rig.shows(DemoMaker::folder()); }, 120000));
  CHECK_FALSE(QFileInfo::exists(making));
  CHECK(rig.windows.window()->studio().desk().session().name == "The Lantern Ferry");
  CHECK(recent::sessions().front().folder == DemoMaker::folder());
}
