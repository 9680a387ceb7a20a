// SPDX-License-Identifier: GPL-3.0-or-later
//
// What lanes show over their waves: where things begin, how loud they are, how high.
#include <algorithm>
#include <cmath>
#include <iterator>

#include "app/look/theme.h"
#include "app/views/lanes_view.h"

namespace yewdrift::app {
namespace {

constexpr double quietest = -60.0;  // dB: levels are shown over the upper 60
constexpr double semitone = 100.0;  // cents
constexpr double leastApart = 5.0;  // pixels, for the lines of semitones to be told apart
constexpr float silence = 1e-9F;

double shareOf(double value, double low, double high) {
  return std::clamp((value - low) / (high - low), 0.0, 1.0);
}

/// Within a row, with some air above and below.
double yOf(double share, const QRectF& box) {
  return box.bottom() - 4.0 - share * (box.height() - 8.0);
}

}  // namespace

/// One value a pixel is enough.
Frames LanesView::framesPerValue() const {
  return {static_cast<std::int64_t>(std::max(1.0, scale_.framesPerPixel))};
}

/// All takes that show their pitch do it over one range, or nobody could compare them.
void LanesView::findPitches() {
  pitches_ = {};
  std::vector<float> all;
  for (const Lane* lane : drawn_.lanes) {
    if (lane->picture != LanePicture::Pitch) continue;
    std::vector<float> values = pitchIn(*lane, visibleSpan(), framesPerValue(), analysis_.finder());
    std::copy_if(values.begin(), values.end(), std::back_inserter(all),
                 [](float value) { return !std::isnan(value); });
    pitches_.lanes.emplace(lane->number, std::move(values));
  }
  if (all.empty()) return;
  // A moment at which a scrape passes for a note two octaves down is not to press the rest together.
  const auto outliers = static_cast<std::ptrdiff_t>(all.size()) / 50;
  std::nth_element(all.begin(), all.begin() + outliers, all.end());
  pitches_.low = all[static_cast<std::size_t>(outliers)] - semitone;
  std::nth_element(all.begin(), all.end() - 1 - outliers, all.end());
  pitches_.high = *(all.end() - 1 - outliers) + semitone;
}

void LanesView::drawSemitones(QPainter& painter, const QRectF& box) {
  const double range = pitches_.high - pitches_.low;
  if (range <= 0.0 || (box.height() - 8.0) * semitone / range < leastApart) return;
  QColor faint = theme().faintText;
  faint.setAlphaF(0.35F);
  painter.setPen(QPen(faint, 1.0, Qt::DotLine));
  for (double cents = std::ceil(pitches_.low / semitone) * semitone; cents <= pitches_.high;
       cents += semitone) {
    const double y = yOf(shareOf(cents, pitches_.low, pitches_.high), box);
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
  }
}

void LanesView::drawMeasured(QPainter& painter, const QRectF& box, const Lane& lane) {
  if (lane.picture == LanePicture::Waveform) return;
  const FindAnalysis find = analysis_.finder();
  const Span shown = visibleSpan();
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  const QPen ink(theme().text, 1.4);
  painter.setPen(ink);
  if (lane.picture == LanePicture::Onsets)
    for (const Frames at : onsetsIn(lane, shown, find)) {
      const double x = box.left() + scale_.x(at);
      painter.drawLine(QPointF(x, box.bottom() - box.height() * 0.35), QPointF(x, box.bottom() - 4));
    }
  double low = quietest;
  double high = 0.0;
  const Frames pixel = framesPerValue();
  std::vector<float> values;
  if (lane.picture == LanePicture::Pitch) {
    if (const auto found = pitches_.lanes.find(lane.number); found != pitches_.lanes.end())
      values = found->second;
    low = pitches_.low;
    high = pitches_.high;
    drawSemitones(painter, box);
    painter.setPen(ink);
  } else if (lane.picture == LanePicture::Level) {
    for (Frames at = shown.start; at < shown.end; at += pixel) {
      float square = 0.0F;
      const auto steps = levelsIn(lane, {at, at + pixel}, find);
      for (const LevelStep& each : steps) square = std::max(square, each.square);
      values.push_back(steps.empty() ? std::nanf("") : 10.0F * std::log10(square + silence));
    }
  }
  QPolygonF line;
  const auto flush = [&] {
    if (line.size() > 1) painter.drawPolyline(line);
    line.clear();
  };
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (std::isnan(values[i]) || high <= low) {
      flush();
      continue;
    }
    line << QPointF(box.left() + scale_.x(shown.start + pixel * static_cast<std::int64_t>(i)),
                    yOf(shareOf(values[i], low, high), box));
  }
  flush();
  painter.restore();
}

}  // namespace yewdrift::app
