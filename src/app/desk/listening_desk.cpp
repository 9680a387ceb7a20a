// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/listening_desk.h"

#include <QSettings>
#include <cmath>

namespace yewdrift::app {
namespace {

constexpr const char* othersKey = "listening/others";
constexpr const char* dimmedByKey = "listening/dimmed-by";
constexpr const char* matchedKey = "listening/matched";
constexpr const char* aroundKey = "listening/around";
constexpr const char* aroundSecondsKey = "listening/around-seconds";

/// Whatever stands in the settings.
double within(double value, double least, double most, double otherwise) {
  return std::isfinite(value) ? std::clamp(value, least, most) : otherwise;
}

ListeningOptions remembered() {
  const QSettings settings;
  ListeningOptions options;
  options.others =
      static_cast<ListeningOptions::Others>(std::clamp(settings.value(othersKey, 0).toInt(), 0, 2));
  options.dimmedBy = within(settings.value(dimmedByKey, options.dimmedBy).toDouble(), 1.0, 60.0, 12.0);
  options.matched = settings.value(matchedKey, false).toBool();
  options.around = settings.value(aroundKey, false).toBool();
  options.aroundSeconds =
      within(settings.value(aroundSecondsKey, options.aroundSeconds).toDouble(), 0.1, 60.0, 2.0);
  return options;
}

}  // namespace

ListeningDesk::ListeningDesk(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis)
    : desk_(desk), inHand_(inHand), analysis_(analysis), other_(desk, inHand), options_(remembered()) {
  connect(&other_, &OtherComposite::changed, this, &ListeningDesk::changed);
  connect(&desk, &SessionDesk::changed, this, &ListeningDesk::follow);
  connect(&inHand, &InHand::changed, this, &ListeningDesk::follow);
  connect(&analysis, &AnalysisDesk::changed, this, &ListeningDesk::match);
  analysis_.setWanted(this, matches() ? AnalysisDesk::Want::Files : AnalysisDesk::Want::Nothing);
}

void ListeningDesk::setOptions(const ListeningOptions& options) {
  if (options == options_) return;
  options_ = options;
  QSettings settings;
  settings.setValue(othersKey, static_cast<int>(options.others));
  settings.setValue(dimmedByKey, options.dimmedBy);
  settings.setValue(matchedKey, options.matched);
  settings.setValue(aroundKey, options.around);
  settings.setValue(aroundSecondsKey, options.aroundSeconds);
  analysis_.setWanted(this, matches() ? AnalysisDesk::Want::Files : AnalysisDesk::Want::Nothing);
  match();
  emit changed();
}

void ListeningDesk::stepOthers() {
  ListeningOptions next = options_;
  next.others = static_cast<ListeningOptions::Others>((static_cast<int>(next.others) + 1) % 3);
  setOptions(next);
}

std::optional<Span> ListeningDesk::compared() const {
  if (const Unit unit = inHand_.unit(); unit == Unit::Piece || unit == Unit::Punch) {
    // An open punch is compared where there is something to hear.
    const Track* const track = inHand_.track();
    const Span there = track ? materialOf(*track).intersect(*inHand_.unitSpan()) : Span{};
    if (!there.empty()) return there;
  }
  if (const Phrase* phrase = inHand_.phrase()) return phrase->cell;
  return inHand_.selection() ? inHand_.selection() : desk_.session().loop;
}

bool ListeningDesk::hearsAround() const {
  const Unit unit = inHand_.unit();
  return options_.around || unit == Unit::Piece || unit == Unit::Punch;
}

Span ListeningDesk::withAround(Span span) const {
  const Frames around =
      hearsAround() ? framesFromSeconds(options_.aroundSeconds, desk_.session().rate) : Frames{};
  return {std::max(Frames{}, span.start - around), span.end + around};
}

Listening ListeningDesk::present() const {
  Listening how;
  how.inHand = inHand_.trackId();
  if (const auto& heard = inHand_.heardLanes(); !heard.empty()) how.heard.push_back({*how.inHand, heard});
  if (hearsAround()) how.within = compared();
  if (how.within && how.within->empty()) how.within.reset();
  if (matches()) {
    how.trims = matching_.lanes;
    how.compositeTrim = matching_.composite;
  }
  if (options_.others == ListeningOptions::Others::Dimmed) how.others = Decibels{-options_.dimmedBy};
  if (options_.others == ListeningOptions::Others::Silent) how.others.reset();
  return how;
}

std::optional<Decibels> ListeningDesk::trimOf(std::optional<LaneNumber> lane) const {
  if (!matches() || hidesNames()) return std::nullopt;
  if (!lane) return matching_.composite;
  const auto found = matching_.lanes.find(*lane);
  return found != matching_.lanes.end() ? std::optional(found->second) : std::nullopt;
}

void ListeningDesk::setBlind(bool on) {
  if (on == blind_) return;
  blind_ = on;
  order_.reset();
  if (on) {
    // Which one is heard just now is known.
    inHand_.hear(std::nullopt);
    shuffle();
  } else {
    inHand_.setOrder(std::nullopt);
  }
  analysis_.setWanted(this, matches() ? AnalysisDesk::Want::Files : AnalysisDesk::Want::Nothing);
  match();
  emit changed();
}

void ListeningDesk::shuffle() {
  revealed_ = false;
  orderTrack_ = inHand_.trackId();
  orderPhrase_ = inHand_.phrasePlace();
  order_.reset();
  if (const Track* track = inHand_.track()) order_.emplace(*track, chance_);
  inHand_.setOrder(order_ ? std::optional(order_->lanes()) : std::nullopt);
}

void ListeningDesk::reveal() {
  if (!hidesNames()) return;
  revealed_ = true;
  emit changed();
}

QString ListeningDesk::nameOf(const Lane& lane) const {
  QString name = QString("%1  %2").arg(lane.number.value).arg(QString::fromStdString(lane.name));
  const QString letter = blind_ && order_ ? order_->letterOf(lane.number) : QString();
  if (letter.isEmpty()) return name;
  return revealed_ ? tr("%1 = %2").arg(letter, name) : tr("Take %1").arg(letter);
}

void ListeningDesk::setTakeAfterTake(bool on) {
  if (on == takeAfterTake_) return;
  takeAfterTake_ = on;
  emit changed();
}

void ListeningDesk::follow() {
  const Track* track = inHand_.track();
  const bool fits = track ? order_ && order_->fits(*track) : !order_;
  const bool another =
      blind_ && (orderTrack_ != inHand_.trackId() || orderPhrase_ != inHand_.phrasePlace() || !fits);
  if (another) {
    shuffle();
    emit changed();
  }
  match();
}

void ListeningDesk::match() {
  const auto& tracks = desk_.session().tracks;
  const auto track = std::find_if(tracks.begin(), tracks.end(),
                                  [this](const auto& each) { return each->id == inHand_.trackId(); });
  if (!matches() || track == tracks.end()) {
    matchedFor_.reset();
    matching_ = {};
    return;
  }
  const Span span = compared().value_or(Span{-maximumPosition, maximumPosition});
  const bool stays = hearsAround() && compared();
  const double share = analysis_.share();
  if (matchedFor_ && matchedFor_->track.same(*track) && matchedFor_->span == span &&
      matchedFor_->compositeStays == stays && matchedFor_->share == share)
    return;
  matchedFor_ = {*track, span, stays, share};
  LevelMatching now = matcher_.match(desk_.session(), **track, span, analysis_.finder(), stays);
  if (now == matching_) return;
  matching_ = std::move(now);
  emit changed();
}

}  // namespace yewdrift::app
