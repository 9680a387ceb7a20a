// SPDX-License-Identifier: GPL-3.0-or-later
//
// Takes and composite in words, for who cannot see them.
#include <QStringList>
#include <utility>

#include "app/views/lanes_view.h"
#include "core/session/picked_parts.h"

namespace yewdrift::app {
namespace {

/// With the piece's span as %1.
QString chosenWords(ChosenBy who) {
  switch (who) {
    case ChosenBy::Nobody:
      return LanesView::tr("%1, the newest take");
    case ChosenBy::InPart:
      return LanesView::tr("%1, picked in part, else the newest take");
    case ChosenBy::Ratings:
      return LanesView::tr("%1, picked by the ratings");
    case ChosenBy::Person:
      break;
  }
  return LanesView::tr("%1, picked");
}

}  // namespace

QString LanesView::spoken() const {
  const Track* track = inHand_.track();
  if (!track) return tr("No track.");
  const Lane* heard = inHand_.heardLane() ? track->lane(*inHand_.heardLane()) : nullptr;
  QStringList parts{QString::fromStdString(track->name),
                    !heard                    ? tr("the composite is heard")
                    : listening_.hidesNames() ? tr("%1 is heard").arg(listening_.nameOf(*heard))
                                              : tr("lane %1 is heard").arg(heard->number.value)};
  if (inHand_.selection()) parts << tr("selected: %1").arg(desk_.positionWords().shown(*inHand_.selection()));
  for (const auto& [fade, text] :
       {std::pair{track->composite.fadeIn, tr("the composite fades in over %L1 ms")},
        {track->composite.fadeOut, tr("the composite fades out over %L1 ms")}})
    if (fade.length.count > 0)
      parts << text.arg(secondsFromFrames(fade.length, desk_.session().rate) * 1000.0, 0, 'f', 1);
  return parts.join(", ");
}

QList<SpokenItem> LanesView::spokenItems() const {
  QList<SpokenItem> items;
  const Track* track = inHand_.track();
  if (!track) return items;
  const PositionWords words = desk_.positionWords();
  const LanesGeometry now = geometry();
  const ResolvedComposite& composite = inHand_.composite(*track);
  for (std::size_t i = 0; i < now.lanes.size(); ++i) {
    const Lane& lane = *now.lanes[i];
    QStringList details;
    if (lane.setAside) details << tr("set aside");
    if (track->recordInto == lane.number) details << tr("passes go here");
    // Where the composite plays it would tell which one it is.
    const bool hidden = listening_.hidesNames() && !lane.setAside;
    for (const Piece& piece : composite.pieces)
      if (piece.lane == lane.number && !hidden) details << tr("plays %1").arg(words.shown(piece.span));
    const bool heard = inHand_.heardLane() == lane.number;
    if (heard) details.prepend(tr("is heard"));
    items << SpokenItem{hidden
                            ? listening_.nameOf(lane)
                            : tr("Lane %1, %2").arg(lane.number.value).arg(QString::fromStdString(lane.name)),
                        details.join(", "),
                        now.rowRect(static_cast<int>(i)),
                        heard,
                        SpokenItem::Kind::Lane,
                        {},
                        lane.number};
  }
  const QRect row = now.compositeRect();
  const auto rectOf = [&](Span span) {
    const int left = std::max(now.headWidth, now.xOf(span.start));
    return QRect(left, row.top(), std::max(1, now.xOf(span.end) - left), row.height());
  };
  for (const Piece& piece : composite.pieces) {
    if (!piece.lane && !piece.picked) continue;
    items << SpokenItem{piece.lane ? tr("Piece from lane %1").arg(piece.lane->value) : tr("Silent piece"),
                        (QStringList{chosenWords(chosenBy(*track, piece)).arg(words.shown(piece.span))} +
                         soundInWords(piece, desk_.session().rate))
                            .join(", "),
                        rectOf(piece.span),
                        inHand_.selection() == piece.span,
                        SpokenItem::Kind::Piece,
                        piece.span,
                        piece.lane};
  }
  for (const Join& join : composite.joins) {
    const Frames length = join.shape.before + join.shape.after;
    const double ms = secondsFromFrames(length, desk_.session().rate) * 1000.0;
    items << SpokenItem{tr("Join at %1").arg(words.shown(join.at)),
                        join.set ? tr("crossfade of %L1 ms, set by hand").arg(ms, 0, 'f', 1)
                                 : tr("crossfade of %L1 ms, as made").arg(ms, 0, 'f', 1),
                        QRect(now.xOf(join.at) - LanesGeometry::grabPixels, row.top(),
                              2 * LanesGeometry::grabPixels, row.height()),
                        inHand_.join() == join.at,
                        SpokenItem::Kind::Join,
                        {join.at, join.at},
                        {}};
  }
  return items;
}

void LanesView::actOn(qsizetype index) {
  const SpokenItem item = spokenItems().value(index);
  switch (item.kind) {
    case SpokenItem::Kind::Lane:
      return click({LanesGeometry::Part::LaneName, item.lane, {}, {}, {}});
    case SpokenItem::Kind::Piece:
      return inHand_.select(item.span);
    case SpokenItem::Kind::Join:
      return inHand_.takeJoin(item.span.start);
  }
}

}  // namespace yewdrift::app
