// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>
#include <QLabel>
#include <QScrollArea>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <vector>

#include "app/desk/studio.h"
#include "app/views/level_meter.h"

namespace yewdrift::app {

/// One track: name, takes, arm, mute, solo, level, gain.
class TrackRow : public QFrame {
  Q_OBJECT
 public:
  TrackRow(Studio& studio, TrackId track, QWidget* parent = nullptr);
  [[nodiscard]] TrackId track() const { return track_; }
  void refresh();
  void feed(int trackIndex);

 protected:
  void mousePressEvent(QMouseEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  QToolButton* switchButton(const QString& text, const QString& tip);

  Studio& studio_;
  TrackId track_;
  QLabel* name_;
  QLabel* detail_;
  QToolButton* arm_;
  QToolButton* mute_;
  QToolButton* solo_;
  QSlider* gain_;
  LevelMeter* meter_;
};

class TrackList : public QScrollArea {
  Q_OBJECT
 public:
  explicit TrackList(Studio& studio, QWidget* parent = nullptr);

 private:
  void rebuild();
  void feed();

  Studio& studio_;
  QWidget* content_;
  QVBoxLayout* column_;
  std::vector<TrackRow*> rows_;
};

}  // namespace yewdrift::app
