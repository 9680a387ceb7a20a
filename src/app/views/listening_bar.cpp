// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/listening_bar.h"

#include <QHBoxLayout>
#include <QMenu>
#include <cmath>

#include "app/look/flow_layout.h"
#include "app/look/widgets.h"

namespace yewdrift::app {
namespace {

/// A menu beside the button: the amount, of a few that make sense.
void offerAmounts(QToolButton* button, ListeningDesk& listening, const std::vector<double>& amounts,
                  const std::function<QString(double)>& text, double ListeningOptions::*which,
                  const std::function<void(ListeningOptions&)>& choose) {
  auto* menu = new QMenu(button);
  for (const double amount : amounts)
    menu->addAction(text(amount), button, [&listening, amount, which, choose] {
      ListeningOptions options = listening.options();
      options.*which = amount;
      choose(options);
      listening.setOptions(options);
    });
  button->setMenu(menu);
  button->setPopupMode(QToolButton::MenuButtonPopup);
}

}  // namespace

ListeningBar::ListeningBar(SessionDesk& desk, InHand& inHand, ListeningDesk& listening,
                           const Actions& actions, QWidget* parent)
    : QFrame(parent), desk_(desk), inHand_(inHand), listening_(listening) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(4, 0, 0, 0);
  row->setSpacing(10);
  heard_ = new ElidedLabel;
  heard_->setAccessibleName(tr("What is heard"));
  heard_->setFont(scaledFont(0.95, QFont::DemiBold));
  heard_->setMinimumWidth(120);
  row->addWidget(heard_, 1);
  auto* buttons = new FlowLayout(4, 3);
  const auto add = [&](QAction* action) {
    auto* button = actionButton(action);
    button->setProperty("small", true);
    button->setFont(scaledFont(0.85));
    buttons->addWidget(button);
    return button;
  };
  for (QAction* action : actions.round) add(action);
  // As wide whatever it says, so that nothing moves to the next line when something else is taken in hand.
  unit_ = new ElidedLabel;
  unit_->setFixedWidth(fontMetrics().averageCharWidth() * 11);
  unit_->setAccessibleName(tr("What a pick is about"));
  unit_->setFont(scaledFont(0.85, QFont::DemiBold));
  unit_->setMinimumHeight(24);
  buttons->addWidget(unit_);
  auto* offered = new QWidget;
  offers_ = new QHBoxLayout(offered);
  offers_->setContentsMargins(0, 0, 0, 0);
  offers_->setSpacing(4);
  buttons->addWidget(offered);
  offerAmounts(
      add(actions.others), listening, {6.0, 12.0, 18.0, 24.0},
      [](double by) { return tr("Dimmed by %1 dB").arg(QLocale().toString(by)); },
      &ListeningOptions::dimmedBy,
      [](ListeningOptions& options) { options.others = ListeningOptions::Others::Dimmed; });
  add(actions.matched);
  offerAmounts(
      add(actions.around), listening, {0.5, 1.0, 2.0, 4.0, 8.0},
      [](double seconds) { return tr("%1 s on either side").arg(QLocale().toString(seconds)); },
      &ListeningOptions::aroundSeconds, [](ListeningOptions& options) { options.around = true; });
  add(actions.takeAfterTake);
  add(actions.blind);
  auto* side = new QWidget;
  side->setLayout(buttons);
  row->addWidget(side, 5);
  connect(&inHand, &InHand::changed, this, &ListeningBar::refresh);
  connect(&desk, &SessionDesk::changed, this, &ListeningBar::refresh);
  connect(&listening, &ListeningDesk::changed, this, &ListeningBar::refresh);
  refresh();
}

void ListeningBar::offer(const std::vector<LaneNumber>& takes) {
  for (QToolButton* old : offerButtons_) old->deleteLater();
  offerButtons_.clear();
  const Track* const track = inHand_.track();
  for (const LaneNumber number : takes) {
    const Lane* const lane = track ? track->lane(number) : nullptr;
    if (!lane) continue;
    auto* button = new QToolButton;
    button->setProperty("small", true);
    button->setFont(scaledFont(0.85));
    button->setText(tr("Pick %1").arg(listening_.nameOf(*lane)));
    button->setToolTip(tr("Picks this one of the takes that are heard together (%1)").arg(number.value));
    button->setMinimumHeight(24);
    connect(button, &QToolButton::clicked, this, [this, number] { emit offeredPicked(number); });
    offers_->addWidget(button);
    offerButtons_.push_back(button);
  }
  updateGeometry();
}

QString ListeningBar::unitInWords() {
  switch (inHand_.unit()) {
    case Unit::Selection:
      return tr("selection");
    case Unit::Phrase: {
      const auto& phrases = inHand_.phrases();
      return tr("phrase %1").arg(inHand_.phrase() - phrases.data() + 1);
    }
    case Unit::Piece:
      return tr("piece %1").arg(inHand_.unitNumber());
    case Unit::Punch:
      return tr("punch %1").arg(inHand_.unitNumber());
    case Unit::None:
      break;
  }
  return desk_.session().loop ? tr("loop") : tr("nothing");
}

/// Where that lies; empty where it has an open end, or nothing is in hand.
QString ListeningBar::placeInWords() {
  const auto span = inHand_.unitSpan() ? inHand_.unitSpan() : desk_.session().loop;
  if (!span || span->start == -maximumPosition || span->end == maximumPosition) return {};
  return desk_.positionWords().shown(*span);
}

void ListeningBar::refresh() {
  const QString unit = unitInWords();
  const QString place = placeInWords();
  const QString tip = tr("A pick changes the newest thing that was taken in hand, else the loop: %1.")
                          .arg(place.isEmpty() ? unit : tr("%1, %2").arg(unit, place));
  if (unit_->text() != unit) unit_->setText(unit);
  if (unit_->toolTip() != tip) unit_->setToolTip(tip);
  const Track* track = inHand_.track();
  QStringList heard;
  for (const LaneNumber lane : inHand_.heardLanes())
    if (const Lane* each = track ? track->lane(lane) : nullptr) heard << listening_.nameOf(*each);
  QString text = !track ? QString() : heard.isEmpty() ? tr("Composite") : heard.join(" + ");
  if (listening_.measuring())
    text = tr("%1, being measured").arg(text);
  else if (const auto trim = listening_.trimOf(inHand_.heardLane()); trim && track && heard.size() < 2)
    text = tr("%1, %2 dB").arg(text, QLocale().toString(trim->value, 'f', 1));
  if (heard_->text() != text) heard_->setText(text);
}

}  // namespace yewdrift::app
