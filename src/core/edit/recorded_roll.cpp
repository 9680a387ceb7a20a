// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/recorded_roll.h"

#include <map>

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift {
namespace {

std::vector<ChannelSource> sourcesOf(const Session& session, const Capture& capture, int channels) {
  std::vector<ChannelSource> sources;
  const int firstFile = static_cast<int>(session.pool->size()) - static_cast<int>(capture.files.size());
  for (std::size_t f = 0; f < capture.files.size(); ++f)
    for (int channel = 0; channel < capture.files[f].channels; ++channel)
      sources.push_back({firstFile + static_cast<int>(f), channel});
  sources.resize(static_cast<std::size_t>(channels), sources.back());
  return sources;
}

Session applyResult(Session session, TrackId track, PassResult result, LaneNumber lane,
                    const std::vector<Clip>& clips) {
  for (const Clip& clip : clips) {
    if (result == PassResult::Replace) session = pick(std::move(session), track, clip.window, lane);
    if (result == PassResult::Overdub) session = overdub(std::move(session), track, clip.window, lane);
  }
  return session;
}

/// From where the first time round is recorded, where nothing is punched by hand.
Frames firstRecorded(const RecordSetup& setup) noexcept {
  return setup.timeline.loop ? std::max(setup.recordFrom, setup.timeline.loop->start) : setup.recordFrom;
}

bool playsBack(const RecordSetup& setup, int round) noexcept {
  return setup.playBack && setup.timeline.loop && round % 2 == 0;
}

}  // namespace

void RecordSetup::check() const {
  const auto& loop = timeline.loop;
  if (timeline.start.count < 0 || timeline.start > recordFrom)
    throw Error("Recording cannot start before the session does.");
  if (roundTrip.count < 0) throw Error("A round trip cannot be negative.");
  if (loop && loop->length() < shortestLoop)
    throw Error("A loop needs at least %1 frames.", shortestLoop.count);
  if (loop && recordFrom >= loop->end)
    throw Error("Recording would start behind the loop's end and never come round; start before it.");
  if (!loop && timeline.stopAt && *timeline.stopAt <= recordFrom)
    throw Error("Recording would stop before it starts; the end must lie after the start.");
  Frames last = -maximumPosition;
  for (const Span punch : punches) {
    if (punch.empty()) throw Error("A punch-out must lie after its punch-in.");
    if (punch.start < last) throw Error("Two punch spans overlap; draw them apart or as one.");
    last = punch.end;
    const Span heard{loop ? std::min(recordFrom, loop->start) : recordFrom,
                     loop ? loop->end : timeline.stopAt.value_or(maximumPosition)};
    if (!punch.overlaps(heard))
      throw loop
          ? Error("A punch span lies outside the loop, so nothing would be recorded there; move one of them.")
          : Error("A punch span lies outside what is recorded, so nothing would be recorded there.");
  }
}

Audible audibleAt(const RecordSetup& setup, const RollTimeline::Run& run) noexcept {
  const RollTimeline& timeline = setup.timeline;
  if (run.counting || playsBack(setup, run.round)) return {false, run.length};
  Frames length = run.length;
  const Frames at = run.position;
  // What follows the end is post-roll.
  const Frames end = timeline.loop ? timeline.loop->end : timeline.stopAt.value_or(maximumPosition * 2);
  if (at >= end) return {false, length};
  length = std::min(length, end - at);
  if (setup.byHand) return {true, length};
  const Frames from = run.round == 1 ? firstRecorded(setup) : at;
  if (at < from) return {false, std::min(length, from - at)};
  if (setup.punches.empty()) return {true, length};
  for (const Span punch : setup.punches) {
    if (at >= punch.end) continue;
    if (at < punch.start) return {false, std::min(length, punch.start - at)};
    return {true, std::min(length, punch.end - at)};
  }
  return {false, length};
}

std::vector<PassWindow> passWindows(const RecordSetup& setup, Frames captured) {
  std::vector<PassWindow> windows;
  const Frames arrived = setup.capturesFrom + captured - setup.roundTrip;
  const Frames rolled = setup.rolled ? std::min(arrived, *setup.rolled) : arrived;
  for (const RollTimeline::Pass& pass : setup.timeline.passesWithin(rolled)) {
    if (playsBack(setup, pass.round)) continue;
    const Frames origin = pass.session.start - (pass.rollStart + setup.roundTrip) + setup.capturesFrom;
    auto add = [&](Span window) {
      window.start = std::max(window.start, origin);  // what was not captured is not there
      if (!window.empty()) windows.push_back({pass.round, window, origin});
    };
    if (setup.byHand) {
      const Span rolls{pass.rollStart, pass.rollStart + pass.session.length()};
      for (const Span punch : setup.handPunches)
        add(punch.intersect(rolls).shifted(pass.session.start - pass.rollStart));
      continue;
    }
    Span audible = pass.session;
    if (pass.round == 1) audible.start = std::max(audible.start, firstRecorded(setup));
    if (setup.punches.empty()) add(audible);
    for (const Span punch : setup.punches) add(audible.intersect(punch));
  }
  return windows;
}

std::optional<Span> partOf(const RecordSetup& setup, const PassWindow& pass, Frames captured) {
  const auto& loop = setup.timeline.loop;
  if (!loop || setup.timeline.passes == 1) return std::nullopt;
  const Frames half{loop->length().count / 2};
  // A hand can punch in long before the loop begins.
  const Span own{std::min(loop->start - half, pass.window.start),
                 std::max(loop->end + half, pass.window.end)};
  const Span all{Frames{}, captured};
  const Span part = own.shifted(-pass.origin).intersect(all);
  return part == all ? std::nullopt : std::optional(part);
}

Recorded addRecording(Session session, const RecordSetup& setup, const std::vector<Capture>& captures,
                      const JudgePass& judge) {
  std::vector<RecordedLane> recorded;
  for (std::size_t index = 0; index < captures.size(); ++index) {
    const Capture& capture = captures[index];
    if (capture.files.empty()) continue;
    const int channels = requireTrack(session, capture.track).channels();
    for (const PoolFile& file : capture.files) session = addPoolFile(std::move(session), file);
    Frames length = capture.files.front().length;
    for (const PoolFile& file : capture.files) length = std::min(length, file.length);
    std::map<int, std::vector<Clip>> rounds;
    for (const PassWindow& pass : passWindows(setup, length))
      rounds[pass.round].push_back({pass.origin, length, pass.window, sourcesOf(session, capture, channels),
                                    partOf(setup, pass, length)});
    const bool chosen = capture.into && requireTrack(session, capture.track).lane(*capture.into);
    for (const auto& [round, clips] : rounds) {
      LaneNumber lane;
      if (chosen && round == rounds.rbegin()->first) {
        lane = *capture.into;
        session = placeInLane(std::move(session), capture.track, lane, clips);
      } else {
        session = addLane(std::move(session), capture.track, clips);
        lane = {requireTrack(session, capture.track).lanesMade};
        const PassFate fate = judge ? judge(index, round) : PassFate::Heard;
        if (fate == PassFate::SetAside) {
          session = setLaneAside(std::move(session), capture.track, lane, true);
          recorded.push_back({capture.track, lane, round, true});
          continue;
        }
        if (fate == PassFate::BrokenOff && setup.result == PassResult::NewLane) {
          session = setLaneBrokenOff(std::move(session), capture.track, lane, true);
          recorded.push_back({capture.track, lane, round, false, true});
          continue;
        }
      }
      session = applyResult(std::move(session), capture.track, setup.result, lane, clips);
      recorded.push_back({capture.track, lane, round});
    }
  }
  return {std::move(session), std::move(recorded)};
}

bool isCutShort(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round) {
  const std::optional<Frames> end =
      setup.timeline.loop ? std::optional(setup.timeline.loop->end) : setup.timeline.stopAt;
  if (windows.empty() || windows.back().round != round || !end) return false;
  Frames wanted = *end;
  if (!setup.punches.empty()) wanted = std::min(wanted, setup.punches.back().end);
  return windows.back().window.end < wanted;
}

bool isFalseStart(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round,
                  SampleRate rate) {
  if (!setup.punches.empty() || windows.empty() || windows.back().round != round) return false;
  // One punch that was set before the roll is a plain recording; more than that was punched by hand.
  if (setup.byHand && (setup.handPunches.size() != 1 || setup.handPunches.front().end < maximumPosition))
    return false;
  const Frames recorded = windows.back().window.length();
  if (setup.timeline.loop)
    return isCutShort(setup, windows, round) && recorded * 4 < setup.timeline.loop->length();
  if (setup.timeline.stopAt && !isCutShort(setup, windows, round)) return false;
  return recorded < framesFromSeconds(2.0, rate);
}

namespace {

/// What was to be recorded the time round that began at `start`, in order; without a set end as far as
/// `whole` goes, where the pass begins no later than a twentieth into it.
std::vector<Span> wantedOf(const RecordSetup& setup, Frames start, const Span whole) {
  const auto& timeline = setup.timeline;
  Span wanted{start, start};
  if (timeline.loop)
    wanted = *timeline.loop;
  else if (timeline.stopAt)
    wanted = {setup.recordFrom, *timeline.stopAt};
  else if (setup.punches.empty() && (start - whole.start) * 20 <= whole.length())
    wanted = {start, std::max(start, whole.end)};
  if (setup.punches.empty()) return {wanted};
  std::vector<Span> spans;
  for (const Span punch : setup.punches)
    if (punch.overlaps(wanted) && punch.end < maximumPosition) spans.push_back(punch.intersect(wanted));
  return spans;
}

Frames lengthOf(const std::vector<Span>& spans) {
  Frames all;
  for (const Span span : spans) all += span.length();
  return all;
}

const Lane* newestWhole(const Track& track, Span span) {
  const Lane* newest = nullptr;
  for (const auto& lane : track.lanes)
    if (!lane->setAside && !lane->brokenOff && (!newest || newest->number < lane->number) &&
        std::ranges::any_of(lane->clips, [span](const Clip& clip) { return clip.window.overlaps(span); }))
      newest = &*lane;
  return newest;
}

}  // namespace

bool brokeOff(const RecordSetup& setup, const std::vector<PassWindow>& windows, int round, const Track& track,
              const LastSound& lastSound) {
  // What was punched in by hand ended where the hand wanted it to.
  if (setup.byHand && (setup.handPunches.size() != 1 || setup.handPunches.front().end < maximumPosition))
    return false;
  std::vector<Span> played;
  for (const PassWindow& pass : windows)
    if (pass.round == round) played.push_back(pass.window);
  if (played.empty()) return false;
  const Lane* const before = newestWhole(track, {played.front().start, maximumPosition});
  if (!before) return false;
  const Span whole{before->clips.front().window.start, before->clips.back().window.end};
  const std::vector<Span> wanted = wantedOf(setup, played.front().start, whole);
  if (wanted.empty() || lengthOf(played) * 20 >= lengthOf(wanted) * 19) return false;
  const std::optional<Frames> last = lastSound(*before, {wanted.front().start, wanted.back().end});
  return last && played.back().end <= *last;
}

}  // namespace yewdrift
