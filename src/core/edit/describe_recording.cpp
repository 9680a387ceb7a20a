// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/describe_recording.h"

#include <cmath>

namespace yewdrift {
namespace {

class Description {
 public:
  Description(const RecordSetup& setup, const Ruler& ruler) : setup_(setup), ruler_(ruler) {}

  std::vector<Sentence> of(const std::vector<DescribedTrack>& tracks) {
    const RollTimeline& timeline = setup_.timeline;
    if (timeline.countIn.count > 0) {
      const Sentence length = stretch(timeline.start, timeline.countIn, false);
      if (setup_.preRollFilled)
        say("Counts in %1, since the song's start leaves no room for all of the pre-roll.", length);
      else
        say("Counts in %1.", length);
    }
    if (timeline.start < firstHeard()) sayLeadIn();
    Sentence::List names;
    for (const DescribedTrack& track : tracks) names.push_back(Sentence::verbatim(track.name));
    sayWhere(Sentence::listed(names));
    sayResults(tracks);
    if (setup_.hush)
      say("Earlier takes are hushed there.");
    else
      say("Earlier takes are heard too.");
    sayEnding();
    return std::move(sentences_);
  }

 private:
  template <class... Arguments>
  void say(Pattern<std::type_identity_t<Arguments>...> pattern, const Arguments&... arguments) {
    addSentence(sentences_, pattern, arguments...);
  }

  [[nodiscard]] Frames firstHeard() const {
    return setup_.punches.empty() ? setup_.recordFrom
                                  : std::max(setup_.recordFrom, setup_.punches.front().start);
  }

  [[nodiscard]] Sentence position(Frames at) const { return Sentence::verbatim(positionText(at, ruler_)); }

  /// "2 bars" where the stretch from `at` on is whole bars, else in seconds. `backwards`: it ends at `at`.
  [[nodiscard]] Sentence stretch(Frames at, Frames length, bool backwards) const {
    if (ruler_.grid)
      for (int bars = 1; bars <= 64; ++bars) {
        const Frames there = ruler_.tempo.shiftedByBars(at, backwards ? -bars : bars, ruler_.rate);
        if ((backwards ? at - there : there - at) == length)
          return lengthText({static_cast<double>(bars), LengthUnit::Bars});
      }
    const double seconds = std::round(secondsFromFrames(length, ruler_.rate) * 100.0) / 100.0;
    return lengthText({seconds, LengthUnit::Seconds});
  }

  void sayLeadIn() {
    const Frames from = firstHeard();
    const Frames lead = from - setup_.timeline.start;
    if (setup_.preRollCut && !setup_.preRollFilled)
      return say("Plays from the session's start, where the pre-roll is cut short.");
    // A long way before is a position, not a pre-roll.
    if (lead > framesFromSeconds(20.0, ruler_.rate))
      return say("Plays from %1.", position(setup_.timeline.start));
    say("Plays from %1 before.", stretch(from, lead, true));
  }

  [[nodiscard]] Sentence spanText(Span span) const {
    // "bars 9 to 12" where both edges are bar lines: the span is half-open, people count the last bar in.
    if (ruler_.grid) {
      const MusicalPosition first = ruler_.tempo.positionOf(span.start, ruler_.rate);
      const MusicalPosition last = ruler_.tempo.positionOf(span.end, ruler_.rate);
      if (first.beat == 1.0 && last.beat == 1.0)
        return first.bar + 1 == last.bar ? Sentence("bar %1", first.bar)
                                         : Sentence("bars %1 to %2", first.bar, last.bar - 1);
    }
    return Sentence("%1 to %2", position(span.start), position(span.end));
  }

  [[nodiscard]] Sentence punches() const {
    const RollTimeline& timeline = setup_.timeline;
    const Span bounds{std::max(timeline.loop ? timeline.loop->start : timeline.start, Frames{}),
                      timeline.loop ? timeline.loop->end : maximumPosition};
    Sentence::List spans;
    for (const Span punch : setup_.punches) {
      const Span heard = punch.intersect(bounds);
      if (heard.end == maximumPosition)
        spans.push_back(Sentence("from %1 on", position(heard.start)));
      else
        spans.push_back(spanText({std::max(heard.start, firstHeard()), heard.end}));
    }
    return Sentence::listed(spans);
  }

  void sayWhere(const Sentence& tracks) {
    const RollTimeline& timeline = setup_.timeline;
    if (!setup_.punches.empty() && timeline.loop)
      return say("Records %1 in %2, going round %3.", tracks, punches(), spanText(*timeline.loop));
    if (!setup_.punches.empty()) return say("Records %1 in %2.", tracks, punches());
    if (timeline.loop) return say("Records %1 round %2.", tracks, spanText(*timeline.loop));
    if (timeline.stopAt)
      return say("Records %1 over %2.", tracks, spanText({setup_.recordFrom, *timeline.stopAt}));
    say("Records %1 from %2.", tracks, position(setup_.recordFrom));
  }

  void sayResults(const std::vector<DescribedTrack>& tracks) {
    const bool loop = setup_.timeline.loop.has_value();
    switch (setup_.result) {
      case PassResult::NewLane:
        loop ? say("Each time round makes a new lane.") : say("Makes a new lane.");
        break;
      case PassResult::Replace:
        loop ? say("Each time round replaces what plays there.") : say("Replaces what plays there.");
        break;
      case PassResult::Overdub:
        loop ? say("Each time round is heard on top of what plays there.")
             : say("It is heard on top of what plays there.");
        break;
    }
    for (const DescribedTrack& track : tracks)
      if (track.into) sayInto(*track.into, tracks.size() > 1 ? &track.name : nullptr);
    if (setup_.playBack && loop) say("Every second time round plays the one before.");
  }

  void sayInto(LaneNumber lane, const std::string* track) {
    const bool loop = setup_.timeline.loop.has_value();
    if (loop && track) return say("The last time round goes into lane %1 of %2.", lane.value, *track);
    if (loop) return say("The last time round goes into lane %1.", lane.value);
    if (track) return say("It goes into lane %1 of %2.", lane.value, *track);
    say("It goes into lane %1.", lane.value);
  }

  void sayEnding() {
    const RollTimeline& timeline = setup_.timeline;
    if (!timeline.totalLength()) return say("Goes on until you stop.");
    const bool rounds = timeline.loop.has_value();
    const Count passes{timeline.passes};
    if (timeline.postRoll.count == 0)
      return rounds ? say("Goes round %n times, then stops.|Goes round once, then stops.", passes)
                    : say("Then stops.");
    if (timeline.postRoll == untilStopped) return say("After that it plays on until you stop.");
    const Frames end = timeline.loop ? timeline.loop->end : *timeline.stopAt;
    const Sentence more = stretch(end, timeline.postRoll, false);
    return rounds ? say("Goes round %n times, and stops after %1 more.|Goes round once, and stops after %1 "
                        "more.",
                        passes, more)
                  : say("After that it plays on for %1, then stops.", more);
  }

  const RecordSetup& setup_;
  const Ruler& ruler_;
  std::vector<Sentence> sentences_;
};

}  // namespace

std::vector<Sentence> describeRecording(const RecordSetup& setup, const std::vector<DescribedTrack>& tracks,
                                        const Ruler& ruler) {
  if (tracks.empty())
    return {Sentence("No track is armed: nothing would be recorded. Arm a track in the list.")};
  return Description(setup, ruler).of(tracks);
}

std::vector<DescribedTrack> armedTracks(const Session& session) {
  std::vector<DescribedTrack> armed;
  for (const auto& track : session.tracks)
    if (track->armed) armed.push_back({track->name, track->recordInto});
  return armed;
}

}  // namespace yewdrift
