// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/line_up_dialog.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/dialogs/closing_row.h"

namespace yewdrift::app {

LineUpDialog::LineUpDialog(SessionDesk& desk, InHand& inHand, LineUpDesk& lineUp, LaneNumber take,
                           QWidget* parent)
    : QDialog(parent), lineUp_(lineUp), take_(take) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Line up lane %1").arg(take.value));
  auto* column = new QVBoxLayout(this);
  auto* question = new QLabel(inHand.selection() ? tr("Over the selection, lane %1 is to lie over")
                                                 : tr("Lane %1 is to lie over"));
  question->setText(question->text().arg(take.value));
  reference_ = new QComboBox;
  reference_->setAccessibleName(tr("Line up to"));
  if (const Track* track = inHand.track())
    for (const auto& lane : track->lanes)
      if (lane->number != take && !lane->setAside)
        reference_->addItem(QString("%1  %2").arg(lane->number.value).arg(QString::fromStdString(lane->name)),
                            lane->number.value);
  if (desk.options().grid) reference_->addItem(tr("the grid"), 0);
  within_ = new QComboBox;
  within_->setAccessibleName(tr("Moved no further than"));
  within_->setToolTip(
      tr("How far a take may lie from where it belongs: near for one that was played along, "
         "far for one that came as a file. Music comes back: too far may find it the next time."));
  for (const double seconds : {0.05, 0.5, 3.0, 10.0})
    within_->addItem(seconds < 0.1 ? tr("%1 ms").arg(locale().toString(1000.0 * seconds))
                                   : tr("%1 s").arg(locale().toString(seconds)),
                     seconds);
  within_->setCurrentIndex(1);
  found_ = new QLabel;
  found_->setWordWrap(true);
  found_->setAccessibleName(tr("What was found"));
  // It is known later, and may take three lines: nothing moves then.
  found_->setMinimumHeight(found_->fontMetrics().lineSpacing() * 3);
  takeIt_ = new QPushButton(tr("Move it there"));
  column->addWidget(question);
  column->addWidget(reference_);
  auto* reach = new QHBoxLayout;
  reach->addWidget(new QLabel(tr("and is moved no further than")));
  reach->addWidget(within_);
  reach->addStretch(1);
  column->addLayout(reach);
  column->addWidget(found_, 1);
  column->addLayout(closingRow(*this, tr("Leave it"), *takeIt_));
  connect(reference_, &QComboBox::activated, this, &LineUpDialog::look);
  connect(within_, &QComboBox::activated, this, &LineUpDialog::look);
  connect(takeIt_, &QPushButton::clicked, this, [this] {
    lineUp_.take();
    close();
  });
  connect(&lineUp_, &LineUpDesk::changed, this, &LineUpDialog::refresh);
  // Another track, or the take gone: the question is none any more.
  connect(&inHand, &InHand::changed, this, [this, &inHand, id = inHand.trackId()] {
    if (inHand.trackId() != id || !inHand.track() || !inHand.track()->lane(take_)) close();
  });
  look();
  resize(460, sizeHint().height());
}

LineUpDialog::~LineUpDialog() {
  disconnect(&lineUp_, nullptr, this, nullptr);
  lineUp_.forget();
}

void LineUpDialog::look() {
  if (reference_->count() == 0) {
    found_->setText(tr("There is no other take to line it up to."));
    within_->setEnabled(false);
    takeIt_->setEnabled(false);
    return;
  }
  const int lane = reference_->currentData().toInt();
  lineUp_.look(take_, lane > 0 ? std::optional(LaneNumber{lane}) : std::nullopt,
               within_->currentData().toDouble());
}

void LineUpDialog::refresh() {
  found_->setText(lineUp_.words());
  const auto& proposal = lineUp_.proposal();
  takeIt_->setEnabled(proposal && proposal->problem.isEmpty() && proposal->found.sureness >= leastSureness &&
                      proposal->found.offset.count != 0);
}

}  // namespace yewdrift::app
