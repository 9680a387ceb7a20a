// SPDX-License-Identifier: GPL-3.0-or-later
//
// Edits: pure functions from one session to the next. Each throws Error with a sentence and then has done
// nothing. Cost grows with what is touched, not with the size of the session.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// The track of that id or name; throws Error where there is none.
const Track& requireTrack(const Session& session, TrackId id);
const Track& requireTrack(const Session& session, const std::string& name);
const Lane& requireLane(const Track& track, LaneNumber number);

// -- tracks and lanes

/// What a new track for that many channels records with: one mono or stereo microphone, or a set of mono
/// ones.
std::vector<Microphone> microphonesFor(int channels);
/// Adds a track with a name of its own and returns its id through the session's last track.
Session addTrack(Session session, std::string name, std::vector<Microphone> microphones,
                 bool backing = false);
/// Makes a mono track stereo; its mono material plays on both sides. Throws for mic sets.
Session widenToStereo(Session session, TrackId track);
/// Adds a file to the pool and returns the session; the new file's index is pool size - 1.
Session addPoolFile(Session session, PoolFile file);
/// Adds a lane holding `clips`; an empty name becomes "Take N".
Session addLane(Session session, TrackId track, std::vector<Clip> clips, std::string name = {});
/// Adds a lane that plays the whole file from `at`: one channel of it for each of the track's. A mono file
/// plays on both sides of a stereo track, a stereo file makes a mono track stereo. Throws where they do not
/// go together.
Session addFileAsLane(Session session, TrackId track, const PoolFile& file, Frames at, std::string name);
Session setTrackMix(Session session, TrackId track, Decibels gain, Pan pan);
enum class TrackSwitch { Arm, Mute, Solo };
Session setTrackSwitch(Session session, TrackId track, TrackSwitch which, bool on);

// -- spans

/// Loops shorter than this would be a tone, not a phrase, and are refused.
inline constexpr Frames shortestLoop{64};
Session setLoop(Session session, std::optional<Span> loop);
Session setPunches(Session session, std::vector<Span> punches);

// -- composite

/// From now on `span` plays `lane`, or silence. Throws where the lane is not there or the span is empty.
Session pick(Session session, TrackId track, Span span, std::optional<LaneNumber> lane);
/// `span` plays `lane` together with what it played before.
Session overdub(Session session, TrackId track, Span span, LaneNumber lane);
/// Moves the boundary at `at`: one piece gives, the other takes. Goes no further than the taking piece has
/// material, handles included, and never past the next boundary. The join moves along.
Session moveBoundary(Session session, TrackId track, Frames at, Frames to);
/// Where that boundary would end up.
Frames reachableBoundary(const Session& session, TrackId track, Frames at, Frames to);
/// Sets the crossfade of the boundary at `at`.
Session setJoin(Session session, TrackId track, Frames at, JoinShape shape);
/// Pulls the audible window of the clip nearest to `span` out to it, or in, as far as its handles and its
/// neighbours in the lane allow.
Session pullWindow(Session session, TrackId track, LaneNumber lane, Span span);
/// The composite plays `flattened` from its first to its last frame; earlier picks and joins go.
Session takePlaceOfComposite(Session session, TrackId track, PoolFile flattened, Frames origin);

}  // namespace yewdrift
