// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <vector>

#include "app/desk/device_desk.h"
#include "app/desk/field_edit.h"
#include "app/desk/held_edit.h"
#include "app/desk/in_hand.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/level_meter.h"
#include "app/views/pointer_gesture.h"

namespace yewdrift::app {

/// One track: name, takes, arm, mute, solo, level, gain.
class TrackRow : public QFrame {
  Q_OBJECT
 public:
  TrackRow(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
           RecordingDesk& recording, TrackId track, QWidget* parent = nullptr);
  [[nodiscard]] TrackId track() const { return track_; }
  /// A field over the name, to type another into.
  void rename();
  /// Only what a track needs that is not in hand, where there are many.
  void setCompact(bool compact);
  void refresh();
  void feed(int trackIndex);
  /// In the order in which Tab goes through them.
  [[nodiscard]] QList<QWidget*> controls() const;

 protected:
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 signals:
  void menuAsked(QPoint global);
  /// It is dragged by the mouse, from where it was pressed to where that is let go.
  void dragged(PointerGesture::Step step, QPoint global);

 private:
  QToolButton* switchButton(const QString& text, const QString& tip);
  /// All tracks in hand where this is one of several; else this one.
  [[nodiscard]] std::vector<TrackId> meant() const;

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  DeviceDesk& device_;
  RecordingDesk& recording_;
  TrackId track_;
  PointerGesture gesture_;
  void endRenaming(bool keep);

  QLabel* name_;
  QLineEdit* typed_ = nullptr;
  QWidget* levels_;
  QLabel* detail_;
  QToolButton* arm_;
  QToolButton* mute_;
  QToolButton* solo_;
  QSlider* gain_;
  QSlider* pan_;
  QLabel* panShown_;
  FieldEdit* gainEdit_;
  FieldEdit* panEdit_;
  LevelMeter* meter_;
};

class TrackList : public QScrollArea {
  Q_OBJECT
 public:
  explicit TrackList(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
                     RecordingDesk& recording, QWidget* parent = nullptr);
  void rename(TrackId track);

 signals:
  /// Files were dropped on that track, or beside all of them.
  void filesDropped(const QStringList& files, const std::optional<TrackId>& into);
  void refused(const QString& sentence);
  void menuAsked(QPoint global);

 protected:
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragMoveEvent(QDragMoveEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  static constexpr std::size_t many = 6;
  void arrangeRows();
  void dragRow(TrackRow* row, PointerGesture::Step step, QPoint global);
  void rebuild();
  void feed();

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  DeviceDesk& device_;
  RecordingDesk& recording_;
  QWidget* content_;
  QVBoxLayout* column_;
  std::vector<TrackRow*> rows_;
  TrackId shown_;  // brought into sight
  HeldEdit held_;
  std::optional<TrackId> dragged_;
};

}  // namespace yewdrift::app
