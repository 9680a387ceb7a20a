// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QWidget>

#include "app/studio.h"

namespace yewdrift::app {

/// What pressing record would do, in a sentence; while recording, how it goes; under it the next thing to
/// try.
class RecordBench : public QWidget {
  Q_OBJECT
 public:
  explicit RecordBench(Studio& studio, QWidget* parent = nullptr);

 private:
  void refresh();
  [[nodiscard]] QString advice() const;

  Studio& studio_;
  QLabel* heading_;
  QLabel* sentence_;
  QLabel* advice_;
  QLabel* disk_;
};

}  // namespace yewdrift::app
