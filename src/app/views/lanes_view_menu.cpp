// SPDX-License-Identifier: GPL-3.0-or-later
//
// Of what a menu opens in takes and composite, by the mouse or by its key.
#include <QContextMenuEvent>

#include "app/views/lanes_view.h"

namespace yewdrift::app {

void LanesView::contextMenuEvent(QContextMenuEvent* event) {
  // While something is dragged the other button is no menu.
  if (!gesture_.idle()) return;
  if (event->reason() != QContextMenuEvent::Keyboard)
    return emit menuAsked(geometry().hit(viewport()->mapFromGlobal(event->globalPos())), event->globalPos());
  // By its key the menu is of what is in hand: the cell of the take that is heard, the join, the composite.
  const std::vector<const Lane*> shown = rows();
  const auto heard = std::find_if(shown.begin(), shown.end(),
                                  [this](const Lane* each) { return inHand_.heardLane() == each->number; });
  const int row = static_cast<int>(heard - shown.begin());
  const bool ofTake = heard != shown.end() && !folded_;
  if (ofTake) showRow(row);
  const LanesGeometry now = geometry();
  const Frames place = !ofTake && inHand_.join()
                           ? *inHand_.join()
                           : inHand_.phrasePlace().value_or(transport_.state().position);
  const QPoint at(std::clamp(now.xOf(place), now.headWidth, std::max(now.headWidth, viewport()->width() - 1)),
                  (ofTake ? now.rowRect(row) : now.compositeRect()).center().y());
  emit menuAsked(now.hit(at), viewport()->mapToGlobal(at));
}

}  // namespace yewdrift::app
