// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_delta.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/error.h"
#include "core/store/json_values.h"
#include "core/store/session_json.h"
#include "core/store/session_names.h"
#include "core/store/track_json.h"

namespace yewdrift {
namespace {

using nlohmann::json;
using Direction = HistoryStep::Direction;

[[noreturn]] void doesNotFit() {
  throw Error("A step of the history does not fit the session; it cannot be undone or redone.");
}

json pair(json was, json is) {
  return json::array({std::move(was), std::move(is)});
}

/// Which side of a change is there now, and which will be.
struct Sides {
  const json& now;
  const json& next;
};
Sides sidesOf(const json& change, Direction direction) {
  const json& was = element(change, 0);
  const json& is = element(change, 1);
  return direction == Direction::Forth ? Sides{was, is} : Sides{is, was};
}

// -- stretches of sequences

/// Where two sequences differ: [from, endBefore) of the one is [from, endAfter) of the other.
struct Stretch {
  std::size_t from = 0;
  std::size_t endBefore = 0;
  std::size_t endAfter = 0;
  [[nodiscard]] bool empty() const { return from == endBefore && from == endAfter; }
};

template <typename Sequence>
Stretch differing(const Sequence& before, const Sequence& after) {
  Stretch stretch{0, before.size(), after.size()};
  const std::size_t shorter = std::min(before.size(), after.size());
  auto a = before.begin();
  auto b = after.begin();
  while (stretch.from < shorter && *a == *b) ++stretch.from, ++a, ++b;
  auto c = before.end();
  auto d = after.end();
  while (stretch.endBefore > stretch.from && stretch.endAfter > stretch.from && *(c - 1) == *(d - 1)) {
    --stretch.endBefore;
    --stretch.endAfter;
    --c;
    --d;
  }
  return stretch;
}

template <typename Sequence>
json stretchJson(const Sequence& before, const Sequence& after) {
  const Stretch stretch = differing(before, after);
  if (stretch.empty()) return {};
  json was = json::array();
  for (std::size_t i = stretch.from; i < stretch.endBefore; ++i) was.push_back(toJson(before[i]));
  json is = json::array();
  for (std::size_t i = stretch.from; i < stretch.endAfter; ++i) is.push_back(toJson(after[i]));
  return {{"at", stretch.from}, {"change", pair(std::move(was), std::move(is))}};
}

/// Checks that what is to go is there, and calls `replace` with the stretch and what comes in its place.
template <typename Sequence, typename Read, typename Replace>
void applyStretch(const Sequence& sequence, const json& delta, Direction direction, Read read,
                  Replace replace) {
  const std::int64_t at = wholeNumber(member(delta, "at"));
  const Sides sides = sidesOf(member(delta, "change"), direction);
  const std::size_t count = list(sides.now).size();
  if (at < 0 || static_cast<std::size_t>(at) > sequence.size() ||
      count > sequence.size() - static_cast<std::size_t>(at))
    doesNotFit();
  const auto from = static_cast<std::size_t>(at);
  for (std::size_t i = 0; i < count; ++i)
    if (toJson(sequence[from + i]) != sides.now[i]) doesNotFit();
  std::vector<std::decay_t<decltype(read(sides.next))>> next;
  for (const json& each : list(sides.next)) next.push_back(read(each));
  replace(from, from + count, next);
}

template <typename T>
auto replacedIn(SharedSequence<T>& sequence) {
  return [&sequence](std::size_t from, std::size_t to, const std::vector<T>& next) {
    sequence = sequence.replaced(from, to, next);
  };
}

template <typename T>
auto replacedIn(std::vector<T>& sequence) {
  return [&sequence](std::size_t from, std::size_t to, const std::vector<T>& next) {
    const auto first = sequence.erase(sequence.begin() + static_cast<std::ptrdiff_t>(from),
                                      sequence.begin() + static_cast<std::ptrdiff_t>(to));
    sequence.insert(first, next.begin(), next.end());
  };
}

// -- lists of things that have a number of their own: lanes and tracks

int numberOf(const Lane& lane) {
  return lane.number.value;
}
int numberOf(const Track& track) {
  return track.id.value;
}

template <typename T>
json numbersOf(const std::vector<Shared<T>>& things) {
  json numbers = json::array();
  for (const auto& each : things) numbers.push_back(numberOf(*each));
  return numbers;
}

template <typename T>
const Shared<T>* find(const std::vector<Shared<T>>& things, int number) {
  for (const auto& each : things)
    if (numberOf(*each) == number) return &each;
  return nullptr;
}

/// What changed in a list: its order, and each thing that came, went, or is another.
template <typename T, typename Inner>
json listDelta(const std::vector<Shared<T>>& before, const std::vector<Shared<T>>& after, Inner inner) {
  json delta = json::object();
  json were = numbersOf(before);
  json are = numbersOf(after);
  if (were != are) delta["order"] = pair(std::move(were), std::move(are));
  json changes = json::array();
  for (const auto& each : before)
    if (!find(after, numberOf(*each)))
      changes.push_back({{"number", numberOf(*each)}, {"whole", pair(toJson(*each), nullptr)}});
  for (const auto& each : after) {
    const Shared<T>* const was = find(before, numberOf(*each));
    if (!was)
      changes.push_back({{"number", numberOf(*each)}, {"whole", pair(nullptr, toJson(*each))}});
    else if (!(*was == each))
      changes.push_back({{"number", numberOf(*each)}, {"inside", inner(**was, *each)}});
  }
  if (!changes.empty()) delta["changes"] = std::move(changes);
  return delta;
}

template <typename T, typename Read, typename Inner>
void applyList(std::vector<Shared<T>>& things, const json& delta, Direction direction, Read read,
               Inner inner) {
  if (delta.contains("changes"))
    for (const json& change : list(delta["changes"])) {
      const int number = smallNumber(member(change, "number"));
      const auto there = std::find_if(things.begin(), things.end(),
                                      [number](const auto& each) { return numberOf(*each) == number; });
      if (change.contains("whole")) {
        const Sides sides = sidesOf(change["whole"], direction);
        if (sides.now.is_null() == (there != things.end())) doesNotFit();
        if (there != things.end()) {
          if (toJson(**there) != sides.now) doesNotFit();
          things.erase(there);
        }
        if (!sides.next.is_null()) things.emplace_back(read(sides.next));
      } else {
        if (there == things.end()) doesNotFit();
        inner(there->edit(), member(change, "inside"));
      }
    }
  if (!delta.contains("order")) return;
  const json& order = list(sidesOf(delta["order"], direction).next);
  std::vector<Shared<T>> ordered;
  std::set<int> known;
  for (const json& number : order) {
    const Shared<T>* const each = find(things, smallNumber(number));
    if (!each || !known.insert(numberOf(**each)).second) doesNotFit();
    ordered.push_back(*each);
  }
  if (ordered.size() != things.size()) doesNotFit();
  things = std::move(ordered);
}

// -- inside of a lane, of a track

json insideLane(const Lane& before, const Lane& after) {
  json delta = json::object();
  json was = laneHead(before);
  json is = laneHead(after);
  if (was != is) delta["head"] = pair(std::move(was), std::move(is));
  if (json clips = stretchJson(before.clips, after.clips); !clips.is_null())
    delta["clips"] = std::move(clips);
  return delta;
}

void applyInsideLane(Lane& lane, const json& delta, Direction direction) {
  if (delta.contains("head")) {
    const Sides sides = sidesOf(delta["head"], direction);
    if (laneHead(lane) != sides.now) doesNotFit();
    Lane next = laneFromHead(sides.next);
    next.clips = std::move(lane.clips);
    lane = std::move(next);
  }
  if (delta.contains("clips"))
    applyStretch(lane.clips, delta["clips"], direction, clipFrom, replacedIn(lane.clips));
}

json insideTrack(const Track& before, const Track& after) {
  json delta = json::object();
  json was = trackHead(before);
  json is = trackHead(after);
  if (was != is) delta["head"] = pair(std::move(was), std::move(is));
  if (json lanes = listDelta(before.lanes, after.lanes, insideLane); !lanes.empty())
    delta["lanes"] = std::move(lanes);
  if (json picks = stretchJson(before.composite.picks, after.composite.picks); !picks.is_null())
    delta["picks"] = std::move(picks);
  if (json joins = stretchJson(before.composite.joins, after.composite.joins); !joins.is_null())
    delta["joins"] = std::move(joins);
  if (before.composite.level != after.composite.level)
    delta["level"] = pair(levelJson(before.composite.level), levelJson(after.composite.level));
  if (endFadesJson(before.composite) != endFadesJson(after.composite))
    delta["fades"] = pair(endFadesJson(before.composite), endFadesJson(after.composite));
  if (before.keptComposites != after.keptComposites)
    delta["composites"] = pair(keptCompositesJson(before), keptCompositesJson(after));
  return delta;
}

void applyInsideTrack(Track& track, const json& delta, Direction direction) {
  if (delta.contains("head")) {
    const Sides sides = sidesOf(delta["head"], direction);
    if (trackHead(track) != sides.now) doesNotFit();
    Track next = trackFromHead(sides.next);
    next.lanes = std::move(track.lanes);
    next.composite = std::move(track.composite);
    next.keptComposites = std::move(track.keptComposites);
    track = std::move(next);
  }
  if (delta.contains("lanes"))
    applyList(track.lanes, delta["lanes"], direction, laneFrom,
              [direction](Lane& lane, const json& inside) { applyInsideLane(lane, inside, direction); });
  auto& composite = track.composite;
  if (delta.contains("picks"))
    applyStretch(composite.picks, delta["picks"], direction, pieceFrom, replacedIn(composite.picks));
  if (delta.contains("joins"))
    applyStretch(composite.joins, delta["joins"], direction, joinFrom, replacedIn(composite.joins));
  if (delta.contains("level")) {
    const Sides sides = sidesOf(delta["level"], direction);
    if (levelJson(composite.level) != sides.now) doesNotFit();
    composite.level = levelLineFrom(sides.next);
  }
  if (delta.contains("fades")) {
    const Sides sides = sidesOf(delta["fades"], direction);
    if (endFadesJson(composite) != sides.now) doesNotFit();
    readEndFades(composite, sides.next);
  }
  if (delta.contains("composites")) {
    const Sides sides = sidesOf(delta["composites"], direction);
    if (keptCompositesJson(track) != sides.now) doesNotFit();
    track.keptComposites = keptCompositesFrom(sides.next);
  }
}

/// The session but for what lists hold, and for what undo leaves alone.
json sessionHead(const Session& session) {
  json head{{"name", session.name},
            {"rate", session.rate.hertz},
            {"format", nameOf(session.format)},
            {"tempo", toJson(session.tempo)},
            {"tracksMade", session.tracksMade},
            {"loop", session.loop ? spanJson(*session.loop) : json()},
            {"punches", toJson(session.punches)}};
  addUnknown(head, session.unknown);
  return head;
}

bool sameHead(const Session& a, const Session& b) {
  return a.name == b.name && a.rate == b.rate && a.format == b.format && a.tempo == b.tempo &&
         a.tracksMade == b.tracksMade && a.loop == b.loop && a.punches == b.punches && a.unknown == b.unknown;
}

}  // namespace

json sessionDelta(const Session& before, const Session& after) {
  json delta = json::object();
  if (!sameHead(before, after)) {
    // Of the head, only the members that differ.
    json was = sessionHead(before);
    json is = sessionHead(after);
    const json all = was;
    for (const auto& [key, value] : all.items())
      if (is.contains(key) && is[key] == value) {
        was.erase(key);
        is.erase(key);
      }
    delta["head"] = pair(std::move(was), std::move(is));
  }
  if (json tracks = listDelta(before.tracks, after.tracks, insideTrack); !tracks.empty())
    delta["tracks"] = std::move(tracks);
  if (json markers = stretchJson(before.markers, after.markers); !markers.is_null())
    delta["markers"] = std::move(markers);
  return delta;
}

Session applyDelta(const Session& from, const json& delta, Direction direction) {
  Session session = from;
  if (delta.contains("head")) {
    const Sides sides = sidesOf(delta["head"], direction);
    json head = sessionHead(session);
    for (const auto& [key, value] : sides.now.items()) {
      if (!head.contains(key) || head[key] != value) doesNotFit();
      head.erase(key);
    }
    for (const auto& [key, value] : sides.next.items()) head[key] = value;
    session.name = text(member(head, "name"));
    session.rate = {smallNumber(member(head, "rate"))};
    session.format = sampleFormatNamed(text(member(head, "format")));
    session.tempo = tempoFrom(member(head, "tempo"));
    session.tracksMade = smallNumber(member(head, "tracksMade"));
    session.loop.reset();
    if (const json& loop = member(head, "loop"); !loop.is_null()) session.loop = spanFrom(loop);
    session.punches = punchesFrom(member(head, "punches"));
    session.unknown = unknownIn(head, {"name", "rate", "format", "tempo", "tracksMade", "loop", "punches"});
  }
  if (delta.contains("tracks"))
    applyList(session.tracks, delta["tracks"], direction, trackFrom,
              [direction](Track& track, const json& inside) { applyInsideTrack(track, inside, direction); });
  if (delta.contains("markers"))
    applyStretch(session.markers, delta["markers"], direction, markerFrom, replacedIn(session.markers));
  return session;
}

}  // namespace yewdrift
