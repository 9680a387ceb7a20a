// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/other_composite.h"

#include <algorithm>

#include "core/edit/edit_composites.h"
#include "core/session/resolved_composite.h"

namespace yewdrift::app {

OtherComposite::OtherComposite(SessionDesk& desk, InHand& inHand) : desk_(desk), inHand_(inHand) {
  connect(&desk, &SessionDesk::changed, this, &OtherComposite::follow);
  connect(&inHand, &InHand::changed, this, &OtherComposite::follow);
}

std::optional<std::string> OtherComposite::heard() const {
  return view_ ? std::optional(view_->name) : std::nullopt;
}

void OtherComposite::hear(std::optional<std::string> name) {
  const auto& tracks = desk_.session().tracks;
  const auto track = std::find_if(tracks.begin(), tracks.end(),
                                  [this](const auto& each) { return each->id == inHand_.trackId(); });
  const bool before = view_.has_value();
  view_.reset();
  if (name && track != tracks.end() && *name != compositeName(**track)) {
    const Session heard = useComposite(desk_.session(), (*track)->id, *name);
    const auto now = std::find_if(heard.tracks.begin(), heard.tracks.end(),
                                  [&](const auto& each) { return each->id == (*track)->id; });
    view_ = View{*track, *now, *name, resolve(**now, heard.rate),
                 differencesBetween(**track, (*track)->composite, (*now)->composite, heard.rate)};
    last_ = *name;
  }
  if (before || view_) emit changed();
}

bool OtherComposite::toggle() {
  if (view_) {
    hear(std::nullopt);
    return true;
  }
  const Track* const track = inHand_.track();
  if (!track || track->keptComposites.empty()) return false;
  const auto& kept = track->keptComposites;
  const bool there =
      std::any_of(kept.begin(), kept.end(), [this](const KeptComposite& each) { return each.name == last_; });
  hear(there ? last_ : kept.front().name);
  return true;
}

Session OtherComposite::heardIn(const Session& session) {
  if (!view_) return session;
  Session heard = session;
  for (auto& track : heard.tracks)
    if (track.same(view_->from)) track = view_->track;
  return heard;
}

void OtherComposite::follow() {
  if (!view_) return;
  const auto& tracks = desk_.session().tracks;
  const bool same = inHand_.trackId() == view_->from->id &&
                    std::any_of(tracks.begin(), tracks.end(),
                                [this](const auto& track) { return track.same(view_->from); });
  if (!same) hear(std::nullopt);
}

}  // namespace yewdrift::app
