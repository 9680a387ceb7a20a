// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QWidget>
#include <vector>

#include "app/desk/field_edit.h"
#include "app/desk/in_hand.h"
#include "app/desk/transport.h"
#include "core/edit/edit_takes.h"

namespace yewdrift::app {

/// The take that is heard, else the newest: what it is called, what you think of it, and how it sounds. What
/// can be done with it stands beside.
class TakeBench : public QWidget {
  Q_OBJECT
 public:
  TakeBench(SessionDesk& desk, InHand& inHand, Transport& transport, ListeningDesk& listening,
            const QList<QAction*>& actions, QWidget* parent = nullptr);

 private:
  void refresh();
  void keepTyped();
  [[nodiscard]] const Lane* lane() const;
  /// Of the lane that is shown, whichever is heard by the time it is done.
  void change(const QString& label, const LaneChange& change);
  QDoubleSpinBox* stepped(const QString& name, const QString& label, double lowest, double highest,
                          const std::function<void(LaneChange&, double)>& set);

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  ListeningDesk& listening_;
  bool filling_ = false;
  TrackId track_;
  LaneNumber shown_;
  QLineEdit* name_;
  QLineEdit* note_;
  QComboBox* rating_;
  QComboBox* palette_;
  QComboBox* picture_;
  QCheckBox* muted_;
  QDoubleSpinBox* gain_;
  QDoubleSpinBox* pitch_;
  std::vector<FieldEdit*> edits_;
  QLabel* state_;
};

}  // namespace yewdrift::app
