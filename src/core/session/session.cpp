// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/session.h"

#include <numeric>
#include <set>

#include "core/error.h"

namespace yewdrift {
namespace {

[[noreturn]] void broken(const std::string& what) {
  throw Error("The session is damaged: " + what + ".");
}

void checkPosition(Frames at, const std::string& where) {
  if (at > maximumPosition || at < -maximumPosition)
    broken(where + " lies beyond the longest session there can be");
}

void checkSpan(Span span, const std::string& where) {
  checkPosition(span.start, where);
  checkPosition(span.end, where);
  if (span.empty()) broken(where + " is empty or backwards");
}

void checkClip(const Clip& clip, const Track& track, const std::vector<PoolFile>& pool,
               const std::string& where) {
  checkPosition(clip.origin, where);
  checkPosition(clip.sourceLength, where);
  if (clip.sourceLength.count < 0) broken(where + " has a negative length");
  checkSpan(clip.window, where);
  if (clip.window.start < clip.extent().start || clip.window.end > clip.extent().end)
    broken(where + " is audible where it has no material");
  if (static_cast<int>(clip.channels.size()) != track.channels())
    broken(where + " does not have a source for every channel of its track");
  for (const ChannelSource& source : clip.channels) {
    if (source.file < 0 || source.file >= static_cast<int>(pool.size()))
      broken(where + " names a file that is not in the pool");
    const PoolFile& file = pool[static_cast<std::size_t>(source.file)];
    if (source.channel < 0 || source.channel >= file.channels)
      broken(where + " names a channel its file does not have");
  }
}

void checkTrack(const Track& track, const std::vector<PoolFile>& pool) {
  const std::string name = "\"" + track.name + "\"";
  if (track.microphones.empty()) broken("the track " + name + " has no microphone");
  for (const Microphone& microphone : track.microphones)
    if (microphone.channels < 1 || microphone.channels > 2 || microphone.input < 0 || microphone.input > 4096)
      broken("a microphone of " + name + " has an impossible input");
  std::set<LaneNumber> numbers;
  for (const auto& lane : track.lanes) {
    const std::string where = "lane " + std::to_string(lane->number.value) + " of " + name;
    if (lane->number.value < 1 || lane->number.value > track.lanesMade ||
        !numbers.insert(lane->number).second)
      broken(where + " has an impossible number");
    for (std::size_t i = 0; i < lane->clips.size(); ++i) {
      checkClip(lane->clips[i], track, pool, where);
      if (i > 0 && lane->clips[i].window.start < lane->clips[i - 1].window.end)
        broken(where + " overlaps itself");
    }
  }
  if (track.recordInto && !numbers.contains(*track.recordInto))
    broken("the track " + name + " records into a lane that is not there");
  Frames last = -maximumPosition;
  for (const Piece& piece : track.composite.picks) {
    checkSpan(piece.span, "a piece of " + name);
    checkPosition(piece.slip, "a slip in " + name);
    if (piece.span.start < last) broken("pieces of " + name + " overlap");
    last = piece.span.end;
    if (piece.lane && !numbers.contains(*piece.lane))
      broken("a piece of " + name + " names a lane that is not there");
    for (const LaneNumber overdub : piece.overdubs)
      if (!numbers.contains(overdub)) broken("a piece of " + name + " names a lane that is not there");
  }
  last = -maximumPosition;
  for (const JoinSetting& join : track.composite.joins) {
    checkPosition(join.at, "a join of " + name);
    if (join.at <= last) broken("joins of " + name + " are out of order");
    last = join.at;
    if (join.shape.before.count < 0 || join.shape.after.count < 0)
      broken("a join of " + name + " has a negative length");
    checkPosition(join.shape.before, "a join of " + name);
    checkPosition(join.shape.after, "a join of " + name);
  }
}

}  // namespace

int Track::channels() const {
  return std::accumulate(microphones.begin(), microphones.end(), 0,
                         [](int sum, const Microphone& microphone) { return sum + microphone.channels; });
}

const Lane* Track::lane(LaneNumber number) const {
  for (const auto& candidate : lanes)
    if (candidate->number == number) return &*candidate;
  return nullptr;
}

const Track* Session::track(TrackId id) const {
  for (const auto& candidate : tracks)
    if (candidate->id == id) return &*candidate;
  return nullptr;
}

const Track* Session::trackNamed(const std::string& wanted) const {
  for (const auto& candidate : tracks)
    if (candidate->name == wanted) return &*candidate;
  return nullptr;
}

void checkRate(SampleRate rate) {
  if (rate.hertz < lowestRate || rate.hertz > highestRate)
    throw Error("A session runs at " + std::to_string(lowestRate) + " to " + std::to_string(highestRate) +
                " frames a second, not at " + std::to_string(rate.hertz) + ".");
}

void checkInvariants(const Session& session) {
  checkRate(session.rate);
  for (const PoolFile& file : *session.pool) {
    if (file.channels < 1 || file.channels > 256 || file.length.count < 0)
      broken("the file " + file.path + " is described wrongly");
    checkPosition(file.length, file.path);
  }
  std::set<TrackId> ids;
  for (const auto& track : session.tracks) {
    if (track->id.value < 1 || track->id.value > session.tracksMade || !ids.insert(track->id).second)
      broken("two tracks share a number");
    checkTrack(*track, *session.pool);
  }
  if (session.loop) checkSpan(*session.loop, "the loop");
  Frames lastOut = -maximumPosition;
  for (const Punch& punch : session.punches) {
    checkSpan(punch.span(), "a punch");
    if (punch.span().start < lastOut) broken("punch spans overlap");
    lastOut = punch.span().end;
  }
  for (const Marker& marker : session.markers) checkPosition(marker.at, "a marker");
  checkRecordingOptions(session.recording);
}

Span materialOf(const Track& track) {
  Span all{maximumPosition, -maximumPosition};
  for (const auto& lane : track.lanes)
    for (const Clip& clip : lane->clips)
      if (!lane->setAside) all = {std::min(all.start, clip.window.start), std::max(all.end, clip.window.end)};
  return all.empty() ? Span{} : all;
}

Span materialOf(const Session& session) {
  Span all{maximumPosition, -maximumPosition};
  for (const auto& track : session.tracks)
    if (const Span span = materialOf(*track); !span.empty())
      all = {std::min(all.start, span.start), std::max(all.end, span.end)};
  return all.empty() ? Span{} : all;
}

}  // namespace yewdrift
