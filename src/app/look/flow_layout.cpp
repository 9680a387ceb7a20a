// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/flow_layout.h"

#include <algorithm>

namespace yewdrift::app {

QLayoutItem* FlowLayout::itemAt(int index) const {
  return index >= 0 && index < count() ? items_[static_cast<std::size_t>(index)].get() : nullptr;
}

QLayoutItem* FlowLayout::takeAt(int index) {
  if (!itemAt(index)) return nullptr;
  QLayoutItem* taken = items_[static_cast<std::size_t>(index)].release();
  items_.erase(items_.begin() + index);
  return taken;
}

void FlowLayout::setGeometry(const QRect& rect) {
  QLayout::setGeometry(rect);
  place(rect, true);
}

QSize FlowLayout::minimumSize() const {
  QSize least;
  for (const auto& item : items_)
    if (!item->isEmpty()) least = least.expandedTo(item->minimumSize());
  const QMargins margins = contentsMargins();
  return least + QSize(margins.left() + margins.right(), margins.top() + margins.bottom());
}

int FlowLayout::place(const QRect& rect, bool move) const {
  const QRect inside = rect.marginsRemoved(contentsMargins());
  struct Placed {
    QLayoutItem* item;
    QRect at;
  };
  std::vector<Placed> line;
  int x = inside.left();
  int y = inside.top();
  int height = 0;
  const auto endLine = [&] {
    for (const Placed& each : line)
      if (move) each.item->setGeometry(each.at.translated(0, (height - each.at.height()) / 2));
    line.clear();
  };
  for (const auto& item : items_) {
    if (item->isEmpty()) continue;
    QSize size = item->sizeHint();
    size.setWidth(std::clamp(size.width(), 0, std::max(inside.width(), item->minimumSize().width())));
    if (!line.empty() && x + size.width() > inside.right() + 1) {
      endLine();
      x = inside.left();
      y += height + down_;
      height = 0;
    }
    line.push_back({item.get(), QRect(QPoint(x, y), size)});
    x += size.width() + across_;
    height = std::max(height, size.height());
  }
  endLine();
  return y + height - rect.top() + contentsMargins().bottom();
}

}  // namespace yewdrift::app
