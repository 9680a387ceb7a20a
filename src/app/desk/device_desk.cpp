// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/device_desk.h"

#include <QTimer>

#include <set>

#include "app/look/spoken.h"
#include "core/device/performer_file.h"
#include "core/device/round_trips.h"
#include "core/device/simulated_device.h"
#include "core/error.h"

namespace yewdrift::app {
namespace {

constexpr double claimableSeconds = 60.0;

/// A simulated interface is as many as it has round trips.
DeviceSettings keyed(DeviceSettings settings, const AudioChoice& choice) {
  if (choice.driver == "Simulated") settings.source = std::to_string(choice.simulatedRoundTrip);
  return settings;
}

}  // namespace

DeviceDesk::DeviceDesk(SessionDesk& desk, Engine& engine, Messages& messages, Mode mode)
    : desk_(desk),
      engine_(engine),
      messages_(messages),
      mode_(mode),
      tape_(std::make_shared<InputTape>(desk.disk(), desk.session().rate, claimableSeconds)) {
  opener_.setMaxThreadCount(1);
  engine_.setTape(tape_);
  connect(&devices_, &DeviceWatcher::changed, this, &DeviceDesk::devicesChanged);
  connect(&desk_, &SessionDesk::committed, this, &DeviceDesk::updateTape);
  updateTape();
}

DeviceDesk::~DeviceDesk() {
  giveUpOpening();
  close();
}

void DeviceDesk::giveUpOpening() {
  ++openings_;
  opener_.waitForDone();
}

void DeviceDesk::tick() {
  // Without a device nobody else takes what is ordered; nothing piles up until there is one.
  if (!device_ && needed()) engine_.deviceClosed();
  checkProbe();
  for (std::size_t i = 0; i < inputPeaks_.size(); ++i)
    inputPeaks_[i] = engine_.takeInputPeak(static_cast<int>(i));
  checkAlive();
  listenForSilence();
  takeUpAgain();
  followDefaults();
}

float DeviceDesk::inputPeak(int input) const {
  return input >= 0 && static_cast<std::size_t>(input) < inputPeaks_.size()
             ? inputPeaks_[static_cast<std::size_t>(input)]
             : 0.0F;
}

float DeviceDesk::inputPeak(const Track& track) const {
  float peak = 0.0F;
  for (const Microphone& microphone : track.microphones)
    for (int i = 0; i < microphone.channels; ++i) peak = std::max(peak, inputPeak(microphone.input + i));
  return peak;
}

void DeviceDesk::unplugForTest(bool freeze) {
  if (auto* simulated = dynamic_cast<SimulatedDevice*>(device_.get())) {
    if (freeze)
      simulated->freeze();
    else
      simulated->unplug();
  }
}

void DeviceDesk::runBlockForTest() {
  if (auto* simulated = dynamic_cast<SimulatedDevice*>(device_.get());
      mode_ == Mode::Driven && simulated && simulated->alive())
    simulated->runBlock();
}

void DeviceDesk::close() {
  ++openings_;  // what is still being opened comes too late
  opening_ = false;
  if (device_) {
    if (device_->alive()) choice_.patches = device_->patches();
    device_->stop();
  }
  device_.reset();
  gate_.reset();
  engine_.setTestTone(false);
  engine_.deviceClosed();
  name_.clear();
  roundTripMeasured_ = false;
  lost_ = missing_ = false;
  defaultsMoved_ = isBack_ = takesUp_ = silenceSaid_ = false;
  silentTicks_ = 0;
}

void DeviceDesk::open(const AudioChoice& choice) {
  if (companion_->recording()) return messages_.say(tr("Stop recording before you change the audio device."));
  engine_.stop();
  companion_->letGo();
  // The same pair again: as a person had patched it.
  const bool samePair =
      choice.driver == choice_.driver && choice.source == choice_.source && choice.sink == choice_.sink;
  close();
  const std::vector<Patch> patches = samePair ? choice_.patches : choice.patches;
  choice_ = choice;
  choice_.patches = patches;
  if (choice.driver.isEmpty()) return useBest();
  DeviceSettings settings;
  settings.driver = choice.driver.toStdString();
  settings.source = choice.source.toStdString();
  settings.sink = choice.sink.toStdString();
  settings.rate = desk_.session().rate;
  settings.blockFrames = choice.blockFrames;
  settings.patches = choice_.patches;
  settings.inputs = std::max(2, choice.inputs);
  if (choice.inputs == 0)
    for (const auto& track : desk_.session().tracks)
      for (const Microphone& microphone : track->microphones)
        settings.inputs = std::max(settings.inputs, microphone.input + microphone.channels);
  if (choice.driver == "Simulated")
    openSimulated(settings);
  else
    openInBackground(settings);
  emit changed();
}

void DeviceDesk::choose(const AudioChoice& choice) {
  if (companion_->recording()) return messages_.say(tr("Stop recording before you change the audio device."));
  chosen_ = true;
  open(choice);
}

void DeviceDesk::works() {
  working_ = choice_;
  if (std::exchange(chosen_, false)) saveAudioChoice(choice_);
}

/// To the device before the one that could not be opened, where there was one.
void DeviceDesk::goBack(const QString& problem) {
  const bool chosen = std::exchange(chosen_, false);
  if (!chosen || !working_ || *working_ == choice_) return messages_.warn(problem);
  messages_.warn(tr("%1 The device before it is used again.").arg(problem));
  open(AudioChoice(*working_));
}

void DeviceDesk::openSimulated(const DeviceSettings& settings) {
  try {
    SimulatedInterface interface;
    interface.settings = settings;
    interface.roundTrip = Frames{choice_.simulatedRoundTrip};
    interface.dropoutEveryBlocks = choice_.dropoutEveryBlocks;
    interface.patched = choice_.patched;
    interface.parts = readPerformerFile(desk_.disk(), desk_.session().rate);
    name_ = interface.parts.empty() ? tr("Simulated interface, nobody playing")
                                    : tr("Simulated interface with a performer");
    device_ = std::make_unique<SimulatedDevice>(std::move(interface), engine_);
    useRoundTrip();
    if (mode_ == Mode::Normal) device_->start();
    works();
  } catch (const std::exception& e) {
    close();
    goBack(spoken(e));
  }
}

void DeviceDesk::drive(std::unique_ptr<AudioDevice> device) {
  open(AudioChoice());
  if (companion_->recording()) return;  // and that was said
  device_ = std::move(device);
  useRoundTrip();
  emit changed();
}

void DeviceDesk::openInBackground(const DeviceSettings& settings) {
  opening_ = true;
  name_ = tr("Opening %1…").arg(choice_.driver);
  // Servers take their time to answer; the interface does not wait for them.
  opener_.start([this, settings, opening = openings_] {
    auto opened = std::make_shared<OpenedDevice>();
    opened->gate = std::make_unique<AudioGate>(engine_);
    QString problem;
    try {
      opened->device = audioDriverNamed(settings.driver).open(settings, *opened->gate);
      opened->device->start();
    } catch (const std::exception& e) {
      opened->device.reset();
      problem = spoken(e);
    }
    QMetaObject::invokeMethod(this, [this, opened, problem, opening] {
      if (opening == openings_) this->opened(std::move(*opened), problem);
    });
  });
}

void DeviceDesk::opened(OpenedDevice opened, const QString& problem) {
  opening_ = false;
  name_.clear();
  const bool takesUp = std::exchange(takesUp_, false);
  if (!opened.device) {
    missing_ = true;
    devices_.setEager(choice_.takeUpAgain);
    if (takesUp) {
      tryOnceMore();
      return emit changed();
    }
    const bool before = chosen_ && working_;
    goBack(choice_.takeUpAgain && !before ? tr("%1 It is taken up as soon as it is there.").arg(problem)
                                          : problem);
    return emit changed();
  }
  gate_ = std::move(opened.gate);
  device_ = std::move(opened.device);
  gate_->open();
  tries_ = 0;
  if (takesUp) messages_.tell(tr("The audio device is back and is used again."));
  const DeviceReport report = device_->report();
  const QString source = QString::fromStdString(report.sourceName);
  const QString sink = QString::fromStdString(report.sinkName);
  name_ =
      source.isEmpty() ? tr("%1: no source").arg(choice_.driver) : tr("%1: %2").arg(choice_.driver, source);
  useRoundTrip();
  works();
  devices_.setEager(false);
  devices_.lookAndTell();  // what changed meanwhile was told when there was no device to change
  if (std::exchange(bestTaken_, false)) {
    // Whole sentences, so that each can be said in any language.
    const QString sentence =
        source.isEmpty() && sink.isEmpty() ? tr("Yewdrift uses %1, but nothing to record from and nothing to "
                                                "play to is plugged in. [Ctrl+D] "
                                                "chooses others.")
                                                 .arg(choice_.driver)
        : source.isEmpty() ? tr("Yewdrift uses %1: it plays to \"%2\"; nothing to record from is plugged in. "
                                "[Ctrl+D] chooses "
                                "others.")
                                 .arg(choice_.driver, sink)
        : sink.isEmpty()
            ? tr("Yewdrift uses %1: it records from \"%2\"; there is nothing to play to. [Ctrl+D] chooses "
                 "others.")
                  .arg(choice_.driver, source)
            : tr("Yewdrift uses %1: it records from \"%2\" and plays to \"%3\". [Ctrl+D] chooses others.")
                  .arg(choice_.driver, source, sink);
    messages_.tell(sentence);
    saveAudioChoice(choice_);
  }
  emit changed();
}

void DeviceDesk::useBest() {
  if (!devices_.looked()) {
    opening_ = true;
    name_ = tr("Looking for audio devices…");
    devices_.look();  // devicesChanged() goes on
    return emit changed();
  }
  AudioChoice best = choice_;
  best.driver = devices_.offers().empty() ? QString("Simulated")
                                          : QString::fromStdString(devices_.offers().front().name);
  bestTaken_ = true;
  if (devices_.offers().empty()) {
    bestTaken_ = false;
    messages_.warn(
        tr("No audio system runs on this machine, so Yewdrift uses its simulated interface. [Ctrl+D] chooses "
           "another device."));
  }
  open(best);
}

void DeviceDesk::devicesChanged() {
  if (choice_.driver.isEmpty()) {
    if (opening_) useBest();
    return;
  }
  if (choice_.driver == "Simulated" || opening_) return;
  const DriverListing* listing = devices_.listingOf(choice_.driver);
  if ((lost_ || missing_) && choice_.takeUpAgain && listing) {
    isBack_ = findEndPoint(listing->sources, choice_.source.toStdString()) &&
              findEndPoint(listing->sinks, choice_.sink.toStdString());
    return takeUpAgain();
  }
  if (!device_ || lost_ || !listing) return;
  const EndPoint* source = findEndPoint(listing->sources, choice_.source.toStdString());
  const EndPoint* sink = findEndPoint(listing->sinks, choice_.sink.toStdString());
  const DeviceSettings& now = device_->settings();
  defaultsMoved_ = (choice_.source.isEmpty() && source && source->id != now.source) ||
                   (choice_.sink.isEmpty() && sink && sink->id != now.sink);
  followDefaults();
}

void DeviceDesk::takeUpAgain() {
  // What was captured until it was lost is put away first; nobody tells of the device once more.
  if (!isBack_ || companion_->capturing()) return;
  isBack_ = false;
  open(AudioChoice(choice_));
  takesUp_ = true;  // until it is open, or is not
}

/// It was seen before it could be used: whoever sees it once more tells nothing new.
void DeviceDesk::tryOnceMore() {
  constexpr int most = 20;
  constexpr int milliseconds = 1500;
  if (++tries_ > most) return;
  QTimer::singleShot(milliseconds, this, [this, opening = openings_] {
    if (opening == openings_ && missing_) devices_.lookAndTell();
  });
}

void DeviceDesk::followDefaults() {
  // A take is never torn: what is recorded from changes once the transport stands.
  if (!defaultsMoved_ || companion_->capturing() || probe_ || engine_.state().rolling ||
      engine_.state().capturing)
    return;
  defaultsMoved_ = false;
  open(AudioChoice(choice_));
}

void DeviceDesk::checkAlive() {
  const bool lost = device_ && !device_->alive();
  if (!lost || lost_) return;
  lost_ = true;
  const QString reason = spoken(device_->lossReason());
  const bool inMidTake = companion_->recording();
  companion_->deviceLost();
  device_->stop();
  engine_.deviceClosed();
  devices_.setEager(choice_.takeUpAgain && choice_.driver != "Simulated");
  devices_.look();
  messages_.warn(
      inMidTake
          ? tr("%1 Recording has stopped; everything up to that moment is kept. Choose a device in the "
               "Device menu to go on.")
                .arg(reason)
          : tr("%1 Nothing can be heard or recorded until it is back or another is chosen in the Device "
               "menu; the session is as it was.")
                .arg(reason));
  emit changed();
}

void DeviceDesk::listenForSilence() {
  constexpr int ticksUntilSure = 120;  // four seconds
  const bool listens = device_ && !lost_ && choice_.driver != "Simulated";
  const bool silent =
      listens && std::all_of(inputPeaks_.begin(), inputPeaks_.end(), [](float peak) { return peak == 0.0F; });
  silentTicks_ = silent ? silentTicks_ + 1 : 0;
  if (silentTicks_ < ticksUntilSure || silenceSaid_ || tape_->inputs().empty()) return;
  silenceSaid_ = true;
  messages_.warn(nothingComesIn());
}

QString DeviceDesk::nothingComesIn() const {
  constexpr int ticksUntilSure = 120;
  if (!device_ || silentTicks_ < ticksUntilSure) return {};
  const DeviceReport report = device_->report();
  if (!report.silence.empty()) return spoken(report.silence);
  if (report.sourceName.empty())
    return tr("There is nothing to record from: plug a microphone in, or choose a source.");
  return tr("Nothing comes from \"%1\", not even noise. Is it the right source, is it plugged in and its "
            "switch on, and "
            "may Yewdrift listen to it?")
      .arg(QString::fromStdString(report.sourceName));
}

void DeviceDesk::requireInputs(const std::vector<TrackId>& armed) {
  if (!device_) return;
  for (const TrackId id : armed) {
    const Track& track = *desk_.session().track(id);
    for (const Microphone& microphone : track.microphones) {
      const int needed = microphone.input + microphone.channels;
      // Opened before a track asked for more: as many as the tracks ask for was the choice.
      if (needed > device_->settings().inputs && choice_.inputs == 0 && choice_.driver == "Simulated")
        open(AudioChoice(choice_));
      if (!device_ || needed > device_->settings().inputs)
        throw refusal(
            tr("\"%1\" records from input %2, and the device has only %3. Choose another input on the Track "
               "page, or another device.")
                .arg(QString::fromStdString(track.name))
                .arg(needed)
                .arg(device_ ? device_->settings().inputs : 0));
    }
  }
}

void DeviceDesk::useRoundTrip() {
  const Frames reported = device_->reportedRoundTrip();
  const auto measured = RoundTrips::ofUser().find(keyed(device_->settings(), choice_), reported);
  roundTripMeasured_ = measured.has_value();
  roundTrip_ = measured.value_or(reported);
  tape_->setRoundTrip(roundTrip_);
}

void DeviceDesk::measureLatency(int input) {
  if (!device_ || !device_->alive())
    return emit latencyMeasured(false, tr("No audio device is open, so there is nothing to measure."));
  if (engine_.state().rolling || engine_.state().capturing)
    return emit latencyMeasured(false, tr("Stop the transport first: the test needs the device for itself."));
  if (probe_) return;
  probe_ = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe_, input, desk_.session().rate);
  engine_.startProbe(probe_);
}

void DeviceDesk::checkProbe() {
  if (!probe_) return;
  if (!device_ || !device_->alive()) {
    probe_.reset();
    return emit latencyMeasured(false, tr("The audio device went away during the test."));
  }
  if (!probe_->finished.load(std::memory_order_acquire)) return;
  const LoopBackResult result = measureRoundTrip(*probe_, desk_.session().rate);
  probe_.reset();
  if (result.good) {
    try {
      RoundTrips::ofUser().store(keyed(device_->settings(), choice_), device_->reportedRoundTrip(),
                                 result.roundTrip);
    } catch (const Error& e) {
      messages_.warn(e);
    }
    useRoundTrip();
  }
  emit latencyMeasured(result.good, spoken(result.sentence));
}

void DeviceDesk::keepTape(bool keep) {
  tapeKept_ = keep;
  updateTape();
}

void DeviceDesk::updateTape() {
  if (tapeKept_) return;
  std::set<int> inputs;
  for (const auto& track : desk_.session().tracks)
    if (track->armed)
      for (const Microphone& microphone : track->microphones)
        for (int i = 0; i < microphone.channels; ++i) inputs.insert(microphone.input + i);
  const std::vector<int> wanted(inputs.begin(), inputs.end());
  tape_->listenTo(wanted);
}

}  // namespace yewdrift::app
