// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/audio_choice.h"

#include <QSettings>

namespace yewdrift::app {
AudioChoice savedAudioChoice() {
  const QSettings settings;
  AudioChoice choice;
  choice.driver = settings.value("device/driver").toString();
  choice.source = settings.value("device/source").toString();
  choice.sink = settings.value("device/sink").toString();
  choice.takeUpAgain = settings.value("device/takeUpAgain", true).toBool();
  choice.blockFrames = std::clamp(settings.value("device/block", choice.blockFrames).toInt(), 16, 8192);
  choice.inputs = std::clamp(settings.value("device/inputs", 0).toInt(), 0, 256);
  choice.simulatedRoundTrip =
      std::clamp(settings.value("device/simulatedRoundTrip", choice.simulatedRoundTrip).toInt(), 0, 480000);
  choice.dropoutEveryBlocks = std::max(0, settings.value("device/dropoutEvery", 0).toInt());
  choice.patched = settings.value("device/patched", false).toBool();
  const QStringList patches = settings.value("device/patches").toStringList();
  for (qsizetype i = 0; i + 1 < patches.size(); i += 2)
    choice.patches.push_back({patches[i].toStdString(), patches[i + 1].toStdString()});
  return choice;
}

void saveAudioChoice(const AudioChoice& choice) {
  QSettings settings;
  settings.setValue("device/driver", choice.driver);
  settings.setValue("device/source", choice.source);
  settings.setValue("device/sink", choice.sink);
  settings.setValue("device/takeUpAgain", choice.takeUpAgain);
  settings.setValue("device/block", choice.blockFrames);
  settings.setValue("device/inputs", choice.inputs);
  settings.setValue("device/simulatedRoundTrip", choice.simulatedRoundTrip);
  settings.setValue("device/dropoutEvery", choice.dropoutEveryBlocks);
  settings.setValue("device/patched", choice.patched);
  QStringList patches;
  for (const Patch& patch : choice.patches)
    patches << QString::fromStdString(patch.from) << QString::fromStdString(patch.to);
  settings.setValue("device/patches", patches);
}

}  // namespace yewdrift::app
