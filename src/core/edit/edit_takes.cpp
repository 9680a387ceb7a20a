// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/edit_takes.h"

#include <algorithm>

#include "core/edit/checked_values.h"
#include "core/edit/edit_access.h"
#include "core/edit/lane_clips.h"
#include "core/error.h"
#include "core/session/limits.h"

namespace yewdrift {
namespace {

std::string checkedText(const std::string& text) {
  if (text.size() > limits::textBytes) throw Error("A text can have %1 bytes at most.", limits::textBytes);
  if (!isReadable(text)) throw Error("That text is not readable (it is no UTF-8).");
  return text;
}

int checkedRating(int rating) {
  if (rating < 0 || rating > limits::highestRating)
    throw Error("A rating is 0 (none) to %1.", limits::highestRating);
  return rating;
}

void checkNudge(const Lane& lane, Frames by) {
  for (const Clip& clip : lane.clips)
    for (const Frames at : {clip.origin + by, clip.window.start + by, clip.window.end + by})
      if (at > maximumPosition || at < -maximumPosition)
        throw Error("That would move the take out of the session.");
}

/// The phrases a person set, with others in place of those that `span` touches.
void setPhrases(Track& track, Span span, const std::vector<Span>& phrases) {
  std::erase_if(track.phrases, [span](Span each) { return each.overlaps(span); });
  track.phrases.insert(track.phrases.end(), phrases.begin(), phrases.end());
  std::ranges::sort(track.phrases, {}, &Span::start);
  if (track.phrases.size() > limits::phrases)
    throw Error("There are more phrases than there can be (%1).", limits::phrases);
}

/// The phrase that ends at an edge, and the one that begins there: indices, or size() where there is none.
struct EdgeOf {
  std::size_t ending;
  std::size_t beginning;
};
EdgeOf phrasesAt(std::span<const Phrase> phrases, Frames edge) {
  EdgeOf found{phrases.size(), phrases.size()};
  for (std::size_t i = 0; i < phrases.size(); ++i) {
    if (phrases[i].span.end == edge) found.ending = i;
    if (phrases[i].span.start == edge) found.beginning = i;
  }
  return found;
}

}  // namespace

Session changeLane(Session session, TrackId id, LaneNumber number, const LaneChange& change) {
  Lane& lane = editLane(editTrack(session, id), number);
  if (change.name) {
    if (change.name->empty()) throw Error("A lane needs a name.");
    lane.name = checkedText(*change.name);
  }
  if (change.note) lane.note = checkedText(*change.note);
  if (change.rating) lane.rating = checkedRating(*change.rating);
  if (change.palette) {
    if (*change.palette < 0 || *change.palette > limits::palettes)
      throw Error("A colour is 1 to %1, or 0 for the one of the lane's number.", limits::palettes);
    lane.palette = *change.palette;
  }
  if (change.muted) lane.muted = *change.muted;
  if (change.gain) lane.gain = checkedGain(*change.gain);
  if (change.pitch) lane.pitch = checkedPitch(*change.pitch);
  if (change.picture) lane.picture = *change.picture;
  return session;
}

Session placeLane(Session session, TrackId id, LaneNumber number, int place) {
  requireLane(requireTrack(session, id), number);
  if (place < 1) throw Error("Lanes are shown from the first on: a place is 1 or more.");
  auto& lanes = editTrack(session, id).lanes;
  const auto found =
      std::find_if(lanes.begin(), lanes.end(), [number](const auto& lane) { return lane->number == number; });
  const Shared<Lane> lane = *found;
  lanes.erase(found);
  // Those set aside are shown apart, and do not count.
  auto before = lanes.begin();
  for (int shown = 0; before != lanes.end(); ++before)
    if (!(*before)->setAside && ++shown == place) break;
  lanes.insert(before, lane);
  return session;
}

Session nudgeLane(Session session, TrackId id, LaneNumber number, Frames by) {
  if (by > maximumPosition || by < -maximumPosition)
    throw Error("That would move the take out of the session.");
  Lane& lane = editLane(editTrack(session, id), number);
  checkNudge(lane, by);
  for (auto* clips : {&lane.clips, &lane.cutAway})
    for (Clip& clip : *clips) {
      clip.origin += by;
      clip.window = clip.window.shifted(by);
    }
  for (TakeMark& mark : lane.marks) mark.at += by;
  for (CellNote& cell : lane.cells) cell.at += by;
  lane.level = shifted(std::move(lane.level), by);
  return session;
}

Session cutLane(Session session, TrackId id, LaneNumber number, Span span) {
  if (span.empty()) throw Error("That span is empty: its end must lie after its start.");
  Lane& lane = editLane(editTrack(session, id), number);
  std::vector<Clip> kept;
  bool cut = false;
  for (const Clip& clip : lane.clips) {
    const Span gone = clip.window.intersect(span);
    if (gone.empty()) {
      kept.push_back(clip);
      continue;
    }
    cut = true;
    lane.cutAway.push_back(partOf(clip, gone));
    for (const Span part : {Span{clip.window.start, gone.start}, Span{gone.end, clip.window.end}})
      if (!part.empty()) kept.push_back(partOf(clip, part));
  }
  if (!cut) throw Error("Lane %1 is silent there already.", number.value);
  lane.clips = std::move(kept);
  mergeMeeting(lane.cutAway);
  return session;
}

Session restoreLane(Session session, TrackId id, LaneNumber number, Span span) {
  if (span.empty()) throw Error("That span is empty: its end must lie after its start.");
  Lane& lane = editLane(editTrack(session, id), number);
  std::vector<Clip> left;
  bool restored = false;
  for (const Clip& clip : lane.cutAway) {
    const Span back = clip.window.intersect(span);
    if (back.empty()) {
      left.push_back(clip);
      continue;
    }
    for (const Span part : {Span{clip.window.start, back.start}, Span{back.end, clip.window.end}})
      if (!part.empty()) left.push_back(partOf(clip, part));
    // Where something else was placed meanwhile, that stays.
    for (const Span silent : silentIn(lane.clips, back)) {
      lane.clips.push_back(partOf(clip, silent));
      sortByTime(lane.clips);
      restored = true;
    }
  }
  if (!restored) throw Error("Nothing was cut out of lane %1 there.", number.value);
  lane.cutAway = std::move(left);
  mergeMeeting(lane.clips);
  return session;
}

LevelLine withPoint(LevelLine line, LevelPoint point) {
  const auto there = std::ranges::lower_bound(line, point.at, {}, &LevelPoint::at);
  if (there != line.end() && there->at == point.at)
    there->gain = point.gain;
  else
    line.insert(there, point);
  return line;
}

Session setLevel(Session session, TrackId id, std::optional<LaneNumber> number, const LevelLine& line) {
  LevelLine checked = checkedLevel(line);
  Track& track = editTrack(session, id);
  if (number)
    editLane(track, *number).level = std::move(checked);
  else
    track.composite.level = std::move(checked);
  return session;
}

Session markTake(Session session, TrackId id, LaneNumber number, Frames at, std::string text) {
  if (at > maximumPosition || at < -maximumPosition) throw Error("That position lies outside the session.");
  Lane& lane = editLane(editTrack(session, id), number);
  text = checkedText(text);
  const auto there = std::ranges::lower_bound(lane.marks, at, {}, &TakeMark::at);
  if (there != lane.marks.end() && there->at == at)
    there->text = std::move(text);
  else
    lane.marks.insert(there, TakeMark{at, std::move(text), {}});
  if (lane.marks.size() > limits::markers) throw Error("A take can have %1 marks at most.", limits::markers);
  return session;
}

Session removeTakeMark(Session session, TrackId id, LaneNumber number, std::size_t index) {
  Lane& lane = editLane(editTrack(session, id), number);
  if (index >= lane.marks.size()) throw Error("There is no such mark in lane %1.", number.value);
  lane.marks.erase(lane.marks.begin() + static_cast<std::ptrdiff_t>(index));
  return session;
}

namespace {

/// What is noted of the lane in that phrase, or nothing yet.
CellNote cellFor(const Lane& lane, const Phrase& phrase) {
  const CellNote* found = cellOf(lane, phrase);
  return found ? *found
               : CellNote{phrase.span.start + Frames{phrase.span.length().count / 2}, 0, {}, false, {}};
}

/// In its place; one that says nothing goes.
void putCell(Lane& lane, const CellNote& cell) {
  std::erase_if(lane.cells, [&](const CellNote& each) { return each.at == cell.at; });
  if (cell.rating != 0 || !cell.note.empty() || cell.chosenBlind)
    lane.cells.insert(std::ranges::upper_bound(lane.cells, cell.at, {}, &CellNote::at), cell);
}

}  // namespace

Session changeCell(Session session, TrackId id, LaneNumber number, const Phrase& phrase,
                   std::optional<int> rating, const std::optional<std::string>& note) {
  Lane& lane = editLane(editTrack(session, id), number);
  CellNote cell = cellFor(lane, phrase);
  if (rating) cell.rating = checkedRating(*rating);
  if (note) cell.note = checkedText(*note);
  putCell(lane, cell);
  return session;
}

Session noteChosenBlind(Session session, TrackId id, LaneNumber number, const Phrase& phrase) {
  Track& track = editTrack(session, id);
  requireLane(track, number);
  std::vector<LaneNumber> lanes;
  for (const auto& lane : track.lanes) {
    const CellNote* cell = cellOf(*lane, phrase);
    if (lane->number == number || (cell && cell->chosenBlind)) lanes.push_back(lane->number);
  }
  for (const LaneNumber each : lanes) {
    Lane& lane = editLane(track, each);
    CellNote cell = cellFor(lane, phrase);
    cell.chosenBlind = each == number;
    putCell(lane, cell);
  }
  return session;
}

Frames nearestPhraseEdge(std::span<const Phrase> phrases, Frames at) {
  if (phrases.empty()) throw Error("There are no phrases yet.");
  std::vector<Frames> edges;
  for (const Phrase& phrase : phrases) edges.insert(edges.end(), {phrase.span.start, phrase.span.end});
  return *std::ranges::min_element(edges, {}, [at](Frames edge) { return std::abs((edge - at).count); });
}

Session addPhraseEdge(Session session, TrackId id, std::span<const Phrase> phrases, Frames at) {
  Track& track = editTrack(session, id);
  const auto phrase = std::find_if(phrases.begin(), phrases.end(),
                                   [at](const Phrase& each) { return each.span.contains(at); });
  if (phrase == phrases.end()) throw Error("There is no phrase at that place to be cut in two.");
  if (phrase->span.start == at) throw Error("The phrase begins there already.");
  setPhrases(track, phrase->span, {{phrase->span.start, at}, {at, phrase->span.end}});
  return session;
}

Session removePhraseEdge(Session session, TrackId id, std::span<const Phrase> phrases, Frames at) {
  Track& track = editTrack(session, id);
  const Frames edge = nearestPhraseEdge(phrases, at);
  const EdgeOf found = phrasesAt(phrases, edge);
  const std::size_t left = found.ending < phrases.size() ? found.ending
                           : found.beginning > 0         ? found.beginning - 1
                                                         : phrases.size();
  if (left + 1 >= phrases.size())
    throw Error("That is the outer edge of the phrases; only an edge between two of them can go.");
  const Span both{phrases[left].span.start, phrases[left + 1].span.end};
  setPhrases(track, both, {both});
  return session;
}

Frames reachablePhraseEdge(std::span<const Phrase> phrases, SampleRate rate, Frames at, Frames to) {
  const EdgeOf found = phrasesAt(phrases, at);
  const Frames least = framesFromSeconds(0.010, rate);
  Frames from = -maximumPosition;
  Frames until = maximumPosition;
  if (found.ending < phrases.size()) {
    from = std::min(at, phrases[found.ending].span.start + least);
    if (found.beginning == phrases.size() && found.ending + 1 < phrases.size())
      until = phrases[found.ending + 1].span.start;
  }
  if (found.beginning < phrases.size()) {
    until = std::max(at, phrases[found.beginning].span.end - least);
    if (found.ending == phrases.size() && found.beginning > 0) from = phrases[found.beginning - 1].span.end;
  }
  return std::clamp(to, from, until);
}

Session movePhraseEdge(Session session, TrackId id, std::span<const Phrase> phrases, Frames at, Frames to) {
  Track& track = editTrack(session, id);
  const Frames edge = nearestPhraseEdge(phrases, at);
  const Frames there = reachablePhraseEdge(phrases, session.rate, edge, to);
  const EdgeOf found = phrasesAt(phrases, edge);
  std::vector<Span> moved;
  Span touched{maximumPosition, -maximumPosition};
  if (found.ending < phrases.size()) {
    const Span was = phrases[found.ending].span;
    moved.push_back({was.start, there});
    touched = {was.start, std::max(was.end, there)};
  }
  if (found.beginning < phrases.size()) {
    const Span was = phrases[found.beginning].span;
    moved.push_back({there, was.end});
    touched = {std::min({touched.start, was.start, there}), std::max(touched.end, was.end)};
  }
  setPhrases(track, touched, moved);
  return session;
}

Session forgetPhrases(Session session, TrackId id) {
  editTrack(session, id).phrases.clear();
  return session;
}

Session setPhraseRules(Session session, TrackId id, const PhraseRules& rules) {
  for (const double seconds : {rules.shortestRest, rules.shortestPhrase})
    if (!(seconds >= 0.0 && seconds <= limits::longestRest))
      throw Error("A shortest rest or phrase lasts 0 to %1 seconds.", static_cast<int>(limits::longestRest));
  editTrack(session, id).phraseRules = rules;
  return session;
}

}  // namespace yewdrift
