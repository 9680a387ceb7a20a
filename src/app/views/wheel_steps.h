// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWheelEvent>

namespace yewdrift::app {

/// What wheels and touchpads ask for in whole pixels; the smallest steps of a touchpad add up.
class WheelSteps {
 public:
  /// How far the content is to go, to the right and down.
  QPoint pixels(const QWheelEvent& event) {
    const QPointF asked =
        event.pixelDelta().isNull() ? QPointF(event.angleDelta()) / 2.0 : QPointF(event.pixelDelta());
    rest_ += asked;
    const QPoint whole(static_cast<int>(rest_.x()), static_cast<int>(rest_.y()));
    rest_ -= whole;
    return whole;
  }

 private:
  QPointF rest_;
};

}  // namespace yewdrift::app
