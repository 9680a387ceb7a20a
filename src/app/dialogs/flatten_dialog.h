// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <array>

#include "app/desk/file_desk.h"

namespace yewdrift::app {

/// What of the composite of the track in hand is flattened, and what becomes of its takes. It stays with the
/// track and the selection that it was opened on.
class FlattenDialog : public QDialog {
  Q_OBJECT
 public:
  FlattenDialog(SessionDesk& desk, InHand& inHand, FileDesk& files, QWidget* parent = nullptr);

 private:
  void refresh();
  [[nodiscard]] FlattenWish wish() const;

  SessionDesk& desk_;
  TrackId track_;
  std::optional<Span> selection_;
  QRadioButton* whole_ = nullptr;
  QRadioButton* stretch_ = nullptr;
  std::array<QRadioButton*, 3> lanes_{};  // as OtherLanes
  QLabel* result_ = nullptr;
  QPushButton* flatten_ = nullptr;  // the last that is made
};

}  // namespace yewdrift::app
