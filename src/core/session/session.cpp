// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/session.h"

#include <cstdint>
#include <numeric>

#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

template <class... Arguments>
[[noreturn]] void broken(Pattern<std::type_identity_t<Arguments>...> pattern, const Arguments&... arguments) {
  throw Error("The session is damaged: %1.", Sentence(pattern, arguments...));
}

// What a thing is, is put together only where something is wrong with it: `where` makes a Sentence.

void checkPosition(Frames at, const auto& where) {
  if (at > maximumPosition || at < -maximumPosition)
    broken("%1 lies beyond the longest session there can be", where());
}

void checkSpan(Span span, const auto& where) {
  checkPosition(span.start, where);
  checkPosition(span.end, where);
  if (span.empty()) broken("%1 is empty or backwards", where());
}

void checkCount(std::size_t count, std::size_t most, const auto& what) {
  if (count > most) broken("it has more %1 than there can be (%2)", what(), most);
}

void checkText(const std::string& text, const auto& what) {
  if (!isReadable(text)) broken("%1 is no readable text", what());
}

void checkGain(Decibels gain, const std::string& track) {
  if (!(gain >= limits::lowestGain && gain <= limits::highestGain))
    broken("a gain of \"%1\" lies beyond %2 to %3 dB", track, static_cast<int>(limits::lowestGain.value),
           static_cast<int>(limits::highestGain.value));
}

void checkPan(Pan pan, const std::string& track) {
  if (!(pan.value >= -1.0 && pan.value <= 1.0)) broken("a pan of \"%1\" lies beyond left and right", track);
}

/// Makes a Sentence of a pattern when it is called.
template <class... Arguments>
auto saying(Pattern<std::type_identity_t<Arguments>...> pattern, const Arguments&... arguments) {
  return [pattern, &arguments...] { return Sentence(pattern, arguments...); };
}

void checkPitch(Cents pitch, const std::string& track) {
  if (!(pitch <= limits::widestPitch && pitch.value >= -limits::widestPitch.value))
    broken("a pitch of \"%1\" lies beyond %2 cents either way", track,
           static_cast<int>(limits::widestPitch.value));
}

void checkRating(int rating, const std::string& track) {
  if (rating < 0 || rating > limits::highestRating)
    broken("a rating of \"%1\" is not 0 to %2", track, limits::highestRating);
}

void checkLevel(const LevelLine& line, const std::string& track) {
  checkCount(line.size(), limits::levelPoints, saying("points of a level"));
  Frames last{INT64_MIN};
  for (const LevelPoint& point : line) {
    checkPosition(point.at, saying("a point of a level of \"%1\"", track));
    checkGain(point.gain, track);
    if (point.at <= last) broken("points of a level of \"%1\" are out of order", track);
    last = point.at;
  }
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

void checkClip(const Clip& clip, const Track& track, const std::vector<PoolFile>& pool, const auto& where) {
  checkPosition(clip.origin, where);
  checkPosition(clip.sourceLength, where);
  if (clip.sourceLength.count < 0) broken("%1 has a negative length", where());
  if (clip.part && (clip.part->start.count < 0 || clip.part->end > clip.sourceLength || clip.part->empty()))
    broken("%1 uses a part of its file that the file does not have", where());
  checkSpan(clip.window, where);
  if (clip.window.start < clip.extent().start || clip.window.end > clip.extent().end)
    broken("%1 is audible where it has no material", where());
  if (static_cast<int>(clip.channels.size()) != track.channels())
    broken("%1 does not have a source for every channel of its track", where());
  for (const ChannelSource& source : clip.channels) {
    if (source.file < 0 || source.file >= static_cast<int>(pool.size()))
      broken("%1 names a file that is not in the pool", where());
    const PoolFile& file = pool[static_cast<std::size_t>(source.file)];
    if (source.channel < 0 || source.channel >= file.channels)
      broken("%1 names a channel its file does not have", where());
  }
}

void checkBend(double bend, const std::string& name) {
  if (!(std::abs(bend) <= 1.0)) broken("a curve of \"%1\" bends by more than -1 to 1", name);
}

void checkComposite(const Composite& composite, const Numbers& lanes, const std::string& name) {
  checkCount(composite.picks.size(), limits::pieces, saying("pieces"));
  checkCount(composite.joins.size(), limits::pieces, saying("joins"));
  Frames last = -maximumPosition;
  for (const Piece& piece : composite.picks) {
    checkSpan(piece.span, saying("a piece of \"%1\"", name));
    checkPosition(piece.slip, saying("a slip in \"%1\"", name));
    checkGain(piece.gain, name);
    checkPitch(piece.pitch, name);
    checkLevel(piece.level, name);
    if (piece.span.start < last) broken("pieces of \"%1\" overlap", name);
    last = piece.span.end;
    if (!piece.picked && (piece.lane || !piece.overdubs.empty() || !piece.split))
      broken("a piece of \"%1\" that nobody picked says what it plays", name);
    if (piece.lane && !lanes.has(piece.lane->value))
      broken("a piece of \"%1\" names a lane that is not there", name);
    for (const LaneNumber overdub : piece.overdubs)
      if (!lanes.has(overdub.value)) broken("a piece of \"%1\" names a lane that is not there", name);
  }
  last = -maximumPosition;
  for (const JoinSetting& join : composite.joins) {
    checkPosition(join.at, saying("a join of \"%1\"", name));
    if (join.at <= last) broken("joins of \"%1\" are out of order", name);
    last = join.at;
    const JoinShape shape = join.shape.value_or(JoinShape{});
    if (shape.before.count < 0 || shape.after.count < 0)
      broken("a join of \"%1\" has a negative length", name);
    checkPosition(shape.before, saying("a join of \"%1\"", name));
    checkPosition(shape.after, saying("a join of \"%1\"", name));
    checkBend(shape.bend, name);
  }
  checkLevel(composite.level, name);
  for (const EndFade& fade : {composite.fadeIn, composite.fadeOut}) {
    checkPosition(fade.length, saying("a fade of \"%1\"", name));
    if (fade.length.count < 0) broken("a fade of \"%1\" has a negative length", name);
    checkBend(fade.bend, name);
  }
}

void checkNotes(const Lane& lane, const std::string& track) {
  checkText(lane.note, saying("the note of lane %1 of \"%2\"", lane.number.value, track));
  checkRating(lane.rating, track);
  if (lane.palette < 0 || lane.palette > limits::palettes)
    broken("lane %1 of \"%2\" has a colour that is not 0 to %3", lane.number.value, track, limits::palettes);
  checkGain(lane.gain, track);
  checkPitch(lane.pitch, track);
  checkLevel(lane.level, track);
  checkCount(lane.marks.size(), limits::markers, saying("marks"));
  Frames last{INT64_MIN};
  for (const TakeMark& mark : lane.marks) {
    checkPosition(mark.at, saying("a mark of \"%1\"", track));
    checkText(mark.text, saying("the text of a mark of \"%1\"", track));
    if (mark.at < last) broken("marks of \"%1\" are out of order", track);
    last = mark.at;
  }
  checkCount(lane.cells.size(), limits::cells, saying("ratings"));
  last = {INT64_MIN};
  for (const CellNote& cell : lane.cells) {
    checkPosition(cell.at, saying("a rating of \"%1\"", track));
    checkRating(cell.rating, track);
    checkText(cell.note, saying("the note of a phrase of \"%1\"", track));
    if (cell.at <= last) broken("ratings of \"%1\" are out of order", track);
    last = cell.at;
  }
}

void checkPhrases(const Track& track, const std::string& name) {
  checkCount(track.phrases.size(), limits::phrases, saying("phrases"));
  Frames last = -maximumPosition;
  for (const Span phrase : track.phrases) {
    checkSpan(phrase, saying("a phrase of \"%1\"", name));
    if (phrase.start < last) broken("phrases of \"%1\" overlap", name);
    last = phrase.end;
  }
  for (const double seconds : {track.phraseRules.shortestRest, track.phraseRules.shortestPhrase})
    if (!(seconds >= 0.0 && seconds <= limits::longestRest))
      broken("a shortest rest or phrase of \"%1\" is not 0 to %2 seconds", name,
             static_cast<int>(limits::longestRest));
}

void checkMicrophones(const Track& track, const std::string& name) {
  if (track.microphones.empty()) broken("the track \"%1\" has no microphone", name);
  checkCount(track.microphones.size(), limits::microphones, saying("microphones"));
  for (const Microphone& microphone : track.microphones) {
    if (microphone.channels < 1 || microphone.channels > 2 || microphone.input < 0 ||
        microphone.input > limits::inputs)
      broken("a microphone of \"%1\" has an impossible input", name);
    checkText(microphone.name, saying("the name of a microphone of \"%1\"", name));
    checkGain(microphone.gain, name);
    checkPan(microphone.pan, name);
  }
}

void checkTrack(const Track& track, const std::vector<PoolFile>& pool) {
  checkText(track.name, saying("the name of a track"));
  const std::string& name = track.name;
  checkMicrophones(track, name);
  checkGain(track.gain, name);
  checkPan(track.pan, name);
  checkCount(track.lanes.size(), limits::lanes, saying("lanes"));
  Numbers numbers;
  for (const auto& lane : track.lanes) {
    const auto where = saying("lane %1 of \"%2\"", lane->number.value, name);
    if (lane->number.value < 1 || lane->number.value > track.lanesMade)
      broken("%1 has an impossible number", where());
    numbers.add(lane->number.value);
    checkText(lane->name, saying("the name of lane %1 of \"%2\"", lane->number.value, name));
    checkNotes(*lane, name);
    checkCount(lane->clips.size(), limits::clips, saying("clips"));
    for (std::size_t i = 0; i < lane->clips.size(); ++i) {
      checkClip(lane->clips[i], track, pool, where);
      if (i > 0 && lane->clips[i].window.start < lane->clips[i - 1].window.end)
        broken("%1 overlaps itself", where());
    }
    checkCount(lane->cutAway.size(), limits::clips, saying("clips"));
    for (const Clip& clip : lane->cutAway) checkClip(clip, track, pool, where);
  }
  if (!numbers.settle()) broken("a lane of \"%1\" has an impossible number", name);
  if (track.recordInto && !numbers.has(track.recordInto->value))
    broken("the track \"%1\" records into a lane that is not there", name);
  checkPhrases(track, name);
  checkComposite(track.composite, numbers, name);
  checkText(track.compositeName, saying("the name of a composite of \"%1\"", name));
  checkCount(track.keptComposites.size(), limits::composites, saying("composites"));
  for (const KeptComposite& kept : track.keptComposites) {
    checkText(kept.name, saying("the name of a composite of \"%1\"", name));
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
  const std::string kept = readableText(wanted);  // as a track keeps what it is named
  for (const auto& candidate : tracks)
    if (candidate->name == kept) return &*candidate;
  return nullptr;
}

void checkRate(SampleRate rate) {
  if (rate.hertz < lowestRate || rate.hertz > highestRate)
    throw Error("A session runs at %1 to %2 frames a second, not at %3.", lowestRate, highestRate,
                rate.hertz);
}

void checkInvariants(const Session& session) {
  checkRate(session.rate);
  checkText(session.name, saying("its name"));
  checkCount(session.pool->size(), limits::files, saying("files"));
  for (const PoolFile& file : *session.pool) {
    checkStaysInside(file.path);
    checkText(file.path, saying("the name of a file"));
    if (file.channels < 1 || file.channels > limits::fileChannels || file.length.count < 0)
      broken("the file %1 is described wrongly", file.path);
    checkPosition(file.length, saying("%1", file.path));
  }
  checkCount(session.tracks.size(), limits::tracks, saying("tracks"));
  Numbers ids;
  for (const auto& track : session.tracks) {
    if (track->id.value < 1 || track->id.value > session.tracksMade)
      broken("two tracks share a number, or one has an impossible one");
    ids.add(track->id.value);
    checkTrack(*track, *session.pool);
  }
  if (!ids.settle()) broken("two tracks share a number, or one has an impossible one");
  if (session.loop) checkSpan(*session.loop, saying("the loop"));
  checkCount(session.tempo.changes().size(), limits::tempoChanges, saying("tempo changes"));
  checkCount(session.punches.size(), limits::punches, saying("punches"));
  Frames lastOut = -maximumPosition;
  for (const Punch& punch : session.punches) {
    checkSpan(punch.span(), saying("a punch"));
    if (punch.span().start < lastOut) broken("punch spans overlap");
    lastOut = punch.span().end;
  }
  checkCount(session.markers.size(), limits::markers, saying("markers"));
  for (const Marker& marker : session.markers) {
    checkPosition(marker.at, saying("a marker"));
    checkText(marker.name, saying("the name of a marker"));
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
