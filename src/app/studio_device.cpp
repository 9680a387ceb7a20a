// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio's device: opening it, its round trip, losing it, and the tape of what its inputs heard last.
#include <set>

#include "app/studio.h"
#include "core/device/performer_file.h"
#include "core/device/simulated_device.h"
#include "core/device/system_device.h"
#include "core/error.h"

namespace yewdrift::app {
namespace {

constexpr double claimableSeconds = 60.0;

}  // namespace

float Studio::inputPeak(int input) const {
  return input >= 0 && static_cast<std::size_t>(input) < inputPeaks_.size()
             ? inputPeaks_[static_cast<std::size_t>(input)]
             : 0.0F;
}

float Studio::inputPeak(const Track& track) const {
  float peak = 0.0F;
  for (const Microphone& microphone : track.microphones)
    for (int i = 0; i < microphone.channels; ++i) peak = std::max(peak, inputPeak(microphone.input + i));
  return peak;
}

void Studio::unplugForTest(bool freeze) {
  if (auto* simulated = dynamic_cast<SimulatedDevice*>(device_.get())) {
    if (freeze)
      simulated->freeze();
    else
      simulated->unplug();
  }
}

void Studio::closeDevice() {
  if (device_) device_->stop();
  device_.reset();
  engine_->deviceClosed();
  deviceName_.clear();
  roundTripMeasured_ = false;
  deviceLost_ = false;
}

void Studio::openDevice(const QString& driver, const QString& device) {
  AudioChoice choice;
  choice.driver = driver;
  choice.device = device;
  openDevice(choice);
}

void Studio::openDevice(const AudioChoice& choice) {
  if (recording()) return emit said(tr("Stop recording before you change the audio device."));
  engine_->stop();
  dropStandby();
  closeDevice();
  choice_ = choice;
  DeviceSettings settings;
  settings.driver = choice.driver.toStdString();
  settings.device = choice.device.toStdString();
  settings.rate = session().rate;
  settings.blockFrames = choice.blockFrames;
  settings.inputs = std::max(2, choice.inputs);
  if (choice.inputs == 0)
    for (const auto& track : session().tracks)
      for (const Microphone& microphone : track->microphones)
        settings.inputs = std::max(settings.inputs, microphone.input + microphone.channels);
  try {
    if (choice.driver == "Simulated") {
      SimulatedInterface interface;
      interface.settings = settings;
      interface.roundTrip = Frames{choice.simulatedRoundTrip};
      interface.dropoutEveryBlocks = choice.dropoutEveryBlocks;
      interface.patched = choice.patched;
      interface.parts = readPerformerFile(path_, session().rate);
      deviceName_ = interface.parts.empty() ? tr("Simulated interface, nobody playing")
                                            : tr("Simulated interface with a performer");
      device_ = std::make_unique<SimulatedDevice>(std::move(interface), *engine_);
    } else {
      device_ = openSystemDevice(settings, *engine_);
      deviceName_ = choice.driver + (choice.device.isEmpty() ? QString() : ": " + choice.device);
    }
    useRoundTrip();
    device_->start();
  } catch (const std::exception& e) {
    closeDevice();
    emit said(QString::fromUtf8(e.what()));
  }
  emit transportChanged();
}

void Studio::useRoundTrip() {
  const auto measured = savedRoundTrip(choice_, session().rate, device_->settings().blockFrames);
  roundTripMeasured_ = measured.has_value();
  roundTrip_ = measured.value_or(device_->reportedRoundTrip());
}

void Studio::measureLatency(int input) {
  if (!device_ || !device_->alive())
    return emit latencyMeasured(false, tr("No audio device is open, so there is nothing to measure."));
  if (transport().rolling || transport().capturing)
    return emit latencyMeasured(false, tr("Stop the transport first: the test needs the device for itself."));
  if (probe_) return;
  probe_ = std::make_shared<LoopBackProbe>();
  prepareProbe(*probe_, input, session().rate);
  engine_->startProbe(probe_);
}

void Studio::checkProbe() {
  if (!probe_) return;
  if (!device_ || !device_->alive()) {
    probe_.reset();
    return emit latencyMeasured(false, tr("The audio device went away during the test."));
  }
  if (!probe_->finished.load(std::memory_order_acquire)) return;
  const LoopBackResult result = measureRoundTrip(*probe_, session().rate);
  probe_.reset();
  if (result.good) {
    saveRoundTrip(choice_, session().rate, device_->settings().blockFrames, result.roundTrip);
    useRoundTrip();
  }
  emit latencyMeasured(result.good, QString::fromStdString(result.sentence));
}

void Studio::updateStandbyTape() {
  std::set<int> inputs;
  for (const auto& track : session().tracks)
    if (track->armed)
      for (const Microphone& microphone : track->microphones)
        for (int i = 0; i < microphone.channels; ++i) inputs.insert(microphone.input + i);
  const std::vector<int> wanted(inputs.begin(), inputs.end());
  if (tape_ && tape_->inputs() == wanted) return;
  tape_ = wanted.empty() ? nullptr : std::make_shared<StandbyTape>(wanted, session().rate, claimableSeconds);
  engine_->setStandby(tape_);
}

}  // namespace yewdrift::app
