// SPDX-License-Identifier: GPL-3.0-or-later
//
// Tracks that come, go and change places; takes that become tracks and tracks that become takes; microphones
// that become a set and tracks of their own. Pure, as all edits (edit.h).
#pragma once

#include "core/edit/edit.h"

namespace yewdrift {

/// The track with all its takes goes; its files stay in the pool.
Session removeTrack(Session session, TrackId track);
/// It becomes the `place`-th, counted from 1; at most the last.
Session placeTrack(Session session, TrackId track, int place);
/// A track like it, behind it, with a name of its own; not armed. It is the one with the highest id.
Session duplicateTrack(Session session, TrackId track);
/// A name that no track has: `wanted`, or that with a number behind it.
std::string freeTrackName(const Session& session, const std::string& wanted);

/// A take that becomes a track of its own, and where that lies.
struct SpreadTake {
  LaneNumber lane;
  Pan pan;
  bool operator==(const SpreadTake&) const = default;
};
/// The takes of the track that are not set aside (or of them those in `only`), from left to right by `width`:
/// 0 all in the middle, 1 hard left to hard right. Throws where there is none, or the width is another.
std::vector<SpreadTake> spreadEvenly(const Track& track, double width,
                                     const std::vector<LaneNumber>& only = {});
/// Each of these takes becomes a track of its own as well, behind the track, which keeps its takes and its
/// composite. Where that plays nothing but these takes it is muted, since they are heard by themselves.
/// Throws where there is no take.
Session spreadTakes(Session session, TrackId track, const std::vector<SpreadTake>& takes);
/// The lanes of other tracks become lanes of the track, in their order; those tracks go. A mono take plays on
/// all channels of the track. Throws where channels do not go together.
Session absorbTracks(Session session, TrackId track, const std::vector<TrackId>& from);
/// Tracks whose takes lie at the same places become one track with all their microphones; composite, joins
/// and names are the first one's. Throws where they differ in number or place of takes.
Session gatherMicrophones(Session session, TrackId track, const std::vector<TrackId>& from);
/// The other way round: each microphone but the first becomes a track of its own, with the same composite.
/// Throws where there is only one.
Session separateMicrophones(Session session, TrackId track);

}  // namespace yewdrift
