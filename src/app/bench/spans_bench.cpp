// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/spans_bench.h"

#include <QLabel>
#include <QLocale>
#include <QToolButton>
#include <QVBoxLayout>
#include <utility>

#include "app/look/flow_layout.h"
#include "app/look/spoken.h"
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
    field->setMinimumWidth(fontMetrics().averageCharWidth() * 11);
    field->setMaximumWidth(fontMetrics().averageCharWidth() * 18);
    field->setToolTip(tr("Bar and beat as 5|1, seconds as 2.5s, frames as 123456f"));
    connect(field, &QLineEdit::editingFinished, this, &SpansBench::typeLoop);
  }
  loop_ = new QCheckBox;
  connect(loop_, &QCheckBox::clicked, this, [this](bool on) { transport_.setLooping(on); });
  punch_ = new QCheckBox;
  connect(punch_, &QCheckBox::clicked, this, [this](bool on) { recording_.setAutoPunch(on); });

  auto* left = new QVBoxLayout;
  auto* typedLoop = new FlowLayout(6, 4);
  for (QWidget* each :
       {group({new QLabel(tr("Loop from")), from_}), group({new QLabel(tr("to")), to_}), group({loop_})})
    typedLoop->addWidget(each);
  left->addLayout(typedLoop);
  auto* actions = buttonRow(loopActions);
  air_ = new QDoubleSpinBox;
  air_->setRange(0.25, 64);
  air_->setDecimals(2);
  air_->setSingleStep(1);
  air_->setKeyboardTracking(false);
  air_->setSuffix(tr(" bars either side"));
  air_->setAccessibleName(tr("Air around the loop"));
  connect(air_, &QDoubleSpinBox::valueChanged, this, [this](double bars) {
    if (filling_) return;
    RecordingOptions options = desk_.options();
    options.airBars = bars;
    desk_.setOptions(options);
  });
  actions->addWidget(air_);
  left->setSpacing(4);
  left->addLayout(actions);
  left->addLayout(buttonRow(punchActions));
  left->addStretch(1);

  punches_ = new PlainTable({tr("Punch"), tr("In"), tr("Out")}, tr("Punch spans"));
  punches_->setColumnWidth(0, 60);
  punches_->setToolTip(
      tr("Type where it goes in and out; an empty place leaves that end open. The last row adds one."));
  connect(punches_, &QTableWidget::cellChanged, this, &SpansBench::typePunch);
  connect(punches_, &PlainTable::removalAsked, this, &SpansBench::removePunches);
  connect(punches_, &PlainTable::settled, this, &SpansBench::refreshPunches);
  auto* right = new QVBoxLayout;
  right->setSpacing(2);
  auto* head = new FlowLayout(8, 2);
  auto* remove = new QPushButton(tr("Remove selected"));
  connect(remove, &QPushButton::clicked, this, &SpansBench::removePunches);
  for (QWidget* each : std::initializer_list<QWidget*>{new QLabel(tr("Punch spans")), punch_, remove})
    head->addWidget(each);
  right->addLayout(head);
  right->addWidget(punches_, 1);

  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(6, 2, 6, 0);
  row->setSpacing(24);
  row->addLayout(left, 1);
  row->addLayout(right, 1);
  connect(&desk, &SessionDesk::changed, this, &SpansBench::refresh);
  connect(&transport, &Transport::changed, this, &SpansBench::refresh);
  refresh();
}

void SpansBench::refresh() {
  loop_->setText(desk_.keyNames().spelled(tr("go round it ([L])")));
  punch_->setText(desk_.keyNames().spelled(tr("record in them only ([Ctrl+U])")));
  filling_ = true;
  const Session& session = desk_.session();
  const PositionWords words = desk_.positionWords();
  // What nobody typed into follows the session, the focus there or not; half of a loop that was typed waits
  // for its other half, but not beyond another loop.
  if (std::exchange(shownLoop_, session.loop) != session.loop)
    for (QLineEdit* field : {from_, to_})
      if (!field->hasFocus()) field->setModified(false);
  if (!from_->isModified()) from_->setText(session.loop ? words.inField(session.loop->start) : QString());
  if (!to_->isModified()) to_->setText(session.loop ? words.inField(session.loop->end) : QString());
  if (!beingTyped(*air_)) air_->setValue(desk_.options().airBars);
  loop_->setChecked(transport_.looping());
  punch_->setChecked(desk_.options().punch);
  filling_ = false;
  refreshPunches();
}

void SpansBench::refreshPunches() {
  if (punches_->typing()) return;
  const Session& session = desk_.session();
  const PositionWords words = desk_.positionWords();
  filling_ = true;
  shownPunches_ = session.punches;
  punches_->setRowCount(static_cast<int>(session.punches.size()) + 1);
  for (int row = 0; row < punches_->rowCount(); ++row) {
    const bool there = row < static_cast<int>(session.punches.size());
    const Punch punch = there ? session.punches[static_cast<std::size_t>(row)] : Punch{};
    const QStringList texts{there ? QString::number(row + 1) : tr("new"),
                            punch.in ? words.inField(*punch.in) : QString(),
                            punch.out ? words.inField(*punch.out) : QString()};
    for (int column = 0; column < 3; ++column) {
      auto* item = new QTableWidgetItem(texts[column]);
      if (column == 0) item->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEnabled);
      punches_->setItem(row, column, item);
    }
  }
  filling_ = false;
}

void SpansBench::typeLoop() {
  if (filling_ || (!from_->isModified() && !to_->isModified())) return;
  try {
    // What nobody typed is as it is now.
    const auto& loop = desk_.session().loop;
    const auto end = [this](const QLineEdit* field, std::optional<Frames> now) {
      return field->isModified() ? desk_.positionWords().typed(field->text()) : now;
    };
    const auto from = end(from_, loop ? std::optional(loop->start) : std::nullopt);
    const auto to = end(to_, loop ? std::optional(loop->end) : std::nullopt);
    if (from && to) {
      if (loop == Span{*from, *to} || desk_.apply(tr("Set the loop"), [&](const Session& s) {
            return setLoop(s, Span{*from, *to});
          })) {
        from_->setModified(false);
        to_->setModified(false);
      }
    } else if (!from && !to && (from_->isModified() || to_->isModified()) && loop) {
      from_->setModified(false);
      to_->setModified(false);
      desk_.apply(tr("Remove the loop"), [](const Session& s) { return setLoop(s, std::nullopt); });
    }
    // Else the other end is still to be typed.
  } catch (const Error& e) {
    messages_.say(spoken(e));
    from_->setModified(false);
    to_->setModified(false);
  }
  refresh();
}

void SpansBench::typePunch(int row, int) {
  if (filling_) return;
  try {
    auto cell = [&](int column) {
      return punches_->item(row, column) ? punches_->item(row, column)->text() : "";
    };
    const PositionWords words = desk_.positionWords();
    const Punch punch{words.typed(cell(1)), words.typed(cell(2))};
    const auto index = static_cast<std::size_t>(row);
    const auto was = index < shownPunches_.size() ? std::optional(shownPunches_[index]) : std::nullopt;
    const bool there = punch.in || punch.out;
    if (!there && !was) return;
    if (desk_.apply(tr("Set a punch"), [&](const Session& s) {
          std::vector<Punch> punches = s.punches;
          // That which was typed into, wherever it is by now.
          const auto now = was ? std::find(punches.begin(), punches.end(), *was) : punches.end();
          if (was && now == punches.end())
            throw refusal(tr("That punch span is another by now; type it again."));
          if (!was)
            punches.push_back(punch);
          else if (there)
            *now = punch;
          else
            punches.erase(now);
          return setPunches(s, punches);
        }))
      recording_.setAutoPunch(true);
  } catch (const Error& e) {
    messages_.say(spoken(e));
  }
  refresh();
}

void SpansBench::removePunches() {
  std::vector<Punch> kept;
  const auto& punches = desk_.session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i)
    if (!punches_->selectionModel()->isRowSelected(static_cast<int>(i), {})) kept.push_back(punches[i]);
  if (kept.size() == punches.size())
    return messages_.say(tr("Select the punch spans to remove in the list first."));
  desk_.apply(tr("Remove punches"), [&](const Session& s) { return setPunches(s, kept); });
}

MarkersBench::MarkersBench(SessionDesk& desk, Transport& transport, Messages& messages, QAction* drop,
                           QWidget* parent)
    : QWidget(parent), desk_(desk), transport_(transport), messages_(messages) {
  table_ = new PlainTable({tr("At"), tr("Time"), tr("Name")}, tr("Markers"));
  table_->setColumnWidth(0, 90);
  table_->setColumnWidth(1, 100);
  connect(table_, &QTableWidget::cellChanged, this, [this](int row, int column) {
    if (!filling_ && column == 2) rename(row);
  });
  connect(table_, &PlainTable::removalAsked, this, &MarkersBench::removeSelected);
  connect(table_, &PlainTable::settled, this, &MarkersBench::refresh);
  connect(table_, &QTableWidget::cellActivated, this, [this](int row, int column) {
    if (column < 2 && row < static_cast<int>(shown_.size()))
      transport_.locate(shown_[static_cast<std::size_t>(row)].at);
  });
  auto* dropHere = actionButton(drop);
  remove_ = new QPushButton(tr("Remove selected"));
  connect(remove_, &QPushButton::clicked, this, &MarkersBench::removeSelected);
  dropouts_ = new QPushButton(tr("Select dropouts"));
  connect(dropouts_, &QPushButton::clicked, this, &MarkersBench::selectDropouts);
  auto* hint =
      new QLabel(tr("Enter or a double click on a place goes there, F2 or a double click on a name renames "
                    "it. Dropouts of the device mark "
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
  hint->setMinimumWidth(180);
  hint->setMaximumWidth(320);
  connect(&desk, &SessionDesk::changed, this, &MarkersBench::refresh);
  refresh();
}

void MarkersBench::refresh() {
  const Session& session = desk_.session();
  remove_->setEnabled(!session.markers.empty());
  dropouts_->setEnabled(std::any_of(session.markers.begin(), session.markers.end(),
                                    [](const Marker& m) { return m.kind == MarkerKind::Dropout; }));
  table_->setColumnHidden(0, !desk_.options().grid);
  if (table_->typing()) return;
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

/// That which was typed into, wherever it is by now.
void MarkersBench::rename(int row) {
  const Marker was = shown_.at(static_cast<std::size_t>(row));
  const std::string name = table_->item(row, 2)->text().trimmed().toStdString();
  if (name != was.name)
    desk_.apply(tr("Rename a marker"), [&](const Session& s) {
      const auto now = std::find(s.markers.begin(), s.markers.end(), was);
      if (now == s.markers.end()) throw refusal(tr("That marker is gone."));
      return renameMarker(s, static_cast<std::size_t>(now - s.markers.begin()), name);
    });
  shown_.clear();  // what was typed is shown no longer than it holds
  refresh();
}

void MarkersBench::removeSelected() {
  std::vector<std::size_t> gone;
  for (int row = 0; row < table_->rowCount(); ++row)
    if (table_->selectionModel()->isRowSelected(row, {})) gone.push_back(static_cast<std::size_t>(row));
  if (gone.empty()) return messages_.say(tr("Select the markers to remove in the list first."));
  const QString label = tr("Remove %n marker(s)", nullptr, static_cast<int>(gone.size()));
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
