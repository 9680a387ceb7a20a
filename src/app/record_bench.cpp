// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/record_bench.h"

#include <QVBoxLayout>
#include <filesystem>

namespace yewdrift::app {

RecordBench::RecordBench(Studio& studio, QWidget* parent) : QWidget(parent), studio_(studio) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 0, 6, 0);
  column->setSpacing(6);
  heading_ = new QLabel;
  heading_->setObjectName("faint");
  sentence_ = new QLabel;
  sentence_->setWordWrap(true);
  sentence_->setAccessibleName(tr("What will be recorded"));
  QFont large = font();
  large.setPointSizeF(13.5);
  sentence_->setFont(large);
  advice_ = new QLabel;
  advice_->setWordWrap(true);
  advice_->setTextFormat(Qt::RichText);
  disk_ = new QLabel;
  disk_->setObjectName("faint");
  column->addWidget(heading_);
  column->addWidget(sentence_);
  column->addWidget(advice_);
  column->addStretch(1);
  column->addWidget(disk_);
  for (auto signal :
       {&Studio::sessionChanged, &Studio::inHandChanged, &Studio::transportChanged, &Studio::moved})
    connect(&studio, signal, this, &RecordBench::refresh);
  refresh();
}

QString RecordBench::advice() const {
  const Track* track = studio_.trackInHand();
  if (!track) return tr("Add a track with <b>Track &gt; New track</b>.");
  if (studio_.recording())
    return tr("<b>Ctrl+Space</b> or <b>Space</b> stops. Every time round is kept as a lane of its own.");
  if (track->backing)
    return tr(
        "This is a backing track. Take one in hand that is played: click its name, or <b>Page Down</b>.");
  if (track->lanes.empty())
    return tr("<b>Ctrl+Space</b> records. Nothing is ever recorded over: each pass becomes a lane.");
  if (track->lanes.size() < 2)
    return tr("<b>Space</b> plays. Record another pass to have something to compare.");
  const bool joins = !studio_.composite(*track).joins.empty();
  if (!studio_.heardLane() && !joins)
    return tr(
        "Record a pass with <b>Ctrl+Space</b>, or hear what is there: <b>Space</b> plays, <b>E</b> and "
        "<b>D</b> step through the takes while it plays.");
  if (!joins)
    return tr(
        "Drag over a lane to pick that stretch for the composite, or press <b>F</b> to pick the take you "
        "hear over the loop.");
  return tr(
      "<b>J</b> puts the next join under the magnifier, <b>K</b> loops around it. <b>Ctrl+Shift+F</b> "
      "flattens when you are content.");
}

void RecordBench::refresh() {
  heading_->setText(studio_.recording() ? tr("This is being recorded") : tr("When you press record"));
  sentence_->setText(studio_.recordingSentence());
  advice_->setText(advice());
  std::error_code error;
  const auto space = std::filesystem::space(studio_.folderPath(), error);
  if (error) return;
  double bytesASecond = 0.0;
  for (const TrackId id : studio_.armedTracks())
    bytesASecond += studio_.session().track(id)->channels() * studio_.session().rate.hertz *
                    (studio_.session().format == SampleFormat::Pcm16   ? 2.0
                     : studio_.session().format == SampleFormat::Pcm24 ? 3.0
                                                                       : 4.0);
  if (bytesASecond == 0.0) return disk_->clear();
  const double hours = static_cast<double>(space.available) / bytesASecond / 3600.0;
  disk_->setText(hours >= 2.0
                     ? tr("Room on the disk for %1 hours of this").arg(static_cast<int>(hours))
                     : tr("Room on the disk for %1 minutes of this").arg(static_cast<int>(hours * 60)));
}

}  // namespace yewdrift::app
