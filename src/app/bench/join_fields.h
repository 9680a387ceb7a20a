// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QWidget>

#include "app/desk/field_edit.h"
#include "app/desk/in_hand.h"
#include "app/desk/join_desk.h"

namespace yewdrift::app {

/// The join in hand by number: where it is, its lengths, curve and bend; and how joins are searched for and
/// heard.
class JoinFields : public QWidget {
  Q_OBJECT
 public:
  JoinFields(SessionDesk& desk, InHand& inHand, JoinDesk& joins, QWidget* parent = nullptr);
  /// Shows the join in hand; fields that are typed into stay as they are.
  void refresh();

 private:
  using Change = std::function<void(JoinShape&, double)>;
  QDoubleSpinBox* number(const QString& name, double lowest, double highest, const QString& unit,
                         const QString& tip);
  QDoubleSpinBox* shapeField(const QString& name, double lowest, double highest, const QString& unit,
                             const QString& tip, const Change& change);
  QDoubleSpinBox* habitField(const QString& name, double lowest, double highest, const QString& unit,
                             const QString& tip, double JoinHabits::*habit);
  void put(int row, int column, const QString& label, QWidget* field);
  [[nodiscard]] const Join* inHandJoin() const;
  void moveThere();
  void setCurve(int index);

  SessionDesk& desk_;
  InHand& inHand_;
  JoinDesk& joins_;
  QGridLayout* grid_;
  QLineEdit* at_;
  std::optional<Frames> typedFor_;  // the join that was in hand when its place was typed
  QDoubleSpinBox* before_;
  QDoubleSpinBox* after_;
  QDoubleSpinBox* bend_;
  QComboBox* curve_;
  bool filling_ = false;
};

}  // namespace yewdrift::app
