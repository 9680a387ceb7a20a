// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/line_up_takes.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/take_analysis.h"
#include "core/error.h"
#include "core/signal/onsets.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

Span endsOf(const Lane& lane) {
  return {lane.clips.front().window.start, lane.clips.back().window.end};
}

}  // namespace

LineUp lineUpTakes(const Session& session, const Track& track, const Lane& take, const Lane& reference,
                   std::optional<Span> span, Frames within, SampleSource& source,
                   const std::atomic<bool>* cancelled) {
  if (take.number == reference.number) throw Error("A take is lined up to another one, not to itself.");
  if (take.clips.empty() || reference.clips.empty()) throw Error("One of the two takes holds nothing.");
  const Span both{std::min(endsOf(take).start, endsOf(reference).start),
                  std::max(endsOf(take).end, endsOf(reference).end)};
  const Span compared = span.value_or(both).intersect(both);
  const auto heard = [&](const Lane& lane) {
    return ReadSignal{compared.length(), [&, &lane = lane](Span part) {
                        return takeSamples(track, lane,
                                           {compared.start + part.start, compared.start + part.end}, source,
                                           cancelled);
                      }};
  };
  return lineUp(heard(reference), heard(take), within, session.rate, cancelled);
}

LineUp lineUpToGrid(const Session& session, const Track& track, const Lane& take, std::optional<Span> span,
                    Frames within, SampleSource& source, const std::atomic<bool>* cancelled) {
  if (take.clips.empty()) throw Error("The take holds nothing.");
  const Span compared = span.value_or(endsOf(take)).intersect(endsOf(take));
  OnsetFinder finder(session.rate);
  for (const Span part : SpanParts(compared, {1 << 18})) {
    finder.add(takeSamples(track, take, part, source, cancelled));
    if (cancelled && *cancelled) return {};
  }
  std::vector<Frames> onsets = finder.finish();
  for (Frames& at : onsets) at += compared.start;
  const Ruler ruler = session.ruler();
  const int divisions = std::max(1, session.recording.divisions);
  return lineUpOnsets(
      onsets, [&](Frames at) { return ruler.tempo.nearestDivision(at, divisions, ruler.rate); }, within);
}

}  // namespace yewdrift
