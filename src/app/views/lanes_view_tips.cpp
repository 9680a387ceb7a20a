// SPDX-License-Identifier: GPL-3.0-or-later
//
// What is told of whatever the pointer rests on.
#include <QHelpEvent>
#include <QLocale>
#include <QToolTip>

#include "app/views/lanes_view.h"

namespace yewdrift::app {

/// What is known of the take in the phrase there; nothing that would tell which one it is.
QString LanesView::cellTip(const Hit& where) const {
  const Track* track = inHand_.track();
  const Lane* lane = track && where.lane ? track->lane(*where.lane) : nullptr;
  const auto& phrases = inHand_.phrases();
  const Phrase* phrase = phraseAt(phrases, where.at);
  if (!lane || !phrase || listening_.hidesNames()) return {};
  const QLocale locale;
  QStringList parts;
  if (const CellNote* cell = cellOf(*lane, *phrase)) {
    if (cell->rating > 0) parts << tr("rated %1").arg(cell->rating);
    if (cell->chosenBlind) parts << tr("chosen blind");
    if (!cell->note.empty()) parts << QString::fromStdString(cell->note).simplified();
  }
  // As far as somebody had it measured.
  for (const CellMeasures& cell : analysis_.measuresOf(*phrase)) {
    if (cell.lane != lane->number || !cell.measured) continue;
    const auto whole = [&](double value) { return locale.toString(std::abs(value), 'f', 0); };
    if (cell.timing)
      parts << (*cell.timing >= 0.0 ? tr("%1 ms behind the other takes")
                                    : tr("%1 ms ahead of the other takes"))
                   .arg(whole(*cell.timing));
    if (cell.pitch)
      parts << (*cell.pitch >= 0.0 ? tr("%1 cents above them") : tr("%1 cents below them"))
                   .arg(whole(*cell.pitch));
    if (cell.loudness) parts << tr("%1 LUFS").arg(locale.toString(*cell.loudness, 'f', 1));
    if (cell.overs > 0) parts << tr("%n over(s)", nullptr, cell.overs);
    if (cell.clicks > 0) parts << tr("%n click(s)", nullptr, cell.clicks);
  }
  if (parts.isEmpty()) return {};
  return tr("Lane %1 in phrase %2: %3.")
             .arg(lane->number.value)
             .arg(phrase - phrases.data() + 1)
             .arg(parts.join(", ")) +
         "\n";
}

QString LanesView::tipFor(const Hit& where) const {
  const Track* track = inHand_.track();
  switch (where.part) {
    case Part::Ruler:
      return tr(
          "Click to move the playhead; drag to draw the loop, an edge or all of it to move it. Alt suspends "
          "snapping.");
    case Part::PunchRow:
      return tr(
          "Drag to draw a punch span: only there is recorded. Drag its edges, or all of it; Alt suspends "
          "snapping.");
    case Part::PhraseRow:
      return tr(
          "Phrases lie between the rests of all takes; those you have decided are filled. Click to take one "
          "in "
          "hand ([S] and [G] step), and [F] picks the heard take for it.");
    case Part::TakeCount:
      return folded_ ? tr("Open the takes again ([Shift+D]).")
                     : tr("Fold the takes away; a hint of each is left ([Shift+D]). [Shift+E] shows all of "
                          "them.");
    case Part::PhraseEdge:
      return tr("Drag to move this edge of the phrase; it stays where you put it. Alt suspends snapping.");
    case Part::Hint:
      return track && where.lane && track->lane(*where.lane)
                 ? tr("%1: click to hear it.").arg(listening_.nameOf(*track->lane(*where.lane)))
                 : QString();
    case Part::RowEdge:
      return tr("Drag to make the lanes higher or lower.");
    case Part::LevelLine:
      return tr("Drag the line to ride the level here; drag a point away to remove it.");
    case Part::SetAside:
      return tr(
          "Takes that are kept out of sight: passes that were empty or stopped early, and those that you set "
          "aside. Click to see them; a click on a name brings one back.");
    case Part::FadeIn:
      return tr("Drag to fade the composite in, from its start to here.");
    case Part::FadeOut:
      return tr("Drag to fade the composite out, from here to its end.");
    case Part::LaneName:
      if (track && track->lane(*where.lane) && track->lane(*where.lane)->setAside)
        return tr("Bring this take back among the others.");
      return tr(
          "Hear this take alone ([1] to [9], or [E] and [D]); click again for the composite. With Ctrl: "
          "together with what is heard. Drag it to another place among the takes.");
    case Part::Lane:
      return cellTip(where) + tr("Drag to pick this stretch for the composite, with Shift to select it, with "
                                 "Ctrl to move the take "
                                 "in "
                                 "time; click to hear this take from here.");
    case Part::ClipStart:
    case Part::ClipEnd:
      return tr("Drag this edge out or in: what was played before and after is all there.");
    case Part::CompositeName:
      return tr("Hear the composite ([C]).");
    case Part::Composite:
      return tr(
          "What the track plays. Drag to select a stretch; [F] picks the heard take there. Drag with Ctrl to "
          "slip "
          "the piece in time.");
    case Part::Boundary:
      return tr("Drag to move this boundary; click to put the join on the bench.");
    case Part::Nothing:
      break;
  }
  return {};
}

bool LanesView::viewportEvent(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
  auto* help = static_cast<QHelpEvent*>(event);
  QToolTip::showText(help->globalPos(), desk_.keyNames().spelled(tipFor(geometry().hit(help->pos()))),
                     viewport());
  return true;
}

}  // namespace yewdrift::app
