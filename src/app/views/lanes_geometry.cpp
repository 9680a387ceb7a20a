// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/lanes_geometry.h"

#include <algorithm>
#include <cstdlib>

namespace yewdrift::app {

void LanesGeometry::fitTo(int lineHeight, int letterWidth) {
  headWidth = std::max(148, 21 * letterWidth);
  // Bar numbers, and over them the names of markers where there are any.
  rulerHeight = std::max(24, lineHeight + 4) + (markers ? lineHeight / 2 : 0);
  punchRowHeight = std::max(18, lineHeight);
  phraseRowHeight = std::max(18, lineHeight);
  setAsideHeight = std::max(22, lineHeight + 2);
  leastRowHeight = std::max(36, lineHeight + 14);
  pieceNameHeight = std::max(20, lineHeight + 2);
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
  const int least = leastRowHeight + 28;
  const int above = rulerHeight + punchRowHeight + phraseRowHeight + setAsideRect().height();
  const int height = folded ? std::max(least, size.height() - above - leastRowHeight - 6)
                            : std::clamp(size.height() / 4, least, std::max(100, least));
  return {0, size.height() - height, size.width(), height};
}

QRect LanesGeometry::compositeWaveRect() const {
  return compositeRect().adjusted(0, pieceNameHeight, 0, 0);
}

QRect LanesGeometry::lanesArea() const {
  const int top = rulerHeight + punchRowHeight + phraseRowHeight + setAsideRect().height();
  return {0, top, size.width(), std::max(0, compositeRect().top() - 6 - top)};
}

int LanesGeometry::rowHeight() const {
  const int each = lanesArea().height() / std::max(rowCount(), 1);
  const int most = std::max(leastRowHeight, mostRowHeight);
  if (fitsAll) return std::clamp(each, smallestRowHeight, most);
  if (chosenRowHeight > 0) return std::clamp(chosenRowHeight, smallestRowHeight, 3 * most);
  return std::clamp(each, leastRowHeight, most);
}

QRect LanesGeometry::rowRect(int index) const {
  return {0, lanesArea().top() + index * rowHeight() - scrolled, size.width(), rowHeight()};
}

int LanesGeometry::placeAt(int y) const {
  const int row = std::clamp((y - lanesArea().top() + scrolled) / std::max(1, rowHeight()), 0,
                             std::max(0, static_cast<int>(lanes.size()) - 1));
  int place = 1;
  for (int above = 0; above < row; ++above)
    if (!lanes[static_cast<std::size_t>(above)]->setAside) ++place;
  return place;
}

QRect LanesGeometry::hintRect(int index) const {
  const QRect area = lanesArea();
  const int count = std::max(1, static_cast<int>(lanes.size()));
  const int across = std::max(1, size.width() - headWidth);
  // As many lines as it takes for all of them to be seen.
  const int lines = std::clamp((count * leastHintWidth + across - 1) / across, 1,
                               std::max(1, (area.height() - 6) / leastHintHeight));
  const int inLine = (count + lines - 1) / lines;
  const int width = std::min(across / inLine, mostHintWidth);
  const int height = (area.height() - 6) / lines;
  return {headWidth + index % inLine * width, area.top() + 3 + index / inLine * height,
          std::max(width - 3, 2), std::max(height - (lines > 1 ? 1 : 0), 2)};
}

double LanesGeometry::levelY(const QRect& row, Decibels level) {
  const double share =
      (highestLevel - std::clamp(level.value, lowestLevel, highestLevel)) / (highestLevel - lowestLevel);
  return row.top() + 3.0 + share * (row.height() - 6.0);
}

Decibels LanesGeometry::levelAt(const QRect& row, double y) {
  const double share = (y - row.top() - 3.0) / std::max(1.0, row.height() - 6.0);
  return {std::clamp(highestLevel - share * (highestLevel - lowestLevel), lowestLevel, highestLevel)};
}

int LanesGeometry::hiddenHeight() const {
  return std::max(0, rowCount() * rowHeight() - lanesArea().height());
}

LanesGeometry::Hit LanesGeometry::hit(QPoint at) const {
  Hit found;
  found.at = frameAt(at.x());
  const bool head = at.x() < headWidth;
  if (rulerRect().contains(at)) {
    found.part = head ? Part::TakeCount : Part::Ruler;
  } else if (punchRowRect().contains(at)) {
    found.part = head ? Part::Nothing : Part::PunchRow;
  } else if (phraseRowRect().contains(at)) {
    found.part = Part::Nothing;
    if (!head) hitPhraseRow(found, at);
  } else if (setAsideRect().contains(at)) {
    found.part = Part::SetAside;
  } else if (compositeRect().contains(at)) {
    found.part = head ? Part::CompositeName : Part::Composite;
    if (!head) hitComposite(found, at);
  } else if (lanesArea().contains(at)) {
    for (std::size_t i = 0; i < lanes.size(); ++i) {
      const auto index = static_cast<int>(i);
      if (folded && hintRect(index).contains(at)) {
        found.part = Part::Hint;
        found.lane = lanes[i]->number;
      }
      if (const QRect row = rowRect(index); !folded && row.contains(at)) hitLane(found, *lanes[i], row, at);
    }
  }
  return found;
}

void LanesGeometry::hitPhraseRow(Hit& found, QPoint at) const {
  found.part = Part::PhraseRow;
  int nearest = grabPixels;
  for (const Span& phrase : phrases)
    for (const Frames edge : {phrase.start, phrase.end})
      if (const int away = std::abs(xOf(edge) - at.x()); away < nearest) {
        nearest = away;
        found.part = Part::PhraseEdge;
        found.boundary = edge;
      }
}

void LanesGeometry::hitComposite(Hit& found, QPoint at) const {
  int nearest = grabPixels + 1;
  if (endFades && at.y() < compositeRect().top() + fadeGripHeight) {
    for (const auto& [grip, part] :
         {std::pair{endFades->inEnds(), Part::FadeIn}, {endFades->outBegins(), Part::FadeOut}})
      if (const int away = std::abs(xOf(grip) - at.x()); away < nearest) {
        nearest = away;
        found.part = part;
      }
    if (found.part != Part::Composite) return;
  }
  // The middle third of a piece is the piece, however near its boundaries lie.
  std::optional<int> left;
  std::optional<int> right;
  for (const Frames boundary : boundaries) {
    const int x = xOf(boundary);
    if (x <= at.x()) left = std::max(left.value_or(x), x);
    if (x > at.x()) right = std::min(right.value_or(x), x);
  }
  if (left && right) nearest = std::min(nearest, (*right - *left) / 3 + 1);
  for (const Frames boundary : boundaries)
    if (const int away = std::abs(xOf(boundary) - at.x()); away < nearest) {
      nearest = away;
      found.part = Part::Boundary;
      found.boundary = boundary;
    }
  if (found.part != Part::Composite) return;
  if (compositeLevel) hitLevel(found, *compositeLevel, compositeWaveRect(), at);
  const Piece* const piece = riddenPieces ? riddenPieces->pieceAt(found.at) : nullptr;
  if (piece && piece->lane) hitLevel(found, piece->level, compositeWaveRect(), at);
}

/// The line is taken hold of anywhere on it, a point of it from somewhat farther.
bool LanesGeometry::hitLevel(Hit& found, const LevelLine& line, const QRect& row, QPoint at) const {
  const Decibels here = yewdrift::levelAt(line, found.at);
  bool hit = std::abs(levelY(row, here) - at.y()) <= grabPixels;
  int nearest = grabPixels + 2;
  for (const LevelPoint& point : line) {
    const int away = std::abs(xOf(point.at) - at.x());
    if (away >= nearest || std::abs(levelY(row, point.gain) - at.y()) > grabPixels + 2) continue;
    nearest = away;
    found.point = point.at;
    hit = true;
  }
  if (hit) found.part = Part::LevelLine;
  return hit;
}

void LanesGeometry::hitLane(Hit& found, const Lane& lane, const QRect& row, QPoint at) const {
  found.lane = lane.number;
  found.part = at.x() < headWidth ? Part::LaneName : Part::Lane;
  if (found.part == Part::LaneName && at.y() > row.bottom() - 4) found.part = Part::RowEdge;
  if (found.part == Part::Lane && lane.picture == LanePicture::Level && hitLevel(found, lane.level, row, at))
    return;
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
