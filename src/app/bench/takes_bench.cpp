// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/takes_bench.h"

#include <QHeaderView>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/spoken.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift::app {
namespace {

/// Sorted by what it says as a number, where it says one; what says nothing comes last.
class Cell : public QTableWidgetItem {
 public:
  Cell(const QString& text, std::optional<double> value) : QTableWidgetItem(text) {
    setData(Qt::UserRole, value ? *value : std::nan(""));
    setTextAlignment(Qt::AlignVCenter | Qt::AlignRight);
  }
  bool operator<(const QTableWidgetItem& other) const override {
    const double mine = data(Qt::UserRole).toDouble();
    const double theirs = other.data(Qt::UserRole).toDouble();
    if (std::isnan(mine) && std::isnan(theirs)) return text() < other.text();
    if (std::isnan(mine) != std::isnan(theirs)) return std::isnan(theirs);
    return mine < theirs;
  }
};

QString number(std::optional<double> value, int places, bool sign = false) {
  if (!value) return QStringLiteral("–");
  const QString text = numberLocale().toString(std::abs(*value), 'f', places);
  const bool nothing = numberLocale().toDouble(text) == 0.0;
  return (nothing        ? QString()
          : *value < 0.0 ? QStringLiteral("−")
          : sign         ? QStringLiteral("+")
                         : QString()) +
         text;
}

}  // namespace

TakesBench::TakesBench(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis, ListeningDesk& listening,
                       Messages& messages, QWidget* parent)
    : QWidget(parent),
      desk_(desk),
      inHand_(inHand),
      analysis_(analysis),
      listening_(listening),
      messages_(messages) {
  heading_ = new ElidedLabel;
  heading_->setAccessibleName(tr("The phrase in hand"));
  table_ = new PlainTable({tr("Take"), tr("Rated"), tr("Chosen"), tr("Timing, ms"), tr("Grid, ms"),
                           tr("Pitch, cents"), tr("Tuning, cents"), tr("LUFS"), tr("Peak, dB"),
                           tr("Noise, dB"), tr("Clicks"), tr("Marks"), tr("Sounds, s"), tr("Note")},
                          tr("Takes of the phrase in hand"));
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->setSortingEnabled(true);
  table_->horizontalHeader()->setSortIndicator(Take, Qt::AscendingOrder);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(4);
  column->addWidget(heading_);
  column->addWidget(table_, 1);
  connect(&desk, &SessionDesk::changed, this, &TakesBench::refresh);
  connect(&inHand, &InHand::changed, this, &TakesBench::refresh);
  connect(&analysis, &AnalysisDesk::changed, this, &TakesBench::refresh);
  connect(&listening, &ListeningDesk::changed, this, &TakesBench::refresh);
  connect(table_, &QTableWidget::itemChanged, this, &TakesBench::typed);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &TakesBench::takeRow);
  connect(table_, &PlainTable::settled, this, &TakesBench::refresh);
  refresh();
}

void TakesBench::explainColumns() {
  const QStringList tips{
      tr("The take. The row in hand is heard; Enter hears it again."),
      tr("How you rated it in this phrase: 1 to 5, or nothing. [X] and [Z] change it for the "
         "take that is heard."),
      tr("The composite plays it in most of this phrase."),
      tr("How far its onsets lie behind those of the other takes: the median, and how "
         "much it wavers (the median "
         "distance from that)."),
      tr("How far its onsets lie behind the nearest division of the bar: the median. Nothing where the "
         "session has no grid."),
      tr("How much higher it is than the other takes: the median in cents, a hundredth of "
         "a semitone, and how much "
         "it wavers."),
      tr("How far it lies above the nearest semitone (A4 is 440 Hz): the median in cents; and by how much "
         "that drifts from the first third of the phrase to the last."),
      tr("Loudness over the phrase after ITU-R BS.1770."),
      tr("The largest sample; 0 is full scale. Overs are moments at full scale."),
      tr("The level in the rest just before the phrase."),
      tr("Jumps of the wave that nothing around them prepares."),
      tr("Spots you marked in it."),
      tr("How much of the phrase sounds in this take."),
      tr("Your note on this take in this phrase.")};
  for (int column = 0; column < tips.size(); ++column)
    table_->horizontalHeaderItem(column)->setToolTip(desk_.keyNames().spelled(tips[column]));
}

void TakesBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  explainColumns();
  analysis_.setWanted(this, AnalysisDesk::Want::Cells);
  refresh();
}

void TakesBench::hideEvent(QHideEvent* event) {
  analysis_.setWanted(this, AnalysisDesk::Want::Nothing);
  QWidget::hideEvent(event);
}

void TakesBench::refresh() {
  if (!isVisible() || table_->typing()) return;
  const Track* track = inHand_.track();
  // What is measured would tell which is which.
  const bool hidden = listening_.hidesNames();
  const auto found = hidden ? std::nullopt : analysis_.evidence();
  QString text =
      tr("No phrase is in hand: [S] and [G] step from phrase to phrase, or click one over the takes.");
  if (track && found) {
    const auto& phrases = inHand_.phrases();
    const auto place = static_cast<int>(inHand_.phrase() - phrases.data()) + 1;
    const QString where = desk_.positionWords().shown(found->phrase.span);
    text = found->decided
               ? tr("Phrase %1 of %2, %3: decided").arg(place).arg(phrases.size()).arg(where)
               : tr("Phrase %1 of %2, %3: not decided yet").arg(place).arg(phrases.size()).arg(where);
    if (const double share = analysis_.share(); share < 1.0)
      text = tr("%1. The takes are being measured: %2 %").arg(text).arg(static_cast<int>(share * 100.0));
  }
  if (hidden) text = tr("You listen blind: the table is shown once you have picked a take in this phrase.");
  heading_->setText(desk_.keyNames().spelled(text));
  const std::size_t rows = track && found ? found->takes.size() : 0;
  filling_ = true;
  table_->setSortingEnabled(false);
  table_->setRowCount(static_cast<int>(rows));
  for (std::size_t i = 0; i < rows; ++i)
    fillRow(static_cast<int>(i), found->takes[i], *track->lane(found->takes[i].lane));
  table_->setSortingEnabled(true);
  const QSignalBlocker quietly(table_);
  table_->clearSelection();
  for (int row = 0; row < table_->rowCount(); ++row)
    if (inHand_.heardLane() == LaneNumber{table_->item(row, Take)->data(Qt::UserRole + 1).toInt()})
      table_->setCurrentCell(row, std::max(0, table_->currentColumn()));
  filling_ = false;
}

void TakesBench::fillRow(int row, const CellEvidence& cell, const Lane& lane) {
  const auto pair = [](std::optional<double> value, std::optional<double> spread) {
    return value ? tr("%1 ± %2").arg(number(value, 0, true), number(spread, 0)) : number(value, 0);
  };
  const auto put = [&](int column, const QString& text, std::optional<double> value, bool editable = false) {
    auto* item = new Cell(text, value);
    item->setData(Qt::UserRole + 1, lane.number.value);
    if (!editable || !desk_.writable()) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    table_->setItem(row, column, item);
  };
  put(Take, QString("%1  %2").arg(lane.number.value).arg(QString::fromStdString(lane.name)),
      lane.number.value);
  table_->item(row, Take)->setTextAlignment(Qt::AlignVCenter | Qt::AlignLeft);
  put(Rated, cell.rating > 0 ? QString::number(cell.rating) : QString(), cell.rating, true);
  const QString chosen = cell.chosenBlind ? tr("plays, chosen blind") : tr("plays");
  put(Chosen, cell.chosen ? chosen : QString(), cell.chosen ? 1.0 : 0.0);
  table_->item(row, Chosen)->setTextAlignment(Qt::AlignVCenter | Qt::AlignLeft);
  put(Timing, pair(cell.timing, cell.timingSpread), cell.timing);
  put(Grid, number(cell.grid, 0, true), cell.grid);
  put(Tuning,
      cell.intonation && cell.drift
          ? tr("%1, drift %2").arg(number(cell.intonation, 0, true), number(cell.drift, 0, true))
          : number(cell.intonation, 0, true),
      cell.intonation);
  put(Marks, cell.marks > 0 ? QString::number(cell.marks) : QString(), cell.marks);
  put(Pitch, pair(cell.pitch, cell.pitchSpread), cell.pitch);
  put(Loudness, number(cell.loudness, 1), cell.loudness);
  put(Peak,
      cell.overs > 0 ? tr("%1, %n over(s)", nullptr, cell.overs).arg(number(cell.peak, 1))
                     : number(cell.peak, 1),
      cell.peak);
  put(Noise, number(cell.noise, 0), cell.noise);
  const bool known = cell.there && cell.measured;
  put(Clicks, known ? QString::number(cell.clicks) : QStringLiteral("–"),
      known ? std::optional<double>(cell.clicks) : std::nullopt);
  put(Sounds, known ? number(secondsFromFrames(cell.sounding, desk_.session().rate), 1) : QStringLiteral("–"),
      known ? std::optional<double>(static_cast<double>(cell.sounding.count)) : std::nullopt);
  put(Note, QString::fromStdString(cell.note), std::nullopt, true);
  table_->item(row, Note)->setTextAlignment(Qt::AlignVCenter | Qt::AlignLeft);
}

void TakesBench::typed(QTableWidgetItem* item) {
  if (filling_ || (item->column() != Rated && item->column() != Note)) return;
  const Track* track = inHand_.track();
  const Phrase* phrase = inHand_.phrase();
  if (!track || !phrase) return;
  const LaneNumber lane{item->data(Qt::UserRole + 1).toInt()};
  const QString text = item->text().trimmed();
  std::optional<int> rating;
  std::optional<std::string> note;
  if (item->column() == Rated) {
    const double value = text.isEmpty() ? 0.0 : typedNumber(text).value_or(-1.0);
    if (value < 0.0 || value > limits::highestRating || value != std::floor(value)) {
      messages_.say(tr("A rating is 1 to %1, or nothing.").arg(limits::highestRating));
      QMetaObject::invokeMethod(this, &TakesBench::refresh, Qt::QueuedConnection);
      return;
    }
    rating = static_cast<int>(value);
  } else {
    note = text.toStdString();
  }
  desk_.apply(tr("Rate lane %1").arg(lane.value), [=, id = track->id, of = *phrase](const Session& session) {
    return changeCell(session, id, lane, of, rating, note);
  });
}

void TakesBench::takeRow() {
  if (filling_) return;
  const auto* item = table_->currentItem();
  if (item) inHand_.hear(LaneNumber{item->data(Qt::UserRole + 1).toInt()});
}

}  // namespace yewdrift::app
