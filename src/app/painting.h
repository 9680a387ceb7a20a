// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPainter>

#include "app/time_scale.h"
#include "core/signal/peaks.h"
#include "core/time/position_text.h"

namespace yewdrift::app {

/// Draws peaks of a signal whose sample 0 lies at session frame `origin`, for the frames in `span`, into
/// `box`, whose left edge is x = 0 of `scale`. Reads the pyramid only, once a pixel.
void drawWave(QPainter& painter, const QRectF& box, const TimeScale& scale, const PeakPyramid& peaks,
              Frames origin, Span span, const QColor& colour);

/// Bar lines and numbers, or seconds where bars would crowd.
void drawRuler(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler);
/// Faint bar lines through `box`.
void drawBarLines(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler);
/// The loop span on a ruler: a heartwood band with rounded grips at its edges.
void drawLoopSpan(QPainter& painter, const QRectF& box, const TimeScale& scale, Span loop, bool on);
void drawPlayhead(QPainter& painter, double x, double top, double bottom);

}  // namespace yewdrift::app
