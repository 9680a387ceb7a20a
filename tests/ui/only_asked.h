// SPDX-License-Identifier: GPL-3.0-or-later
//
// A plain model of what a step may change: whatever of the tracks was not asked for is as before, to the
// sample, and whoever chose it is still who chose it.
#pragma once

#include <QRegularExpression>
#include <QString>
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "core/plan/offline_render.h"
#include "core/session/resolved_composite.h"

namespace yewdrift::test {

/// What a step is for. Lanes that it adds need no naming, nor the stretches that the lanes it changes lie in.
struct Asked {
  std::map<TrackId, std::vector<Span>> composite;  // stretches of it
  std::set<TrackId> lanes;                         // takes of those tracks
  bool inputs = false;                             // what the tracks record
  bool anything = false;                           // a step back or forth
};

/// Who chose what the composite plays there.
enum class Chooser { Nobody, Ratings, Person };
inline Chooser chooserAt(const Track& track, Frames at) {
  for (const Piece& pick : track.composite.picks)
    if (pick.span.contains(at)) return pick.rough ? Chooser::Ratings : Chooser::Person;
  return Chooser::Nobody;
}

/// The piece there; null also where the composite only pauses.
inline const Piece* playedAt(const ResolvedComposite& composite, Frames at) {
  const Piece* const piece = composite.pieceAt(at);
  return piece && (piece->lane || piece->picked) ? piece : nullptr;
}

/// The pieces of a composite, and the takes that they may play.
inline std::string told(const Track& track, SampleRate rate) {
  std::string text;
  const auto span = [](Span of) {
    return std::to_string(of.start.count) + "-" + std::to_string(of.end.count);
  };
  for (const Piece& piece : resolve(track, rate).pieces)
    text += " " + span(piece.span) + " " + std::to_string(piece.lane.value_or(LaneNumber{}).value) +
            (piece.overdubs.empty() ? "" : " with others") + (piece.picked ? " picked," : ",");
  for (const auto& lane : track.lanes)
    for (const Clip& clip : lane->clips)
      text += " take " + std::to_string(lane->number.value) + " " + span(clip.window) +
              (lane->muted ? " muted" : "") + (lane->setAside ? " set aside" : "") +
              (lane->brokenOff ? " broken off" : "") + ";";
  return text;
}

class OnlyAsked {
 public:
  OnlyAsked(const Track& was, const Track& is, SampleRate rate, const Asked& asked)
      : was_(was), is_(is), before_(resolve(was, rate)), after_(resolve(is, rate)) {
    if (const auto found = asked.composite.find(was.id); found != asked.composite.end())
      open_ = found->second;
    checkLanes(asked.lanes.contains(was.id));
    std::string open;
    for (const Span& span : open_)
      open += std::to_string(span.start.count) + ".." + std::to_string(span.end.count) + " ";
    INFO("may change: " << open << "; was" << told(was, rate) << "; is" << told(is, rate));
    if (!asked.inputs) CHECK(was.microphones == is.microphones);
    for (const ResolvedComposite* each : {&before_, &after_})
      for (const Piece& piece : each->pieces) checkPlaces(piece);
    for (const Track* each : {&was, &is})
      for (const Piece& piece : each->composite.picks) checkPlaces(piece);
    checkJoins(before_, after_);
    checkJoins(after_, before_);
  }

 private:
  void checkLanes(bool mayChange) {
    for (const auto& lane : was_.lanes) {
      const Lane* const now = is_.lane(lane->number);
      if (now && *now == *lane) continue;
      INFO("lane " << lane->number.value);
      CHECK(mayChange);
      open(*lane);
      if (now) open(*now);
      // What was picked of it, also where nothing of it was left.
      for (const Piece& pick : was_.composite.picks)
        if (pick.plays(lane->number)) open_.push_back(pick.span);
    }
    for (const auto& lane : is_.lanes)
      if (!was_.lane(lane->number)) open(*lane);
  }
  void open(const Lane& lane) {
    for (const Clip& clip : lane.clips) open_.push_back(clip.window);
  }
  [[nodiscard]] bool isOpen(Frames at) const {
    return std::any_of(open_.begin(), open_.end(), [at](const Span& span) { return span.contains(at); });
  }
  /// The step reaches into the piece, so that its joins may have more or less room.
  [[nodiscard]] bool touches(const Span& piece) const {
    return std::any_of(open_.begin(), open_.end(),
                       [&](const Span& span) { return span.start <= piece.end && piece.start <= span.end; });
  }
  void checkPlaces(const Piece& edgesOf) {
    const Span& span = edgesOf.span;
    for (const Frames at : {span.start - Frames{1}, span.start, span.end - Frames{1}, span.end}) {
      if (isOpen(at)) continue;
      const Piece* const was = playedAt(before_, at);
      const Piece* const is = playedAt(after_, at);
      INFO("at " << at.count);
      CHECK((was == nullptr) == (is == nullptr));
      if (was && is) CHECK(playTheSame(*was, *is));
      CHECK(chooserAt(was_, at) == chooserAt(is_, at));
    }
  }
  void checkJoins(const ResolvedComposite& in, const ResolvedComposite& other) {
    for (const Join& join : in.joins) {
      const Piece* const left = in.pieceAt(join.at - Frames{1});
      const Piece* const right = in.pieceAt(join.at);
      if ((left && touches(left->span)) || (right && touches(right->span))) continue;
      const Join* const same = other.joinAt(join.at);
      INFO("the join at " << join.at.count);
      CHECK((same && *same == join));
    }
  }

  const Track& was_;
  const Track& is_;
  ResolvedComposite before_;
  ResolvedComposite after_;
  std::vector<Span> open_;
};

inline void checkOnlyAsked(const Session& before, const Session& after, const Asked& asked) {
  if (asked.anything) return;
  for (const auto& was : before.tracks) {
    const Track* const is = after.track(was->id);
    CHECK(is);
    if (!is || is == &*was) continue;
    INFO("track " << was->name);
    OnlyAsked(*was, *is, before.rate, asked);
  }
}

/// What the track plays, each of its channels one after the other in every frame.
inline std::vector<float> renderedTrack(const SessionDisk& disk, const Session& session, TrackId track,
                                        Span span) {
  std::vector<float> samples;
  RenderRequest request;
  request.track = track;
  request.span = span;
  renderBlocks(disk, session, request, [&](const Rendered& rendered) -> RenderSink {
    return [&samples, channels = rendered.channels](const float* block, std::int64_t frames) {
      samples.insert(samples.end(), block, block + frames * channels);
    };
  });
  return samples;
}

/// A sentence that a person is shown: whole, without what is still to be filled in, without names of files
/// that nobody made, and in the number that it has.
inline void checkSaid(const QString& said) {
  static const QRegularExpression wrong(
      R"(%\d|%n|\(s\)|[a-z.]\|[A-Z]|\bnan\b|\binf\b|\.json\b|\.log\b|\.new\b|\bErr\w*\b|\b1 (take|file|lane|phrase|place|join|track|frame|pass|piece|marker|beat|bar)e?s\b|\b1 \w+ (are|were|have)\b|\bOne \w+ (are|were|have)\b)");
  INFO(said.toStdString());
  CHECK_FALSE(said.isEmpty());
  CHECK_FALSE(wrong.match(said).hasMatch());
  CHECK(QString(".?!…").contains(said.back()));
}

}  // namespace yewdrift::test
