// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/join_list.h"

#include <QSignalBlocker>
#include <QVBoxLayout>

#include "app/look/flow_layout.h"
#include "app/look/spoken.h"
#include "app/look/widgets.h"

namespace yewdrift::app {

JoinList::JoinList(SessionDesk& desk, InHand& inHand, JoinDesk& joins, const QList<QAction*>& actions,
                   QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), joins_(joins) {
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Joins, riskiest first"));
  list_->setToolTip(
      tr("The joins of this track, those that are most likely heard first. Take one in hand and hear it; "
         "where it is well, settle it."));
  list_->setTextElideMode(Qt::ElideRight);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  // It takes what is left over; what does not fit in is scrolled.
  list_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored);
  list_->setMinimumHeight(fontMetrics().height());
  buttons_ = new FlowLayout(4, 2);
  for (QAction* each : actions) buttons_->addWidget(actionButton(each));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(3);
  column->addWidget(list_, 1);
  column->addLayout(buttons_);
  connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (item && item->data(Qt::UserRole).isValid())
      inHand_.takeJoin(Frames{item->data(Qt::UserRole).toLongLong()});
  });
}

void JoinList::refresh() {
  fillList();
  fillFindings();
}

void JoinList::fillList() {
  const QSignalBlocker quietly(list_);
  const bool hadFocus = list_->hasFocus();
  list_->clear();
  const Ruler ruler = desk_.ruler();
  for (const MeasuredJoin& one : joins_.joins()) {
    const bool inHand = inHand_.join() == one.join.at;
    // The one that was just settled stays as long as it is in hand.
    if (one.join.settled && !inHand) continue;
    const QString place = QString::fromStdString(positionText(one.join.at, ruler));
    const QString reading = one.join.settled ? tr("Settled.") : spoken(one.reading);
    auto* item = new QListWidgetItem(tr("%1   %2").arg(place, reading), list_);
    item->setData(Qt::UserRole, static_cast<qlonglong>(one.join.at.count));
    item->setToolTip(tr("%1: %2 Risk %L3.").arg(place, reading).arg(one.risk, 0, 'f', 2));
    if (inHand) list_->setCurrentItem(item);
  }
  if (hadFocus) list_->setFocus();
  if (list_->count() > 0) return;
  auto* none = new QListWidgetItem(joins_.looking()         ? tr("Listening to the joins…")
                                   : joins_.joins().empty() ? tr("No joins: the composite plays one take.")
                                                            : tr("All joins are settled."),
                                   list_);
  none->setFlags(Qt::NoItemFlags);
}

void JoinList::fillFindings() {
  qDeleteAll(choices_);
  choices_.clear();
  const auto& found = joins_.findings();
  for (std::size_t i = 1; i < found.size(); ++i) {
    auto* choice = new QToolButton;
    choice->setText(QString::number(i + 1));
    choice->setAccessibleName(tr("Alternative %1").arg(i + 1));
    choice->setToolTip(tr("Another place: %1").arg(spoken(found[i].why)));
    connect(choice, &QToolButton::clicked, this, [this, i] { joins_.take(i); });
    buttons_->addWidget(choice);
    choices_.append(choice);
  }
}

}  // namespace yewdrift::app
