// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPainter>
#include <span>

#include "app/views/time_scale.h"
#include "core/edit/recorded_roll.h"
#include "core/signal/peaks.h"
#include "core/time/position_text.h"

namespace yewdrift::app {

/// Draws peaks of a signal whose sample 0 lies at session frame `origin`, for the frames in `span`, into
/// `box`, whose left edge is x = 0 of `scale`, `enlarged` times as high. Reads the pyramid only, once a
/// pixel.
void drawWave(QPainter& painter, const QRectF& box, const TimeScale& scale, const PeakPyramid& peaks,
              Frames origin, Span span, const QColor& colour, double enlarged = 1.0);
/// The same of samples, the first of which lies at session frame `first`, for who looks closer than peaks
/// resolve: from sample to sample, and where there is room each of them is a point.
void drawSamples(QPainter& painter, const QRectF& box, const TimeScale& scale, Frames first,
                 std::span<const float> samples, const QColor& colour, double enlarged = 1.0);

/// Bar lines and numbers, closer beats; without a grid, and closer than a beat, minutes and seconds.
void drawRuler(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler, bool grid);
/// Faint bar lines through `box`, where there is a grid.
void drawBarLines(QPainter& painter, const QRectF& box, const TimeScale& scale, const Ruler& ruler,
                  bool grid);
/// The loop span on a ruler: a heartwood band with rounded grips at its edges.
void drawLoopSpan(QPainter& painter, const QRectF& box, const TimeScale& scale, Span loop, bool on);
/// A punch span: a hatched band in the colour of recording, with grips at the edges that are not open.
void drawPunch(QPainter& painter, const QRectF& box, const TimeScale& scale, const Punch& punch, int number,
               bool on);
/// What pressing record would do, along the bottom of `box`: a dotted line where it only plays, a solid one
/// where it records.
void drawPlan(QPainter& painter, const QRectF& box, const TimeScale& scale, const RecordSetup& setup);
/// A marker's bud and name; a dropout's broken line.
void drawMarker(QPainter& painter, const QRectF& box, const TimeScale& scale, const Marker& marker,
                double room);
/// All of a session's markers, each with the room up to the next.
void drawMarkers(QPainter& painter, const QRectF& box, const TimeScale& scale,
                 const std::vector<Marker>& markers);
/// A leaf that hangs from there: where a join would be good.
void drawGoodPlace(QPainter& painter, QPointF from);
void drawPlayhead(QPainter& painter, double x, double top, double bottom);

}  // namespace yewdrift::app
