// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/flatten_dialog.h"

#include <QButtonGroup>
#include <QLocale>
#include <QVBoxLayout>

#include "app/dialogs/closing_row.h"
#include "app/look/widgets.h"
#include "core/session/resolved_composite.h"

namespace yewdrift::app {
namespace {

Span spanOf(const Session& session, const Track& track) {
  const auto pieces = resolve(track, session.rate).pieces;
  return pieces.empty() ? Span{} : Span{pieces.front().span.start, pieces.back().span.end};
}

}  // namespace

FlattenDialog::FlattenDialog(SessionDesk& desk, InHand& inHand, FileDesk& files, QWidget* parent)
    : QDialog(parent), desk_(desk), track_(inHand.trackId()), selection_(inHand.selection()) {
  setAttribute(Qt::WA_DeleteOnClose);
  const Track* const track = inHand.track();
  setWindowTitle(tr("Flatten %1").arg(track ? QString::fromStdString(track->name) : QString()));
  auto* column = new QVBoxLayout(this);
  const auto choice = [&](QButtonGroup* among, const QString& text, const QString& tip) {
    auto* button = new QRadioButton(text);
    button->setToolTip(tip);
    among->addButton(button);
    column->addWidget(button);
    connect(button, &QRadioButton::toggled, this, &FlattenDialog::refresh);
    return button;
  };
  column->addWidget(new QLabel(tr("One new file takes the place of")));
  auto* parts = new QButtonGroup(this);
  whole_ = choice(parts, tr("the whole composite"), tr("From its first frame to its last"));
  stretch_ = choice(
      parts,
      selection_ ? tr("the selection, %1").arg(desk.positionWords().shown(*selection_)) : tr("the selection"),
      selection_ ? tr("Before and behind it the composite stays as it is")
                 : tr("Nothing is selected; draw over the composite first."));
  stretch_->setEnabled(selection_.has_value());
  (selection_ ? stretch_ : whole_)->setChecked(true);
  column->addSpacing(8);
  column->addWidget(new QLabel(tr("and the takes")));
  auto* lanes = new QButtonGroup(this);
  lanes_ = {
      choice(lanes, tr("stay as lanes"), tr("A pick can be changed at any time")),
      choice(lanes, tr("are set aside"), tr("Out of sight; each can be brought back")),
      choice(lanes, tr("leave the session"), tr("Their files stay in the folder; Undo brings them back"))};
  lanes_[0]->setChecked(true);
  column->addSpacing(8);
  result_ = faintLabel({});
  result_->setWordWrap(true);
  result_->setAccessibleName(tr("What is written"));
  column->addWidget(result_, 1);
  flatten_ = new QPushButton(tr("Flatten"));
  column->addLayout(closingRow(*this, tr("Cancel"), *flatten_));
  connect(flatten_, &QPushButton::clicked, this, [this, &files] {
    files.flatten(track_, wish());
    close();
  });
  connect(&desk, &SessionDesk::changed, this, &FlattenDialog::refresh);
  refresh();
}

FlattenWish FlattenDialog::wish() const {
  if (stretch_->isChecked()) return {selection_, OtherLanes::Keep};
  return {std::nullopt, lanes_[1]->isChecked()   ? OtherLanes::Archive
                        : lanes_[2]->isChecked() ? OtherLanes::Remove
                                                 : OtherLanes::Keep};
}

void FlattenDialog::refresh() {
  if (!flatten_) return;
  const Session& session = desk_.session();
  const Track* const track = session.track(track_);
  if (!track) {
    close();
    return;
  }
  const bool all = whole_->isChecked();
  for (std::size_t i = 1; i < lanes_.size(); ++i) {
    lanes_[i]->setEnabled(all);
    if (!all && lanes_[i]->isChecked()) lanes_[0]->setChecked(true);
  }
  const Span composite = spanOf(session, *track);
  const Span span = all ? composite : *selection_;
  const std::int64_t bytes = session.format == SampleFormat::Pcm16   ? 2
                             : session.format == SampleFormat::Pcm24 ? 3
                                                                     : 4;
  const auto channels = static_cast<std::int64_t>(track->channels());
  const QString size = QLocale().formattedDataSize(span.length().count * channels * bytes);
  const bool any = !span.empty() && !composite.empty();
  flatten_->setEnabled(any);
  result_->setText(
      any ? tr("%1 of audio, %2. It is read back and compared with what plays before it counts as done.")
                .arg(PositionWords::byClock(desk_.ruler()).shown(span.length()), size)
          : tr("The composite is empty; there is nothing to flatten."));
}

}  // namespace yewdrift::app
