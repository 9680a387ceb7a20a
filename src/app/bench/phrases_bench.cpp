// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/phrases_bench.h"

#include <QHeaderView>
#include <QVBoxLayout>
#include <utility>

#include "app/desk/field_edit.h"
#include "app/desk/phrase_steps.h"
#include "app/look/flow_layout.h"
#include "app/look/spoken.h"
#include "core/edit/edit_takes.h"
#include "core/session/limits.h"

namespace yewdrift::app {
namespace {

QString takeName(const Track& track, LaneNumber number) {
  const Lane* const lane = track.lane(number);
  return QString("%1  %2").arg(number.value).arg(lane ? QString::fromStdString(lane->name) : QString());
}

/// Whether all that plays in it was chosen by the ratings.
bool isRough(const ResolvedComposite& composite, const Phrase& phrase) {
  const Piece* const piece = composite.pieceAt(phrase.span.start + Frames{phrase.span.length().count / 2});
  return piece && piece->rough;
}

}  // namespace

PhrasesBench::PhrasesBench(SessionDesk& desk, InHand& inHand, RoughDesk& rough, ListeningDesk& listening,
                           const QList<QAction*>& actions, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), rough_(rough), listening_(listening) {
  heading_ = new ElidedLabel;
  heading_->setAccessibleName(tr("How far the part has come"));
  table_ = new PlainTable(
      {tr("Phrase"), tr("Where"), tr("Plays"), tr("Rated"), tr("Decided"), tr("By the ratings"), tr("Why")},
      tr("Phrases of the track in hand"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setStretchLastSection(true);
  const QStringList tips{
      tr("The row in hand is the phrase in hand."),
      tr("From where to where it sounds."),
      tr("What the composite plays in most of it."),
      tr("How that take is rated in this phrase."),
      tr("Whether you picked it; or the ratings did; or it is merely the newest take."),
      tr("What a composite from the ratings plays here: the take that is rated best, and of "
         "those rated alike the one whose joins are heard least."),
      tr("Why it does.")};
  for (int column = 0; column < tips.size(); ++column)
    table_->horizontalHeaderItem(column)->setToolTip(tips[column]);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(6, 2, 6, 0);
  column->setSpacing(4);
  shortestRest_ =
      ruleField(tr("Shortest rest"),
                tr("What is shorter is a breath inside a phrase: where phrases are cut too finely, "
                   "more; where two are taken for one, less."),
                &PhraseRules::shortestRest);
  shortestPhrase_ = ruleField(tr("Shortest phrase"), tr("What sounds shorter is a noise, and no phrase."),
                              &PhraseRules::shortestPhrase);
  auto* top = new QHBoxLayout;
  top->addWidget(heading_, 1);
  auto* found = new FlowLayout(4, 3);
  for (QDoubleSpinBox* each : {shortestRest_, shortestPhrase_})
    found->addWidget(group({new QLabel(each->accessibleName()), each}));
  for (QAction* each : actions) found->addWidget(actionButton(each));
  auto* side = new QWidget;
  side->setLayout(found);
  top->addWidget(side, 3);
  column->addLayout(top);
  column->addWidget(table_, 1);
  connect(&desk, &SessionDesk::changed, this, &PhrasesBench::refresh);
  connect(&inHand, &InHand::changed, this, &PhrasesBench::refresh);
  connect(&rough, &RoughDesk::found, this, &PhrasesBench::refresh);
  connect(&listening, &ListeningDesk::changed, this, &PhrasesBench::refresh);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &PhrasesBench::takeRow);
}

/// By which phrases of the track in hand are found; those a person set stay.
QDoubleSpinBox* PhrasesBench::ruleField(const QString& name, const QString& tip, double PhraseRules::*rule) {
  auto* field = new QDoubleSpinBox;
  field->setAccessibleName(name);
  field->setToolTip(tip);
  field->setRange(0.0, limits::longestRest);
  field->setDecimals(2);
  field->setSingleStep(0.05);
  field->setSuffix(tr(" s"));
  field->setKeyboardTracking(false);
  auto* edit = new FieldEdit(desk_, field, tr("Set how phrases are found"), [this] { refresh(); });
  connect(field, &QDoubleSpinBox::valueChanged, this, [this, edit, rule](double seconds) {
    if (filling_) return;
    edit->show([id = shown_, rule, seconds](const Session& s) {
      if (!s.track(id)) return s;
      PhraseRules rules = s.track(id)->phraseRules;
      rules.*rule = seconds;
      return setPhraseRules(s, id, rules);
    });
  });
  return field;
}

void PhrasesBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  rough_.setWanted(true);
  refresh();
}

void PhrasesBench::hideEvent(QHideEvent* event) {
  rough_.setWanted(false);
  QWidget::hideEvent(event);
}

void PhrasesBench::refresh() {
  if (!isVisible()) return;
  const Track* const track = inHand_.track();
  // What plays would tell which is which.
  const bool hidden = listening_.hidesNames();
  QString text = tr("There are no phrases yet: nothing sounds in this track.");
  std::size_t rows = 0;
  if (track && hidden) {
    text = tr("Blind: shown once a take is picked.");
  } else if (track && !inHand_.phrases().empty()) {
    rows = inHand_.phrases().size();
    text = tr("%1 of %n phrase(s) decided.", nullptr, static_cast<int>(rows))
               .arg(decidedCount(*track, inHand_.phrases()));
    if (rough_.looking()) text += QLatin1Char(' ') + tr("The takes are being measured…");
  }
  heading_->setText(text);
  filling_ = true;
  for (QDoubleSpinBox* field : {shortestRest_, shortestPhrase_})
    field->setEnabled(track && !track->backing && desk_.writable());
  if (track) {
    // What is being typed is not overwritten, but for another track, which it was not meant for.
    const bool another = std::exchange(shown_, track->id) != track->id;
    const auto show = [another](QDoubleSpinBox* field, double value) {
      if (another || !beingTyped(*field)) field->setValue(value);
    };
    show(shortestRest_, track->phraseRules.shortestRest);
    show(shortestPhrase_, track->phraseRules.shortestPhrase);
  }
  table_->setRowCount(static_cast<int>(rows));
  for (std::size_t i = 0; i < rows; ++i)
    fillRow(static_cast<int>(i), *track, inHand_.composite(*track), inHand_.phrases()[i]);
  const Phrase* const inHand = rows > 0 ? inHand_.phrase() : nullptr;
  if (inHand)
    table_->setCurrentCell(static_cast<int>(inHand - inHand_.phrases().data()),
                           std::max(0, table_->currentColumn()));
  else
    table_->clearSelection();
  filling_ = false;
}

void PhrasesBench::fillRow(int row, const Track& track, const ResolvedComposite& composite,
                           const Phrase& phrase) {
  const auto put = [&](int column, const QString& text) {
    QTableWidgetItem* item = table_->item(row, column);
    if (!item) table_->setItem(row, column, item = new QTableWidgetItem);
    if (item->text() != text) item->setText(text);
    if (column == Why) item->setToolTip(text);
  };
  put(Number, QString::number(row + 1));
  put(Where, desk_.positionWords().shown(phrase.span));
  const auto plays = playedIn(composite, phrase);
  put(Plays, plays ? takeName(track, *plays) : tr("silence"));
  const Lane* const lane = plays ? track.lane(*plays) : nullptr;
  const CellNote* const cell = lane ? cellOf(*lane, phrase) : nullptr;
  const int rating = cell && cell->rating > 0 ? cell->rating : lane ? lane->rating : 0;
  put(Rated, rating > 0 ? QString::number(rating) : QString());
  put(Decided, isDecided(track, phrase)     ? tr("by you")
               : isRough(composite, phrase) ? tr("by the ratings")
                                            : tr("not yet"));
  const RoughChoice* const choice = rough_.choiceIn(phrase);
  put(Rough, choice ? choice->lane ? takeName(track, *choice->lane) : tr("silence") : QString());
  put(Why, choice ? spoken(choice->why) : QString());
}

void PhrasesBench::takeRow() {
  const int row = table_->currentRow();
  if (filling_ || row < 0 || static_cast<std::size_t>(row) >= inHand_.phrases().size()) return;
  emit phraseAsked(Phrase(inHand_.phrases()[static_cast<std::size_t>(row)]));
}

}  // namespace yewdrift::app
