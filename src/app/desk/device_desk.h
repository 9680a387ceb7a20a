// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <array>
#include <memory>
#include <optional>

#include "app/desk/audio_choice.h"
#include "app/desk/device_watcher.h"
#include "app/desk/roll_companion.h"
#include "app/desk/session_desk.h"
#include "core/device/audio_gate.h"
#include "core/engine/engine.h"

namespace yewdrift::app {

/// The audio device: which was chosen, opening it, its round trip, losing it and taking it up again; what its
/// inputs hear, and the tape of what they heard last.
class DeviceDesk : public QObject {
  Q_OBJECT
 public:
  /// `Absent`: there is no device and none is asked for; tests drive the engine. `Driven`: tests bring
  /// devices that they drive themselves, so time passes as they will.
  enum class Mode { Normal, Absent, Driven };
  DeviceDesk(SessionDesk& desk, Engine& engine, Messages& messages, Mode mode);
  ~DeviceDesk() override;
  /// Before anything is opened.
  void setCompanion(RollCompanion& companion) { companion_ = &companion; }

  /// As shown to a person.
  [[nodiscard]] QString name() const { return name_; }
  /// As it was opened; null where none is open.
  [[nodiscard]] const AudioDevice* device() const { return device_.get(); }
  [[nodiscard]] bool alive() const { return device_ && device_->alive(); }
  /// Nothing can be captured without one.
  [[nodiscard]] bool needed() const { return mode_ != Mode::Absent; }
  [[nodiscard]] const AudioChoice& choice() const { return choice_; }
  /// Opens a device with the choice's settings; says so where it cannot. The simulated interface is there at
  /// once; others are opened in the background. Without a driver, the best that is there is taken.
  void open(const AudioChoice& choice);
  /// The same for a person who chose it: it is remembered once it is open. Where it cannot be opened, the
  /// device before it is used again.
  void choose(const AudioChoice& choice);
  [[nodiscard]] bool opening() const { return opening_; }
  /// What runs and is plugged in on this machine.
  [[nodiscard]] DeviceWatcher& devices() { return devices_; }
  /// Throws Error where an armed track records from an input that the device does not have.
  void requireInputs(const std::vector<TrackId>& armed);
  /// Stops and closes what is open; nothing calls the engine from here on.
  void close();
  /// Gives up what is being opened and waits until its thread has ended.
  void giveUpOpening();

  /// The delay that recordings are moved back by, and where that figure comes from.
  [[nodiscard]] Frames roundTrip() const { return roundTrip_; }
  [[nodiscard]] bool roundTripMeasured() const { return roundTripMeasured_; }
  /// Plays a test signal and listens for it on that input; latencyMeasured() follows in three seconds.
  void measureLatency(int input);

  /// Loudest sample since the last tick, of an input or of all inputs of a track.
  [[nodiscard]] float inputPeak(int input) const;
  [[nodiscard]] float inputPeak(const Track& track) const;
  /// Why nothing comes in, where nothing has for some seconds; else empty.
  [[nodiscard]] QString nothingComesIn() const;
  /// What armed inputs heard last.
  [[nodiscard]] const std::shared_ptr<InputTape>& tape() const { return tape_; }
  /// While it is kept the tape goes on with the inputs that it has, whatever is armed.
  void keepTape(bool keep);
  [[nodiscard]] bool tapeKept() const { return tapeKept_; }

  /// Takes on a device that whoever brings it drives.
  void drive(std::unique_ptr<AudioDevice> device);
  /// As if the simulated interface were pulled out, or its driver had stopped calling.
  void unplugForTest(bool freeze = false);
  /// One block of the simulated interface, where nobody else runs it.
  void runBlockForTest();
  void tick();

 signals:
  void changed();
  void latencyMeasured(bool good, const QString& sentence);

 private:
  /// A device, with what it calls until it is taken on.
  struct OpenedDevice {
    std::unique_ptr<AudioGate> gate;
    std::unique_ptr<AudioDevice> device;  // last: it calls the gate
  };
  void openSimulated(const DeviceSettings& settings);
  void openInBackground(const DeviceSettings& settings);
  void opened(OpenedDevice opened, const QString& problem);
  void useBest();
  void works();
  void goBack(const QString& problem);
  void devicesChanged();
  void takeUpAgain();
  void tryOnceMore();
  void followDefaults();
  void checkAlive();
  void checkProbe();
  void listenForSilence();
  void useRoundTrip();
  void updateTape();

  SessionDesk& desk_;
  Engine& engine_;
  Messages& messages_;
  Mode mode_;
  RollCompanion* companion_ = nullptr;
  std::unique_ptr<AudioGate> gate_;
  std::unique_ptr<AudioDevice> device_;
  AudioChoice choice_;
  std::optional<AudioChoice> working_;  // the last that opened
  bool chosen_ = false;                 // by a person: to be remembered
  QString name_;
  Frames roundTrip_;
  bool roundTripMeasured_ = false;
  bool lost_ = false;
  bool missing_ = false;  // could not be opened; may come
  bool opening_ = false;
  int openings_ = 0;            // the newest counts
  bool bestTaken_ = false;      // on the first start; it is said once it is open
  bool takesUp_ = false;        // what is being opened was lost, or missing
  int tries_ = 0;               // to do so, in vain
  bool isBack_ = false;         // what was lost or missing, to be taken up again
  bool defaultsMoved_ = false;  // to be followed once the transport stands
  bool silenceSaid_ = false;
  int silentTicks_ = 0;
  DeviceWatcher devices_;
  QThreadPool opener_;
  std::shared_ptr<InputTape> tape_;
  bool tapeKept_ = false;
  std::shared_ptr<LoopBackProbe> probe_;
  std::array<float, 128> inputPeaks_{};
};

}  // namespace yewdrift::app
