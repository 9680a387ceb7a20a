// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/action_rules.h"

namespace yewdrift::app {

QString ActionRules::whyNot(Deed deed, const Situation& now) {
  const QString lookOnly =
      now.writable ? QString() : tr("The session is open to look at only; nothing can be changed in it.");
  const QString stopFirst = now.recording ? tr("This is being recorded: stop first.") : QString();
  const QString noTrack =
      now.track ? QString() : tr("There is no track yet: add one with Track > New track.");
  const QString noJoins =
      now.joins ? QString()
                : tr("This composite has no joins yet: pick from another take, and there is one.");
  const QString noTakes =
      now.takes ? QString() : tr("This track has no takes yet: record some, or import files.");
  const QString noArmed =
      now.armed ? QString() : tr("No track is armed: arm one with [M], or with its button in the list.");
  const QString noDevice =
      now.device ? QString()
                 : tr("No audio device is open: [Ctrl+D] chooses one, and nothing is lost meanwhile.");
  // The first that applies.
  const auto first = [](std::initializer_list<QString> reasons) {
    for (const QString& reason : reasons)
      if (!reason.isEmpty()) return reason;
    return QString();
  };
  const auto unless = [](bool holds, const QString& reason) { return holds ? QString() : reason; };
  const QString noPunches =
      now.punches ? QString()
                  : tr("There are no punch spans yet: drag in the row under the ruler, or press [U] for the "
                       "selection.");
  switch (deed) {
    case Deed::Play:
      return now.rolling ? QString() : noDevice;
    case Deed::Record:
      return now.recording ? QString() : first({lookOnly, noArmed, noDevice});
    case Deed::GoElsewhere:
      return stopFirst;
    case Deed::StepTrack:
      return first({noTrack, unless(now.otherTracks, tr("There is only this one track."))});
    case Deed::Loop:
      return unless(now.loop, tr("There is no loop yet: drag along the ruler to draw one."));
    case Deed::AutoPunch:
      return noPunches;
    case Deed::Undo:
      return first({now.recording ? tr("Stop recording first; then undo.") : QString(), lookOnly,
                    unless(now.undo, tr("There is nothing to undo."))});
    case Deed::Redo:
      return first({stopFirst, lookOnly, unless(now.redo, tr("There is nothing to redo."))});
    case Deed::HearTake:
      return first({noTrack, noTakes});
    case Deed::Pick:
    case Deed::PickSilence:
      return first(
          {lookOnly, stopFirst, noTrack, noTakes,
           unless(now.unit || now.loop,
                  tr("Take a phrase, a piece or a selection in hand first, or draw a loop: that is what "
                     "is picked over.")),
           unless(deed == Deed::PickSilence || now.heard,
                  tr("Hear a take first ([E] and [D] step through them); then [F] picks it."))});
    case Deed::PickWhole:
      return first({lookOnly, stopFirst, noTrack, noTakes,
                    unless(now.heard, tr("Hear a take first ([E] and [D] step through them)."))});
    case Deed::TakePunch:
      return first({stopFirst, noTrack, noPunches});
    case Deed::EditComposite:
      return first({lookOnly, stopFirst, noTrack, noTakes});
    case Deed::EditJoin:
      return first({lookOnly, stopFirst, noTrack,
                    unless(now.joinInHand, tr("No join is in hand: [J] takes the next one."))});
    case Deed::StepJoin:
      return first({noTrack, noJoins});
    case Deed::EditJoins:
      return first({lookOnly, stopFirst, noTrack, noJoins});
    case Deed::HearJoin:
      return first({stopFirst, unless(now.joinInHand, tr("No join is in hand: [J] takes the next one."))});
    case Deed::StepPhrase:
      return first({stopFirst, noTrack, noTakes,
                    unless(now.phrases || now.stepsOnGrid || (now.unit && !now.selection),
                           tr("There are no phrases yet: nothing sounds in these takes."))});
    case Deed::HearCompared:
      return first(
          {stopFirst, noTrack,
           unless(
               now.phraseInHand || now.unit || now.loop,
               tr("There is nothing to go round: [S] and [G] step from phrase to phrase, or draw a loop."))});
    case Deed::HearPhrase:
      return first(
          {stopFirst, noTrack,
           unless(now.phraseInHand, tr("No phrase is in hand: [S] and [G] step from phrase to phrase."))});
    case Deed::EditPhrases:
      return first({lookOnly, stopFirst, noTrack, noTakes});
    case Deed::Rate:
      return first(
          {lookOnly, noTrack, noTakes,
           unless(now.phraseInHand, tr("No phrase is in hand: [S] and [G] step from phrase to phrase.")),
           unless(now.heard, tr("Hear a take first ([E] and [D] step through them); that one is rated."))});
    case Deed::Mark:
      return first({lookOnly, noTrack, noTakes});
    case Deed::ChangeTake:
    case Deed::CutTake:
      return first(
          {lookOnly, stopFirst, noTrack, noTakes,
           unless(now.heard, tr("Hear a take first ([E] and [D] step through them); it is about that one.")),
           unless(deed != Deed::CutTake || now.selection,
                  tr("Select a stretch first: drag over the composite, or with Shift over a take."))});
    case Deed::ChangeTrack:
      return first({lookOnly, stopFirst, noTrack});
    case Deed::SpreadTakes:
      return first({lookOnly, stopFirst, noTrack, noTakes});
    case Deed::JoinTracks:
      return first(
          {lookOnly, stopFirst, noTrack,
           unless(now.severalTracks, tr("Take several tracks in hand first: Ctrl + click, or Shift + "
                                        "click, in the list."))});
    case Deed::TakeApart:
      return first({lookOnly, stopFirst, noTrack,
                    unless(now.micSet, tr("This track is no mic set: it has one microphone."))});
    case Deed::Arm:
      return first({lookOnly, stopFirst, noTrack,
                    now.backing ? tr("This is a backing track; nothing is recorded to it.") : QString()});
    case Deed::Flatten:
      return first({lookOnly, stopFirst, noTrack, noTakes});
    case Deed::Import:
    case Deed::NewTrack:
      return lookOnly;
    case Deed::Punch:
      return first(
          {lookOnly, noArmed,
           now.punchesDecide ? tr("In this roll the punch spans decide what is recorded. Their edges "
                                  "can be moved afterwards; nothing is lost outside them.")
                             : QString(),
           unless(now.rolling,
                  tr("[N] punches while it rolls: [Space] plays, [Shift+N] records from a standstill."))});
    case Deed::BackUp:
      return first(
          {lookOnly, noArmed,
           unless(now.rolling, tr("From a standstill [Shift+Backspace] backs up and records; one key "
                                  "alone never starts a recording."))});
    case Deed::BackUpFromStandstill:
      return first({lookOnly, noArmed, noDevice});
    case Deed::Claim:
      return first({lookOnly,
                    now.recording ? tr("This is being recorded anyway; stop, and it is a take.") : QString(),
                    noArmed});
    case Deed::Discard:
      return first(
          {lookOnly,
           now.recording ? tr("Stop recording first; then it can be kept or discarded.") : QString(),
           unless(now.justRecorded, tr("There is no recording to discard since the last one was settled."))});
    case Deed::Marker:
      return lookOnly;
    case Deed::LoopFromSelection:
      return first({lookOnly, stopFirst,
                    unless(now.unit, tr("Select a stretch first: drag over the composite, or with Shift "
                                        "over a take."))});
    case Deed::LoopAir:
      return first({lookOnly, stopFirst,
                    unless(now.loop, tr("There is no loop yet: drag along the ruler to draw one."))});
    case Deed::PunchFromSelection:
      return first({lookOnly, stopFirst,
                    unless(now.unit || now.loop,
                           tr("Select a stretch first, or draw a loop: that becomes the punch span."))});
    case Deed::OnlyThisPunch:
      return first({lookOnly, stopFirst,
                    unless(now.unit, tr("Select a stretch first: that becomes the only punch span."))});
    case Deed::PunchHere:
      return first({lookOnly, stopFirst});
    case Deed::PullEdge:
      return first(
          {lookOnly, stopFirst, noTrack,
           unless(now.heard, tr("Hear a take first ([E] and [D] step through them); then its edges can "
                                "be pulled here."))});
  }
  return {};
}

}  // namespace yewdrift::app
