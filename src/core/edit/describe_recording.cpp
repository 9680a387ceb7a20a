// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/describe_recording.h"

namespace yewdrift {
namespace {

std::string listed(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i)
    text += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return text;
}

std::string spanText(Span span, const Ruler& ruler) {
  // "bars 9 to 12" where both edges are bar lines: the span is half-open, people count the last bar in.
  const MusicalPosition first = ruler.tempo.positionOf(span.start, ruler.rate);
  const MusicalPosition last = ruler.tempo.positionOf(span.end, ruler.rate);
  if (first.beat == 1.0 && last.beat == 1.0)
    return first.bar + 1 == last.bar
               ? "bar " + std::to_string(first.bar)
               : "bars " + std::to_string(first.bar) + " to " + std::to_string(last.bar - 1);
  return barBeatText(span.start, ruler) + " to " + barBeatText(span.end, ruler);
}

std::string resultText(const RecordSetup& setup) {
  switch (setup.result) {
    case PassResult::Replace:
      return setup.timeline.loop ? "each time round replaces what plays there" : "replaces what plays there";
    case PassResult::Overdub:
      return setup.timeline.loop ? "each time round is heard on top" : "is heard on top";
    case PassResult::NewLane:
      break;
  }
  return setup.timeline.loop ? "a new lane each time round" : "a new lane";
}

}  // namespace

std::string describeRecording(const RecordSetup& setup, const std::vector<std::string>& trackNames,
                              const Ruler& ruler) {
  if (trackNames.empty()) return "No track is armed: nothing would be recorded. Arm a track in the list.";
  const RollTimeline& timeline = setup.timeline;
  std::string text;
  const Frames heardFrom =
      timeline.loop ? std::max(setup.recordFrom, timeline.loop->start) : setup.recordFrom;
  if (timeline.start < heardFrom)
    text += "Plays from " + barBeatText(timeline.start, ruler) + ", then records ";
  else
    text += "Records ";
  text += listed(trackNames);
  if (!setup.punches.empty()) {
    std::vector<std::string> spans;
    for (const Span punch : setup.punches) spans.push_back(spanText(punch, ruler));
    text += " in " + listed(spans);
    if (timeline.loop) text += ", going round " + spanText(*timeline.loop, ruler);
  } else if (timeline.loop) {
    text += " round " + spanText(*timeline.loop, ruler);
  } else if (timeline.stopAt) {
    text += " over " + spanText({setup.recordFrom, *timeline.stopAt}, ruler);
  } else {
    text += " from " + barBeatText(setup.recordFrom, ruler);
  }
  text += ", " + resultText(setup);
  if (timeline.loop && timeline.passes > 0)
    text += ", " + std::to_string(timeline.passes) + (timeline.passes == 1 ? " time" : " times");
  else if (!timeline.stopAt)
    text += ", until you stop";
  return text + ". Earlier takes of " + (trackNames.size() == 1 ? "it" : "them") + " are hushed meanwhile.";
}

}  // namespace yewdrift
