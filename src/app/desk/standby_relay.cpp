// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/standby_relay.h"

#include <utility>

namespace yewdrift::app {

std::optional<StandbyRelay::Relieved> StandbyRelay::follow(const Recorder& standing, Frames rollFrame,
                                                           const std::vector<TrackId>& tracks) {
  const auto seconds = [&](double count) { return framesFromSeconds(count, desk_.session().rate); };
  if (!next_) {
    const Frames since = std::max(standing.setup().capturesFrom, refusedAt_);
    if (rollFrame - since < seconds(relaysAfterSeconds)) return std::nullopt;
    try {
      next_ = std::make_unique<Recorder>(desk_.disk(), desk_.session(), standing.setup(), tracks);
      roll_ = engine_.relay(next_->setup(), next_->stream());
      captures_ = false;
    } catch (const std::exception&) {
      next_.reset();
      refusedAt_ = rollFrame;  // what is held stays; later it is tried again
    }
    return std::nullopt;
  }
  if (!captures_ || rollFrame - next_->setup().capturesFrom < seconds(handleSeconds)) return std::nullopt;
  engine_.relieve();
  return Relieved{std::move(next_), roll_};
}

void StandbyRelay::relayed(const EngineEvent& event) {
  if (!next_ || event.roll != roll_) return;
  next_->capturesFrom(event.rollFrame);
  captures_ = true;
}

std::unique_ptr<Recorder> StandbyRelay::drop() {
  refusedAt_ = {};
  if (next_) engine_.dropRelay();
  return std::move(next_);
}

}  // namespace yewdrift::app
