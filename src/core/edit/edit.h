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
/// The first input, counted from 0, that no track records from; backing tracks record from none.
int firstFreeInput(const Session& session);
/// Adds a track with a name of its own and returns its id through the session's last track.
Session addTrack(Session session, std::string name, std::vector<Microphone> microphones,
                 bool backing = false);
/// Adds a file to the pool and returns the session; the new file's index is pool size - 1.
Session addPoolFile(Session session, PoolFile file);
/// Adds a lane holding `clips`; an empty name becomes "Take N".
Session addLane(Session session, TrackId track, std::vector<Clip> clips, std::string name = {});
/// Adds a lane that plays the whole file from `at`: one channel of it for each of the track's, or its only
/// channel on all of them. What the track records stays as it is. Throws where they do not go together.
Session addFileAsLane(Session session, TrackId track, const PoolFile& file, Frames at, std::string name);
Session setTrackMix(Session session, TrackId track, Decibels gain, Pan pan);
enum class TrackSwitch { Arm, Mute, Solo };
Session setTrackSwitch(Session session, TrackId track, TrackSwitch which, bool on);
Session renameTrack(Session session, TrackId track, std::string name);
Session setMonitoring(Session session, TrackId track, Monitoring monitoring);
/// Inputs, names, gains and pans of a track's microphones. Once it has lanes, their number and channels stay.
Session setMicrophones(Session session, TrackId track, std::vector<Microphone> microphones);
/// Passes go into that lane; none: each into a new one.
Session setRecordInto(Session session, TrackId track, std::optional<LaneNumber> lane);

/// Puts clips into a lane in place of what it plays under their windows; older clips keep the rest.
Session placeInLane(Session session, TrackId track, LaneNumber lane, const std::vector<Clip>& clips);
/// Set aside, a lane stays but is not shown among the takes, and plays only where it was picked.
Session setLaneAside(Session session, TrackId track, LaneNumber lane, bool aside);
/// Broken off, a lane plays only where it was picked, and where no whole lane has material.
Session setLaneBrokenOff(Session session, TrackId track, LaneNumber lane, bool brokenOff);
/// The lane and its picks go; its files stay in the pool.
Session removeLane(Session session, TrackId track, LaneNumber lane);
/// The lane is set aside and out of the composite: there plays what plays where nobody picked.
Session withdrawLane(Session session, TrackId track, LaneNumber lane);
/// From `at` on the lane is silent: windows end there, its picks too. What it holds stays in the handles.
Session endLaneAt(Session session, TrackId track, LaneNumber lane, Frames at);

// -- tempo: a loop both of whose edges lie on bar lines or beats goes along with them. What lies in the time
// of takes (punches, markers, phrases) stays where it is.

Session setTempo(Session session, TempoMap tempo);
/// From that bar on; replaces a change that stands there.
Session setTempoChange(Session session, TempoChange change);
/// Throws for bar 1, where a tempo has to be.
Session removeTempoChange(Session session, int bar);

// -- markers

Session addMarker(Session session, Frames at, std::string name, MarkerKind kind = MarkerKind::Plain);
Session renameMarker(Session session, std::size_t index, std::string name);
Session removeMarkers(Session session, const std::vector<std::size_t>& indices);

// -- spans

/// Loops shorter than this would be a tone, not a phrase, and are refused.
inline constexpr Frames shortestLoop{64};
Session setLoop(Session session, std::optional<Span> loop);
/// The loop with so many bars more before it and behind it, as far as the session's start allows.
Session widenLoop(Session session, double barsBefore, double barsBehind);
/// The whole bars that a stretch of music lies in. An edge within a quarter of a beat of a bar line is meant
/// to lie on it: players begin a little early and end a little late.
Span wholeBars(const Session& session, Span span);
Session setPunches(Session session, std::vector<Punch> punches);
/// Adds a punch span; those it touches become one with it.
Session addPunch(Session session, Span span);
/// A punch-in alone, or a punch-out alone: joins the open end of a punch that waits for one.
Session punchInAt(Session session, Frames at);
Session punchOutAt(Session session, Frames at);
/// Checked; not a step of the history (see History).
Session setRecordingOptions(Session session, const RecordingOptions& options);

// -- composite

/// What of a lane a pick takes: what is audible of it, or its handles too.
enum class PickReach { Audible, Handles };
/// From now on `span` plays `lane`, or silence. Where the lane has nothing within that reach the composite
/// keeps what it plays (spansWithout()); handles that are taken become audible. Throws where the lane is not
/// there or has nothing at all in the span, and where that is empty.
Session pick(Session session, TrackId track, Span span, std::optional<LaneNumber> lane,
             PickReach reach = PickReach::Audible);
/// `span` plays `lane` together with what it played before.
Session overdub(Session session, TrackId track, Span span, LaneNumber lane);
/// Moves the boundary at `at`: one piece gives, the other takes. Goes no further than the taking piece has
/// material, handles included, and never past the next boundary. The join moves along.
Session moveBoundary(Session session, TrackId track, Frames at, Frames to);
/// The same, but throws Error where the boundary cannot lie at `to`; the sentence says how far it can go.
Session moveBoundaryExactly(Session session, TrackId track, Frames at, Frames to);
/// Where that boundary would end up.
Frames reachableBoundary(const Session& session, TrackId track, Frames at, Frames to);
/// Sets the crossfade of the boundary at `at`; as `found` by the search for the best place, or by a person.
Session setJoin(Session session, TrackId track, Frames at, const JoinShape& shape, bool found = false);
/// What is given, of many crossfades at once.
struct JoinChange {
  std::optional<Frames> before{};
  std::optional<Frames> after{};
  std::optional<Curve> curve{};
  std::optional<double> bend{};
};
/// Of every join of the track (in `span` where there is one), but for those that are settled.
Session changeJoins(Session session, TrackId track, const JoinChange& change, std::optional<Span> span = {});
/// A person has heard it, and it is well; or it is to be looked at again.
Session settleJoin(Session session, TrackId track, Frames at, bool settled);
/// The join is as made.
Session resetJoin(Session session, TrackId track, Frames at);
/// How the composite begins or ends.
enum class CompositeEnd { Start, End };
Session setEndFade(Session session, TrackId track, CompositeEnd end, const EndFade& fade);
/// Pulls the audible window of the clip nearest to `span` out to it, or in, as far as its handles and its
/// neighbours in the lane allow.
Session pullWindow(Session session, TrackId track, LaneNumber lane, Span span);
/// True where a track's composite is the same in both, to the sample: pieces, joins, and what their lanes
/// hold.
bool sameComposite(const Session& a, const Session& b, TrackId track);
/// Over `span` the track plays what the composite `before` plays there, as far as its lanes are still there.
Session playAsIn(Session session, TrackId track, const Composite& before, Span span);
/// What becomes of the other lanes when a composite is flattened.
enum class OtherLanes { Keep, Archive, Remove };
/// The composite plays `flattened`, which was made of all of it and whose first frame lies at `origin`, as
/// far as it played anything, silence too; earlier picks and joins go.
Session takePlaceOfComposite(Session session, TrackId track, PoolFile flattened, Frames origin,
                             OtherLanes others = OtherLanes::Keep);
/// Over `span` the composite plays `flattened`, which was made of it there and whose first frame lies at
/// `origin`; what it holds beyond the span are handles. The joins at the edges of the span stay as they are.
/// Where an edge lies inside a piece nothing fades, since the file goes on as what it was made of.
Session takePlaceInComposite(Session session, TrackId track, PoolFile flattened, Frames origin, Span span);
/// Throws Error where a stretch of the composite cannot be flattened, since the composite's own level or
/// fades would be heard twice.
void requireFlattenableInPart(const Track& track);

}  // namespace yewdrift
