// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPixmap>
#include <QPushButton>
#include <QWidget>

#include "app/bench/join_list.h"
#include "app/desk/in_hand.h"
#include "app/desk/session_desk.h"
#include "app/views/pointer_gesture.h"
#include "app/views/time_scale.h"

namespace yewdrift::app {

/// Both takes of a join over each other at sample scale, with the two curves. Drag the boundary line or the
/// edges of the crossfade.
class JoinPicture : public QWidget {
  Q_OBJECT
 public:
  explicit JoinPicture(SessionDesk& desk, InHand& inHand, QWidget* parent = nullptr);
  void refresh();
  void zoom(double factor);
  [[nodiscard]] const std::optional<JoinCloseUp>& shown() const { return shown_; }
  [[nodiscard]] int xOf(Frames at) const;
  /// What a screen reader tells of it.
  [[nodiscard]] QString spoken() const;
  [[nodiscard]] QSize minimumSizeHint() const override { return {300, 96}; }

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
  [[nodiscard]] int colourOf(LaneNumber lane) const;
  enum class Drag { None, Boundary, Before, After };
  [[nodiscard]] Frames atX(double x) const;
  [[nodiscard]] std::optional<Frames> heldCentre() const {
    return drag_ == Drag::None ? std::nullopt : std::optional(dragFrom_);
  }
  [[nodiscard]] Drag gripAt(QPoint at) const;
  void beginDrag();
  void goOnDragging(Frames at);
  void endDrag();
  void dragIsOver();
  void drawWaves();
  void drawTake(QPainter& painter, const std::vector<float>& samples, const std::optional<LaneNumber>& lane,
                bool incoming);
  void drawCurves(QPainter& painter);
  void drawGrips(QPainter& painter);

  SessionDesk& desk_;
  InHand& inHand_;
  std::optional<JoinCloseUp> shown_;
  Frames around_{2400};
  PointerGesture gesture_;
  HeldEdit held_;
  Drag drag_ = Drag::None;
  Frames dragFrom_;
  QPixmap waves_;  // both takes; the curves and grips lie over them
  std::optional<JoinCloseUp> drawnWaves_;
};

/// The join in hand under the magnifier, with its numbers and its curve.
class JoinBench : public QWidget {
  Q_OBJECT
 public:
  /// What can be done with the join in hand.
  struct Actions {
    QAction* hear;
    QAction* better;
    QAction* settle;
  };
  JoinBench(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const Actions& actions,
            QWidget* parent = nullptr);
  [[nodiscard]] JoinPicture& picture() { return *picture_; }

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void showNumbers(const JoinCloseUp& view);

  SessionDesk& desk_;
  InHand& inHand_;
  JoinDesk& joins_;
  JoinPicture* picture_;
  JoinList* list_;
  QLabel* title_;
  QLabel* reading_;
  QLabel* numbers_;
  QComboBox* curve_;
};

}  // namespace yewdrift::app
