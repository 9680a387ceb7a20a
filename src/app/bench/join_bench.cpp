// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/join_bench.h"

#include <QHBoxLayout>
#include <QLocale>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/look/spoken.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

JoinBench::JoinBench(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const Actions& actions,
                     QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), joins_(joins) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(8, 2, 6, 2);
  row->setSpacing(12);
  auto* side = new QVBoxLayout;
  side->setSpacing(3);
  title_ = new ElidedLabel;
  title_->setFont(scaledFont(1.2, QFont::DemiBold));
  reading_ = new QLabel;
  reading_->setWordWrap(true);
  reading_->setAccessibleName(tr("What the join sounds like"));
  numbers_ = new QLabel;
  numbers_->setAccessibleName(tr("Measures of the join"));
  numbers_->setTextFormat(Qt::RichText);
  auto* head = new QHBoxLayout;
  head->setSpacing(4);
  head->addWidget(title_, 1);
  for (QAction* each : actions.hear) head->addWidget(actionButton(each));
  side->addLayout(head);
  side->addWidget(reading_);
  side->addWidget(numbers_);
  side->addStretch(1);
  auto* sideWidget = new QWidget;
  sideWidget->setLayout(side);
  side->setContentsMargins(0, 0, 0, 0);
  picture_ = new JoinPicture(desk, inHand, joins);
  fields_ = new JoinFields(desk, inHand, joins);
  row->addWidget(sideWidget);
  row->addWidget(fields_, 0, Qt::AlignTop);
  row->addWidget(picture_, 3);
  list_ = new JoinList(desk, inHand, joins, actions.change);
  list_->setMinimumWidth(204);
  row->addWidget(list_, 1);
  connect(&desk, &SessionDesk::changed, this, &JoinBench::refresh);
  connect(&inHand, &InHand::changed, this, &JoinBench::refresh);
  connect(&joins, &JoinDesk::found, this, &JoinBench::refresh);
}

void JoinBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
  // Within one turn, not over several: what the texts need is known only now.
  title_->parentWidget()->layout()->activate();
  layout()->activate();
}

void JoinBench::refresh() {
  // Nobody looks: it is made when the page is shown.
  if (!isVisible()) return;
  joins_.want();
  list_->refresh();
  fields_->refresh();
  if (!inHand_.join() && !picture_->shown() && !title_->text().isEmpty()) return;
  picture_->refresh();
  if (!picture_->shown()) {
    title_->setText(tr("No join in hand"));
    reading_->setText(desk_.keyNames().spelled(tr("[J] takes the next one, [Shift+Q] the riskiest.")));
    numbers_->clear();
    return;
  }
  showNumbers(*picture_->shown());
}

void JoinBench::showNumbers(const JoinCloseUp& view) {
  const Ruler ruler = desk_.ruler();
  const QString place = QString::fromStdString(positionText(view.join.at, ruler));
  title_->setText(tr("Join at %1").arg(place));
  title_->setToolTip(view.join.set     ? tr("Its crossfade was set by hand.")
                     : view.join.found ? tr("Its crossfade was found by the search for the best place.")
                                       : tr("Its crossfade is as every join has it."));
  const auto decimal = [](double value, int places) { return numberLocale().toString(value, 'f', places); };
  const auto ms = [&](Frames f, int places = 1) {
    return decimal(secondsFromFrames(f, ruler.rate) * 1000.0, places);
  };
  const auto line = [](const QString& what, const QString& value, const QString& more = {},
                       const QString& moreValue = {}) {
    const auto cell = [](const QString& text) { return "<td style='padding-right:8px'>" + text + "</td>"; };
    const auto bold = [](const QString& text) {
      return text.isEmpty() ? text : "<b>" + text.toHtmlEscaped() + "</b>";
    };
    return "<tr>" + cell(what) + cell(bold(value)) + cell(more) + cell(bold(moreValue)) + "</tr>";
  };
  // As long as it is not measured anew, what is seen is measured where it is seen.
  const MeasuredJoin* const known = joins_.joinAt(view.join.at);
  const JoinMeasure measure = known ? known->measure : view.measure;
  reading_->setText(known && known->join == view.join ? spoken(known->reading) : tr("Listening…"));
  const QString lengths = tr("%1 + %2 ms").arg(ms(view.join.shape.before), ms(view.join.shape.after));
  const QString onset =
      known && known->nearestOnset ? tr("%1 ms").arg(ms(*known->nearestOnset, 0)) : tr("none");
  const QString pitch = known && known->pitchDifference
                            ? tr("%L1 cents").arg(known->pitchDifference->value, 0, 'f', 0)
                            : tr("none");
  numbers_->setText(
      "<table>" + line(tr("Crossfade"), lengths, tr("Attack"), onset) +
      line(tr("Step"), decimal(measure.step, 3), tr("Likeness"), decimal(measure.correlation, 2)) +
      line(tr("Level"), tr("%L1 dB").arg(measure.levelDifference, 0, 'f', 1), tr("Pitch"), pitch) +
      "</table>");
  numbers_->setToolTip(
      tr("Step: how far apart the waves are at the boundary, of full scale 1. Likeness: 1 where both takes "
         "are the same wave, 0 where they have nothing in common, -1 where they are opposed. Level and "
         "pitch: by how much the incoming take is louder and higher. Attack: how far the nearest one "
         "of either take is from the boundary, before it with a minus."));
}

}  // namespace yewdrift::app
