// SPDX-License-Identifier: GPL-3.0-or-later
//
// The session as a plain value. Nothing here knows files, threads or the interface; every edit is a pure
// function from one Session to the next (core/edit).
#pragma once

#include <algorithm>
#include <compare>
#include <optional>
#include <string>
#include <vector>

#include "core/session/level.h"
#include "core/session/level_line.h"
#include "core/session/recording_options.h"
#include "core/session/shared.h"
#include "core/session/shared_sequence.h"
#include "core/session/unknown.h"
#include "core/time/frames.h"
#include "core/time/phrase_rules.h"
#include "core/time/position_text.h"
#include "core/time/tempo_map.h"

namespace yewdrift {

enum class SampleFormat { Pcm16, Pcm24, Float32 };

enum class PoolKind { Audio, Notes };

/// A file of the session's pool: what is known of it without opening it. `path` is relative to the session's
/// folder. Entries are only ever added, and are no matter of undo: each stays what it is, at its place in the
/// pool, as long as the session lives, so that whatever names it by that place means the same file.
struct PoolFile {
  std::string path;
  int channels = 1;
  Frames length;
  PoolKind kind = PoolKind::Audio;
  Unknown unknown = {};
  bool operator==(const PoolFile&) const = default;
};

/// One channel of one pool file.
struct ChannelSource {
  int file = 0;  // index into Session::pool
  int channel = 0;
  bool operator==(const ChannelSource&) const = default;
};

/// Material in a lane. Source frame 0 belongs at session frame `origin`; `window` is what is audible, the
/// rest of the extent are handles. One source for each channel of the track.
struct Clip {
  Frames origin;
  Frames sourceLength;
  Span window;  // session frames, within extent()
  std::vector<ChannelSource> channels;
  /// The source frames that belong to this take; none: all of them. A pass of a loop shares its source with
  /// the other passes, and what they played is no handle of this one.
  std::optional<Span> part = {};
  Unknown unknown = {};

  /// The session frames that the take has material for, handles included.
  [[nodiscard]] Span extent() const { return part.value_or(Span{Frames{}, sourceLength}).shifted(origin); }
  bool operator==(const Clip&) const = default;
};

/// Lanes are numbered from 1 in the order in which they were made; a number is never used again.
struct LaneNumber {
  int value = 0;
  constexpr auto operator<=>(const LaneNumber&) const = default;
};

/// What a lane shows of its take.
enum class LanePicture { Waveform, Onsets, Level, Pitch };

/// A spot in one take, marked while listening; it stays with the material.
struct TakeMark {
  Frames at;
  std::string text;
  Unknown unknown = {};
  bool operator==(const TakeMark&) const = default;
};

/// What a person thinks of a take in one phrase: the one that `at` lies in.
struct CellNote {
  Frames at;
  int rating = 0;  // 1 to 5; 0: none
  std::string note;
  bool chosenBlind = false;  // picked without knowing which take it was
  Unknown unknown = {};
  bool operator==(const CellNote&) const = default;
};

struct Lane {
  LaneNumber number;
  std::string name;
  std::vector<Clip> clips;  // in order of time, windows not overlapping
  bool setAside = false;    // an empty pass or a false start: kept, not shown among the takes, never played
                            // unless picked
  bool brokenOff = false;   // a pass that was stopped early: where nobody picked, a whole take plays instead
  bool flattened = false;   // rendered from a composite: no performance of its own
  std::vector<Clip> cutAway = {};  // what was cut out of it and can be given back: its windows are silent
  std::string note = {};
  int rating = 0;      // 1 to 5; 0: none
  int palette = 0;     // 1 to 8: its colour and mark; 0: by its number
  bool muted = false;  // silent where the composite plays it; heard where it is listened to
  Decibels gain = {};
  Cents pitch = {};
  LevelLine level = {};  // in session frames, moves with the take
  LanePicture picture = LanePicture::Waveform;
  std::vector<TakeMark> marks = {};  // in order of time
  std::vector<CellNote> cells = {};  // in order of time, no two at one place
  /// Which colour and mark it has, counted from 1 and round again.
  [[nodiscard]] int colour() const { return palette > 0 ? palette : number.value; }
  Unknown unknown = {};
  bool operator==(const Lane&) const = default;
};

/// A stretch of the composite that plays one lane, or silence where `lane` is empty.
struct Piece {
  Span span;
  std::optional<LaneNumber> lane;
  std::vector<LaneNumber> overdubs;  // heard together with `lane`
  Frames slip;                       // plays the lane this much later
  Decibels gain;
  Cents pitch;
  LevelLine level = {};  // rides it; in session frames, at its slip
  bool split = false;    // a person split the composite where it begins: it stays a piece of its own
  bool picked = true;    // false: nobody picked it, it is the newest lane with material
  bool rough = false;    // the rough composite picked it, not a person
  Unknown unknown = {};

  /// Heard in it, alone or together with others.
  [[nodiscard]] bool plays(LaneNumber number) const {
    return lane == number || std::find(overdubs.begin(), overdubs.end(), number) != overdubs.end();
  }
  bool operator==(const Piece&) const = default;
};

enum class Curve { EqualGain, EqualPower, S, Matched };

/// A crossfade over [at - before, at + after).
struct JoinShape {
  Frames before;
  Frames after;
  Curve curve = Curve::Matched;
  double bend = 0.0;  // -1 to 1: above 0 the incoming take rises early, below 0 late
  bool operator==(const JoinShape&) const = default;
};

/// What is known of the boundary at `at`, beside what every boundary has.
struct JoinSetting {
  Frames at;
  std::optional<JoinShape> shape = {};  // none: as made
  bool found = false;                   // the shape is of the search for the best place, not a person's
  bool settled = false;                 // a person has heard it, and it is well
  Unknown unknown = {};
  bool operator==(const JoinSetting&) const = default;
};

/// How the composite itself begins or ends; of no length: as it was played.
struct EndFade {
  Frames length;
  Curve curve = Curve::EqualPower;
  double bend = 0.0;
  bool operator==(const EndFade&) const = default;
};

/// What a person decided: picks, sorted and not overlapping, and joins, sorted. What plays where nothing was
/// picked is derived (core/session/resolved_composite.h).
struct Composite {
  SharedSequence<Piece> picks;
  SharedSequence<JoinSetting> joins;
  LevelLine level = {};  // rides all that plays
  EndFade fadeIn = {};
  EndFade fadeOut = {};
  bool operator==(const Composite&) const = default;
};

/// A composite that is not the one in use.
struct KeptComposite {
  std::string name;
  Composite composite;
  Unknown unknown = {};
  bool operator==(const KeptComposite&) const = default;
};

/// A microphone of a track: its own input, gain and pan. Lanes, composite and joins belong to the track, so
/// microphones of a set cannot be edited apart.
struct Microphone {
  std::string name;
  int input = 0;     // first device input, counted from 0
  int channels = 1;  // 1 mono, 2 stereo
  Decibels gain;
  Pan pan;
  Unknown unknown = {};
  bool operator==(const Microphone&) const = default;
};

/// When a player hears their own input.
enum class Monitoring {
  Off,
  Always,
  Automatic,  // only while it is recorded; else the track
};

/// MIDI tracks will hold notes in place of files; picks, pieces and history are the same.
enum class TrackKind { Audio, Midi };

struct TrackId {
  int value = 0;
  constexpr auto operator<=>(const TrackId&) const = default;
};

struct Track {
  TrackId id;
  std::string name;
  TrackKind kind = TrackKind::Audio;
  bool backing = false;  // plays its file; not meant for takes
  std::vector<Microphone> microphones;
  std::vector<Shared<Lane>> lanes;  // in the order shown
  int lanesMade = 0;
  Composite composite;        // the one in use
  std::string compositeName;  // of it; empty where there is only one
  std::vector<KeptComposite> keptComposites;
  std::vector<Span> phrases;  // set by a person, in order, not overlapping; the others are found
  PhraseRules phraseRules;    // how they are
  Decibels gain;
  Pan pan;
  bool armed = false;
  bool muted = false;
  bool soloed = false;
  Monitoring monitoring = Monitoring::Off;
  std::optional<LaneNumber> recordInto;  // passes go into this lane; none: each into a new one
  Unknown unknown = {};

  [[nodiscard]] int channels() const;
  [[nodiscard]] const Lane* lane(LaneNumber number) const;
  /// Of that lane; its number where it is not there.
  [[nodiscard]] int colourOf(LaneNumber number) const {
    const Lane* found = lane(number);
    return found ? found->colour() : number.value;
  }
  bool operator==(const Track&) const = default;
};

/// A punch span. Without an in it records from the roll's first recorded frame, without an out until the roll
/// ends.
struct Punch {
  std::optional<Frames> in;
  std::optional<Frames> out;
  /// The span with open ends as far away as positions go.
  [[nodiscard]] Span span() const { return {in.value_or(-maximumPosition), out.value_or(maximumPosition)}; }
  bool operator==(const Punch&) const = default;
};

enum class MarkerKind { Plain, Dropout };

struct Marker {
  Frames at;
  std::string name;
  MarkerKind kind = MarkerKind::Plain;
  Unknown unknown = {};
  bool operator==(const Marker&) const = default;
};

struct Session {
  std::string name;
  SampleRate rate;
  SampleFormat format = SampleFormat::Pcm24;
  TempoMap tempo;
  Shared<std::vector<PoolFile>> pool;
  std::vector<Shared<Track>> tracks;
  int tracksMade = 0;
  std::optional<Span> loop;
  std::vector<Punch> punches;   // in order, not overlapping
  std::vector<Marker> markers;  // in order of time
  RecordingOptions recording;
  Unknown unknown = {};

  [[nodiscard]] Ruler ruler() const { return {rate, tempo, recording.grid}; }
  [[nodiscard]] const Track* track(TrackId id) const;
  [[nodiscard]] const Track* trackNamed(const std::string& name) const;
  bool operator==(const Session&) const = default;
};

/// Throws Error with a sentence where the value breaks an invariant: unsorted or overlapping picks, clips
/// that name files not in the pool, windows outside their extent, positions beyond 2^53, an impossible rate.
void checkInvariants(const Session& session);
void checkRate(SampleRate rate);

/// From the first to the last audible frame of any lane of the track that is not set aside; empty where there
/// is none.
Span materialOf(const Track& track);
/// The same over all tracks.
Span materialOf(const Session& session);

}  // namespace yewdrift
