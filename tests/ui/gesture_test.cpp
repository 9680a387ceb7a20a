// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the views decide, without a window: gestures, where things lie, what is said, what can be done.
#include "ui/ui_tests.h"

#include "app/desk/message_queue.h"
#include "app/views/lanes_geometry.h"
#include "app/views/pointer_gesture.h"
#include "app/window/action_rules.h"
#include "support.h"

using Step = PointerGesture::Step;

TEST_CASE("A press that hardly moves is a click, one that moves a drag; only the left button counts") {
  PointerGesture gesture;
  CHECK(gesture.move({50, 50}, Qt::LeftButton) == Step::None);
  gesture.press({10, 10}, Qt::LeftButton);
  CHECK(gesture.move({12, 12}, Qt::LeftButton) == Step::None);
  CHECK(gesture.release(Qt::LeftButton) == Step::Click);
  CHECK(gesture.pressedAt() == QPoint(10, 10));
  CHECK(gesture.idle());
  CHECK(gesture.release(Qt::LeftButton) == Step::None);

  gesture.press({10, 10}, Qt::LeftButton);
  CHECK(gesture.move({15, 10}, Qt::LeftButton) == Step::Begins);
  CHECK(gesture.dragging());
  // Another button changes nothing, pressed or let go.
  gesture.press({90, 90}, Qt::RightButton);
  CHECK(gesture.release(Qt::RightButton) == Step::None);
  CHECK(gesture.move({30, 10}, Qt::LeftButton | Qt::RightButton) == Step::Goes);
  CHECK(gesture.pressedAt() == QPoint(10, 10));
  CHECK(gesture.release(Qt::LeftButton) == Step::Ends);
  CHECK(gesture.idle());

  // The button was let go somewhere else: that is seen at the next move.
  gesture.press({10, 10}, Qt::LeftButton);
  CHECK(gesture.move({40, 10}, Qt::LeftButton) == Step::Begins);
  CHECK(gesture.move({60, 10}, Qt::NoButton) == Step::Ends);
  CHECK(gesture.move({80, 10}, Qt::LeftButton) == Step::None);
  gesture.press({10, 10}, Qt::LeftButton);
  CHECK(gesture.move({60, 10}, Qt::NoButton) == Step::None);
  CHECK(gesture.release(Qt::LeftButton) == Step::None);

  gesture.press({10, 10}, Qt::LeftButton);
  (void)gesture.move({40, 10}, Qt::LeftButton);
  gesture.forget();
  CHECK(gesture.move({60, 10}, Qt::LeftButton) == Step::None);
  CHECK(gesture.release(Qt::LeftButton) == Step::None);
}

namespace {

using Part = LanesGeometry::Part;

struct Shown {
  Shown() {
    for (int number = 1; number <= 3; ++number) {
      Lane& lane = lanes[static_cast<std::size_t>(number - 1)];
      lane.number = {number};
      Clip clip;
      clip.window = {{10000 * number}, {90000}};
      lane.clips.push_back(clip);
    }
    view.size = {1148, 620};
    view.scale = {{}, 100.0};
    for (const Lane& lane : lanes) view.lanes.push_back(&lane);
  }
  std::array<Lane, 3> lanes;
  LanesGeometry view;
};

}  // namespace

TEST_CASE("Rows are as high as was chosen, or as low as it takes; folded takes are hints that all are seen") {
  Shown shown;
  LanesGeometry& view = shown.view;
  view.chosenRowHeight = 200;
  CHECK(view.rowHeight() == 200);
  view.chosenRowHeight = 5;
  CHECK(view.rowHeight() == LanesGeometry::smallestRowHeight);
  view.chosenRowHeight = 5000;
  CHECK(view.rowHeight() == 360);
  view.fitsAll = true;
  view.growingRows = 20;
  CHECK(view.rowHeight() == view.lanesArea().height() / 23);
  CHECK(view.hiddenHeight() == 0);
  view.growingRows = 0;
  CHECK(view.rowHeight() == 120);
  CHECK(view.hit({20, view.rowRect(1).bottom() - 1}).part == Part::RowEdge);
  CHECK(view.hit({20, view.rowRect(1).bottom() - 1}).lane == LaneNumber{2});
  CHECK(view.hit({20, view.rowRect(1).center().y()}).part == Part::LaneName);

  const int open = view.compositeRect().height();
  view.folded = true;
  CHECK(view.compositeRect().height() > open);
  CHECK(view.rowCount() == 0);
  for (int i = 0; i < 3; ++i) {
    CHECK(view.lanesArea().contains(view.hintRect(i)));
    CHECK(view.hit(view.hintRect(i).center()).part == Part::Hint);
    CHECK(view.hit(view.hintRect(i).center()).lane == LaneNumber{i + 1});
    if (i > 0) CHECK(view.hintRect(i).left() > view.hintRect(i - 1).right());
  }
  CHECK(view.hit({900, view.hintRect(0).center().y()}).part == Part::Nothing);
  for (const int takes : {2, 40, 63, 200}) {
    std::vector<Lane> many(static_cast<std::size_t>(takes));
    view.lanes.clear();
    for (Lane& each : many) {
      each.number = {static_cast<int>(view.lanes.size()) + 1};
      view.lanes.push_back(&each);
    }
    for (int i = 0; i < takes; ++i) {
      INFO(i << " of " << takes);
      CHECK(view.lanesArea().contains(view.hintRect(i)));
      CHECK(view.hit(view.hintRect(i).center()).lane == LaneNumber{i + 1});
    }
  }
}

TEST_CASE("An answer shows at once, what is urgent stays until it is seen, what passes waits for its turn") {
  MessageQueue queue;
  const QDateTime when(QDate(2026, 11, 26), QTime(8, 0));
  const auto say = [&](const QString& what, Weight weight, qint64 now) {
    queue.say(what, weight, when, now);
  };
  const auto shown = [&] { return queue.shown() ? queue.shown()->sentence : QString(); };
  CHECK(shown().isEmpty());
  say("Saved.", Weight::Passing, 0);
  say("Imported.", Weight::Passing, 10);
  CHECK(shown() == "Saved.");
  CHECK(queue.waiting() == 1);
  // The first is read before the second comes; nothing is lost.
  const qint64 reading = MessageQueue::readingTime("Saved.");
  queue.passTime(reading - 1);
  CHECK(shown() == "Saved.");
  queue.passTime(reading);
  CHECK(shown() == "Imported.");
  CHECK(queue.waiting() == 0);
  queue.passTime(reading + 100);
  CHECK(shown() == "Imported.");

  say("The device is gone.", Weight::Urgent, reading + 200);
  CHECK(shown() == "The device is gone.");
  CHECK(queue.waiting() == 1);
  queue.passTime(reading + 3'600'000);
  CHECK(shown() == "The device is gone.");
  // An answer for a while, and then what is still to be seen.
  say("No track is armed.", Weight::Answer, 10'000'000);
  CHECK(shown() == "No track is armed.");
  CHECK(queue.waiting() == 2);
  say("There is no loop.", Weight::Answer, 10'000'100);
  CHECK(shown() == "There is no loop.");
  queue.passTime(10'000'100 + MessageQueue::readingTime("There is no loop."));
  CHECK(shown() == "The device is gone.");
  // Said again while it waits, it is not shown twice.
  say("The device is gone.", Weight::Urgent, 10'100'000);
  CHECK(queue.waiting() == 1);
  queue.putAway(10'200'000);
  CHECK(shown() == "Imported.");
  queue.putAway(10'200'001);
  CHECK(shown().isEmpty());

  // All of it is kept, the same in a row counted.
  REQUIRE(queue.all().size() == 6);
  CHECK(queue.all().front().sentence == "Saved.");
  CHECK(queue.all().back().sentence == "The device is gone.");
  for (int i = 0; i < 600; ++i) say("Step " + QString::number(i), Weight::Answer, 20'000'000 + i);
  say("Step 599", Weight::Answer, 21'000'000);
  CHECK(queue.all().size() == MessageQueue::kept);
  CHECK(queue.all().back().times == 2);
  say("", Weight::Urgent, 22'000'000);
  CHECK(shown() == "Step 599");
}

TEST_CASE("For everything that cannot be done there is a sentence that says why, the nearest reason first") {
  std::vector<Deed> all;
  for (int deed = 0; deed <= static_cast<int>(Deed::PullEdge); ++deed) all.push_back(static_cast<Deed>(deed));
  Situation everything;
  everything.rolling = everything.track = everything.takes = everything.heard = everything.joins = true;
  everything.joinInHand = everything.otherTracks = everything.selection = everything.loop = true;
  everything.unit = everything.severalTracks = true;
  everything.phrases = everything.phraseInHand = everything.micSet = true;
  everything.punches = everything.armed = everything.justRecorded = everything.undo = everything.redo = true;
  for (const Deed deed : all) CHECK(ActionRules::whyNot(deed, everything).isEmpty());
  Situation nothing;
  nothing.writable = nothing.device = false;
  for (const Deed deed : all) {
    const QString why = ActionRules::whyNot(deed, nothing);
    if (deed != Deed::GoElsewhere) CHECK(why.endsWith('.'));
  }
  const auto why = [&](Deed deed, const auto& change) {
    Situation now = everything;
    change(now);
    return ActionRules::whyNot(deed, now);
  };
  using S = Situation;
  CHECK(why(Deed::Pick, [](S& s) { s.heard = false; }).contains("Hear a take first"));
  CHECK(why(Deed::PickSilence, [](S& s) { s.heard = false; }).isEmpty());
  CHECK(why(Deed::Pick, [](S& s) { s.unit = false; }).isEmpty());
  CHECK(why(Deed::Pick, [](S& s) { s.unit = s.loop = false; }).contains("Take a phrase"));
  CHECK(why(Deed::Pick, [](S& s) { s.recording = true; }).contains("stop first"));
  CHECK(why(Deed::Pick, [](S& s) { s.takes = false; }).contains("no takes"));
  CHECK(why(Deed::Punch, [](S& s) { s.rolling = false; }).contains("Shift+N"));
  CHECK(why(Deed::Punch, [](S& s) { s.punchesDecide = true; }).contains("punch spans decide"));
  CHECK(why(Deed::Punch, [](S& s) { s.armed = false; }).contains("armed"));
  CHECK(why(Deed::Punch, [](S& s) { s.recording = true; }).isEmpty());
  CHECK(why(Deed::BackUp, [](S& s) { s.rolling = false; }).contains("Shift+Backspace"));
  CHECK(why(Deed::BackUpFromStandstill, [](S& s) { s.rolling = false; }).isEmpty());
  CHECK(why(Deed::Undo, [](S& s) { s.undo = false; }).contains("nothing to undo"));
  CHECK(why(Deed::Redo, [](S& s) { s.redo = false; }).contains("nothing to redo"));
  CHECK(why(Deed::Undo, [](S& s) { s.recording = true; }).contains("Stop recording"));
  CHECK(why(Deed::Play, [](S& s) { s.device = s.rolling = false; }).contains("No audio device"));
  CHECK(why(Deed::Play, [](S& s) { s.device = false; }).isEmpty());  // it can always be stopped
  CHECK(why(Deed::Record, [](S& s) { s.device = false; }).contains("No audio device"));
  CHECK(why(Deed::Record, [](S& s) { s.armed = false; }).contains("armed"));
  CHECK(why(Deed::Record, [](S& s) { s.armed = false, s.recording = true; }).isEmpty());
  CHECK(why(Deed::Arm, [](S& s) { s.backing = true; }).contains("backing"));
  CHECK(why(Deed::Discard, [](S& s) { s.justRecorded = false; }).contains("no recording to discard"));
  CHECK(why(Deed::HearJoin, [](S& s) { s.joinInHand = false; }).contains("No join"));
  CHECK(why(Deed::StepJoin, [](S& s) { s.joins = false; }).contains("no joins"));
  CHECK(why(Deed::Loop, [](S& s) { s.loop = false; }).contains("no loop"));
  CHECK(why(Deed::AutoPunch, [](S& s) { s.punches = false; }).contains("no punch spans"));
  CHECK(why(Deed::StepTrack, [](S& s) { s.otherTracks = false; }).contains("only this one"));
  CHECK(why(Deed::LoopFromSelection, [](S& s) { s.unit = false; }).contains("Select a stretch"));
  CHECK(why(Deed::PunchFromSelection, [](S& s) { s.selection = false; }).isEmpty());
  CHECK(why(Deed::GoElsewhere, [](S& s) { s.recording = true; }).contains("stop first"));
  CHECK(why(Deed::Claim, [](S& s) { s.recording = true; }).contains("it is a take"));
  CHECK(why(Deed::PullEdge, [](S& s) { s.heard = false; }).contains("Hear a take"));
  CHECK(why(Deed::TakeApart, [](S& s) { s.micSet = false; }).contains("no mic set"));
  CHECK(why(Deed::SpreadTakes, [](S& s) { s.takes = false; }).contains("no takes"));
  CHECK(why(Deed::Rate, [](S& s) { s.phraseInHand = false; }).contains("No phrase is in hand"));
  CHECK(why(Deed::Rate, [](S& s) { s.heard = false; }).contains("Hear a take"));
  CHECK(why(Deed::StepPhrase, [](S& s) { s.phrases = false; }).contains("no phrases yet"));
  CHECK(why(Deed::StepPhrase, [](S& s) { s.phrases = false, s.stepsOnGrid = true; }).isEmpty());
  CHECK(why(Deed::HearPhrase, [](S& s) { s.phraseInHand = false; }).contains("No phrase is in hand"));
  CHECK(why(Deed::HearCompared, [](S& s) { s.phraseInHand = s.selection = false; }).isEmpty());
  CHECK(why(Deed::HearCompared, [](S& s) {
          s.phraseInHand = s.unit = s.loop = false;
        }).contains("nothing to go round"));
  CHECK(why(Deed::CutTake, [](S& s) { s.selection = false; }).contains("Select a stretch"));
  CHECK(why(Deed::ChangeTake, [](S& s) { s.selection = false; }).isEmpty());
  CHECK(why(Deed::ChangeTake, [](S& s) { s.heard = false; }).contains("Hear a take"));
  CHECK(why(Deed::PickWhole, [](S& s) { s.heard = false; }).contains("Hear a take"));
  CHECK(why(Deed::PickWhole, [](S& s) { s.selection = s.loop = false; }).isEmpty());
  CHECK(why(Deed::EditJoin, [](S& s) { s.joinInHand = false; }).contains("No join is in hand"));
  CHECK(why(Deed::EditJoins, [](S& s) { s.joins = false; }).contains("no joins"));
  for (const Deed deed :
       {Deed::EditComposite, Deed::EditPhrases, Deed::ChangeTrack, Deed::SpreadTakes, Deed::TakeApart,
        Deed::ChangeTake, Deed::CutTake, Deed::PickWhole, Deed::EditJoin, Deed::EditJoins, Deed::Flatten})
    CHECK(why(deed, [](S& s) { s.recording = true; }).contains("stop first"));
  // A word on what is heard, and a mark, are set down while it rolls.
  CHECK(why(Deed::Rate, [](S& s) { s.recording = true; }).isEmpty());
  CHECK(why(Deed::Mark, [](S& s) { s.recording = true; }).isEmpty());
  CHECK(why(Deed::Marker, [](S& s) { s.writable = false; }).contains("look at only"));
}
