// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>
#include <algorithm>
#include <array>

namespace yewdrift::app {

/// A level with peak hold; an over lamp that stays until it is clicked.
class LevelMeter : public QWidget {
  Q_OBJECT
 public:
  /// Where its scale has lines, in dB; it begins at -60.
  static constexpr std::array<double, 6> scaleLevels{-48.0, -36.0, -24.0, -12.0, -6.0, 0.0};
  static constexpr double lampWidth = 12.0;
  /// How much of it such a level fills, 0 to 1.
  static double shareOf(double level) { return std::clamp((level + 60.0) / 60.0, 0.0, 1.0); }
  explicit LevelMeter(const QString& name, QWidget* parent = nullptr);
  /// Loudest sample since the last call, of full scale 1. Called for each picture, some 30 times a second.
  void feed(float peak);
  /// Decibels of full scale, from -60 on.
  [[nodiscard]] double shown() const;
  [[nodiscard]] QString spoken() const;
  [[nodiscard]] QSize sizeHint() const override { return {90, 10}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {40, 8}; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;

 private:
  double shown_ = -90.0;  // decibels
  double held_ = -90.0;
  bool over_ = false;
  int heldFor_ = 0;  // pictures
};

/// The numbers to the lines of the meters above it.
class MeterScale : public QWidget {
  Q_OBJECT
 public:
  explicit MeterScale(QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent* event) override;
};

}  // namespace yewdrift::app
