// SPDX-License-Identifier: GPL-3.0-or-later
//
// How takes are compared: beside what, how loud, with what around them, blind, in turn.
#include "app/window/main_window.h"

namespace yewdrift::app {

void MainWindow::makeListeningActions() {
  ListeningDesk& listening = studio_->listening();
  const auto option = [&](const QString& text, const QString& shortText, const QKeySequence& key,
                          const QString& tip, const std::function<void(ListeningOptions&)>& change) {
    QAction* made = action(text, key, tip, [this, change] {
      ListeningOptions options = studio_->listening().options();
      change(options);
      studio_->listening().setOptions(options);
    });
    made->setIconText(shortText);
    return made;
  };
  do_.others = action(tr("The other tracks: full, dimmed, silent"), Qt::Key_O,
                      tr("How much of the other tracks is heard while takes are compared"),
                      [this] { studio_->listening().stepOthers(); });
  do_.matched =
      option(tr("All takes equally loud"), tr("Equally loud"), Qt::Key_I,
             tr("Takes are turned to one loudness (ITU-R BS.1770) over what is compared, so that the louder "
                "one does not win; none is turned up so far that it clips"),
             [this](ListeningOptions& o) {
               if (!studio_->listening().hidesNames()) o.matched = !o.matched;
             });
  do_.matched->setCheckable(true);
  connect(do_.matched, &QAction::triggered, this, [this] {
    do_.matched->setChecked(studio_->listening().matches());
    if (studio_->listening().hidesNames())
      say(tr("Blind, all takes are equally loud: else the louder one would be known by that."));
  });
  do_.around = option(tr("With what lies around"), {}, Qt::Key_A,
                      tr("A take is heard as if it were picked, with the composite before and behind it"),
                      [](ListeningOptions& o) { o.around = !o.around; });
  do_.around->setCheckable(true);
  do_.blind = action(tr("Listen blind"), Qt::Key_P,
                     tr("The takes are shuffled, and their names and waves hidden, until you pick one"),
                     [this] { studio_->listening().setBlind(!studio_->listening().blind()); });
  do_.blind->setIconText(tr("Blind"));
  do_.blind->setCheckable(true);
  do_.takeAfterTake =
      action(tr("Take after take"), QKeySequence(Qt::SHIFT | Qt::Key_V),
             tr("Goes round the phrase, and each time round another take is heard; again to stay with one"),
             [this] { studio_->transport().toggleTakeAfterTake(); });
  do_.takeAfterTake->setCheckable(true);
  do_.takeAfterTake->setIconText(tr("In turn"));
  ruled(do_.takeAfterTake, Deed::HearTake);
  for (int place = 1; place <= 9; ++place) {
    action(tr("Hear lane %1").arg(place), QKeySequence(Qt::Key_0 + place), tr("Hear lane %1").arg(place),
           [this, place] { hearPlace(place, false); });
    action(tr("Hear lane %1 as well").arg(place), QKeySequence(Qt::CTRL | (Qt::Key_0 + place)),
           tr("Hear it together with what is heard, or no more"), [this, place] { hearPlace(place, true); });
  }
  const auto refresh = [this] {
    const ListeningDesk& now = studio_->listening();
    do_.others->setIconText(now.options().others == ListeningOptions::Others::Full ? tr("Others: full")
                            : now.options().others == ListeningOptions::Others::Dimmed
                                ? tr("Others: -%1 dB").arg(QLocale().toString(now.options().dimmedBy))
                                : tr("Others: silent"));
    do_.around->setIconText(tr("Around: %1 s").arg(QLocale().toString(now.options().aroundSeconds)));
    do_.matched->setChecked(now.matches());
    do_.around->setChecked(now.options().around);
    do_.blind->setChecked(now.blind());
    do_.takeAfterTake->setChecked(now.takeAfterTake());
  };
  connect(&listening, &ListeningDesk::changed, this, refresh);
  refresh();
}

/// The lane with that number; blind, the take in that place.
void MainWindow::hearPlace(int place, bool also) {
  InHand& inHand = studio_->inHand();
  const Track* track = inHand.track();
  std::optional<LaneNumber> lane;
  if (studio_->listening().hidesNames()) {
    const auto takes = inHand.takes();
    if (place <= static_cast<int>(takes.size())) lane = takes[static_cast<std::size_t>(place - 1)];
  } else if (track && track->lane({place})) {
    lane = LaneNumber{place};
  }
  if (!lane) return say(tr("There is no lane %1 here.").arg(place));
  if (!also && std::find(offered_.begin(), offered_.end(), *lane) != offered_.end()) return pickInto(lane);
  if (also)
    inHand.hearAlso(*lane);
  else
    inHand.hear(lane);
}

}  // namespace yewdrift::app
