// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractScrollArea>
#include <QPixmap>

#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/span_gestures.h"
#include "app/views/time_scale.h"

namespace yewdrift::app {

/// The takes of the track in hand, in lanes, and under them the composite. Gestures are in docs/interface.md.
class LanesView : public QAbstractScrollArea {
  Q_OBJECT
 public:
  explicit LanesView(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     QWidget* parent = nullptr);

  [[nodiscard]] Span visibleSpan() const;
  [[nodiscard]] const TimeScale& scale() const { return scale_; }
  void showSpan(Span span);
  void scrollTo(Frames left);
  void zoom(double factor);
  /// The lanes in the order shown: those set aside first, where they are unfolded.
  [[nodiscard]] std::vector<const Lane*> rows() const;
  /// Where things are, for tests and for accessibility.
  [[nodiscard]] QRect laneRect(int index) const;
  [[nodiscard]] QRect compositeRect() const;
  [[nodiscard]] QRect rulerRect() const;     // with the loop
  [[nodiscard]] QRect punchRowRect() const;  // under it
  [[nodiscard]] QRect setAsideRect() const;  // empty where nothing is set aside
  [[nodiscard]] int xOf(Frames at) const { return timeLeft() + static_cast<int>(std::lround(scale_.x(at))); }

 signals:
  void scrolled();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool viewportEvent(QEvent* event) override;
  void scrollContentsBy(int dx, int dy) override;

 private:
  enum class Part {
    Nothing,
    Ruler,
    PunchRow,
    SetAside,
    LaneName,
    Lane,
    ClipStart,
    ClipEnd,
    CompositeName,
    Composite,
    Boundary
  };
  struct Hit {
    Part part = Part::Nothing;
    std::optional<LaneNumber> lane;
    Frames at;
    Frames boundary;
    Span window;  // of the clip whose edge it is
  };
  enum class Drag { None, Pressed, Pick, Select, Boundary, ClipStart, ClipEnd, Span };

  static constexpr int rulerHeight = 24;
  static constexpr int punchRowHeight = 18;
  static constexpr int lanesTop = rulerHeight + punchRowHeight;
  static constexpr int headWidth = 148;
  [[nodiscard]] int timeLeft() const { return headWidth; }
  [[nodiscard]] int rowCount() const;
  [[nodiscard]] int rowHeight() const;
  [[nodiscard]] QRectF timeBox(const QRect& row) const;
  [[nodiscard]] Hit hit(QPoint at) const;
  [[nodiscard]] int lanesRoom() const;
  [[nodiscard]] Frames reach() const;
  void hitLane(Hit& found, const Lane& lane, const QRect& row, QPoint at) const;
  void dragMaterial(Frames now, bool free);
  [[nodiscard]] QString tipFor(const Hit& where) const;
  void beginDrag(QPoint at);
  void continueDrag(QMouseEvent* event);
  void endDrag();
  void click(const Hit& where);
  void moved();
  void contentChanged();
  void updateScrollBars();
  void autoScroll(Frames playhead);
  void renderLayer();
  void drawHead(QPainter& painter, const QRect& row, const QString& title, const QString& detail,
                int laneNumber, bool heard);
  void drawLane(QPainter& painter, const QRect& row, const Track& track, const Lane& lane);
  void drawGrowing(QPainter& painter, const QRect& row, const GrowingPass& pass, bool first);
  void drawComposite(QPainter& painter, const Track& track);
  void drawPiece(QPainter& painter, const QRectF& box, const Track& track, const Piece& piece);
  void drawJoins(QPainter& painter, const QRectF& box, const ResolvedComposite& composite);
  void drawClip(QPainter& painter, const QRectF& box, const Clip& clip, Frames slip, Span span,
                const QColor& colour, bool wholeSet);
  void drawEmpty(QPainter& painter);
  void drawRulers(QPainter& painter, const Track& track);
  void drawSetAside(QPainter& painter, const Track& track);
  void drawPunchBands(QPainter& painter, const QRect& area);

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  RecordingDesk& recording_;
  TimeScale scale_;
  QPixmap layer_;
  bool layerStale_ = true;
  Drag drag_ = Drag::None;
  Hit pressed_;
  QPoint pressedAt_;
  Frames dragNow_;
  SpanGestures spans_;
  bool showSetAside_ = false;
  int shownRows_ = 0;
  bool following_ = true;
};

}  // namespace yewdrift::app
