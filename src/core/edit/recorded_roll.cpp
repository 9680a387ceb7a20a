// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/recorded_roll.h"

#include <map>

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift {
namespace {

std::vector<ChannelSource> sourcesOf(const Session& session, const Capture& capture) {
  std::vector<ChannelSource> sources;
  const int firstFile = static_cast<int>(session.pool->size()) - static_cast<int>(capture.files.size());
  for (std::size_t f = 0; f < capture.files.size(); ++f)
    for (int channel = 0; channel < capture.files[f].channels; ++channel)
      sources.push_back({firstFile + static_cast<int>(f), channel});
  return sources;
}

Session applyResult(Session session, TrackId track, PassResult result, const std::vector<Clip>& clips) {
  const LaneNumber lane{requireTrack(session, track).lanesMade};
  for (const Clip& clip : clips) {
    if (result == PassResult::Replace) session = pick(std::move(session), track, clip.window, lane);
    if (result == PassResult::Overdub) session = overdub(std::move(session), track, clip.window, lane);
  }
  return session;
}

}  // namespace

void RecordSetup::check() const {
  const auto& loop = timeline.loop;
  if (timeline.start.count < 0 || timeline.start > recordFrom)
    throw Error("Recording cannot start before the session does.");
  if (roundTrip.count < 0) throw Error("A round trip cannot be negative.");
  if (loop && loop->length() < shortestLoop)
    throw Error("A loop needs at least " + std::to_string(shortestLoop.count) + " frames.");
  if (loop && recordFrom >= loop->end)
    throw Error("Recording would start behind the loop's end and never come round; start before it.");
  if (!loop && timeline.stopAt && *timeline.stopAt <= recordFrom)
    throw Error("Recording would stop before it starts; the end must lie after the start.");
  Frames last{-1};
  for (const Span punch : punches) {
    if (punch.empty()) throw Error("A punch-out must lie after its punch-in.");
    if (punch.start < last) throw Error("Two punch spans overlap; draw them apart or as one.");
    last = punch.end;
    const Span heard{loop ? std::min(recordFrom, loop->start) : recordFrom,
                     loop ? loop->end : timeline.stopAt.value_or(maximumPosition)};
    if (!punch.overlaps(heard))
      throw Error("A punch span lies outside what is recorded, so nothing would be recorded there.");
  }
}

std::vector<PassWindow> passWindows(const RecordSetup& setup, Frames captured) {
  std::vector<PassWindow> windows;
  const Frames rolled = captured - setup.roundTrip;
  for (const RollTimeline::Pass& pass : setup.timeline.passesWithin(rolled)) {
    const Frames origin = pass.session.start - (pass.rollStart + setup.roundTrip);
    Span audible = pass.session;
    if (pass.round == 1) {
      audible.start = std::max(audible.start, setup.recordFrom);
      if (setup.timeline.loop) audible.start = std::max(audible.start, setup.timeline.loop->start);
    }
    if (setup.punches.empty() && !audible.empty()) windows.push_back({pass.round, audible, origin});
    for (const Span punch : setup.punches)
      if (const Span window = audible.intersect(punch); !window.empty())
        windows.push_back({pass.round, window, origin});
  }
  return windows;
}

Session addRecording(Session session, const RecordSetup& setup, const std::vector<Capture>& captures) {
  for (const Capture& capture : captures) {
    if (capture.files.empty()) continue;
    for (const PoolFile& file : capture.files) session = addPoolFile(std::move(session), file);
    Frames length = capture.files.front().length;
    for (const PoolFile& file : capture.files) length = std::min(length, file.length);
    std::map<int, std::vector<Clip>> rounds;
    for (const PassWindow& pass : passWindows(setup, length))
      rounds[pass.round].push_back({pass.origin, length, pass.window, sourcesOf(session, capture)});
    for (const auto& [round, clips] : rounds) {
      session = addLane(std::move(session), capture.track, clips);
      session = applyResult(std::move(session), capture.track, setup.result, clips);
    }
  }
  return session;
}

}  // namespace yewdrift
