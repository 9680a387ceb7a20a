// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/transport.h"

#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

constexpr int largestBlock = 8192;

}  // namespace

Transport::Transport(SessionDesk& desk, InHand& inHand, ListeningDesk& listening, Engine::Service service)
    : desk_(desk),
      inHand_(inHand),
      listening_(listening),
      meter_(desk.disk()),
      pitched_(desk.disk()),
      compiler_(meter_, &pitched_),
      engine_(desk.session().rate, largestBlock, service) {
  refreshPlan();
  if (desk_.session().loop) engine_.locate(desk_.session().loop->start);
  connect(&desk_, &SessionDesk::committed, this, &Transport::refreshPlan);
  connect(&desk_, &SessionDesk::committed, this, &Transport::followLoop);
  following_.setSingleShot(true);
  following_.setInterval(30);
  connect(&following_, &QTimer::timeout, this, [this] {
    refreshPlan();
    // What is captured along is torn for a loop that has been moved, not for one that is being moved.
    if (!companion_->capturing()) followLoop();
  });
  connect(&desk_, &SessionDesk::dragged, this, [this] {
    if (!desk_.holding()) {
      following_.stop();
      refreshPlan();
    } else if (!following_.isActive()) {
      following_.start();
    }
  });
  connect(&inHand_, &InHand::listeningChanged, this, &Transport::chooseHeard);
  connect(&listening_, &ListeningDesk::changed, this, &Transport::followListening);
}

CompiledFor Transport::present() const {
  if (fileHeard_) return {fileHeard_->session, {}};
  CompiledFor now{listening_.other().heardIn(desk_.session()), listening_.present()};
  // Who plays hears the music as it is.
  if (companion_ && companion_->recording()) now = {desk_.session(), {now.how.heard, {}, now.how.inHand}};
  if (companion_) now.how.gated = companion_->hushed();
  return now;
}

void Transport::refreshPlan() {
  // Who records plays to the session; and the end of a file is none of a recording.
  if (companion_ && companion_->recording()) {
    fileHeard_.reset();
    backTo_.reset();
  }
  if (!companion_ || !companion_->hearsInstead()) hear(present());
}

void Transport::filesHaveGrown(const Capture& capture) {
  for (const PoolFile& file : capture.files) meter_.forget(file.path);
  compiler_.forget(capture.track);
  inHand_.lookAgain();
  refreshPlan();
}

void Transport::pitchedAreThere() {
  compiler_.lookForDerived();
  refreshPlan();
  emit changed();
}

void Transport::setPlain(std::set<std::pair<std::string, double>> files) {
  if (files == plain_) return;
  plain_ = std::move(files);
  emit changed();
}

bool Transport::playsPlain(const Lane& lane) const {
  if (lane.pitch.value == 0.0) return false;
  for (const Clip& clip : lane.clips)
    for (const ChannelSource& source : clip.channels)
      if (plain_.contains(
              {(*desk_.session().pool)[static_cast<std::size_t>(source.file)].path, lane.pitch.value}))
        return true;
  return false;
}

void Transport::chooseHeard() {
  // One of those at hand is heard at once; for another track, or several takes, they are fetched.
  if (inHand_.heardLanes().size() > 1 || !engine_.hear(inHand_.trackId(), inHand_.heardLane())) refreshPlan();
}

void Transport::hear(const CompiledFor& what) {
  meter_.setFiles(*what.session.pool);
  engine_.setPlan(desk_.disk(), compiler_.compile(what.session, what.how));
}

void Transport::hearFrom(Frames rollFrame, const CompiledFor& what) {
  meter_.setFiles(*what.session.pool);
  engine_.setPlanAt(rollFrame, desk_.disk(), compiler_.compile(what.session, what.how));
}

std::optional<Span> Transport::loopNow() const {
  return hearsRound_ ? hearsRound_ : looping() ? desk_.session().loop : std::nullopt;
}

void Transport::setLooping(bool on) {
  if (on == looping()) return;
  RecordingOptions options = desk_.options();
  options.loop = on;
  desk_.setOptions(options);  // and it is followed
  emit changed();
}

void Transport::followLoop() {
  if (!companion_ || fileHeard_ || companion_->recording() || !state().rolling) return;
  if (loopNow() != rollsRound_) goOn();
}

void Transport::startPlaying(Frames from, RollFrom how) {
  leaveFile();
  backTo_.reset();
  companion_->letGo();
  nextTake_.reset();
  RollTimeline timeline;
  timeline.start = std::max(from, Frames{});
  // Behind a loop it plays on. Where it went round one, and that was drawn in, it still goes round.
  const bool inside = how == RollFrom::Here && rollsRound_ && timeline.start < rollsRound_->end;
  rollsRound_ = loopNow();
  if (rollsRound_ && (timeline.start < rollsRound_->end || inside)) timeline.loop = rollsRound_;
  if (timeline.loop) timeline = goingOnFrom(timeline, timeline.start);
  if (hearsRound_ || !companion_->rollAlong(timeline, how)) engine_.play(timeline, how);
}

void Transport::togglePlay() {
  if (state().rolling || companion_->recording()) return stop();
  if (!companion_->recordInstead()) startPlaying(state().position);
  emit changed();
}

void Transport::stop() {
  hearsRound_.reset();
  companion_->stopped();
  engine_.stop();
  leaveFile();
  emit changed();
}

void Transport::locate(Frames at) {
  if (companion_->recording()) return;
  at = std::max(at, Frames{});
  if (fileHeard_) {
    stop();
    backTo_ = at;
    return emit moved();
  }
  backTo_.reset();
  hearsRound_.reset();
  if (state().rolling)
    startPlaying(at);
  else
    engine_.locate(at);
  emit moved();
}

void Transport::toggleHearJoin(Frames around) {
  if (hearsRound_) return stop();
  const std::optional<Frames> join = inHand_.join();
  if (!join || companion_->recording()) return;
  inHand_.hear(std::nullopt);
  goRound({std::max(Frames{}, *join - around), *join + around}, Around::Join);
}

void Transport::toggleHearPhrase() {
  const auto compared = listening_.compared();
  if (hearsRound_ && (!compared || hearsRound_ == listening_.withAround(*compared))) return stop();
  if (!compared || companion_->recording()) return;
  goRound(listening_.withAround(*compared), Around::Phrase);
}

void Transport::toggleTakeAfterTake() {
  if (companion_->recording()) return;
  const bool on = !listening_.takeAfterTake();
  listening_.setTakeAfterTake(on);
  if (!on) {
    // What was told already is taken back.
    if (nextTake_) engine_.hearAt(nextTake_->at, inHand_.trackId(), inHand_.heardLane());
    return nextTake_.reset();
  }
  if (!inHand_.heardLane()) inHand_.hear(inHand_.nextTake());
  if (const auto span = listening_.compared(); span && !(state().rolling && rollsRound_))
    goRound(listening_.withAround(*span), Around::Phrase);
}

void Transport::followListening() {
  refreshPlan();
  // With more around it, or less, it goes round what there is now.
  const auto compared = listening_.compared();
  if (hearsRound_ && around_ == Around::Phrase && state().rolling && compared) {
    const Span span = listening_.withAround(*compared);
    if (hearsRound_ != span) goRound(span, Around::Phrase);
  }
  emit changed();
}

/// The next take is told beforehand, so that it is heard from the very frame on at which the next round
/// begins.
void Transport::followTakes() {
  const EngineState now = state();
  if (!listening_.takeAfterTake() || !now.rolling || !rollsRound_ || now.position >= rollsRound_->end ||
      companion_->recording() || inHand_.takes().size() < 2)
    return nextTake_.reset();
  if (nextTake_ && now.rollFrame >= nextTake_->at && now.round > nextTake_->round)
    inHand_.followHeard(std::exchange(nextTake_, {})->lane);
  const LaneNumber next = *inHand_.nextTake();
  if (nextTake_ && nextTake_->lane == next && nextTake_->round == now.round) return;
  // The two figures belong together only where no block was made between them.
  const EngineState again = state();
  if (again.rollFrame - again.position != now.rollFrame - now.position || again.round != now.round) return;
  // Of a roll that was ordered and has not begun yet, what is rolling tells nothing.
  const Frames inRounds = rollsRound_->length() * (now.round - 1);
  if (hearsRound_ && now.rollFrame != now.position - rollsRound_->start + inRounds) return;
  nextTake_ = {next, now.round, now.rollFrame + (rollsRound_->end - now.position)};
  engine_.hearAt(nextTake_->at, inHand_.trackId(), next);
}

void Transport::followPhrase() {
  const auto compared = listening_.compared();
  if (!compared || companion_->recording()) return;
  if (hearsRound_ && state().rolling)
    goRound(listening_.withAround(*compared), Around::Phrase);
  else
    locate(compared->start);
}

bool Transport::mayHearFile() const {
  return !companion_->recording();
}

void Transport::toggleHearFile(const PoolFile& file) {
  const bool same = heardFile() == file.path;
  if (!mayHearFile()) return;
  const Frames at = fileHeard_ ? fileHeard_->span.start : state().position;
  if (state().rolling) stop();
  if (same) return;
  companion_->letGo();
  backTo_.reset();
  Session session;
  session.rate = desk_.session().rate;
  session = addTrack(std::move(session), "File", microphonesFor(file.channels));
  const TrackId track = session.tracks.front()->id;
  session = addFileAsLane(std::move(session), track, file, at, "File");
  fileHeard_ = HeardFile{file.path, std::move(session), Span{at, at + file.length}};
  rollsRound_.reset();
  nextTake_.reset();
  refreshPlan();
  RollTimeline timeline;
  timeline.start = at;
  engine_.play(timeline);
  emit changed();
}

/// The engine was told to stop, or is about to play something else.
void Transport::leaveFile() {
  backTo_.reset();
  if (!fileHeard_) return;
  backTo_ = fileHeard_->span.start;
  fileHeard_.reset();
  refreshPlan();
}

void Transport::goRound(Span span, Around what) {
  leaveFile();
  backTo_.reset();
  companion_->letGo();
  nextTake_.reset();  // what was told of the roll before goes with it
  hearsRound_ = span;
  around_ = what;
  RollTimeline timeline;
  timeline.start = hearsRound_->start;
  timeline.loop = rollsRound_ = hearsRound_;
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
  followTakes();
  if (fileHeard_ && state().position >= fileHeard_->span.end) stop();
  // What rolls cannot be put elsewhere without playing on from there.
  if (backTo_ && !state().rolling) engine_.locate(*std::exchange(backTo_, std::nullopt));
  const bool rolling = state().rolling;
  if (rolling != wasRolling_) {
    wasRolling_ = rolling;
    emit changed();
  }
  emit moved();
}

}  // namespace yewdrift::app
