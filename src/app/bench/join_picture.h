// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPixmap>
#include <QWidget>

#include "app/desk/in_hand.h"
#include "app/desk/join_desk.h"
#include "app/desk/session_desk.h"
#include "app/views/pointer_gesture.h"

namespace yewdrift::app {

/// Both takes of a join over each other at sample scale, with the two curves. Drag the boundary line, the
/// edges of the crossfade, or where the curves cross, to bend them. The boundary is drawn to good places near
/// it, and to where a take crosses zero once that can be seen.
class JoinPicture : public QWidget {
  Q_OBJECT
 public:
  JoinPicture(SessionDesk& desk, InHand& inHand, JoinDesk& joins, QWidget* parent = nullptr);
  void refresh();
  void zoom(double factor);
  [[nodiscard]] const std::optional<JoinCloseUp>& shown() const { return shown_; }
  [[nodiscard]] int xOf(Frames at) const;
  /// Where the two curves cross: the grip that bends them. None where they do not.
  [[nodiscard]] std::optional<QPoint> bendGrip() const;
  /// Where either take crosses zero, as far as there is room to show it.
  [[nodiscard]] std::vector<Frames> zeroCrossings() const;
  /// What a screen reader tells of it.
  [[nodiscard]] QString spoken() const;
  [[nodiscard]] QSize minimumSizeHint() const override { return {200, 96}; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void changeEvent(QEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;

 private:
  [[nodiscard]] int paletteOf(LaneNumber lane) const;
  [[nodiscard]] QColor colourOf(const CloseUpSide& side) const;
  enum class Drag { None, Boundary, Before, After, Bend };
  [[nodiscard]] Frames atX(double x) const;
  [[nodiscard]] std::optional<Frames> heldCentre() const {
    return drag_ == Drag::None ? std::nullopt : std::optional(dragFrom_);
  }
  [[nodiscard]] Drag gripAt(QPoint at) const;
  void beginDrag();
  void goOnDragging(double x, bool free);
  [[nodiscard]] Frames drawn(Frames at) const;
  void endDrag();
  void dragIsOver();
  void drawWaves();
  /// `scale`: pixels for full scale.
  void drawTake(QPainter& painter, bool incoming, double scale);
  void drawCurves(QPainter& painter);
  void drawGrips(QPainter& painter);
  void drawPlaces(QPainter& painter);
  void drawNames(QPainter& painter);

  SessionDesk& desk_;
  InHand& inHand_;
  JoinDesk& joins_;
  std::optional<JoinCloseUp> shown_;
  Frames around_{2400};
  std::optional<Join> fitted_;  // what was brought into sight last
  PointerGesture gesture_;
  HeldEdit held_;
  Drag drag_ = Drag::None;
  Frames dragFrom_;
  JoinShape shapeBefore_;           // what it was when the drag began
  std::vector<Frames> goodPlaces_;  // what a boundary that is dragged is drawn to
  QPixmap waves_;                   // both takes; the curves and grips lie over them
  std::optional<JoinCloseUp> drawnWaves_;
};

}  // namespace yewdrift::app
