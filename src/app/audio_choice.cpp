// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/audio_choice.h"

#include <QSettings>

namespace yewdrift::app {
namespace {

QString keyOf(const AudioChoice& choice, SampleRate rate, int blockFrames) {
  QString device = choice.driver + "-" + choice.device;
  if (choice.driver == "Simulated") device += QString::number(choice.simulatedRoundTrip);
  device.replace('/', '_').replace('\\', '_');
  return QString("latency/%1/%2/%3").arg(device).arg(rate.hertz).arg(blockFrames);
}

}  // namespace

AudioChoice savedAudioChoice() {
  const QSettings settings;
  AudioChoice choice;
  choice.driver = settings.value("device/driver", choice.driver).toString();
  choice.device = settings.value("device/name").toString();
  choice.blockFrames = std::clamp(settings.value("device/block", choice.blockFrames).toInt(), 16, 8192);
  choice.inputs = std::clamp(settings.value("device/inputs", 0).toInt(), 0, 256);
  choice.simulatedRoundTrip =
      std::clamp(settings.value("device/simulatedRoundTrip", choice.simulatedRoundTrip).toInt(), 0, 480000);
  choice.dropoutEveryBlocks = std::max(0, settings.value("device/dropoutEvery", 0).toInt());
  choice.patched = settings.value("device/patched", false).toBool();
  return choice;
}

void saveAudioChoice(const AudioChoice& choice) {
  QSettings settings;
  settings.setValue("device/driver", choice.driver);
  settings.setValue("device/name", choice.device);
  settings.setValue("device/block", choice.blockFrames);
  settings.setValue("device/inputs", choice.inputs);
  settings.setValue("device/simulatedRoundTrip", choice.simulatedRoundTrip);
  settings.setValue("device/dropoutEvery", choice.dropoutEveryBlocks);
  settings.setValue("device/patched", choice.patched);
}

std::optional<Frames> savedRoundTrip(const AudioChoice& choice, SampleRate rate, int blockFrames) {
  const QVariant saved = QSettings().value(keyOf(choice, rate, blockFrames));
  if (!saved.isValid()) return std::nullopt;
  return Frames{saved.toLongLong()};
}

void saveRoundTrip(const AudioChoice& choice, SampleRate rate, int blockFrames, Frames roundTrip) {
  QSettings().setValue(keyOf(choice, rate, blockFrames), static_cast<qlonglong>(roundTrip.count));
}

}  // namespace yewdrift::app
