// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/fades_dialog.h"

#include <QGridLayout>
#include <QVBoxLayout>

#include "app/dialogs/closing_row.h"
#include "core/edit/edit.h"
#include "core/session/resolved_composite.h"

namespace yewdrift::app {

FadesDialog::FadesDialog(SessionDesk& desk, InHand& inHand, Messages& messages, QWidget* parent)
    : QDialog(parent),
      desk_(desk),
      messages_(messages),
      tracks_(inHand.tracksInHand()),
      selection_(inHand.selection()) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Fades"));
  auto* column = new QVBoxLayout(this);
  auto* about = new QLabel(
      selection_ ? tr("All crossfades in %1, of %n track(s).", nullptr, static_cast<int>(tracks_.size()))
                       .arg(desk.positionWords().shown(*selection_))
                 : tr("All crossfades of %n track(s).", nullptr, static_cast<int>(tracks_.size())));
  about->setWordWrap(true);
  column->addWidget(about);
  join_ = lengthField(tr("Length of crossfades"),
                      tr("Centred on the boundary; shorter where a take has no material."), 10.0, 5000.0);
  in_ = lengthField(tr("Fade in at the start"), tr("How long each composite fades in; 0: as it was played."),
                    0.0, 600'000.0);
  out_ = lengthField(tr("Fade out at the end"), tr("How long each composite fades out; 0: as it was played."),
                     0.0, 600'000.0);
  curveWanted_ = new QCheckBox(tr("Curve of crossfades"));
  curve_ = new QComboBox;
  curve_->addItems({tr("equal gain"), tr("equal power"), tr("S"), tr("matched")});
  curve_->setCurrentIndex(static_cast<int>(Curve::Matched));
  curve_->setAccessibleName(tr("Curve of crossfades"));
  auto* grid = new QGridLayout;
  int row = 0;
  for (const auto& [wanted, value] : {std::pair<QCheckBox*, QWidget*>{join_.wanted, join_.milliseconds},
                                      {curveWanted_, curve_},
                                      {in_.wanted, in_.milliseconds},
                                      {out_.wanted, out_.milliseconds}}) {
    grid->addWidget(wanted, row, 0);
    grid->addWidget(value, row++, 1);
    connect(wanted, &QCheckBox::toggled, this, &FadesDialog::refresh);
  }
  column->addLayout(grid);
  set_ = new QPushButton(tr("Set them"));
  column->addLayout(closingRow(*this, tr("Leave it"), *set_));
  connect(set_, &QPushButton::clicked, this, &FadesDialog::apply);
  join_.wanted->setChecked(true);
  refresh();
}

FadesDialog::Length FadesDialog::lengthField(const QString& text, const QString& tip, double value,
                                             double most) {
  const Length field{new QCheckBox(text), new QDoubleSpinBox};
  field.wanted->setToolTip(tip);
  field.milliseconds->setRange(0.0, most);
  field.milliseconds->setDecimals(1);
  field.milliseconds->setSuffix(tr(" ms"));
  field.milliseconds->setValue(value);
  field.milliseconds->setAccessibleName(text);
  field.milliseconds->setToolTip(tip);
  return field;
}

Frames FadesDialog::framesOf(const Length& field) const {
  return framesFromSeconds(field.milliseconds->value() / 1000.0, desk_.session().rate);
}

void FadesDialog::refresh() {
  for (const Length& field : {join_, in_, out_}) field.milliseconds->setEnabled(field.wanted->isChecked());
  curve_->setEnabled(curveWanted_->isChecked());
  set_->setEnabled(join_.wanted->isChecked() || curveWanted_->isChecked() || in_.wanted->isChecked() ||
                   out_.wanted->isChecked());
}

void FadesDialog::apply() {
  JoinChange change;
  if (join_.wanted->isChecked()) {
    const Frames length = framesOf(join_);
    change.before = Frames{length.count / 2};
    change.after = length - *change.before;
  }
  if (curveWanted_->isChecked()) change.curve = static_cast<Curve>(curve_->currentIndex());
  std::size_t joins = 0;
  const bool done = desk_.apply(tr("Set fades"), [&](Session session) {
    joins = 0;
    for (const TrackId id : tracks_) {
      const Track* const track = session.track(id);
      if (!track || track->lanes.empty()) continue;
      for (const Join& join : resolve(*track, session.rate).joins)
        if (!join.settled && (!selection_ || selection_->contains(join.at))) ++joins;
      if (change.before || change.curve) session = changeJoins(std::move(session), id, change, selection_);
      for (const auto& [field, end] : {std::pair{in_, CompositeEnd::Start}, {out_, CompositeEnd::End}}) {
        if (!field.wanted->isChecked()) continue;
        const Composite& composite = requireTrack(session, id).composite;
        EndFade fade = end == CompositeEnd::Start ? composite.fadeIn : composite.fadeOut;
        fade.length = framesOf(field);
        session = setEndFade(std::move(session), id, end, fade);
      }
    }
    return session;
  });
  if (!done) return;
  messages_.say(change.before || change.curve ? tr("%n crossfades are set; those that are settled stayed.|"
                                                   "One crossfade is set; those that are settled stayed.",
                                                   nullptr, static_cast<int>(joins))
                                              : tr("The fades are set."));
  close();
}

}  // namespace yewdrift::app
