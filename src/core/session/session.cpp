// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/session.h"

#include <numeric>

#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

[[noreturn]] void broken(const std::string& what) {
  throw Error("The session is damaged: " + what + ".");
}

/// What a thing is, put together only where something is wrong with it.
struct Where {
  const char* what;
  const std::string& of;
  [[nodiscard]] std::string text() const { return what + of; }
};
const std::string nothing;  // NOLINT(cert-err58-cpp): an empty text

void checkPosition(Frames at, Where where) {
  if (at > maximumPosition || at < -maximumPosition)
    broken(where.text() + " lies beyond the longest session there can be");
}

void checkSpan(Span span, Where where) {
  checkPosition(span.start, where);
  checkPosition(span.end, where);
  if (span.empty()) broken(where.text() + " is empty or backwards");
}

void checkCount(std::size_t count, std::size_t most, const std::string& what) {
  if (count > most) broken("it has more " + what + " than there can be (" + std::to_string(most) + ")");
}

void checkText(const std::string& text, const std::string& what) {
  if (!isReadable(text)) broken(what + " is no readable text");
}

void checkGain(Decibels gain, const std::string& where) {
  if (!(gain >= limits::lowestGain && gain <= limits::highestGain))
    broken("a gain of " + where + " lies beyond " +
           std::to_string(static_cast<int>(limits::lowestGain.value)) + " to " +
           std::to_string(static_cast<int>(limits::highestGain.value)) + " dB");
}

void checkPan(Pan pan, const std::string& where) {
  if (!(pan.value >= -1.0 && pan.value <= 1.0)) broken("a pan of " + where + " lies beyond left and right");
}

/// Numbers that are there, and asked for often.
class Numbers {
 public:
  void add(int number) { numbers_.push_back(number); }
  /// False where one was added twice.
  bool settle() {
    std::sort(numbers_.begin(), numbers_.end());
    return std::adjacent_find(numbers_.begin(), numbers_.end()) == numbers_.end();
  }
  [[nodiscard]] bool has(int number) const {
    return std::binary_search(numbers_.begin(), numbers_.end(), number);
  }

 private:
  std::vector<int> numbers_;
};

void checkClip(const Clip& clip, const Track& track, const std::vector<PoolFile>& pool,
               const std::string& where) {
  checkPosition(clip.origin, {"", where});
  checkPosition(clip.sourceLength, {"", where});
  if (clip.sourceLength.count < 0) broken(where + " has a negative length");
  checkSpan(clip.window, {"", where});
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

void checkComposite(const Composite& composite, const Numbers& lanes, const std::string& name) {
  checkCount(composite.picks.size(), limits::pieces, "pieces");
  checkCount(composite.joins.size(), limits::pieces, "joins");
  Frames last = -maximumPosition;
  for (const Piece& piece : composite.picks) {
    checkSpan(piece.span, {"a piece of ", name});
    checkPosition(piece.slip, {"a slip in ", name});
    checkGain(piece.gain, name);
    if (piece.span.start < last) broken("pieces of " + name + " overlap");
    last = piece.span.end;
    if (piece.lane && !lanes.has(piece.lane->value))
      broken("a piece of " + name + " names a lane that is not there");
    for (const LaneNumber overdub : piece.overdubs)
      if (!lanes.has(overdub.value)) broken("a piece of " + name + " names a lane that is not there");
  }
  last = -maximumPosition;
  for (const JoinSetting& join : composite.joins) {
    checkPosition(join.at, {"a join of ", name});
    if (join.at <= last) broken("joins of " + name + " are out of order");
    last = join.at;
    if (join.shape.before.count < 0 || join.shape.after.count < 0)
      broken("a join of " + name + " has a negative length");
    checkPosition(join.shape.before, {"a join of ", name});
    checkPosition(join.shape.after, {"a join of ", name});
  }
}

void checkMicrophones(const Track& track, const std::string& name) {
  if (track.microphones.empty()) broken("the track " + name + " has no microphone");
  checkCount(track.microphones.size(), limits::microphones, "microphones");
  for (const Microphone& microphone : track.microphones) {
    if (microphone.channels < 1 || microphone.channels > 2 || microphone.input < 0 ||
        microphone.input > limits::inputs)
      broken("a microphone of " + name + " has an impossible input");
    checkText(microphone.name, "the name of a microphone of " + name);
    checkGain(microphone.gain, name);
    checkPan(microphone.pan, name);
  }
}

void checkTrack(const Track& track, const std::vector<PoolFile>& pool) {
  checkText(track.name, "the name of a track");
  const std::string name = "\"" + track.name + "\"";
  checkMicrophones(track, name);
  checkGain(track.gain, name);
  checkPan(track.pan, name);
  checkCount(track.lanes.size(), limits::lanes, "lanes");
  Numbers numbers;
  for (const auto& lane : track.lanes) {
    const std::string where = "lane " + std::to_string(lane->number.value) + " of " + name;
    if (lane->number.value < 1 || lane->number.value > track.lanesMade)
      broken(where + " has an impossible number");
    numbers.add(lane->number.value);
    checkText(lane->name, "the name of " + where);
    checkCount(lane->clips.size(), limits::clips, "clips");
    for (std::size_t i = 0; i < lane->clips.size(); ++i) {
      checkClip(lane->clips[i], track, pool, where);
      if (i > 0 && lane->clips[i].window.start < lane->clips[i - 1].window.end)
        broken(where + " overlaps itself");
    }
  }
  if (!numbers.settle()) broken("a lane of " + name + " has an impossible number");
  if (track.recordInto && !numbers.has(track.recordInto->value))
    broken("the track " + name + " records into a lane that is not there");
  checkComposite(track.composite, numbers, name);
  checkText(track.compositeName, "the name of a composite of " + name);
  checkCount(track.keptComposites.size(), limits::composites, "composites");
  for (const KeptComposite& kept : track.keptComposites) {
    checkText(kept.name, "the name of a composite of " + name);
    checkComposite(kept.composite, numbers, name);
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
  checkText(session.name, "its name");
  checkCount(session.pool->size(), limits::files, "files");
  for (const PoolFile& file : *session.pool) {
    checkStaysInside(file.path);
    checkText(file.path, "the name of a file");
    if (file.channels < 1 || file.channels > limits::fileChannels || file.length.count < 0)
      broken("the file " + file.path + " is described wrongly");
    checkPosition(file.length, {"", file.path});
  }
  checkCount(session.tracks.size(), limits::tracks, "tracks");
  Numbers ids;
  for (const auto& track : session.tracks) {
    if (track->id.value < 1 || track->id.value > session.tracksMade)
      broken("two tracks share a number, or one has an impossible one");
    ids.add(track->id.value);
    checkTrack(*track, *session.pool);
  }
  if (!ids.settle()) broken("two tracks share a number, or one has an impossible one");
  if (session.loop) checkSpan(*session.loop, {"the loop", nothing});
  checkCount(session.tempo.changes().size(), limits::tempoChanges, "tempo changes");
  checkCount(session.punches.size(), limits::punches, "punches");
  Frames lastOut = -maximumPosition;
  for (const Punch& punch : session.punches) {
    checkSpan(punch.span(), {"a punch", nothing});
    if (punch.span().start < lastOut) broken("punch spans overlap");
    lastOut = punch.span().end;
  }
  checkCount(session.markers.size(), limits::markers, "markers");
  for (const Marker& marker : session.markers) {
    checkPosition(marker.at, {"a marker", nothing});
    checkText(marker.name, "the name of a marker");
  }
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
