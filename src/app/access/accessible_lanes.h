// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAccessibleWidget>
#include <map>

#include "app/views/lanes_view.h"

namespace yewdrift::app {

/// The view of takes and composite as a list: its lanes as they are shown, the composite's pieces, its joins.
class AccessibleLanes : public QAccessibleWidget {
 public:
  explicit AccessibleLanes(LanesView* view) : QAccessibleWidget(view, QAccessible::List), view_(view) {}
  ~AccessibleLanes() override;
  [[nodiscard]] int childCount() const override;
  [[nodiscard]] QAccessibleInterface* child(int index) const override;
  [[nodiscard]] int indexOfChild(const QAccessibleInterface* child) const override;
  [[nodiscard]] QAccessibleInterface* childAt(int x, int y) const override;
  [[nodiscard]] QString text(QAccessible::Text what) const override;

 private:
  LanesView* view_;
  mutable std::map<int, QAccessible::Id> children_;  // by index
};

}  // namespace yewdrift::app
