// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/snapping.h"

#include <algorithm>
#include <array>

namespace yewdrift::app {
namespace {

Frames nearestEdge(const std::vector<Span>& phrases, Frames at) {
  Frames nearest = at;
  Frames distance = maximumPosition;
  for (const Span phrase : phrases)
    for (const Frames edge : {phrase.start, phrase.end})
      if (const Frames away{std::abs((edge - at).count)}; away < distance) {
        distance = away;
        nearest = edge;
      }
  return nearest;
}

}  // namespace

Frames snapped(const Session& session, Frames at, const SnapMaterial& material) {
  const RecordingOptions& options = session.recording;
  const bool musical =
      options.snap == Snap::Bar || options.snap == Snap::Beat || options.snap == Snap::Division;
  if (musical && !options.grid) return at;  // nobody snaps to what they do not see
  switch (options.snap) {
    case Snap::Bar:
      return session.tempo.nearestBar(at, session.rate);
    case Snap::Beat:
      return session.tempo.nearestBeat(at, session.rate);
    case Snap::Division:
      return session.tempo.nearestDivision(at, options.divisions, session.rate);
    case Snap::PhraseEdge:
      return nearestEdge(material.phrases(), at);
    case Snap::ZeroCrossing:
      return material.nearestZeroCrossing(at);
    case Snap::Off:
      break;
  }
  return at;
}

Frames drawnTo(Frames at, const std::vector<Frames>& places, Frames reach) {
  Frames nearest = at;
  for (const Frames place : places)
    if (const std::int64_t away = std::abs((place - at).count); away <= reach.count) {
      reach = Frames{away};
      nearest = place;
    }
  return nearest;
}

Snap neighbourSnap(Snap now, int direction) {
  constexpr std::array coarseToFine{Snap::PhraseEdge, Snap::Bar,          Snap::Beat,
                                    Snap::Division,   Snap::ZeroCrossing, Snap::Off};
  const auto index = std::find(coarseToFine.begin(), coarseToFine.end(), now) - coarseToFine.begin();
  const auto next = std::clamp<std::ptrdiff_t>(index + direction, 0, std::ssize(coarseToFine) - 1);
  return coarseToFine[static_cast<std::size_t>(next)];
}

}  // namespace yewdrift::app
