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
void offer(QToolButton* button, ListeningDesk& listening, const std::vector<double>& amounts,
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

ListeningBar::ListeningBar(InHand& inHand, ListeningDesk& listening, const Actions& actions, QWidget* parent)
    : QFrame(parent), inHand_(inHand), listening_(listening) {
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
  offer(
      add(actions.others), listening, {6.0, 12.0, 18.0, 24.0},
      [](double by) { return tr("Dimmed by %1 dB").arg(QLocale().toString(by)); },
      &ListeningOptions::dimmedBy,
      [](ListeningOptions& options) { options.others = ListeningOptions::Others::Dimmed; });
  add(actions.matched);
  offer(
      add(actions.around), listening, {0.5, 1.0, 2.0, 4.0, 8.0},
      [](double seconds) { return tr("%1 s on either side").arg(QLocale().toString(seconds)); },
      &ListeningOptions::aroundSeconds, [](ListeningOptions& options) { options.around = true; });
  add(actions.takeAfterTake);
  add(actions.blind);
  auto* side = new QWidget;
  side->setLayout(buttons);
  row->addWidget(side, 5);
  connect(&inHand, &InHand::changed, this, &ListeningBar::refresh);
  connect(&listening, &ListeningDesk::changed, this, &ListeningBar::refresh);
  refresh();
}

void ListeningBar::refresh() {
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
