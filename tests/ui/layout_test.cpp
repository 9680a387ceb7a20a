// SPDX-License-Identifier: GPL-3.0-or-later
//
// Nothing is cut off and nothing lies over anything else: at four sizes, in both themes, with a large font,
// and in a language whose sentences are 40 % longer.
#include <QGroupBox>
#include "ui/ui_tests.h"

#include "app/pseudo_language.h"
#include "ui/every_dialog.h"

namespace {

QString nameOf(const QWidget& widget) {
  const QString text = widget.property("text").toString();
  return QString("%1 '%2'").arg(widget.metaObject()->className(),
                                widget.accessibleName().isEmpty() ? text : widget.accessibleName());
}

/// What a widget needs to show all of its text.
QSize neededBy(const QWidget& widget) {
  if (qobject_cast<const ElidedLabel*>(&widget)) return {};  // shortens itself, and says the rest in its tip
  if (const auto* label = qobject_cast<const QLabel*>(&widget)) {
    if (label->wordWrap()) return {0, label->heightForWidth(label->width())};
    return label->minimumSizeHint();
  }
  if (qobject_cast<const QAbstractButton*>(&widget)) return widget.minimumSizeHint();
  if (qobject_cast<const QAbstractSpinBox*>(&widget) || qobject_cast<const QComboBox*>(&widget))
    return {0, widget.minimumSizeHint().height()};
  return {};
}

QStringList faultsIn(QWidget& window) {
  QStringList faults;
  for (const QWidget* each : window.findChildren<QWidget*>()) {
    if (!each->isVisible() || each->visibleRegion().isEmpty()) continue;
    const QString name = nameOf(*each);
    const QSize needed = neededBy(*each);
    if (each->width() < needed.width() || each->height() < needed.height())
      faults << QString("%1 is cut off: %2x%3 of %4x%5")
                    .arg(name)
                    .arg(each->width())
                    .arg(each->height())
                    .arg(needed.width())
                    .arg(needed.height());
    const QWidget* parent = each->parentWidget();
    // What is scrolled is not all seen; what is seen lies within its parent.
    const bool inScrollArea = qobject_cast<const QAbstractScrollArea*>(parent->parentWidget());
    if (!inScrollArea && !qobject_cast<const QAbstractScrollArea*>(parent) &&
        !parent->rect().contains(each->geometry()) && parent->layout() && !each->isWindow())
      faults << name + " sticks out of " + nameOf(*parent);
    if (!parent->layout() || each->isWindow()) continue;
    for (const QObject* sibling : parent->children()) {
      const auto* other = qobject_cast<const QWidget*>(sibling);
      if (other && other > each && other->isVisible() && !other->isWindow() &&
          other->geometry().intersects(each->geometry()))
        faults << name + " and " + nameOf(*other) + " lie over each other";
    }
  }
  return faults;
}

void checkPages(ImpatientRig& rig, const QString& what) {
  for (int page = 0; page < rig.window->bench().count(); ++page) {
    rig.window->bench().setCurrentIndex(page);
    rig.turn();
    const QStringList faults = faultsIn(*rig.window);
    INFO(what.toStdString() << ", page " << page << ":\n" << faults.join("\n").toStdString());
    CHECK(faults.isEmpty());
  }
}

/// The dialogs as they open, which have to fit the smallest screen too.
void checkDialogs(ImpatientRig& rig, const QString& what) {
  const EveryDialog dialogs(rig);
  for (QWidget* dialog : dialogs.all()) {
    REQUIRE(dialog->isVisible());
    const QStringList faults = faultsIn(*dialog);
    INFO(what.toStdString() << ", " << dialog->windowTitle().toStdString() << ", " << dialog->width() << "x"
                            << dialog->height() << ":\n"
                            << faults.join("\n").toStdString());
    CHECK(faults.isEmpty());
    CHECK(dialog->width() <= 1024);
    CHECK(dialog->height() <= 700 - 30);  // under a frame's title
  }
}

struct Restored {
  ~Restored() {
    QApplication::setFont(font);
    applyTheme(ThemeChoice::Light);
  }
  QFont font = QApplication::font();
};

}  // namespace

TEST_CASE("Nothing is cut off and nothing overlaps, at any size, in any theme, language or size of letters") {
  const Restored restored;
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  for (const bool pseudo : {false, true}) {
    PseudoLanguage language;
    if (pseudo) QApplication::installTranslator(&language);
    for (const bool dark : {false, true}) {
      if (dark && pseudo) continue;
      applyTheme(dark ? ThemeChoice::Dark : ThemeChoice::Light);
      ImpatientRig rig(path);
      const TrackId id = rig.track().id;
      REQUIRE(rig.studio().desk().apply("Pick", [=](Session s) {
        s = pick(std::move(s), id, {{100000}, {200000}}, LaneNumber{1});
        s = renameTrack(std::move(s), id, "A viola with quite a long name, close to the bridge");
        return addMarker(std::move(s), {1000}, "The boat leaves");
      }));
      rig.studio().inHand().takeJoin(Frames{200000});
      rig.studio().messages().warn(MainWindow::tr("Show the whole song") + " " +
                                   MainWindow::tr("Playhead back to the start"));
      for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080), QSize(3840, 2160)}) {
        rig.window->resize(size);
        rig.turn();
        CHECK(rig.window->size() == size);
        checkPages(rig, QString("%1x%2%3%4")
                            .arg(size.width())
                            .arg(size.height())
                            .arg(dark ? " dark" : "", pseudo ? " pseudo" : ""));
      }
      checkDialogs(rig, pseudo ? "pseudo" : "English");
      rig.studio().desk().undo();
      REQUIRE(rig.studio().desk().flushToDisk());
    }
  }
  // Letters half as large again, on a screen that has room for them.
  QFont large = QApplication::font();
  large.setPointSizeF(large.pointSizeF() * 1.5);
  QApplication::setFont(large);
  ImpatientRig rig(path);
  rig.window->resize(1600, 1000);
  rig.turn();
  CHECK(rig.window->size() == QSize(1600, 1000));
  checkPages(rig, "large letters");
  checkDialogs(rig, "large letters");
}
