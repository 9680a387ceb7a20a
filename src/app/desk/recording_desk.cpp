// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/recording_desk.h"

#include <QLocale>
#include <algorithm>

#include "app/look/spoken.h"
#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/edit/plan_recording.h"
#include "core/engine/claim.h"
#include "core/error.h"

namespace yewdrift::app {
namespace {

constexpr const char* lostSubject = "lost by the device";

int lostSoFar(const Recorder& recorder) {
  return static_cast<int>(recorder.dropouts().size());
}

}  // namespace

RecordingDesk::RecordingDesk(SessionDesk& desk, InHand& inHand, Transport& transport, DeviceDesk& device,
                             Jobs& jobs, Messages& messages)
    : desk_(desk),
      inHand_(inHand),
      transport_(transport),
      device_(device),
      jobs_(jobs),
      messages_(messages),
      playBack_(desk, transport),
      relay_(desk, transport.engine()) {
  connect(&desk_, &SessionDesk::committed, this, &RecordingDesk::followSession);
}

RecordingDesk::State RecordingDesk::state() const {
  if (!recorder_) return State::Idle;
  const EngineState now = transport_.state();
  if (standingBy()) return State::StandingBy;
  if (!now.rolling) return State::Ending;
  return now.countIn.count > 0 ? State::CountingIn : State::Recording;
}

std::vector<TrackId> RecordingDesk::capturedTracks() const {
  std::vector<TrackId> tracks;
  if (recorder_)
    for (const Capture& capture : recorder_->captures()) tracks.push_back(capture.track);
  return tracks;
}

std::vector<TrackId> RecordingDesk::hushed() const {
  return recorder_ && recorder_->setup().hush ? capturedTracks() : std::vector<TrackId>{};
}

bool RecordingDesk::recordInstead() {
  // With automatic punch standing by, playing records the punch spans that it comes to.
  if (!autoPunchStandsBy()) return false;
  start();
  return true;
}

bool RecordingDesk::rollAlong(const RollTimeline& timeline, RollFrom from) {
  if (armedTracks().empty() || !device_.alive()) return false;
  try {
    begin(planStandby(timeline, desk_.session(), device_.roundTrip()), from);
    return true;
  } catch (const std::exception&) {
    return false;  // a folder that cannot be written to can still be listened to
  }
}

std::vector<TrackId> RecordingDesk::armedTracks() const {
  std::vector<TrackId> armed;
  for (const auto& track : desk_.session().tracks)
    if (track->armed) armed.push_back(track->id);
  return armed;
}

std::optional<RecordSetup> RecordingDesk::planned() const {
  if (recording()) return recorder_->setup();
  try {
    return planRecording(desk_.session(), {transport_.state().position, device_.roundTrip()});
  } catch (const Error&) {
    return std::nullopt;
  }
}

QString RecordingDesk::sentence() const {
  if (!desk_.writable())
    return tr("This session can only be looked at and listened to; nothing is recorded.");
  const std::vector<DescribedTrack> armed = yewdrift::armedTracks(desk_.session());
  try {
    const RecordSetup setup =
        recording() ? recorder_->setup()
                    : planRecording(desk_.session(), {transport_.state().position, device_.roundTrip()});
    return spoken(describeRecording(setup, armed, desk_.ruler()));
  } catch (const Error& e) {
    return armed.empty() ? spoken(describeRecording({}, {}, desk_.ruler())) : spoken(e);
  }
}

bool RecordingDesk::autoPunchStandsBy() const {
  return punchStandsBy_ && desk_.options().punch && !desk_.session().punches.empty() &&
         !armedTracks().empty();
}

void RecordingDesk::setAutoPunch(bool on) {
  RecordingOptions options = this->desk_.options();
  // Switching it on again also makes it stand by again.
  punchStandsBy_ = on;
  options.punch = on;
  desk_.setOptions(options);
  emit transport_.changed();
}

void RecordingDesk::toggleRecord() {
  if (recording()) return transport_.stop();
  // Rolling with an armed track, record punches in right here.
  if (standingBy() && transport_.state().rolling) return punchByHand();
  start();
}

void RecordingDesk::punchByHand() {
  if (!recorder_ || !transport_.state().rolling)
    return messages_.say(armedTracks().empty()
                             ? tr("Nothing can be punched: no track is armed. Arm one in the list first.")
                             : tr("Punching by hand is for when it rolls: start playing, then punch in."));
  if (!recorder_->setup().byHand)
    return messages_.say(
        tr("In this roll the punch spans decide what is recorded. Their edges can be moved "
           "afterwards; nothing is lost outside them."));
  // From the press on this roll counts: nothing may push it aside before the engine has told where.
  punchAsked_ = true;
  transport_.engine().punch();
  emit transport_.changed();
}

void RecordingDesk::start() {
  transport_.stopHearingJoin();
  try {
    begin(planRecording(desk_.session(), {transport_.state().position, device_.roundTrip()}));
  } catch (const std::exception& e) {
    messages_.say(armedTracks().empty() ? sentence() : spoken(e));
  }
  emit transport_.changed();
}

void RecordingDesk::begin(const RecordSetup& setup, RollFrom from, Attempt attempt) {
  if (device_.needed() && !device_.alive())
    throw refusal(
        tr("No audio device is open, so nothing could be recorded; choose one in the Device menu."));
  desk_.requireWritable();
  letGo();
  device_.requireInputs(armedTracks());
  recorder_ = std::make_unique<Recorder>(desk_.disk(), desk_.session(), setup, armedTracks());
  lost_ = false;
  lostPlaces_ = 0;
  growing_.clear();
  growingPeaks_.clear();
  playBack_.reset();
  if (!standingBy()) forgetRecorded(attempt);
  try {
    transport_.refreshPlan();  // earlier takes are hushed where it is recorded
    roll_ = firstRoll_ = transport_.engine().record(recorder_->setup(), recorder_->stream(), from);
  } catch (...) {
    recorder_->forgetNote();
    recorder_->stream()->markComplete();
    throwAway(std::move(recorder_));
    throw;
  }
}

void RecordingDesk::forgetRecorded(Attempt attempt) {
  lastRecorded_.clear();
  if (attempt == Attempt::First) pickUp_ = {desk_.present(), armedTracks()};
}

void RecordingDesk::letGo() {
  if (!standingBy()) return;
  // The engine lets go of it when it stops or something else rolls; then its files go.
  throwAway(relay_.drop());
  throwAway(std::move(recorder_));
  growing_.clear();
}

void RecordingDesk::throwAway(std::unique_ptr<Recorder> recorder) {
  if (recorder) abandoned_.push_back(std::move(recorder));
}

QString RecordingDesk::whyNot(const Session& next) const {
  if (!recording() || recorder_->hears(next)) return {};
  return tr("It is being recorded from the inputs that its track has: stop first, then change them.");
}

void RecordingDesk::followSession() {
  if (!standingBy() || !transport_.state().rolling) return;
  // Another track or another input was chosen meanwhile: from here on that is captured.
  if (capturedTracks() != armedTracks() || !recorder_->hears(desk_.present())) return transport_.goOn();
  recorder_->followOptions(desk_.present());
}

void RecordingDesk::takeEngineEvents() {
  for (const EngineEvent& event : transport_.engine().takeEvents()) take(event);
}

void RecordingDesk::take(const EngineEvent& event) {
  relay_.relayed(event);
  // Of a roll that has been given up meanwhile.
  if (!recorder_ || event.roll != roll_) return;
  switch (event.kind) {
    case EngineEvent::Kind::Dropout:
      recorder_->dropout(event.rollFrame);
      // Of what is not recorded nothing is missed.
      if (!recorder_->standsBy() && std::exchange(lostPlaces_, lostSoFar(*recorder_)) == 0)
        messages_.warn(
            tr("The device lost some of what came in: each such place is marked. Larger blocks, in the "
               "Device menu, help."),
            lostSubject);
      return;
    case EngineEvent::Kind::WentOn:
      return recorder_->wentOnFrom(event.position);
    case EngineEvent::Kind::Relayed:
      return;
    case EngineEvent::Kind::PunchIn:
    case EngineEvent::Kind::PunchOut:
      break;
  }
  if (recorder_->standsBy()) forgetRecorded(Attempt::First);
  punchAsked_ = false;
  throwAway(relay_.drop());
  try {
    recorder_->punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
  } catch (const std::exception& e) {
    messages_.say(spoken(e));
  }
  emit transport_.changed();
}

void RecordingDesk::finish() {
  takeEngineEvents();
  punchAsked_ = false;  // where it came after the roll's end it did nothing
  if (standingBy()) {
    letGo();
    return emit transport_.changed();
  }
  std::unique_ptr<Recorder> done = std::move(recorder_);
  growing_.clear();
  growingPeaks_.clear();
  const QString label = spoken(done->label());
  inHand_.hearCompositeNext();
  bool applied = false;
  if (done->nothing()) {
    done->forgetNote();
    transport_.engine().endTail();
    throwAway(std::exchange(done, nullptr));
    if (!pickUpNext_) messages_.say(tr("Stopped before anything was recorded; nothing was changed."));
  } else {
    const auto ended = pickUpNext_ ? Recorder::Ended::ToGoOn
                       : lost_     ? Recorder::Ended::ByAccident
                                   : Recorder::Ended::ByHand;
    Recorder::Result result{desk_.present(), {}, 0};
    pickUp_.follow(desk_.present());
    applied = desk_.bringIn(label, [&](const Session& session) {
      result = done->finished(session, ended);
      return result.session;
    });
    lastRecorded_ = result.lanes;
    pickUp_.recorded(lastRecorded_, desk_.present());
    device_.tape()->takeRoll(firstRoll_);
    if (desk_.options().safeReview && !done->setup().punches.empty()) punchStandsBy_ = false;
    if (applied) offerPunch(*done);
    lostPlaces_ = lostSoFar(*done);
    if (applied && lostPlaces_ > 0) sayLostPlaces(result.lanes);
    if (result.brokenOff > 0) sayBrokenOff(result.lanes);
    if (result.setAside > 0)
      messages_.tell(
          tr("The last pass was broken off and is set aside. The line above the takes brings it back."));
  }
  const bool failed = done && done->stream()->failure();
  if (done) sayWhatWentWrong(*done->stream());
  if (applied) settling_.push_back({std::move(done), failed, false});
  transport_.refreshPlan();
  emit inHand_.changed();
  emit transport_.changed();
  if (std::exchange(pickUpNext_, false)) backUpAndPickUp();
}

/// The passes of the punches that were just recorded are compared next, from the first punch on.
void RecordingDesk::offerPunch(const Recorder& done) {
  const auto& captures = done.captures();
  const bool mine = std::any_of(captures.begin(), captures.end(), [this](const Capture& capture) {
    return capture.track == inHand_.trackId();
  });
  if (!mine || done.setup().punches.empty()) return;
  const auto& punches = desk_.session().punches;
  for (std::size_t i = 0; i < punches.size(); ++i)
    if (punches[i].span() == done.setup().punches.front()) {
      inHand_.takePunch(i);
      return;
    }
}

void RecordingDesk::sayBrokenOff(const std::vector<RecordedLane>& lanes) {
  std::vector<RecordedLane> broken;
  std::ranges::copy_if(lanes, std::back_inserter(broken), &RecordedLane::brokenOff);
  messages_.tell((broken.size() == 1
                      ? tr("%1 broke off before the end, so the whole take before it is still the one that "
                           "plays. Pick it where it is better; the options can change this.")
                      : tr("%1 broke off before the end, so the whole takes before them are still the ones "
                           "that play. Pick them where they are better; the options can change this."))
                     .arg(namesOf(broken)));
}

/// The takes by name, with their tracks where there are several.
QString RecordingDesk::namesOf(const std::vector<RecordedLane>& lanes) const {
  const bool several =
      std::ranges::any_of(lanes, [&](const RecordedLane& each) { return each.track != lanes.front().track; });
  Sentence::List names;
  for (const RecordedLane& each : lanes) {
    const Track* const track = desk_.session().track(each.track);
    const Lane* const lane = track ? track->lane(each.lane) : nullptr;
    if (!lane) continue;
    names.push_back(several ? Sentence("%1 of %2", lane->name, track->name) : Sentence::verbatim(lane->name));
  }
  if (names.size() > 3) names = {names.front(), Sentence::verbatim("…"), names.back()};
  return spoken(Sentence::listed(names));
}

void RecordingDesk::sayLostPlaces(const std::vector<RecordedLane>& lanes) {
  messages_.warn(tr("%1: the device lost what came in at %n place(s); each is marked.", nullptr, lostPlaces_)
                     .arg(namesOf(lanes)),
                 lostSubject);
}

void RecordingDesk::sayWhatWentWrong(const CaptureStream& stream) {
  if (const auto failure = stream.failure())
    messages_.warn(tr("%1 Recording has stopped; make room, then go on from here.").arg(spoken(*failure)));
  if (stream.lostFrames() > 0)
    messages_.warn(tr(
        "The disk could not keep up: %n frames are silent in this recording. Everything else is in its "
        "place.|The disk could not keep up: one frame is silent in this recording. Everything else is in its "
        "place.",
        nullptr, static_cast<int>(stream.lostFrames())));
}

/// What was captured behind the roll is there now too.
void RecordingDesk::showWhole(const Recorder& recorder) {
  for (const Capture& capture : recorder.captures()) {
    for (const PoolFile& file : capture.files) desk_.lookAgain(file.path);
    transport_.filesHaveGrown(capture);
  }
}

bool RecordingDesk::settled() {
  std::erase_if(settling_, [this](Settling& each) {
    const CaptureStream& stream = *each.recorder->stream();
    if (!stream.safe()) return false;
    if (!std::exchange(each.shownWhole, true)) showWhole(*each.recorder);
    if (const auto failure = stream.failure()) {
      if (!each.failureSaid) messages_.warn(spoken(*failure));
      return true;
    }
    // Only when the new lanes are on disk may the note go that would bring them back after a crash.
    if (!desk_.saved()) return false;
    each.recorder->forgetNote();
    return true;
  });
  return settling_.empty();
}

bool RecordingDesk::abandonedEnded() const {
  return std::all_of(abandoned_.begin(), abandoned_.end(),
                     [](const auto& recorder) { return recorder->stream()->closed(); });
}

void RecordingDesk::removeAbandoned() {
  for (const auto& recorder : abandoned_) recorder->abandon();
  abandoned_.clear();
}

void RecordingDesk::tick() {
  std::erase_if(abandoned_, [](const auto& recorder) {
    if (!recorder->stream()->closed()) return false;
    recorder->abandon();
    return true;
  });
  settled();
  if (!recorder_) return;
  if (recorder_->stream()->bodyWritten()) return finish();
  updateGrowing();
  playBack_.follow(*recorder_);
  relay();
  if (!lost_ && recorder_->stream()->failure()) {
    lost_ = true;
    transport_.engine().stop();
  }
}

void RecordingDesk::updateGrowing() {
  const CaptureStream& stream = *recorder_->stream();
  growing_.clear();
  std::size_t file = 0;
  const auto& captures = recorder_->captures();
  growingPeaks_.resize(captures.size());
  if (recorder_->standsBy()) return;
  const std::vector<PassWindow> windows = passWindows(recorder_->setup(), stream.written());
  for (std::size_t i = 0; i < captures.size(); ++i) {
    stream.updatePeaks(file, growingPeaks_[i]);
    file += captures[i].files.size();
    const Track* track = desk_.session().track(captures[i].track);
    int number = track ? track->lanesMade : 0;
    int round = 0;
    for (const PassWindow& pass : windows) {
      if (pass.round != round) ++number;
      round = pass.round;
      growing_.push_back({captures[i].track, pass, {number}, &growingPeaks_[i]});
    }
  }
}

void RecordingDesk::relay() {
  if (!standingBy() || !transport_.state().rolling) return;
  auto relieved = relay_.follow(*recorder_, transport_.state().rollFrame, capturedTracks());
  if (!relieved) return;
  throwAway(std::exchange(recorder_, std::move(relieved->recorder)));
  roll_ = relieved->roll;
  recorder_->followOptions(desk_.present());
}

/// The attempts are no longer heard from there on, so that the next one is.
void RecordingDesk::takeBackSlip(Frames from) {
  pickUp_.follow(desk_.session());
  const Session& now = desk_.session();
  if (!(pickUp_.takenBack(now, from) == now))
    desk_.apply(tr("Take back the slip"),
                [&](Session session) { return pickUp_.takenBack(std::move(session), from); });
  pickUp_.begins(desk_.session(), armedTracks());
}

void RecordingDesk::backUpAndPickUp() {
  if (recording()) {
    // What was recorded is brought in first; then it goes back.
    pickUpNext_ = true;
    transport_.engine().stop();
    return;
  }
  transport_.stopHearingJoin();
  letGo();
  if (armedTracks().empty()) return messages_.say(sentence());
  const Frames playhead = transport_.state().position;
  const Frames from = pickUpPoint(desk_.session(), playhead, inHand_.selection());
  takeBackSlip(from);
  try {
    begin(planPickUp(desk_.session(), {playhead, device_.roundTrip()}, inHand_.selection()), RollFrom::Start,
          Attempt::Again);
    inHand_.dropSelection();
  } catch (const std::exception& e) {
    messages_.say(spoken(e));
  }
  emit inHand_.changed();
  emit transport_.changed();
}

void RecordingDesk::discardLastRecorded() {
  if (recording()) return messages_.say(tr("Stop recording first; then it can be kept or discarded."));
  const auto lanes = std::exchange(lastRecorded_, {});
  if (lanes.empty())
    return messages_.say(tr("There is no recording to discard since the last one was settled."));
  const QString label = tr("Discard %n take(s)", nullptr, static_cast<int>(lanes.size()));
  const bool done = desk_.apply(label, [&](Session session) {
    for (const RecordedLane& lane : lanes)
      if (const Track* track = session.track(lane.track); track && track->lane(lane.lane))
        session = removeLane(std::move(session), lane.track, lane.lane);
    return session;
  });
  if (done) messages_.say(tr("Discarded. Undo brings it back; the recording itself stays on disk."));
  emit inHand_.changed();
}

void RecordingDesk::claim() {
  if (recording()) return messages_.say(tr("This is being recorded anyway; stop, and it is a take."));
  if (armedTracks().empty()) return messages_.say(tr("No track is armed, so nothing was listened to."));
  if (!desk_.mayWrite()) return;
  if (device_.tapeKept()) return messages_.say(tr("What was played is being claimed already."));
  if (claimable() < framesFromSeconds(0.2, desk_.session().rate))
    return messages_.say(tr("Nothing was heard since the last take was made."));
  const Session before = desk_.session();
  // What was played up to now arrives a round trip later.
  const Frames asked = device_.tape()->heard();
  const Frames arrives = asked + device_.roundTrip();
  device_.keepTape(true);
  jobs_.start(tr("Claiming what was played"), Jobs::Cancel::Never,
              [this, tape = device_.tape(), inputs = device_.tape()->inputs(), asked, arrives,
               at = transport_.state().position, before](Jobs::Run&) {
                const auto done = [this](const auto& then) {
                  QMetaObject::invokeMethod(this, [this, then] {
                    then();
                    device_.keepTape(false);
                  });
                };
                try {
                  tape->waitFor(arrives);
                  const auto claim = findClaim(*tape, inputs, before.rate, asked, arrives);
                  const auto captures =
                      claim ? writeClaims(desk_.disk(), before, *tape, claim->file) : std::vector<Capture>{};
                  done([this, claim, captures, at] {
                    if (claim) return finishClaim(*claim, captures, at);
                    messages_.say(tr("Nothing was played in the last minute; there is nothing to claim."));
                  });
                } catch (const std::exception& e) {
                  done([this, sentence = spoken(e)] { messages_.warn(sentence); });
                }
              });
}

void RecordingDesk::finishClaim(const Claim& claim, const std::vector<Capture>& captures, Frames playhead) {
  std::vector<RecordedLane> lanes;
  std::vector<TrackId> tracks(captures.size());
  std::ranges::transform(captures, tracks.begin(), &Capture::track);
  PickUp firstAttempt(desk_.present(), tracks);
  const bool made = desk_.bringIn(tr("Claim what was played"), [&](Session session) {
    Recorded claimed = addClaim(std::move(session), claim, captures, playhead);
    lanes = claimed.lanes;
    return claimed.session;
  });
  if (!made) return removeClaims(desk_.disk(), captures);
  device_.tape()->take(claim.file);
  pickUp_ = std::move(firstAttempt);
  pickUp_.recorded(lanes, desk_.present());
  lastRecorded_ = lanes;
  const double seconds = secondsFromFrames(claim.sound.length(), desk_.session().rate);
  messages_.say(
      (claim.segment.roll == 0
           ? tr("%1 s of what was just played are a take at the playhead now; what lay before is in "
                "its handle.")
           : tr("%1 s of what was just played along are a take now, where they were played."))
          .arg(QLocale().toString(seconds, 'f', seconds < 0.1 ? 3 : 1)));
}

}  // namespace yewdrift::app
