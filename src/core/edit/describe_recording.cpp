// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/describe_recording.h"

#include <cmath>

namespace yewdrift {
namespace {

std::string listed(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i)
    text += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return text;
}

class Sentence {
 public:
  Sentence(const RecordSetup& setup, const Ruler& ruler, bool grid)
      : setup_(setup), ruler_(ruler), grid_(grid) {}

  std::string say(const std::vector<DescribedTrack>& tracks) {
    const RollTimeline& timeline = setup_.timeline;
    if (timeline.countIn.count > 0) add("counts in " + stretch(timeline.start, timeline.countIn, false));
    if (timeline.start < firstHeard()) add(leadIn());
    std::vector<std::string> names;
    names.reserve(tracks.size());
    for (const DescribedTrack& track : tracks) names.push_back(track.name);
    const std::string then = text_.empty() ? "" : "then ";
    add(then + "records " + listed(names) + where());
    for (std::string& part : results(tracks)) add(std::move(part));
    if (setup_.hush)
      add("earlier takes hushed there");
    else
      add("earlier takes heard too");
    add(ending());
    text_[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text_[0])));
    return text_ + ".";
  }

 private:
  void add(std::string part) { text_ += (text_.empty() ? "" : ", ") + std::move(part); }

  [[nodiscard]] Frames firstHeard() const {
    return setup_.punches.empty() ? setup_.recordFrom
                                  : std::max(setup_.recordFrom, setup_.punches.front().start);
  }

  [[nodiscard]] std::string position(Frames at) const {
    return grid_ ? barBeatText(at, ruler_) : clockText(at, ruler_.rate);
  }

  /// "2 bars" where the stretch from `at` on is whole bars, else in seconds. `backwards`: it ends at `at`.
  [[nodiscard]] std::string stretch(Frames at, Frames length, bool backwards) const {
    if (grid_)
      for (int bars = 1; bars <= 64; ++bars) {
        const Frames there = ruler_.tempo.shiftedByBars(at, backwards ? -bars : bars, ruler_.rate);
        if ((backwards ? at - there : there - at) == length)
          return lengthText({static_cast<double>(bars), LengthUnit::Bars});
      }
    const double seconds = std::round(secondsFromFrames(length, ruler_.rate) * 100.0) / 100.0;
    return lengthText({seconds, LengthUnit::Seconds});
  }

  [[nodiscard]] std::string leadIn() const {
    const Frames from = firstHeard();
    const Frames lead = from - setup_.timeline.start;
    if (setup_.preRollCut) return "plays from the session's start, where the pre-roll is cut short";
    const std::string length = stretch(from, lead, true);
    // A long way before is a position, not a pre-roll.
    if (lead > framesFromSeconds(20.0, ruler_.rate)) return "plays from " + position(setup_.timeline.start);
    return "plays from " + length + " before";
  }

  [[nodiscard]] std::string spanText(Span span) const {
    if (!grid_) return position(span.start) + " to " + position(span.end);
    // "bars 9 to 12" where both edges are bar lines: the span is half-open, people count the last bar in.
    const MusicalPosition first = ruler_.tempo.positionOf(span.start, ruler_.rate);
    const MusicalPosition last = ruler_.tempo.positionOf(span.end, ruler_.rate);
    if (first.beat == 1.0 && last.beat == 1.0)
      return first.bar + 1 == last.bar
                 ? "bar " + std::to_string(first.bar)
                 : "bars " + std::to_string(first.bar) + " to " + std::to_string(last.bar - 1);
    return position(span.start) + " to " + position(span.end);
  }

  [[nodiscard]] std::string where() const {
    const RollTimeline& timeline = setup_.timeline;
    const std::string round = timeline.loop ? ", going round " + spanText(*timeline.loop) : std::string();
    if (!setup_.punches.empty()) {
      const Span bounds{std::max(timeline.loop ? timeline.loop->start : timeline.start, Frames{}),
                        timeline.loop ? timeline.loop->end : maximumPosition};
      std::vector<std::string> spans;
      for (const Span punch : setup_.punches) {
        const Span heard = punch.intersect(bounds);
        if (heard.end == maximumPosition)
          spans.push_back("from " + position(heard.start) + " on");
        else
          spans.push_back(spanText({std::max(heard.start, firstHeard()), heard.end}));
      }
      return " in " + listed(spans) + round;
    }
    if (timeline.loop) return " round " + spanText(*timeline.loop);
    if (timeline.stopAt) return " over " + spanText({setup_.recordFrom, *timeline.stopAt});
    return " from " + position(setup_.recordFrom);
  }

  [[nodiscard]] std::vector<std::string> results(const std::vector<DescribedTrack>& tracks) const {
    std::vector<std::string> parts;
    const bool loop = setup_.timeline.loop.has_value();
    switch (setup_.result) {
      case PassResult::NewLane:
        parts.emplace_back(loop ? "a new lane each time round" : "a new lane");
        break;
      case PassResult::Replace:
        parts.emplace_back(loop ? "each time round replaces what plays there" : "replaces what plays there");
        break;
      case PassResult::Overdub:
        parts.emplace_back(loop ? "each time round is heard on top" : "is heard on top of what plays there");
        break;
    }
    for (const DescribedTrack& track : tracks)
      if (track.into)
        parts.push_back((loop ? "the last time round goes into lane " : "it goes into lane ") +
                        std::to_string(track.into->value) +
                        (tracks.size() > 1 ? " of " + track.name : std::string()));
    if (setup_.playBack && loop) parts.emplace_back("every second time round plays the one before");
    return parts;
  }

  [[nodiscard]] std::string ending() const {
    const RollTimeline& timeline = setup_.timeline;
    const bool ends = timeline.totalLength().has_value();
    std::string text;
    if (timeline.loop && timeline.passes > 0)
      text = std::to_string(timeline.passes) + (timeline.passes == 1 ? " time, " : " times, ");
    if (!ends) return "until you stop";
    if (timeline.postRoll.count == 0) return text + "then stops";
    const Frames end = timeline.loop ? timeline.loop->end : *timeline.stopAt;
    return text + "stops after " + stretch(end, timeline.postRoll, false) + " more";
  }

  const RecordSetup& setup_;
  const Ruler& ruler_;
  bool grid_;
  std::string text_;
};

}  // namespace

std::string describeRecording(const RecordSetup& setup, const std::vector<DescribedTrack>& tracks,
                              const Ruler& ruler, bool grid) {
  if (tracks.empty()) return "No track is armed: nothing would be recorded. Arm a track in the list.";
  return Sentence(setup, ruler, grid).say(tracks);
}

std::vector<DescribedTrack> armedTracks(const Session& session) {
  std::vector<DescribedTrack> armed;
  for (const auto& track : session.tracks)
    if (track->armed) armed.push_back({track->name, track->recordInto});
  return armed;
}

}  // namespace yewdrift
