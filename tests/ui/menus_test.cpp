// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is chosen from the menus on rulers, punch rows, the song strip and cells, by real events.
#include <QInputDialog>
#include <catch2/catch.hpp>

#include "core/edit/edit.h"
#include "ui/round_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

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

TEST_CASE("Markers are called something else, and go, from the menu of either ruler") {
  const TemporaryFolder temporary;
  MenuRig rig(makePhrases(temporary));
  REQUIRE(rig.studio().desk().apply("M", [](const Session& s) {
    return addMarker(addMarker(addMarker(s, {50000}, "a"), {200000}, "b"), {400000}, "c");
  }));
  rig.turn();
  const std::size_t before = rig.steps();
  const int ruler = rig.lanes().geometry().rulerRect().center().y();
  const auto onRuler = [&](Frames at) { return QPoint(rig.lanes().xOf(at), ruler); };
  CHECK(rig.chooseAndAnswer(rig.view(), onRuler({200000}), "\"b\" something else", "Bridge ") ==
        QString("b"));
  CHECK(rig.markerNames() == std::vector<std::string>{"a", "Bridge", "c"});
  CHECK(rig.steps() == before + 1);
  // Only those that lie where the pointer is.
  CHECK_FALSE(rig.choose(rig.view(), onRuler({200000}), "Remove the marker \"a\""));
  CHECK_FALSE(rig.choose(rig.view(), onRuler({300000}), "Remove the marker"));
  CHECK(rig.choose(rig.view(), onRuler({400000}), "Remove the marker \"c\""));
  CHECK(rig.choose(&rig.window->song(), rig.onStrip({50000}, 8), "Remove the marker \"a\""));
  CHECK(rig.markerNames() == std::vector<std::string>{"Bridge"});
  CHECK(rig.steps() == before + 3);
  // A new one lies where the pointer is, not where the playhead is.
  CHECK(rig.choose(rig.view(), onRuler({120000}), "Drop a marker here"));
  CHECK(std::abs(rig.studio().desk().session().markers.front().at.count - 120000) <=
        static_cast<std::int64_t>(rig.lanes().scale().framesPerPixel) + 1);
  QApplication::setActiveWindow(rig.window.get());
  rig.lanes().setFocus();
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(rig.markerNames() == std::vector<std::string>{"Bridge"});
  // What went while a menu was open is said to be gone, and nothing else goes in its place.
  QTimer::singleShot(0, rig.window.get(), [&] {
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    REQUIRE(menu);
    REQUIRE(rig.studio().desk().bringIn(
        "Other", [](const Session& s) { return addMarker(removeMarkers(s, {0}), {200000}, "other"); }));
    for (QAction* each : menu->actions())
      if (each->text().startsWith("Remove the marker")) each->trigger();
    menu->close();
  });
  QContextMenuEvent event(QContextMenuEvent::Mouse, onRuler({200000}),
                          rig.view()->mapToGlobal(onRuler({200000})));
  QApplication::sendEvent(rig.view(), &event);
  rig.turn();
  CHECK(rig.markerNames() == std::vector<std::string>{"other"});
  CHECK(rig.window->message().contains("That marker is gone"));
}

TEST_CASE("The song strip's menus: the loop, punches, and what a track's own menu holds") {
  const TemporaryFolder temporary;
  MenuRig rig(makePhrases(temporary));
  rig.addSecondTrack();
  rig.studio().inHand().takeTrack(rig.studio().desk().session().tracks.front()->id);
  SongStrip& song = rig.window->song();
  const bool looping = rig.studio().transport().looping();
  CHECK(rig.choose(&song, rig.onStrip({100000}, 8), "Loop"));
  CHECK(rig.studio().transport().looping() != looping);
  REQUIRE(rig.studio().desk().apply("P", [](const Session& s) {
    return setPunches(s, {{Frames{100000}, Frames{200000}}, {Frames{300000}, std::nullopt}});
  }));
  rig.turn();
  const int punches = song.punchRowY();
  CHECK_FALSE(rig.choose(&song, rig.onStrip({250000}, punches), "Remove this punch"));
  CHECK(rig.choose(&song, rig.onStrip({150000}, punches), "Remove this punch"));
  CHECK(rig.studio().desk().session().punches == std::vector<Punch>{{Frames{300000}, std::nullopt}});
  // In the takes' own punch row too; an open end reaches as far as there is anything.
  const int row = rig.lanes().geometry().punchRowRect().center().y();
  CHECK(rig.choose(rig.view(), {rig.lanes().xOf({440000}), row}, "Remove this punch"));
  CHECK(rig.studio().desk().session().punches.empty());
  // On a track's row it is taken in hand, and its menu opens.
  const int second = song.height() - 8;
  CHECK(rig.choose(&song, rig.onStrip({100000}, second), "Duplicate"));
  CHECK(rig.studio().desk().session().tracks.size() == 3);
  CHECK(rig.studio().desk().session().tracks[2]->name.find("Second") != std::string::npos);
}

TEST_CASE("What is chosen from a cell's menu is done with that take in that phrase") {
  const TemporaryFolder temporary;
  MenuRig rig(makePhrases(temporary));
  const std::vector<Phrase> phrases = rig.phrases();

  rig.studio().inHand().takePhrase(phrases[0]);
  rig.turn();
  const auto middle = [](const Phrase& phrase) {
    return phrase.span.start + Frames{phrase.span.length().count / 2};
  };
  const auto cell = [&](int lane, std::size_t phrase) {
    return cellOf(*rig.track().lane(LaneNumber{lane}), phrases[phrase]);
  };
  const QPoint second = rig.inLane(1, middle(phrases[1]));
  CHECK(rig.choose(rig.view(), second, "Rate it higher"));
  const int heard = rig.studio().inHand().heardLane()->value;
  REQUIRE(cell(heard, 1));
  CHECK(cell(heard, 1)->rating == 1);
  CHECK(cell(heard, 0) == nullptr);
  // A word on it: it is there to be changed, and emptied it goes.
  CHECK(rig.chooseAndAnswer(rig.view(), second, "Note on it in this phrase", " breath before ") == QString());
  CHECK(cell(heard, 1)->note == "breath before");
  CHECK(cell(heard, 1)->rating == 1);
  CHECK(rig.chooseAndAnswer(rig.view(), second, "Note on it in this phrase", "") == QString("breath before"));
  CHECK(cell(heard, 1)->note.empty());
  rig.press(Qt::Key_Z, Qt::ControlModifier);
  CHECK(cell(heard, 1)->note == "breath before");
  // In another take and phrase.
  CHECK(rig.choose(rig.view(), rig.inLane(0, middle(phrases[2])), "Pick the take"));
  const int other = rig.studio().inHand().heardLane()->value;
  CHECK(other != heard);
  CHECK(rig.studio().inHand().composite(rig.track()).pieceAt(middle(phrases[2]))->lane == LaneNumber{other});
  // What was selected stays so, where the menu opens in it.
  const Span selected{middle(phrases[0]), middle(phrases[2])};
  rig.studio().inHand().dropPhrase();
  rig.studio().inHand().select(selected);
  rig.turn();
  CHECK(rig.choose(rig.view(), second, "Mute the take"));
  CHECK(rig.studio().inHand().selection() == selected);
}

TEST_CASE("A head lies at no place in the song: its menu leaves the phrase in hand, and is of that one") {
  const TemporaryFolder temporary;
  MenuRig rig(makePhrases(temporary));
  const std::vector<Phrase> phrases = rig.phrases();
  InHand& inHand = rig.studio().inHand();
  const auto onHead = [&](int row) { return QPoint(40, rig.lanes().geometry().rowRect(row).center().y()); };
  const auto cell = [&](int lane, std::size_t phrase) {
    return cellOf(*rig.track().lane(LaneNumber{lane}), phrases[phrase]);
  };
  inHand.takePhrase(phrases[1]);
  rig.turn();
  CHECK(rig.choose(rig.view(), onHead(1), "Rate it higher"));
  const int heard = inHand.heardLane()->value;
  REQUIRE(inHand.phrase());
  CHECK(inHand.phrase()->span == phrases[1].span);
  REQUIRE(cell(heard, 1));
  CHECK(cell(heard, 1)->rating == 1);
  CHECK(rig.chooseAndAnswer(rig.view(), onHead(1), "Note on it in this phrase", "warm") == QString());
  REQUIRE(cell(heard, 1));
  CHECK(cell(heard, 1)->note == "warm");
  CHECK(rig.choose(rig.view(), onHead(1), "Pick the take"));
  const ResolvedComposite picked = inHand.composite(rig.track());
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    CHECK((picked.pieceAt(phrases[i].span.start)->picked) == (i == 1));
    CHECK((cell(heard, i) != nullptr) == (i == 1));
  }
  // What was selected stays so, whatever lies at the left edge of what is seen.
  const Span selected{phrases[2].span.start, phrases[2].span.end};
  inHand.dropPhrase();
  inHand.select(selected);
  rig.turn();
  CHECK(rig.choose(rig.view(), onHead(0), "Mute the take"));
  CHECK(inHand.selection() == selected);
  // The composite's head splits where the playhead is, not where nobody pointed.
  rig.studio().transport().locate(phrases[2].span.start + Frames{4000});
  rig.turn();
  const QPoint name(40, rig.lanes().geometry().compositeRect().center().y());
  CHECK_FALSE(rig.choose(rig.view(), name, "Split here"));
  CHECK(rig.choose(rig.view(), name, "Split at the playhead"));
  const ResolvedComposite split = inHand.composite(rig.track());
  // To the nearest zero crossing.
  const Frames place = phrases[2].span.start + Frames{4000};
  CHECK(std::abs((split.pieceAt(place + Frames{100})->span.start - place).count) < 100);
  CHECK(split.pieces.size() == picked.pieces.size() + 1);
}

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
