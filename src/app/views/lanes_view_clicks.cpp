// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a click in takes and composite does.
#include "app/views/lanes_view.h"
#include "core/edit/edit.h"

namespace yewdrift::app {

void LanesView::locate(Frames at) {
  if (recording_.recording())
    return emit refused(tr("This is being recorded: stop first, then go elsewhere."));
  transport_.locate(at);
}

void LanesView::click(const Hit& where) {
  const Track* track = inHand_.track();
  // Whatever was pressed may be gone by the time the button is let go.
  if (!track || (where.lane && !track->lane(*where.lane))) return;
  switch (where.part) {
    case Part::Ruler:
      // What is done next starts from here, and not from what was in hand elsewhere.
      inHand_.letGoOfUnit();
      locate(where.at);
      break;
    case Part::PunchRow:
      inHand_.letGoOfUnit();
      if (const auto grip = spans_.gripAt(SpanGestures::Row::Punch, where.at, geometry().reach());
          grip.part != SpanGestures::Part::None)
        inHand_.takePunch(grip.punch);
      locate(where.at);
      break;
    case Part::PhraseRow:
      if (const Phrase* phrase = phraseAt(inHand_.phrases(), where.at);
          phrase && phrase->cell.contains(where.at))
        emit phraseAsked(Phrase(*phrase));
      else
        locate(where.at);
      break;
    case Part::TakeCount:
      setFolded(!folded_);
      break;
    case Part::Hint:
      inHand_.hear(inHand_.heardLane() == where.lane ? std::nullopt : where.lane);
      break;
    case Part::PhraseEdge:
    case Part::RowEdge:
    case Part::LevelLine:
    case Part::FadeIn:
    case Part::FadeOut:
      break;
    case Part::SetAside:
      showSetAside_ = !showSetAside_;
      contentChanged();
      if (showSetAside_) showRow(0);
      break;
    case Part::LaneName:
      if (track->lane(*where.lane)->setAside) {
        desk_.apply(tr("Bring a take back"), [id = track->id, lane = *where.lane](const Session& s) {
          return setLaneAside(s, id, lane, false);
        });
      } else {
        if (together_)
          inHand_.hearAlso(*where.lane);
        else
          inHand_.hear(inHand_.heardLane() == where.lane ? std::nullopt : where.lane);
      }
      break;
    case Part::Lane:
    case Part::ClipStart:
    case Part::ClipEnd:
      inHand_.hear(where.lane);
      locate(where.at);
      break;
    case Part::CompositeName:
      inHand_.hear(std::nullopt);
      break;
    case Part::Composite:
      inHand_.hear(std::nullopt);
      inHand_.takePiece(where.at);
      locate(where.at);
      break;
    case Part::Boundary:
      inHand_.takeJoin(where.boundary);
      break;
    case Part::Nothing:
      break;
  }
}

}  // namespace yewdrift::app
