// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/access/accessible_lanes.h"

namespace yewdrift::app {
namespace {

/// One of them, by its place in the list; it tells what is there now.
class Item : public QAccessibleInterface, public QAccessibleActionInterface {
 public:
  Item(LanesView* view, int index) : view_(view), index_(index) {}
  [[nodiscard]] int index() const { return index_; }

  [[nodiscard]] bool isValid() const override { return view_ && index_ < view_->spokenItems().size(); }
  [[nodiscard]] QObject* object() const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* parent() const override {
    return QAccessible::queryAccessibleInterface(view_);
  }
  [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
  [[nodiscard]] int childCount() const override { return 0; }
  [[nodiscard]] int indexOfChild(const QAccessibleInterface*) const override { return -1; }
  [[nodiscard]] QString text(QAccessible::Text what) const override {
    if (!isValid()) return {};
    const SpokenItem item = now();
    return what == QAccessible::Name                                        ? item.name
           : what == QAccessible::Description || what == QAccessible::Value ? item.detail
                                                                            : QString();
  }
  void setText(QAccessible::Text, const QString&) override {}
  [[nodiscard]] QRect rect() const override {
    if (!isValid()) return {};
    const QRect there = now().where;
    return {view_->viewport()->mapToGlobal(there.topLeft()), there.size()};
  }
  [[nodiscard]] QAccessible::Role role() const override { return QAccessible::ListItem; }
  [[nodiscard]] QAccessible::State state() const override {
    QAccessible::State state;
    if (!isValid()) {
      state.invalid = true;
      return state;
    }
    const SpokenItem item = now();
    state.selectable = true;
    state.selected = item.inHand;
    state.offscreen = !view_->viewport()->rect().intersects(item.where);
    return state;
  }
  void* interface_cast(QAccessible::InterfaceType type) override {
    return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
  }

  [[nodiscard]] QStringList actionNames() const override { return {pressAction()}; }
  void doAction(const QString& name) override {
    if (name == pressAction() && isValid()) view_->actOn(index_);
  }
  [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {}; }

 private:
  [[nodiscard]] SpokenItem now() const { return view_->spokenItems().at(index_); }

  QPointer<LanesView> view_;
  int index_;
};

}  // namespace

AccessibleLanes::~AccessibleLanes() {
  for (const auto& [index, id] : children_) QAccessible::deleteAccessibleInterface(id);
}

int AccessibleLanes::childCount() const {
  return static_cast<int>(view_->spokenItems().size());
}

QAccessibleInterface* AccessibleLanes::child(int index) const {
  if (index < 0 || index >= childCount()) return nullptr;
  auto [there, fresh] = children_.try_emplace(index, 0);
  if (fresh) there->second = QAccessible::registerAccessibleInterface(new Item(view_, index));
  return QAccessible::accessibleInterface(there->second);
}

int AccessibleLanes::indexOfChild(const QAccessibleInterface* child) const {
  const auto* item = dynamic_cast<const Item*>(child);
  return item ? item->index() : -1;
}

QAccessibleInterface* AccessibleLanes::childAt(int x, int y) const {
  for (int i = childCount() - 1; i >= 0; --i)
    if (QAccessibleInterface* each = child(i); each->rect().contains(x, y)) return each;
  return nullptr;
}

QString AccessibleLanes::text(QAccessible::Text what) const {
  if (what == QAccessible::Value || what == QAccessible::Description) return view_->spoken();
  return QAccessibleWidget::text(what);
}

}  // namespace yewdrift::app
