// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is chosen from the menus on rulers, punch rows, the song strip and cells, by real events.
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct MenuRig : RoundRig {
  using RoundRig::RoundRig;
  /// Chooses what asks for a text, and answers; says what was there. Empty where there is no such thing.
  std::optional<QString> chooseAndAnswer(QWidget* on, QPoint at, const QString& text, const QString& answer) {
    std::optional<QString> before;
    QTimer asked;
    asked.setInterval(5);
    QObject::connect(&asked, &QTimer::timeout, [&] {
      if (auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget())) {
        before = dialog->textValue();
        dialog->setTextValue(answer);
        dialog->accept();
      }
    });
    asked.start();
    const bool chosen = choose(on, at, text);
    QApplication::setActiveWindow(window.get());
    lanes().setFocus();
    return chosen ? before : std::nullopt;
  }
  /// What the menu holds that its key opens, and where it opens in the lanes; it is closed again.
  std::pair<QStringList, QPoint> byKey() {
    std::pair<QStringList, QPoint> found;
    const auto asked = QObject::connect(
        &lanes(), &LanesView::menuAsked,
        [&](const LanesGeometry::Hit&, QPoint global) { found.second = view()->mapFromGlobal(global); });
    QTimer::singleShot(0, window.get(), [&] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      REQUIRE(menu);
      for (const QAction* each : menu->actions()) found.first << each->text();
      menu->close();
    });
    QContextMenuEvent event(QContextMenuEvent::Keyboard, view()->rect().center(),
                            view()->mapToGlobal(view()->rect().center()));
    QApplication::sendEvent(view(), &event);
    turn();
    QObject::disconnect(asked);
    return found;
  }
  QPoint onStrip(Frames at, int y) {
    SongStrip& song = window->song();
    return {song.left() + static_cast<int>(std::lround(song.scale().x(at))), y};
  }
  std::vector<std::string> markerNames() {
    std::vector<std::string> names;
    for (const Marker& marker : studio().desk().session().markers) names.push_back(marker.name);
    return names;
  }
};

}  // namespace

TEST_CASE("By its key the menu opens of what is in hand, where that is") {
  const TemporaryFolder temporary;
  MenuRig rig(makePhrases(temporary));
  const LanesGeometry now = rig.lanes().geometry();
  rig.studio().transport().locate({100000});
  // Nothing is heard, and no phrase in hand: the composite where the playhead is.
  auto [texts, at] = rig.byKey();
  CHECK(texts.filter("Split here").size() == 1);
  CHECK(now.compositeRect().contains(at));
  CHECK(std::abs(at.x() - now.xOf({100000})) <= 2);
  // A take in a phrase: its cell.
  rig.studio().inHand().takePhrase(rig.phrases()[1]);
  rig.studio().inHand().hear(LaneNumber{2});
  std::tie(texts, at) = rig.byKey();
  CHECK(texts.filter("Rate it higher").size() == 1);
  CHECK(now.rowRect(1).contains(at));
  CHECK(std::abs(at.x() - now.xOf(*rig.studio().inHand().phrasePlace())) <= 2);
  // A join.
  REQUIRE(rig.studio().desk().apply("Pick", [id = rig.track().id](const Session& s) {
    return pick(s, id, {{200000}, {300000}}, LaneNumber{1});
  }));
  rig.studio().inHand().hear(std::nullopt);
  rig.studio().inHand().takeJoin(Frames{300000});
  std::tie(texts, at) = rig.byKey();
  CHECK(texts.filter("A better place").size() == 1);
  CHECK(std::abs(at.x() - now.xOf({300000})) <= 2);
  // Out of sight it opens at the edge.
  rig.studio().inHand().takeJoin(std::nullopt);
  rig.studio().inHand().dropPhrase();
  rig.lanes().showSpan({{200000}, {300000}});
  rig.turn();
  std::tie(texts, at) = rig.byKey();
  CHECK(std::abs(at.x() - now.headWidth) <= 2);
  // Of one the lanes are folded down to nothing, it is the composite's.
  rig.studio().inHand().hear(LaneNumber{2});
  rig.lanes().setFolded(true);
  rig.turn();
  std::tie(texts, at) = rig.byKey();
  CHECK(rig.lanes().geometry().compositeRect().contains(at));
}
