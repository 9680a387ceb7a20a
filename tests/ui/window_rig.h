// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QApplication>
#include <QSettings>
#include <QTest>
#include <QThread>

#include "app/window/main_window.h"
#include "core/device/performer_file.h"
#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "support.h"
#include "ui/turns.h"

namespace yewdrift::test {

using app::MainWindow;
using app::Studio;

/// A session with three takes of viola and a performer who is ready, at 120 bpm in 4/4; loop over bar 2
/// (frames 96000 to 192000).
inline fs::path makeWindowSession(const TemporaryFolder& temporary) {
  fs::path path = temporary / "session";
  SessionFolder folder =
      sessionWithLanes(path, {noise(480000, 1, 0.3F), noise(480000, 2, 0.3F), noise(480000, 3, 0.3F)});
  Session session = setLoop(folder.session(), Span{{96000}, {192000}});
  session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
  folder.editHistory().replacePresent(session);
  folder.editHistory().forget();
  folder.save();
  fs::create_directories(path / "performer");
  for (int i = 0; i < 2; ++i)
    writeWave(path / "performer" / ("p" + std::to_string(i) + ".wav"),
              {noise(480000, 10 + static_cast<unsigned>(i), 0.3F)}, 48000, SampleFormat::Float32);
  writePerformerFile(folder.disk(), {{0, {}, {"p0.wav", "p1.wav"}}});
  return path;
}

/// A window whose simulated interface plays as fast as it can: time passes while a test waits, and only then.
struct WindowRig {
  using Mode = app::DeviceDesk::Mode;
  /// `Normal`: time passes by itself, as real devices need it.
  explicit WindowRig(const fs::path& session, bool device = true, Mode mode = Mode::Driven)
      : timeIsMade(mode == Mode::Driven) {
    auto made = std::make_unique<Studio>(session, mode);
    made->setBlockMaker([device = &made->device()] { device->runBlockForTest(); });
    if (device) made->device().open(yewdrift::app::AudioChoice{});
    window = std::make_unique<MainWindow>(std::move(made));
    window->show();
    wait(30);
  }
  Studio& studio() { return window->studio(); }
  const Track& track() { return *studio().inHand().track(); }
  app::LanesView& lanes() { return window->lanes(); }
  void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QTest::keyClick(window.get(), key, modifiers);
  }
  /// A thirtieth of a second: blocks of the device, then the window's turn.
  void turn() {
    for (int block = 0; block < 6; ++block) {
      studio().transport().engine().service();
      studio().device().runBlockForTest();
      listen();
    }
    studio().tick();
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  void listen() {
    const auto* simulated = dynamic_cast<const SimulatedDevice*>(studio().device().device());
    for (std::size_t side = 0; simulated && side < 2; ++side)
      for (const float sample : simulated->lastOutput()[side])
        loudest[side] = std::max(loudest[side], std::abs(sample));
  }
  /// The loudest of what comes out within so much time, left and right.
  std::array<float, 2> loudestWithin(int milliseconds) {
    loudest = {};
    wait(milliseconds);
    return loudest;
  }
  void wait(int milliseconds) {
    if (!timeIsMade) return QTest::qWait(milliseconds);
    for (int passed = 0; passed < milliseconds; passed += turnMilliseconds) turn();
  }
  /// For what the device brings that long in its time; for what is done in the background, as long as that
  /// takes, within reason.
  template <typename Condition>
  bool waitFor(Condition condition, int milliseconds = 8000) {
    if (!timeIsMade) return comesTrueInWindow(condition, milliseconds);
    int rests = 0;
    for (int passed = 0; !condition(); passed += turnMilliseconds) {
      if (passed > milliseconds && rests > mostRests) return false;
      turn();
      if (passed > milliseconds || studio().jobs().busy()) {
        QThread::msleep(1);
        ++rests;
      }
    }
    return true;
  }
  void drag(QWidget* on, QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QTest::mousePress(on, Qt::LeftButton, modifiers, from);
    for (int i = 1; i <= 6; ++i) {
      const QPoint at = from + (to - from) * i / 6;
      QMouseEvent move(QEvent::MouseMove, QPointF(at), on->mapToGlobal(QPointF(at)), Qt::NoButton,
                       Qt::LeftButton, modifiers);
      QApplication::sendEvent(on, &move);
    }
    QTest::mouseRelease(on, Qt::LeftButton, modifiers, to);
  }
  QPoint inLane(int index, Frames at) { return {lanes().xOf(at), lanes().laneRect(index).center().y()}; }
  QPoint inComposite(Frames at) { return {lanes().xOf(at), lanes().compositeRect().center().y()}; }
  static constexpr int turnMilliseconds = 32;
  static constexpr int mostRests = 15000;  // of a millisecond and more
  bool timeIsMade;
  std::array<float, 2> loudest{};
  const app::SessionDesk::Edit nothing = [](const Session& s) { return s; };
  std::unique_ptr<MainWindow> window;
};

}  // namespace yewdrift::test
