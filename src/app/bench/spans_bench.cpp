// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/spans_bench.h"

#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/look/widgets.h"
#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::app {
SpansBench::SpansBench(SessionDesk& desk, Transport& transport, RecordingDesk& recording, Messages& messages,
                       const QList<QAction*>& loopActions, const QList<QAction*>& punchActions,
                       QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), recording_(recording), messages_(messages) {
  from_ = new QLineEdit;
  to_ = new QLineEdit;
  for (auto [field, name] : {std::pair{from_, tr("Loop from")}, {to_, tr("Loop to")}}) {
    field->setAccessibleName(name);
    field->setFixedWidth(110);
    field->setToolTip(tr("Bar and beat as 5|1, seconds as 2.5s, frames as 123456f"));
    connect(field, &QLineEdit::editingFinished, this, &SpansBench::typeLoop);
  }
  loop_ = new QCheckBox(tr("go round it (L)"));
  connect(loop_, &QCheckBox::clicked, this, [this](bool on) { transport_.setLooping(on); });
  punch_ = new QCheckBox(tr("record in them only (Ctrl+U)"));
  connect(punch_, &QCheckBox::clicked, this, [this](bool on) { recording_.setAutoPunch(on); });

  auto* left = new QVBoxLayout;
  auto* typedLoop = new QHBoxLayout;
  typedLoop->addWidget(new QLabel(tr("Loop from")));
  typedLoop->addWidget(from_);
  typedLoop->addWidget(new QLabel(tr("to")));
  typedLoop->addWidget(to_);
  typedLoop->addWidget(loop_);
  typedLoop->addStretch(1);
  left->addLayout(typedLoop);
  auto* actions = buttonRow(loopActions);
  air_ = new QDoubleSpinBox;
  air_->setRange(0.25, 64);
  air_->setDecimals(2);
  air_->setSingleStep(1);
  air_->setSuffix(tr(" bars either side"));
  air_->setAccessibleName(tr("Air around the loop"));
  connect(air_, &QDoubleSpinBox::valueChanged, this, [this](double bars) {
    if (filling_) return;
    RecordingOptions options = desk_.options();
    options.airBars = bars;
    desk_.setOptions(options);
  });
  actions->insertWidget(static_cast<int>(loopActions.size()), air_);
  left->setSpacing(4);
  left->addLayout(actions);
  left->addLayout(buttonRow(punchActions));
  left->addStretch(1);

  punches_ = plainTable({tr("Punch"), tr("In"), tr("Out")}, tr("Punch spans"));
  punches_->setColumnWidth(0, 60);
  punches_->setToolTip(
      tr("Type where it goes in and out; an empty place leaves that end open. The last row adds one."));
  connect(punches_, &QTableWidget::cellChanged, this, &SpansBench::typePunch);
  auto* right = new QVBoxLayout;
  right->setSpacing(2);
  auto* head = new QHBoxLayout;
  head->addWidget(new QLabel(tr("Punch spans")));
  head->addWidget(punch_);
  head->addStretch(1);
  auto* remove = new QPushButton(tr("Remove selected"));
  connect(remove, &QPushButton::clicked, this, &SpansBench::removePunches);
  head->addWidget(remove);
  right->addLayout(head);
  right->addWidget(punches_, 1);

  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->setSpacing(24);
  row->addLayout(left);
  row->addLayout(right, 1);
  connect(&desk, &SessionDesk::changed, this, &SpansBench::refresh);
  connect(&transport, &Transport::changed, this, &SpansBench::refresh);
  refresh();
}

QString SpansBench::text(Frames at) const {
  if (desk_.options().grid) {
    const std::string bars = barBeatText(at, desk_.ruler());
    // Where the short form is not exact, the frame is.
    try {
      if (parsePosition(bars, desk_.ruler()) == at) return QString::fromStdString(bars);
    } catch (const Error&) {
    }
    return QString("%1f").arg(at.count);
  }
  return QString("%1s").arg(secondsFromFrames(at, desk_.session().rate), 0, 'f', 3);
}

std::optional<Frames> SpansBench::typed(const QString& text) const {
  const QString plain = text.trimmed();
  if (plain.isEmpty()) return std::nullopt;
  return parsePosition(plain.toStdString(), desk_.ruler());
}

void SpansBench::refresh() {
  filling_ = true;
  const Session& session = desk_.session();
  if (!from_->hasFocus()) from_->setText(session.loop ? text(session.loop->start) : QString());
  if (!to_->hasFocus()) to_->setText(session.loop ? text(session.loop->end) : QString());
  if (!air_->hasFocus()) air_->setValue(desk_.options().airBars);
  loop_->setChecked(transport_.looping());
  punch_->setChecked(desk_.options().punch);
  punches_->setRowCount(static_cast<int>(session.punches.size()) + 1);
  for (int row = 0; row < punches_->rowCount(); ++row) {
    const bool there = row < static_cast<int>(session.punches.size());
    const Punch punch = there ? session.punches[static_cast<std::size_t>(row)] : Punch{};
    const QStringList texts{there ? QString::number(row + 1) : tr("new"),
                            punch.in ? text(*punch.in) : QString(), punch.out ? text(*punch.out) : QString()};
    for (int column = 0; column < 3; ++column) {
      auto* item = new QTableWidgetItem(texts[column]);
      if (column == 0) item->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEnabled);
      punches_->setItem(row, column, item);
    }
  }
  filling_ = false;
}

void SpansBench::typeLoop() {
  if (filling_) return;
  try {
    const auto from = typed(from_->text());
    const auto to = typed(to_->text());
    if (!from && !to) {
      if (desk_.session().loop)
        desk_.apply(tr("Remove the loop"), [](const Session& s) { return setLoop(s, std::nullopt); });
      return;
    }
    if (!from || !to) return;  // the other end is still to be typed
    if (desk_.session().loop == Span{*from, *to}) return;
    desk_.apply(tr("Set the loop"), [&](const Session& s) { return setLoop(s, Span{*from, *to}); });
  } catch (const Error& e) {
    messages_.say(QString::fromUtf8(e.what()));
  }
  refresh();
}

void SpansBench::typePunch(int row, int) {
  if (filling_) return;
  try {
    auto cell = [&](int column) {
      return punches_->item(row, column) ? punches_->item(row, column)->text() : "";
    };
    const Punch punch{typed(cell(1)), typed(cell(2))};
    std::vector<Punch> punches = desk_.session().punches;
    const auto index = static_cast<std::size_t>(row);
    if (index < punches.size())
      punches[index] = punch;
    else
      punches.push_back(punch);
    std::erase_if(punches, [](const Punch& p) { return !p.in && !p.out; });
    if (desk_.apply(tr("Set a punch"), [&](const Session& s) { return setPunches(s, punches); }))
      recording_.setAutoPunch(true);
  } catch (const Error& e) {
    messages_.say(QString::fromUtf8(e.what()));
  }
  refresh();
}

void SpansBench::removePunches() {
  std::vector<Punch> kept;
  const auto& punches = desk_.session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i)
    if (!punches_->selectionModel()->isRowSelected(static_cast<int>(i), {})) kept.push_back(punches[i]);
  desk_.apply(tr("Remove punches"), [&](const Session& s) { return setPunches(s, kept); });
}

MarkersBench::MarkersBench(SessionDesk& desk, Transport& transport, Messages& messages, QAction* drop,
                           QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), messages_(messages) {
  table_ = plainTable({tr("At"), tr("Time"), tr("Name")}, tr("Markers"));
  table_->setColumnWidth(0, 90);
  table_->setColumnWidth(1, 100);
  connect(table_, &QTableWidget::cellChanged, this, [this](int row, int column) {
    if (filling_ || column != 2) return;
    desk_.apply(tr("Rename a marker"),
                [&, name = table_->item(row, 2)->text().trimmed().toStdString()](const Session& s) {
                  return renameMarker(s, static_cast<std::size_t>(row), name);
                });
    refresh();
  });
  connect(table_, &QTableWidget::cellDoubleClicked, this, [this](int row, int column) {
    const auto& markers = desk_.session().markers;
    if (column < 2 && row < static_cast<int>(markers.size()))
      transport_.locate(markers[static_cast<std::size_t>(row)].at);
  });
  auto* dropHere = new QToolButton;
  dropHere->setDefaultAction(drop);
  dropHere->setAccessibleName(drop->text());
  remove_ = new QPushButton(tr("Remove selected"));
  connect(remove_, &QPushButton::clicked, this, &MarkersBench::removeSelected);
  dropouts_ = new QPushButton(tr("Select dropouts"));
  connect(dropouts_, &QPushButton::clicked, this, &MarkersBench::selectDropouts);
  auto* hint =
      new QLabel(tr("Double-click a place to go there, a name to rename it. Dropouts of the device mark "
                    "themselves while something is recorded."));
  hint->setWordWrap(true);
  hint->setObjectName("faint");
  auto* side = new QVBoxLayout;
  for (QWidget* each : std::initializer_list<QWidget*>{dropHere, remove_, dropouts_, hint})
    side->addWidget(each);
  side->addStretch(1);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->addWidget(table_, 1);
  row->addLayout(side);
  hint->setFixedWidth(260);
  connect(&desk, &SessionDesk::changed, this, &MarkersBench::refresh);
  refresh();
}

void MarkersBench::refresh() {
  const Session& session = desk_.session();
  remove_->setEnabled(!session.markers.empty());
  dropouts_->setEnabled(std::any_of(session.markers.begin(), session.markers.end(),
                                    [](const Marker& m) { return m.kind == MarkerKind::Dropout; }));
  table_->setColumnHidden(0, !desk_.options().grid);
  if (session.markers == shown_ && table_->rowCount() == static_cast<int>(shown_.size())) return;
  shown_ = session.markers;
  filling_ = true;
  table_->setRowCount(static_cast<int>(shown_.size()));
  for (int row = 0; row < table_->rowCount(); ++row) {
    const Marker& marker = shown_[static_cast<std::size_t>(row)];
    const QStringList texts{QString::fromStdString(barBeatText(marker.at, desk_.ruler())),
                            QString::fromStdString(clockText(marker.at, session.rate)),
                            QString::fromStdString(marker.name)};
    for (int column = 0; column < 3; ++column) {
      auto* item = new QTableWidgetItem(texts[column]);
      if (column < 2) item->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEnabled);
      table_->setItem(row, column, item);
    }
  }
  filling_ = false;
}

void MarkersBench::removeSelected() {
  std::vector<std::size_t> gone;
  for (int row = 0; row < table_->rowCount(); ++row)
    if (table_->selectionModel()->isRowSelected(row, {})) gone.push_back(static_cast<std::size_t>(row));
  if (gone.empty()) return messages_.say(tr("Select the markers to remove in the list first."));
  const QString label = gone.size() == 1 ? tr("Remove a marker") : tr("Remove %1 markers").arg(gone.size());
  desk_.apply(label, [&](const Session& s) { return removeMarkers(s, gone); });
}

void MarkersBench::selectDropouts() {
  table_->clearSelection();
  for (std::size_t i = 0; i < shown_.size(); ++i)
    if (shown_[i].kind == MarkerKind::Dropout)
      table_->selectionModel()->select(table_->model()->index(static_cast<int>(i), 0),
                                       QItemSelectionModel::Select | QItemSelectionModel::Rows);
}

}  // namespace yewdrift::app
