// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/studio.h"
#include "app/time_scale.h"

namespace yewdrift::app {

/// The whole song in one strip: ruler with the loop span, a thin row a track, what the lanes below show.
class SongStrip : public QWidget {
  Q_OBJECT
 public:
  explicit SongStrip(Studio& studio, QWidget* parent = nullptr);
  void setShown(Span span);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {300, 60}; }
  [[nodiscard]] TimeScale scale() const;
  [[nodiscard]] int left() const { return headWidth; }

 signals:
  void scrollAsked(Frames left);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  enum class Drag { None, Pressed, View, LoopStart, LoopEnd, LoopBody, LoopDraw };
  static constexpr int headWidth = 12;
  static constexpr int rulerHeight = 22;
  [[nodiscard]] QRectF rowBox(std::size_t track) const;
  void stale();
  void renderLayer();
  void dragTo(Frames now, bool free);

  Studio& studio_;
  Span shown_;
  QPixmap layer_;
  bool layerStale_ = true;
  Drag drag_ = Drag::None;
  QPoint pressedAt_;
  Frames pressedFrame_;
  Span loopBefore_;
};

}  // namespace yewdrift::app
