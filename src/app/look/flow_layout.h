// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLayout>
#include <memory>
#include <vector>

namespace yewdrift::app {

/// Things side by side, in as many lines as the width asks for.
class FlowLayout : public QLayout {
 public:
  explicit FlowLayout(int horizontalSpacing = 14, int verticalSpacing = 4)
      : across_(horizontalSpacing), down_(verticalSpacing) {
    setContentsMargins(0, 0, 0, 0);
  }
  void addItem(QLayoutItem* item) override { items_.emplace_back(item); }
  [[nodiscard]] int count() const override { return static_cast<int>(items_.size()); }
  [[nodiscard]] QLayoutItem* itemAt(int index) const override;
  QLayoutItem* takeAt(int index) override;
  [[nodiscard]] Qt::Orientations expandingDirections() const override { return {}; }
  [[nodiscard]] bool hasHeightForWidth() const override { return true; }
  [[nodiscard]] int heightForWidth(int width) const override { return place({0, 0, width, 0}, false); }
  void setGeometry(const QRect& rect) override;
  [[nodiscard]] QSize sizeHint() const override { return minimumSize(); }
  [[nodiscard]] QSize minimumSize() const override;

 private:
  /// Returns the height it takes.
  int place(const QRect& rect, bool move) const;

  int across_;
  int down_;
  std::vector<std::unique_ptr<QLayoutItem>> items_;
};

}  // namespace yewdrift::app
