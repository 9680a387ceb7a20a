// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/pointer_gesture.h"
#include "app/views/span_gestures.h"
#include "app/views/time_scale.h"

namespace yewdrift::app {

/// The whole song in one strip: ruler with the loop span, a thin row a track, what the lanes below show.
class SongStrip : public QWidget {
  Q_OBJECT
 public:
  /// What lies somewhere on it.
  struct Place {
    SpanGestures::Row row;  // on the ruler, or in the punch row
    Frames at;
    Frames reach;                  // what is no farther away is there too
    std::optional<TrackId> track;  // on that track's row
  };
  explicit SongStrip(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     QWidget* parent = nullptr);
  void setShown(Span span);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {300, 72}; }
  [[nodiscard]] TimeScale scale() const;
  /// What a screen reader tells of it.
  [[nodiscard]] QString spoken() const;
  [[nodiscard]] int left() const { return headWidth; }
  /// The middle of the punch row.
  [[nodiscard]] int punchRowY() const { return rulerHeight + punchRowHeight / 2; }

 signals:
  void scrollAsked(Frames left);
  void menuAsked(const SongStrip::Place& place, QPoint global);
  /// Why what was tried with the mouse did nothing.
  void refused(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void changeEvent(QEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  enum class Drag { None, View, Span };
  static constexpr int headWidth = 12;
  static constexpr int rulerHeight = 27;  // names of markers, and under them bar numbers
  static constexpr int punchRowHeight = 14;
  static constexpr int rowsTop = rulerHeight + punchRowHeight;
  [[nodiscard]] QRectF rowBox(std::size_t track) const;
  void stale();
  void moved();
  void hover(QPoint at);
  [[nodiscard]] SpanGestures::Row rowAt(int y) const;
  [[nodiscard]] Frames reach() const;
  [[nodiscard]] std::optional<TrackId> trackAt(QPoint at) const;
  void beginDrag();
  void goOnDragging(QPoint at, bool free);
  void endDrag();
  void click();
  void renderLayer();

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  RecordingDesk& recording_;
  Span shown_;
  QPixmap layer_;
  bool layerStale_ = true;
  Drag drag_ = Drag::None;
  PointerGesture gesture_;
  Frames pressedFrame_;
  bool moves_ = false;  // pressed with Ctrl
  SpanGestures spans_;
  int shownPlayhead_ = -1;  // pixel
};

}  // namespace yewdrift::app
