// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/lanes_geometry.h"

#include <algorithm>
#include <cstdlib>

namespace yewdrift::app {

void LanesGeometry::fitTo(int lineHeight, int letterWidth) {
  headWidth = std::max(148, 21 * letterWidth);
  rulerHeight = std::max(24, lineHeight + 4);
  punchRowHeight = std::max(18, lineHeight);
  phraseRowHeight = std::max(18, lineHeight);
  setAsideHeight = std::max(22, lineHeight + 2);
  leastRowHeight = std::max(36, lineHeight + 14);
}

QRect LanesGeometry::rulerRect() const {
  return {0, 0, size.width(), rulerHeight};
}

QRect LanesGeometry::punchRowRect() const {
  return {0, rulerHeight, size.width(), punchRowHeight};
}

QRect LanesGeometry::phraseRowRect() const {
  return {0, rulerHeight + punchRowHeight, size.width(), phraseRowHeight};
}

QRect LanesGeometry::setAsideRect() const {
  return {0, rulerHeight + punchRowHeight + phraseRowHeight, size.width(), setAside ? setAsideHeight : 0};
}

QRect LanesGeometry::compositeRect() const {
  const int height = std::clamp(size.height() / 4, leastRowHeight + 28, std::max(100, leastRowHeight + 28));
  return {0, size.height() - height, size.width(), height};
}

QRect LanesGeometry::lanesArea() const {
  const int top = rulerHeight + punchRowHeight + phraseRowHeight + setAsideRect().height();
  return {0, top, size.width(), std::max(0, compositeRect().top() - 6 - top)};
}

int LanesGeometry::rowHeight() const {
  return std::clamp(lanesArea().height() / std::max(rowCount(), 1), leastRowHeight,
                    std::max(leastRowHeight, mostRowHeight));
}

QRect LanesGeometry::rowRect(int index) const {
  return {0, lanesArea().top() + index * rowHeight() - scrolled, size.width(), rowHeight()};
}

int LanesGeometry::hiddenHeight() const {
  return std::max(0, rowCount() * rowHeight() - lanesArea().height());
}

LanesGeometry::Hit LanesGeometry::hit(QPoint at) const {
  Hit found;
  found.at = frameAt(at.x());
  const bool head = at.x() < headWidth;
  if (rulerRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::Ruler;
  } else if (punchRowRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::PunchRow;
  } else if (phraseRowRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::PhraseRow;
  } else if (setAsideRect().contains(at)) {
    found.part = Part::SetAside;
  } else if (compositeRect().contains(at)) {
    found.part = head ? Part::CompositeName : Part::Composite;
    if (head) return found;
    int nearest = grabPixels + 1;
    for (const Frames boundary : boundaries)
      if (const int away = std::abs(xOf(boundary) - at.x()); away < nearest) {
        nearest = away;
        found.part = Part::Boundary;
        found.boundary = boundary;
      }
  } else if (lanesArea().contains(at)) {
    for (std::size_t i = 0; i < lanes.size(); ++i)
      if (const QRect row = rowRect(static_cast<int>(i)); row.contains(at))
        hitLane(found, *lanes[i], row, at);
  }
  return found;
}

void LanesGeometry::hitLane(Hit& found, const Lane& lane, const QRect& row, QPoint at) const {
  found.lane = lane.number;
  found.part = at.x() < headWidth ? Part::LaneName : Part::Lane;
  if (found.part != Part::Lane || at.y() < row.bottom() - row.height() / 3) return;
  int nearest = grabPixels + 1;
  const auto offer = [&](const Clip& clip, Part part, Frames edge) {
    const int away = std::abs(xOf(edge) - at.x());
    // Where two edges meet in one place, the side of the pointer says which is meant.
    const bool inside = part == Part::ClipStart ? at.x() >= xOf(edge) : at.x() < xOf(edge);
    if (away > grabPixels || away > nearest || (away == nearest && !inside)) return;
    nearest = away;
    found.part = part;
    found.window = clip.window;
  };
  for (const Clip& clip : lane.clips) {
    offer(clip, Part::ClipStart, clip.window.start);
    offer(clip, Part::ClipEnd, clip.window.end);
  }
}

}  // namespace yewdrift::app
