// SPDX-License-Identifier: GPL-3.0-or-later
//
// Every action of the window, with whatever is in hand: it does something that is seen, or says why not; it
// is one step at most, which leaves a whole session and is undone as one.
#include <QDialog>
#include <QInputDialog>
#include <QPointer>

#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct EveryAction : RoundRig {
  explicit EveryAction(const fs::path& path) : RoundRig(path) {
    watch();
    window->resize(1000, 640);
    addSecondTrack();
    const TrackId id = track().id;
    REQUIRE(studio().desk().apply("Begin", [&](Session s) {
      s = addTrack(std::move(s), "Third", microphonesFor(1));
      s = pick(s, id, phrases()[0].cell, LaneNumber{1});
      s = pick(s, id, phrases()[1].cell, LaneNumber{2});
      s = keepComposite(s, id, "First");
      s = pick(s, id, phrases()[1].cell, LaneNumber{3});
      s = addPunch(s, {{100'000}, {150'000}});
      s = addPunch(s, {{250'000}, {300'000}});
      s = addPunch(s, {{350'000}, {380'000}});
      return addMarker(addMarker(s, {100'000}, "One"), {200'000}, "Two");
    }));
    begun = steps();
    lanes().showSpan({{}, {480'000}});
    rest();
  }

  /// Everything that may be going on ends, and is undone.
  void rest() {
    for (int i = 0; i < 9 && QApplication::activePopupWidget(); ++i)
      QApplication::activePopupWidget()->close();
    for (QWidget* each : QApplication::topLevelWidgets())
      if (each != window.get() && qobject_cast<QDialog*>(each)) each->close();
    studio().transport().stop();
    REQUIRE(waitFor([&] {
      return !studio().jobs().busy() && !studio().recording().recording() && !studio().joins().looking() &&
             !studio().desk().peaks().busy() && !studio().transport().state().rolling;
    }));
    studio().desk().dropHeld();
    studio().desk().goTo(begun);
    while (studio().messages().queue().shown()) studio().messages().putAway();
    studio().listening().setOptions({});
    studio().listening().setBlind(false);
    InHand& hand = studio().inHand();
    hand.takeTrack(studio().desk().session().tracks[1]->id);
    hand.takeTrack(studio().desk().session().tracks[0]->id);
    studio().transport().locate({230'000});
    QApplication::setActiveWindow(window.get());
    lanes().setFocus();
  }

  /// What a person sees besides the picture, and the session.
  struct Seen {
    Session session;
    std::size_t steps = 0;
    qsizetype windows = 0;
    qsizetype sentences = 0;
  };
  Seen seen() {
    Seen now{studio().desk().session(), steps()};
    for (const QWidget* each : QApplication::topLevelWidgets()) now.windows += each->isVisible() ? 1 : 0;
    for (const auto& each : studio().messages().queue().all()) now.sentences += each.times;
    return now;
  }

  /// Answers what waits for an answer in an event loop of its own.
  void watch() {
    QTimer::singleShot(1, window.get(), [this] {
      watch();
      if (QWidget* popup = QApplication::activePopupWidget()) popup->close();
      auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
      if (!dialog) return;
      ++answered;
      if (auto* number = dialog->findChild<QDoubleSpinBox*>())
        number->setValue(number->value() + 3.0);
      else if (auto* line = dialog->findChild<QLineEdit*>(); line && line->text().isEmpty())
        line->setText("Another");
      dialog->inherits("QInputDialog") ? dialog->accept() : dialog->reject();
    });
  }

  void trigger(QAction& action, const std::string& inHand, const QImage& picture) {
    INFO(action.text().toStdString() << ", with " << inHand << " in hand");
    const Seen before = seen();
    const bool checked = action.isChecked();
    answered = 0;
    action.trigger();
    turn();
    REQUIRE(waitFor([&] { return !studio().jobs().busy() && !studio().joins().looking(); }));
    turn();
    const Seen after = seen();
    CHECK((after.steps != before.steps || answered > 0 || after.windows != before.windows ||
           after.sentences != before.sentences || action.isChecked() != checked ||
           studio().transport().state().rolling || window->grab().toImage() != picture));
    checkInvariants(studio().desk().present());
    if (after.steps > before.steps) {
      CHECK(after.steps == before.steps + 1);
      studio().desk().undo();
      CHECK((butForPool(studio().desk().present()) == butForPool(before.session)));
    }
    if (action.isChecked() != checked) action.trigger();
    rest();
  }

  int answered = 0;
  std::size_t begun = 0;
};

}  // namespace

TEST_CASE("Every action does something that is seen or says why not, in one step that is undone as one") {
  const TemporaryFolder temporary;
  EveryAction rig(makePhrases(temporary));
  InHand& hand = rig.studio().inHand();
  const std::vector<std::pair<std::string, std::function<void()>>> situations{
      {"nothing", [] {}},
      {"a phrase, the take heard and a join",
       [&] {
         hand.hear(LaneNumber{2});
         hand.takePhrase(rig.phrases()[1]);
         hand.takeJoin(rig.joins().at(0));
       }},
      {"a punch and two takes",
       [&] {
         hand.hear(LaneNumber{1});
         hand.hearAlso({3});
         hand.takePunch(1);
       }},
      {"a selection and two tracks", [&] {
         hand.takeTrackAlong(rig.studio().desk().session().tracks[1]->id);
         hand.select(Span{{210'000}, {290'000}});
       }}};
  int triggered = 0;
  for (const auto& [name, enter] : situations) {
    QList<QPointer<QAction>> actions;
    for (QAction* each : rig.window->findChildren<QAction*>())
      if (!each->isSeparator() && !each->menu() && each->text() != "Close" && each->text() != "Quit" &&
          !each->text().contains("folder") && !each->text().isEmpty())
        actions.push_back(each);
    enter();
    rig.wait(200);
    const QImage picture = rig.window->grab().toImage();
    for (const QPointer<QAction>& action : actions) {
      enter();
      rig.turn();
      if (!action || !action->isEnabled() || !action->isVisible()) continue;
      // What is chosen of several already stays as it is; none of these depends on what is in hand.
      if (action->actionGroup() && (action->isChecked() || triggered > 100)) continue;
      ++triggered;
      rig.trigger(*action, name, picture);
    }
  }
  CHECK(triggered > 300);
}
