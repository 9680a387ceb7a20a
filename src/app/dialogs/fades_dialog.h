// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>

#include "app/desk/in_hand.h"
#include "app/desk/messages.h"

namespace yewdrift::app {

/// Crossfades and end fades of all tracks in hand at once: what is ticked is set, the rest stays. Joins that
/// are settled stay as well. It stays with the tracks and the selection that it was opened on.
class FadesDialog : public QDialog {
  Q_OBJECT
 public:
  FadesDialog(SessionDesk& desk, InHand& inHand, Messages& messages, QWidget* parent = nullptr);

 private:
  void refresh();
  void apply();
  struct Length {
    QCheckBox* wanted;
    QDoubleSpinBox* milliseconds;
  };
  [[nodiscard]] Length lengthField(const QString& text, const QString& tip, double value, double most);
  [[nodiscard]] Frames framesOf(const Length& field) const;

  SessionDesk& desk_;
  Messages& messages_;
  std::vector<TrackId> tracks_;
  std::optional<Span> selection_;
  Length join_{};
  Length in_{};
  Length out_{};
  QCheckBox* curveWanted_;
  QComboBox* curve_;
  QPushButton* set_;
};

}  // namespace yewdrift::app
