// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/record_bench.h"

#include <algorithm>
#include <filesystem>

#include "app/look/theme.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

QString diskTimeLeft(const SessionDesk& desk, const RecordingDesk& recording) {
  std::error_code error;
  const auto space = std::filesystem::space(desk.folderPath(), error);
  if (error) return {};
  double bytesASecond = 0.0;
  for (const TrackId id : recording.armedTracks())
    bytesASecond += desk.session().track(id)->channels() * desk.session().rate.hertz *
                    (desk.session().format == SampleFormat::Pcm16   ? 2.0
                     : desk.session().format == SampleFormat::Pcm24 ? 3.0
                                                                    : 4.0);
  if (bytesASecond == 0.0) return {};
  const double minutes = static_cast<double>(space.available) / bytesASecond / 60.0;
  if (minutes >= 120.0) return RecordBench::tr("%1 h").arg(static_cast<int>(minutes / 60.0));
  return RecordBench::tr("%1 min").arg(static_cast<int>(minutes));
}

RecordBench::RecordBench(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
                         RecordingDesk& recording, const QList<QAction*>& actions, QWidget* parent)
    : QWidget(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      device_(device),
      recording_(recording) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->setSpacing(18);
  auto* column = new QVBoxLayout;
  column->setSpacing(3);
  heading_ = new QLabel;
  heading_->setObjectName("faint");
  sentence_ = new QLabel;
  sentence_->setWordWrap(true);
  sentence_->setAccessibleName(tr("What will be recorded"));
  sentence_->setFont(scaledFont(1.3));
  advice_ = new QLabel;
  advice_->setWordWrap(true);
  advice_->setAccessibleName(tr("What can be done next"));
  advice_->setTextFormat(Qt::RichText);
  column->addWidget(heading_);
  column->addWidget(sentence_);
  column->addWidget(advice_);
  column->addStretch(1);
  column->addLayout(buttonRow(actions));
  row->addLayout(column, 1);
  meterColumn_ = new QVBoxLayout;
  meterColumn_->setSpacing(2);
  meterColumn_->addStretch(1);
  row->addLayout(meterColumn_);
  connect(&desk, &SessionDesk::changed, this, &RecordBench::refresh);
  connect(&inHand, &InHand::changed, this, &RecordBench::refresh);
  connect(&transport, &Transport::changed, this, &RecordBench::refresh);
  connect(&transport, &Transport::moved, this, &RecordBench::refresh);
  connect(&desk, &SessionDesk::changed, this, &RecordBench::rebuildMeters);
  connect(&transport, &Transport::moved, this, &RecordBench::feed);
  rebuildMeters();
  refresh();
}

QString RecordBench::advice() const {
  const Track* track = inHand_.track();
  if (!track) return tr("Add a track with <b>Track &gt; New track</b>.");
  if (!desk_.writable())
    return tr(
        "This session is open to look at and listen to: <b>[Space]</b> plays, <b>[E]</b> and <b>[D]</b> step "
        "through the takes. Nothing in it can be changed here.");
  if (const auto setup = recording_.planned(); recording_.recording() && setup && !setup->byHand)
    return tr(
        "The punch spans decide what is heard; all of it is captured, so their edges can be moved "
        "afterwards. "
        "<b>[Space]</b> stops.");
  if (recording_.recording())
    return transport_.state().recording ? tr("<b>[Shift+N]</b> or <b>[Space]</b> stops, <b>[N]</b> punches "
                                             "out. What was played before and after "
                                             "is kept in the handles.")
                                        : tr("<b>[N]</b> punches in now. <b>[Space]</b> stops.");
  if (recording_.standingBy())
    return tr(
        "Everything that comes in is captured. <b>[N]</b> punches in, as often as you like; its edges can be "
        "moved afterwards.");
  // Undo may have taken them back, and a person may have set some aside.
  const auto& last = recording_.lastRecorded();
  const auto lanes = static_cast<int>(std::count_if(last.begin(), last.end(), [&](const RecordedLane& each) {
    const Track* const of = desk_.session().track(each.track);
    const Lane* const lane = of ? of->lane(each.lane) : nullptr;
    return lane && !lane->setAside;
  }));
  if (lanes > 0) {
    if (inHand_.unit() == Unit::Punch)
      return tr(
          "Kept: %n take(s). A punch is in hand: <b>[E]</b> and <b>[D]</b> hear its passes, <b>[F]</b> picks "
          "one, <b>[G]</b> goes on to the next punch. <b>[Ctrl+Backspace]</b> discards what was recorded.",
          nullptr, lanes);
    return tr(
        "Kept: %n take(s). <b>[Ctrl+Backspace]</b> discards what was just recorded, <b>[Shift+Backspace]</b> "
        "goes "
        "back and picks up from there.",
        nullptr, lanes);
  }
  if (recording_.autoPunchStandsBy())
    return tr("Automatic punch stands by: <b>[Space]</b> records the punch spans too, once.");
  if (track->backing)
    return tr(
        "This is a backing track. Take one in hand that is played: click its name, or <b>[PgDown]</b>.");
  if (recording_.armedTracks().empty() && track->lanes.size() < 2)
    return tr("No track is armed: <b>[M]</b> arms this one, and then <b>[Shift+N]</b> records.");
  if (track->lanes.empty())
    return tr("<b>[Shift+N]</b> records. Nothing is ever recorded over: each pass becomes a lane.");
  if (track->lanes.size() < 2)
    return tr("<b>[Space]</b> plays. Record another pass to have something to compare.");
  const ResolvedComposite& composite = inHand_.composite(*track);
  // Joins between what nobody picked are nothing to be judged yet.
  const bool joins = !composite.joins.empty() && std::any_of(composite.pieces.begin(), composite.pieces.end(),
                                                             [](const Piece& piece) { return piece.picked; });
  if (!inHand_.heardLane() && !joins && recording_.armedTracks().empty())
    return tr(
        "Hear what is there: <b>[Space]</b> plays, <b>[E]</b> and <b>[D]</b> step through the takes while it "
        "plays. <b>[M]</b> arms the track for another pass.");
  if (!inHand_.heardLane() && !joins)
    return tr(
        "Record a pass with <b>[Shift+N]</b>, or hear what is there: <b>[Space]</b> plays, <b>[E]</b> and "
        "<b>[D]</b> step through the takes while it plays.");
  if (!joins) {
    if (const Unit unit = inHand_.unit(); unit == Unit::Piece || unit == Unit::Punch)
      return tr(
          "<b>[E]</b> and <b>[D]</b> hear the takes for what is in hand, <b>[F]</b> picks one into it, and "
          "nothing else changes. <b>[S]</b> and <b>[G]</b> go to the next one.");
    if (inHand_.phrase())
      return tr(
          "Drag over a lane to pick that stretch for the composite, or press <b>[F]</b> to pick the take you "
          "hear in this phrase.");
    if (inHand_.selection())
      return tr(
          "Drag over a lane to pick that stretch for the composite, or press <b>[F]</b> to pick the take you "
          "hear over the selection.");
    if (desk_.session().loop)
      return tr(
          "Drag over a lane to pick that stretch for the composite, or press <b>[F]</b> to pick the take you "
          "hear over the loop.");
    return tr("Drag over a lane to pick that stretch for the composite, or click in a phrase.");
  }
  return tr(
      "<b>[J]</b> puts the next join under the magnifier, <b>[K]</b> loops around it. <b>[Ctrl+Shift+F]</b> "
      "flattens when you are content.");
}

void RecordBench::refresh() {
  heading_->setText(recording_.recording()    ? tr("This is being recorded")
                    : recording_.standingBy() ? tr("Playing, with everything captured. Record would do this")
                                              : tr("When you press record"));
  const QString sentence = recording_.sentence();
  if (sentence_->text() != sentence) sentence_->setText(sentence);
  const QString next = desk_.keyNames().spelled(advice());
  if (advice_->text() != next) advice_->setText(next);
}

void RecordBench::rebuildMeters() {
  std::vector<std::pair<QString, int>> wanted;
  for (const TrackId id : recording_.armedTracks()) {
    const Track& track = *desk_.session().track(id);
    for (const Microphone& microphone : track.microphones)
      for (int channel = 0; channel < microphone.channels; ++channel)
        wanted.emplace_back(track.microphones.size() > 1 ? QString::fromStdString(microphone.name)
                                                         : QString::fromStdString(track.name),
                            microphone.input + channel);
  }
  // More than fit would only be unreadable; the track list shows every track's.
  if (wanted.size() > 6) wanted.resize(6);
  if (wanted == metered_) return;
  metered_ = wanted;
  for (const Meter& meter : meters_) meter.row->deleteLater();
  meters_.clear();
  for (const auto& [name, input] : wanted) {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel(tr("%1, input %2").arg(name).arg(input + 1));
    label->setObjectName("faint");
    label->setMinimumWidth(120);
    label->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    auto* level = new LevelMeter(tr("Level of %1").arg(name));
    level->setFixedSize(230, 14);
    line->addWidget(label);
    line->addWidget(level);
    meterColumn_->insertWidget(meterColumn_->count() - 1, row);
    meters_.push_back({input, row, level});
  }
}

void RecordBench::feed() {
  for (const Meter& meter : meters_) meter.level->feed(device_.inputPeak(meter.input));
}

}  // namespace yewdrift::app
