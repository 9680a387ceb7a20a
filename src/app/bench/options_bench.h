// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QSlider>
#include <QSpinBox>
#include <QWidget>
#include <functional>

#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"

namespace yewdrift::app {

/// How this session records, in plain words and in one place. Above it the sentence that says what that means
/// for the next recording.
class OptionsBench : public QWidget {
  Q_OBJECT
 public:
  explicit OptionsBench(SessionDesk& desk, Transport& transport, RecordingDesk& recording,
                        QWidget* parent = nullptr);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  struct Length {
    QDoubleSpinBox* amount = nullptr;
    QComboBox* unit = nullptr;
  };
  template <typename Value>
  using Set = std::function<void(RecordingOptions&, Value)>;
  Length lengthField(const QString& name, const QString& tip, const Set<MusicalLength>& set);
  QCheckBox* check(const QString& text, const QString& tip, const Set<bool>& set);
  QComboBox* choice(const QString& name, const QStringList& choices, const QString& tip, const Set<int>& set);
  QSpinBox* count(const QString& name, int least, int most, const QString& tip, const Set<int>& set);
  QDoubleSpinBox* seconds(const QString& name, const QString& tip, const Set<double>& set);
  void refresh();
  void change(const std::function<void(RecordingOptions&)>& set);

  SessionDesk& desk_;
  Transport& transport_;
  RecordingDesk& recording_;
  bool filling_ = true;
  QLabel* sentence_;
  Length preRoll_;
  Length postRoll_;
  QCheckBox* fillPreRoll_;
  QCheckBox* playOn_;
  QCheckBox* keepWhole_;
  QComboBox* cue_;
  QSpinBox* countIn_;
  QSpinBox* passes_;
  QComboBox* result_;
  QComboBox* hush_;
  QCheckBox* playBack_;
  QCheckBox* safeReview_;
  QCheckBox* setAside_;
  QCheckBox* clickRecording_;
  QCheckBox* clickPlaying_;
  QCheckBox* accent_;
  QSlider* clickLevel_;
  QDoubleSpinBox* backUp_;
  QDoubleSpinBox* lead_;
  QComboBox* snap_;
  QSpinBox* divisions_;
  QCheckBox* grid_;
};

}  // namespace yewdrift::app
