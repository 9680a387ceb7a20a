// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/studio.h"

#include <QCoreApplication>
#include <thread>

namespace yewdrift::app {

Studio::Studio(const std::filesystem::path& sessionPath, DeviceDesk::Mode mode)
    : byHand_(mode != DeviceDesk::Mode::Normal),
      desk_(sessionPath, messages_),
      inHand_(desk_),
      analysis_(desk_, inHand_),
      listening_(desk_, inHand_, analysis_),
      transport_(desk_, inHand_, listening_, byHand_ ? Engine::Service::ByHand : Engine::Service::Background),
      device_(desk_, transport_.engine(), messages_, mode),
      recording_(desk_, inHand_, transport_, device_, jobs_, messages_),
      files_(desk_, inHand_, transport_, recording_, jobs_, messages_),
      pitch_(desk_, transport_, jobs_, messages_),
      lineUp_(desk_, inHand_),
      joins_(desk_, inHand_, jobs_, messages_),
      rough_(desk_, inHand_, analysis_, jobs_, messages_) {
  transport_.setCompanion(recording_);
  device_.setCompanion(recording_);
  desk_.setUndoGuard(
      [this] { return recording_.recording() ? tr("Stop recording first; then undo.") : QString(); });
  desk_.setEditGuard([this](const Session&, const Session& next) { return recording_.whyNot(next); });
  connect(&device_, &DeviceDesk::changed, &transport_, &Transport::changed);
  connect(&timer_, &QTimer::timeout, this, &Studio::tick);
  if (mode != DeviceDesk::Mode::Driven) timer_.start(tickMilliseconds);
}

Studio::~Studio() {
  // The views are still there, but nothing is shown any more.
  for (QObject* desk : std::initializer_list<QObject*>{&messages_, &desk_, &inHand_, &transport_, &device_,
                                                       &jobs_, &recording_, &files_, &analysis_, &listening_,
                                                       &pitch_, &lineUp_, &joins_})
    desk->blockSignals(true);
  timer_.stop();
  recording_.letGo();
  transport_.engine().stop();
  // What was recorded until now is kept: the transport stops and its last frames are written.
  waitForDisk([this] { return recording_.captureEnded() || !device_.alive(); });
  jobs_.cancelAll();
  // What they have brought is taken in, as it would have been a moment later.
  waitForDisk([this] { return !jobs_.running(); });
  jobs_.waitForAll();
  for (QObject* desk : std::initializer_list<QObject*>{&recording_, &files_, &pitch_})
    QCoreApplication::sendPostedEvents(desk);
  device_.giveUpOpening();
  device_.close();
  waitForDisk([this] { return recording_.captureEnded(); });
  if (recording_.capturing()) recording_.finish();
  // Where the session cannot be saved the note stays; there is nothing to wait for.
  if (desk_.flushToDisk()) waitForDisk([this] { return recording_.settled(); });
  waitForDisk([this] { return recording_.abandonedEnded(); });
  recording_.removeAbandoned();
}

void Studio::waitForDisk(const std::function<bool()>& done) {
  // A slow disk may take its time; one that is gone must not keep the window for ever.
  for (int i = 0; i < 6000 && !done(); ++i) {
    if (makeBlock_) makeBlock_();
    if (byHand_) transport_.engine().service();
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
}

void Studio::tick() {
  messages_.passTime(tickMilliseconds);
  recording_.takeEngineEvents();
  device_.tick();
  recording_.tick();
  transport_.tick();
}

}  // namespace yewdrift::app
