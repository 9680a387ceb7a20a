// SPDX-License-Identifier: GPL-3.0-or-later
//
// The studio's transport: playing, looping, where gestures snap to.
#include "app/desk/studio.h"
#include "core/edit/edit.h"
#include "core/edit/plan_recording.h"
#include "core/signal/phrases.h"

namespace yewdrift::app {

void Studio::setLooping(bool on) {
  if (on == looping()) return;
  RecordingOptions options = this->options();
  options.loop = on;
  setOptions(options);
  if (transport().rolling && !recording()) startPlaying(transport().position);
  emit transportChanged();
}

RollTimeline Studio::playTimeline(Frames from) const {
  RollTimeline timeline;
  timeline.start = std::max(from, Frames{});
  const std::optional<Span> loop = joinLoop_ ? joinLoop_ : looping() ? session().loop : std::nullopt;
  if (loop && timeline.start < loop->end) timeline.loop = loop;
  return timeline;
}

void Studio::startPlaying(Frames from) {
  dropStandby();
  const RollTimeline timeline = playTimeline(from);
  const bool canCapture = !armedTracks().empty() && !joinLoop_ && device_ && device_->alive();
  if (!canCapture) return engine_->play(timeline);
  try {
    beginRoll(planStandby(timeline, session(), roundTrip_));
  } catch (const std::exception&) {
    engine_->play(timeline);  // a folder that cannot be written to can still be listened to
  }
}

void Studio::startRoll() {
  // With automatic punch standing by, playing records the punch spans that it comes to.
  if (autoPunchStandsBy()) return startRecording();
  startPlaying(transport().position);
}

void Studio::togglePlay() {
  if (transport().rolling || recording()) return stop();
  startRoll();
  emit transportChanged();
}

void Studio::stop() {
  joinLoop_.reset();
  pickUpNext_ = false;
  engine_->stop();
  emit transportChanged();
}

void Studio::locate(Frames at) {
  if (recording()) return;
  at = std::max(at, Frames{});
  joinLoop_.reset();
  if (transport().rolling)
    startPlaying(at);
  else
    engine_->locate(at);
  emit moved();
}

void Studio::toggleHearJoin() {
  if (joinLoop_) return stop();
  if (!joinInHand_ || recording()) return;
  hear(std::nullopt);
  dropStandby();
  const Frames second = framesFromSeconds(1.0, session().rate);
  joinLoop_ = Span{std::max(Frames{}, *joinInHand_ - second), *joinInHand_ + second};
  RollTimeline timeline;
  timeline.start = joinLoop_->start;
  timeline.loop = joinLoop_;
  engine_->play(timeline);
  emit transportChanged();
}

// -- snapping

void Studio::stepSnap(int direction) {
  constexpr std::array coarseToFine{Snap::PhraseEdge, Snap::Bar,          Snap::Beat,
                                    Snap::Division,   Snap::ZeroCrossing, Snap::Off};
  RecordingOptions options = this->options();
  const auto now = std::find(coarseToFine.begin(), coarseToFine.end(), options.snap) - coarseToFine.begin();
  const auto next = std::clamp<std::ptrdiff_t>(now + direction, 0, std::ssize(coarseToFine) - 1);
  options.snap = coarseToFine[static_cast<std::size_t>(next)];
  setOptions(options);
}

Frames Studio::snapped(Frames at, const Lane* by) {
  const TempoMap& tempo = session().tempo;
  const SampleRate rate = session().rate;
  const bool musical =
      options().snap == Snap::Bar || options().snap == Snap::Beat || options().snap == Snap::Division;
  if (musical && !options().grid) return at;  // nobody snaps to what they do not see
  switch (options().snap) {
    case Snap::Bar:
      return tempo.nearestBar(at, rate);
    case Snap::Beat:
      return tempo.nearestBeat(at, rate);
    case Snap::Division:
      return tempo.nearestDivision(at, options().divisions, rate);
    case Snap::PhraseEdge:
      return nearestPhraseEdge(at);
    case Snap::ZeroCrossing:
      return nearestZeroCrossing(at, by);
    case Snap::Off:
      break;
  }
  return at;
}

Frames Studio::nearestPhraseEdge(Frames at) {
  const Track* track = trackInHand();
  if (!track) return at;
  std::vector<TakePeaks> takes;
  for (const auto& lane : track->lanes)
    for (const Clip& clip : lane->clips) {
      if (lane->setAside || clip.channels.empty()) continue;
      const ChannelSource source = clip.channels.front();
      const auto* peaks = peaks_.peaks((*session().pool)[static_cast<std::size_t>(source.file)]);
      if (peaks && static_cast<std::size_t>(source.channel) < peaks->size())
        takes.push_back({&(*peaks)[static_cast<std::size_t>(source.channel)], clip.origin, clip.window});
    }
  Frames nearest = at;
  Frames distance = maximumPosition;
  for (const Span phrase : findPhrases(takes, session().rate))
    for (const Frames edge : {phrase.start, phrase.end})
      if (const Frames away{std::abs((edge - at).count)}; away < distance) {
        distance = away;
        nearest = edge;
      }
  return nearest;
}

Frames Studio::nearestZeroCrossing(Frames at, const Lane* by) {
  const Track* track = trackInHand();
  if (!by && track) by = newestLaneAt(*track, at);
  const Clip* clip = by ? clipAt(*by, at) : nullptr;
  if (!clip || clip->channels.empty()) return at;
  constexpr int reach = 1024;
  std::vector<float> samples(2 * reach);
  const ChannelSource source = clip->channels.front();
  closeUpSource().read(source.file, source.channel, at - clip->origin - Frames{reach}, 2 * reach,
                       samples.data());
  return at - Frames{reach} + Frames{nearestCrossing(samples, reach)};
}

// -- time passing

void Studio::tick() {
  takeEngineEvents();
  checkProbe();
  for (std::size_t i = 0; i < inputPeaks_.size(); ++i)
    inputPeaks_[i] = engine_->takeInputPeak(static_cast<int>(i));
  std::erase_if(abandoned_, [](const auto& recorder) {
    if (!recorder->stream()->closed()) return false;
    recorder->abandon();
    return true;
  });
  checkDevice();
  listenForSilence();
  followDefaults();
  if (recorder_) {
    if (recorder_->stream()->closed()) {
      finishRecording();
    } else {
      updateGrowing();
      followPlayBack();
      if (!recordingLost_ && recorder_->stream()->failure()) {
        recordingLost_ = true;
        engine_->stop();
      }
    }
  }
  const bool rolling = transport().rolling;
  if (rolling != wasRolling_) {
    wasRolling_ = rolling;
    emit transportChanged();
  }
  emit moved();
}

}  // namespace yewdrift::app
