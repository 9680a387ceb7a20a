// SPDX-License-Identifier: GPL-3.0-or-later
//
// docs/screenshots shows the window as it is. The program that makes these pictures uses the whole window on
// the demo session, so that whatever is painted otherwise than before is seen here, and is looked at before
// it is kept.
#include <QImage>

#include "ui/ui_tests.h"

namespace {

/// How many pixels differ visibly. What processors reckon a little differently is not visible.
int differingPixels(const QImage& a, const QImage& b) {
  int differing = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const QColor one = a.pixelColor(x, y);
      const QColor other = b.pixelColor(x, y);
      const int most = std::max({std::abs(one.red() - other.red()), std::abs(one.green() - other.green()),
                                 std::abs(one.blue() - other.blue())});
      differing += most > 8 ? 1 : 0;
    }
  return differing;
}

}  // namespace

TEST_CASE("screenshots: the pictures of the documents show the window as it is") {
  const TemporaryFolder temporary;
  const std::string programs = YEWDRIFT_PROGRAMS;
  const std::string session = "'" + (temporary / "The Lantern Ferry").string() + "'";
  const ToolResult result = shell(programs + "/yewdrift-demo-session " + session + " && " + programs +
                                  "/yewdrift-screenshots " + session + " " + temporary.path().string());
  INFO(result.out << result.err);
  REQUIRE(result.status == 0);
  const QDir made(QString::fromStdString(temporary.path().string()));
  const QStringList names = made.entryList({"*.png"});
  REQUIRE(names.size() == 16);
  for (const QString& name : names) {
    const QImage now(made.filePath(name));
    const QImage kept(QString(YEWDRIFT_SCREENSHOTS) + "/" + name);
    INFO("docs/screenshots/"
         << name.toStdString()
         << " is not what the window shows now: run scripts/screenshots.sh, look at the new "
            "pictures, and keep them if they are right.");
    REQUIRE(now.size() == kept.size());
    CHECK(differingPixels(now, kept) <= 12);
  }
}
