// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/transport.h"

#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

constexpr int largestBlock = 8192;

}  // namespace

Transport::Transport(SessionDesk& desk, InHand& inHand, Engine::Service service)
    : desk_(desk),
      inHand_(inHand),
      meter_(desk.folderPath()),
      compiler_(meter_),
      engine_(desk.session().rate, largestBlock, service) {
  refreshPlan();
  if (desk_.session().loop) engine_.locate(desk_.session().loop->start);
  connect(&desk_, &SessionDesk::committed, this, &Transport::refreshPlan);
  following_.setSingleShot(true);
  following_.setInterval(30);
  connect(&following_, &QTimer::timeout, this, &Transport::refreshPlan);
  connect(&desk_, &SessionDesk::dragged, this, [this] {
    if (!following_.isActive()) following_.start();
  });
  connect(&inHand_, &InHand::listeningChanged, this, &Transport::refreshPlan);
}

void Transport::refreshPlan() {
  CompileOptions options;
  if (inHand_.heardLane()) options.listening.push_back({inHand_.trackId(), *inHand_.heardLane()});
  if (companion_) options.gated = companion_->hushed();
  hearInstead(desk_.session(), options);
}

void Transport::hearInstead(const Session& session, const CompileOptions& options) {
  meter_.setFiles(*session.pool);
  engine_.setPlan(desk_.folderPath(), compiler_.compile(session, options), inHand_.track());
}

void Transport::setLooping(bool on) {
  if (on == looping()) return;
  RecordingOptions options = desk_.options();
  options.loop = on;
  desk_.setOptions(options);
  if (state().rolling && !companion_->recording()) startPlaying(state().position);
  emit changed();
}

void Transport::startPlaying(Frames from) {
  companion_->letGo();
  RollTimeline timeline;
  timeline.start = std::max(from, Frames{});
  const std::optional<Span> loop = joinLoop_ ? joinLoop_ : looping() ? desk_.session().loop : std::nullopt;
  if (loop && timeline.start < loop->end) timeline.loop = loop;
  if (joinLoop_ || !companion_->rollAlong(timeline)) engine_.play(timeline);
}

void Transport::togglePlay() {
  if (state().rolling || companion_->recording()) return stop();
  if (!companion_->recordInstead()) startPlaying(state().position);
  emit changed();
}

void Transport::stop() {
  joinLoop_.reset();
  companion_->stopped();
  engine_.stop();
  emit changed();
}

void Transport::locate(Frames at) {
  if (companion_->recording()) return;
  at = std::max(at, Frames{});
  joinLoop_.reset();
  if (state().rolling)
    startPlaying(at);
  else
    engine_.locate(at);
  emit moved();
}

void Transport::toggleHearJoin() {
  if (joinLoop_) return stop();
  const std::optional<Frames> join = inHand_.join();
  if (!join || companion_->recording()) return;
  inHand_.hear(std::nullopt);
  companion_->letGo();
  const Frames second = framesFromSeconds(1.0, desk_.session().rate);
  joinLoop_ = Span{std::max(Frames{}, *join - second), *join + second};
  RollTimeline timeline;
  timeline.start = joinLoop_->start;
  timeline.loop = joinLoop_;
  engine_.play(timeline);
  emit changed();
}

void Transport::dropMarker() {
  const Frames at = state().position;
  const std::size_t before = desk_.session().markers.size();
  desk_.apply(tr("Drop a marker"), [at](const Session& s) { return addMarker(s, at, {}); });
  if (desk_.session().markers.size() > before) emit moved();
}

void Transport::tick() {
  const bool rolling = state().rolling;
  if (rolling != wasRolling_) {
    wasRolling_ = rolling;
    emit changed();
  }
  emit moved();
}

}  // namespace yewdrift::app
