// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QElapsedTimer>
#include <QWidget>

namespace yewdrift::app {

/// A level with peak hold; an over lamp that stays until it is clicked.
class LevelMeter : public QWidget {
  Q_OBJECT
 public:
  explicit LevelMeter(const QString& name, QWidget* parent = nullptr);
  /// Loudest sample since the last call, of full scale 1.
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
  QElapsedTimer holdTimer_;
};

}  // namespace yewdrift::app
