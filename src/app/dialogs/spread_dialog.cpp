// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/spread_dialog.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/dialogs/closing_row.h"
#include "app/look/spoken.h"
#include "app/look/widgets.h"
#include "core/error.h"

namespace yewdrift::app {

SpreadDialog::SpreadDialog(SessionDesk& desk, InHand& inHand, QWidget* parent)
    : QDialog(parent), desk_(desk), track_(inHand.trackId()) {
  setAttribute(Qt::WA_DeleteOnClose);
  const Track* const track = inHand.track();
  setWindowTitle(tr("Takes of %1 to tracks").arg(track ? QString::fromStdString(track->name) : QString()));
  resize(420, 360);
  auto* column = new QVBoxLayout(this);
  auto* takes = new QWidget;
  auto* grid = new QGridLayout(takes);
  grid->setContentsMargins(0, 0, 0, 0);
  if (track)
    for (const auto& lane : track->lanes) {
      if (lane->setAside || lane->clips.empty()) continue;
      auto* chosen =
          new QCheckBox(QString("%1  %2").arg(lane->number.value).arg(QString::fromStdString(lane->name)));
      chosen->setToolTip(tr("This take becomes a track of its own; it stays a take of this track, too."));
      // The takes that are heard together are the doubling that somebody has in mind.
      const auto& heard = inHand.heardLanes();
      chosen->setChecked(heard.size() < 2 ||
                         std::find(heard.begin(), heard.end(), lane->number) != heard.end());
      auto* pan = new QDoubleSpinBox;
      pan->setRange(-100.0, 100.0);
      pan->setDecimals(0);
      pan->setSuffix(tr(" %"));
      pan->setAccessibleName(tr("Pan of lane %1").arg(lane->number.value));
      pan->setToolTip(tr("Where it lies: -100 % is hard left, 100 % hard right."));
      const int row = static_cast<int>(rows_.size());
      grid->addWidget(chosen, row, 0);
      grid->addWidget(pan, row, 1);
      rows_.push_back({lane->number, chosen, pan});
      connect(chosen, &QCheckBox::toggled, this, &SpreadDialog::spreadEvenly);
    }
  grid->setColumnStretch(0, 1);
  column->addWidget(scrolled(takes), 1);
  width_ = new QDoubleSpinBox;
  width_->setRange(0.0, 100.0);
  width_->setDecimals(0);
  width_->setSuffix(tr(" %"));
  width_->setValue(70.0);
  width_->setAccessibleName(tr("How wide they are spread"));
  width_->setToolTip(tr("0 %: all in the middle. 100 %: from hard left to hard right."));
  auto* even = new QHBoxLayout;
  even->addWidget(new QLabel(tr("Spread evenly by")));
  even->addWidget(width_);
  even->addStretch(1);
  column->addLayout(even);
  result_ = new QLabel;
  result_->setWordWrap(true);
  result_->setAccessibleName(tr("What becomes of it"));
  column->addWidget(result_);
  make_ = new QPushButton(tr("Make the tracks"));
  column->addLayout(closingRow(*this, tr("Leave it"), *make_));
  connect(width_, &QDoubleSpinBox::valueChanged, this, &SpreadDialog::spreadEvenly);
  connect(make_, &QPushButton::clicked, this, &SpreadDialog::apply);
  spreadEvenly();
}

void SpreadDialog::spreadEvenly() {
  const Track* const track = desk_.session().track(track_);
  std::vector<LaneNumber> only;
  for (const Row& row : rows_) {
    row.pan->setEnabled(row.chosen->isChecked());
    if (row.chosen->isChecked()) only.push_back(row.lane);
  }
  if (track && !only.empty()) try {
      for (const SpreadTake& take : yewdrift::spreadEvenly(*track, width_->value() / 100.0, only))
        for (const Row& row : rows_)
          if (row.lane == take.lane) row.pan->setValue(std::round(take.pan.value * 100.0));
    } catch (const Error&) {
      return;  // a take went meanwhile; making the tracks says so
    }
  refresh();
}

std::vector<SpreadTake> SpreadDialog::chosen() const {
  std::vector<SpreadTake> takes;
  for (const Row& row : rows_)
    if (row.chosen->isChecked()) takes.push_back({row.lane, {row.pan->value() / 100.0}});
  return takes;
}

void SpreadDialog::refresh() {
  const std::vector<SpreadTake> takes = chosen();
  make_->setEnabled(!takes.empty());
  if (takes.empty()) return result_->setText(tr("Choose at least one take."));
  QString text =
      tr("%n track(s) will be made. The lanes of this track stay.", nullptr, static_cast<int>(takes.size()));
  try {
    const Session& before = desk_.session();
    const Session after = spreadTakes(before, track_, takes);
    if (after.track(track_)->muted && !before.track(track_)->muted)
      text += ' ' + tr("This track is muted, since it plays nothing but these takes.");
  } catch (const Error&) {
    // A take went meanwhile; making the tracks says so.
  }
  result_->setText(text);
}

void SpreadDialog::apply() {
  const std::vector<SpreadTake> takes = chosen();
  if (desk_.apply(tr("Takes to tracks"), [&](const Session& s) { return spreadTakes(s, track_, takes); }))
    close();
}

}  // namespace yewdrift::app
