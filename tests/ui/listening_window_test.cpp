// SPDX-License-Identifier: GPL-3.0-or-later
//
// How takes are compared in the window: by keys, on the bar over the takes, blind, take after take.
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct ListeningRig : RoundRig {
  using RoundRig::RoundRig;
  ListeningDesk& listening() { return studio().listening(); }
  Listening present() { return studio().transport().present().how; }
  QString headline() { return named<QLabel>("What is heard")->text(); }
  QAbstractButton& button(const QString& name) { return *named<QAbstractButton>(name); }
  std::vector<LaneNumber> shown() {
    std::vector<LaneNumber> lanes;
    for (const Lane* lane : this->lanes().rows()) lanes.push_back(lane->number);
    return lanes;
  }
};

}  // namespace

TEST_CASE("How one listens is set by keys and by clicks, is what the plan is made from, and is remembered") {
  const TemporaryFolder temporary;
  const fs::path path = makePhrases(temporary);
  {
    ListeningRig rig(path);
    CHECK(rig.present().others == std::optional(Decibels{}));
    rig.press(Qt::Key_O);
    REQUIRE(rig.present().others);
    CHECK(rig.present().others->value == -12.0);
    CHECK(rig.button("The other tracks: full, dimmed, silent").text().contains("-12"));
    QTest::mouseClick(&rig.button("The other tracks: full, dimmed, silent"), Qt::LeftButton);
    CHECK_FALSE(rig.present().others);
    rig.press(Qt::Key_O);
    CHECK(rig.present().others == std::optional(Decibels{}));
    rig.press(Qt::Key_O);

    CHECK_FALSE(rig.present().within);
    rig.press(Qt::Key_A);
    // Over the loop, else the selection, and first of all the phrase in hand.
    CHECK(rig.present().within == rig.studio().desk().session().loop);
    rig.studio().inHand().select(Span{{5000}, {9000}});
    CHECK(rig.present().within == Span{{5000}, {9000}});
    rig.press(Qt::Key_G);
    REQUIRE(rig.inHand() > 0);
    CHECK(rig.present().within == rig.studio().inHand().phrase()->cell);
    CHECK(rig.studio().listening().withAround(Span{{96000}, {100000}}) == Span{{0}, {196000}});
    CHECK(rig.studio().listening().withAround(Span{{106000}, {110000}}) == Span{{10000}, {206000}});

    rig.press(Qt::Key_I);
    CHECK(rig.listening().options().matched);
    CHECK(rig.button("All takes equally loud").isChecked());
    QTest::mouseClick(&rig.button("All takes equally loud"), Qt::LeftButton);
    CHECK_FALSE(rig.listening().options().matched);
    rig.press(Qt::Key_I);
  }
  ListeningRig again(path);
  CHECK(again.listening().options().matched);
  CHECK(again.listening().options().around);
  CHECK(again.listening().options().others == ListeningOptions::Others::Dimmed);
  again.listening().setOptions({});
}

TEST_CASE("All takes equally loud: what is turned by how much is measured and shown") {
  const TemporaryFolder temporary;
  ListeningRig rig(makePhrases(temporary, {0.3F, 0.15F, 0.3F}));
  rig.press(Qt::Key_G);
  rig.press(Qt::Key_2);
  rig.press(Qt::Key_I);
  REQUIRE(rig.waitFor([&] { return !rig.listening().measuring(); }));
  const auto trim = rig.listening().trimOf(LaneNumber{2});
  REQUIRE(trim);
  // Noise of half the size is 6 dB quieter.
  CHECK(trim->value == Approx(6.0).margin(0.3));
  CHECK(rig.present().trims.at(LaneNumber{2}).value == trim->value);
  CHECK(rig.headline().contains(QLocale().toString(trim->value, 'f', 1)));
  rig.press(Qt::Key_I);
  CHECK(rig.present().trims.empty());
  CHECK_FALSE(rig.headline().contains("dB"));
}

TEST_CASE("A take that is undone, or set aside, is heard no more; steps go on from its place") {
  const TemporaryFolder temporary;
  RecordingRig rig(makeWindowSession(temporary));
  InHand& inHand = rig.studio().inHand();
  const auto named = [&] {
    for (const QLabel* label : rig.window->findChildren<QLabel*>())
      if (label->accessibleName() == "What is heard") return label->text();
    return QString();
  };
  rig.key(Qt::Key_2);
  rig.turn();
  CHECK(named().startsWith("2"));
  const TrackId id = inHand.trackId();
  REQUIRE(rig.studio().desk().apply("A", [id](const Session& s) { return setLaneAside(s, id, {2}, true); }));
  rig.turn();
  CHECK_FALSE(inHand.heardLane());
  CHECK(named().startsWith("Composite"));
  rig.key(Qt::Key_D);
  CHECK(inHand.heardLane() == LaneNumber{3});
  // One that is out of sight can be listened to all the same.
  inHand.hear(LaneNumber{2});
  REQUIRE(rig.studio().desk().apply("B", [id](const Session& s) { return setLaneAside(s, id, {3}, true); }));
  CHECK(inHand.heardLane() == LaneNumber{2});
  REQUIRE(rig.studio().desk().apply("C", [id](const Session& s) {
    return addFileAsLane(setLaneAside(s, id, {3}, false), id, s.pool->front(), {}, "New");
  }));
  rig.key(Qt::Key_4);
  rig.key(Qt::Key_Z, Qt::ControlModifier);
  rig.turn();
  CHECK_FALSE(inHand.heardLane());
  CHECK(named().startsWith("Composite"));
  rig.key(Qt::Key_E);
  CHECK(inHand.heardLane() == LaneNumber{1});
}

TEST_CASE("Blind, nothing tells which take is which until one is picked; the choice stays with the phrase") {
  const TemporaryFolder temporary;
  ListeningRig rig(makePhrases(temporary, {0.3F, 0.15F, 0.2F}));
  rig.press(Qt::Key_G);
  rig.press(Qt::Key_2);
  rig.press(Qt::Key_P);
  CHECK(rig.listening().hidesNames());
  CHECK_FALSE(rig.heard());
  CHECK(rig.listening().matches());
  const auto order = rig.shown();
  CHECK(std::is_permutation(order.begin(), order.end(), std::vector<LaneNumber>{{1}, {2}, {3}}.begin()));
  // By how much each is turned to be equally loud would tell which is the soft one.
  REQUIRE(rig.waitFor([&] { return !rig.listening().measuring(); }));
  for (const auto& [lane, trim] : rig.present().trims) {
    CHECK(rig.present().trims.size() == 3);
    CHECK_FALSE(rig.listening().trimOf(lane));
  }
  CHECK_FALSE(rig.listening().trimOf(std::nullopt));
  for (const Qt::Key key : {Qt::Key_C, Qt::Key_3, Qt::Key_1}) {
    rig.press(key);
    CHECK_FALSE(rig.headline().contains("dB"));
  }
  // The second in the order shown, whichever it is.
  rig.press(Qt::Key_2);
  REQUIRE(rig.heard() == order[1]);
  CHECK(rig.headline().startsWith("Take B"));
  CHECK(rig.lanes().spoken().contains("Take B is heard"));
  CHECK_FALSE(rig.lanes().spoken().contains("lane"));
  for (const SpokenItem& item : rig.lanes().spokenItems())
    if (item.kind == SpokenItem::Kind::Lane) {
      CHECK_FALSE(item.name.contains("Lane"));
      CHECK_FALSE(item.detail.contains("plays"));
    }
  rig.showPage(MainWindow::TakesPage);
  CHECK(rig.table().rowCount() == 0);
  rig.showPage(MainWindow::TakePage);
  CHECK(rig.named<QLineEdit>("Name of the take")->text().isEmpty());
  // Its picture is the same whichever take lies there.
  const QImage before = rig.view()->grab(rig.lanes().laneRect(0)).toImage();
  const QImage other = rig.view()->grab(rig.lanes().laneRect(2)).toImage();
  CHECK(before.copy(200, 4, before.width() - 200, 20) == other.copy(200, 4, other.width() - 200, 20));
  // Rated without a word of which it is.
  rig.press(Qt::Key_X);
  CHECK_FALSE(QString::fromStdString(*rig.studio().desk().history().undoLabel()).contains("lane"));
  // Equally loud it stays.
  rig.press(Qt::Key_I);
  CHECK(rig.listening().matches());
  CHECK(rig.button("All takes equally loud").isChecked());

  rig.press(Qt::Key_F);
  CHECK_FALSE(rig.listening().hidesNames());
  CHECK(rig.listening().blind());
  const auto index = static_cast<std::size_t>(rig.inHand() - 1);
  CHECK(rig.played(index) == order[1]);
  const CellNote* cell = cellOf(*rig.track().lane(order[1]), rig.phrases().at(index));
  REQUIRE(cell);
  CHECK(cell->chosenBlind);
  CHECK(rig.headline().startsWith("B = "));
  // Once it is known which they are, so is by how much they are turned.
  rig.press(Qt::Key_I);
  REQUIRE(rig.waitFor([&] { return !rig.listening().measuring(); }));
  CHECK(rig.listening().trimOf(order[1]));
  CHECK(rig.headline().contains("dB"));
  // Another choice, and it is that one's.
  REQUIRE(rig.studio().desk().apply("Again", [&](const Session& s) {
    return noteChosenBlind(s, s.tracks.front()->id, order[0], rig.phrases().at(index));
  }));
  const CellNote* former = cellOf(*rig.track().lane(order[1]), rig.phrases().at(index));
  CHECK((!former || !former->chosenBlind));
  CHECK(cellOf(*rig.track().lane(order[0]), rig.phrases().at(index))->chosenBlind);
  // The next phrase is blind again.
  rig.press(index == 0 ? Qt::Key_G : Qt::Key_S);
  CHECK(rig.listening().hidesNames());
  rig.press(Qt::Key_P);
  CHECK(rig.shown() == std::vector<LaneNumber>{{1}, {2}, {3}});
  CHECK_FALSE(rig.listening().blind());
}
