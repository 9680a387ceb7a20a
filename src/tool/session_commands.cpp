// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/session_commands.h"

#include <CLI/CLI.hpp>
#include <iostream>

#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/session/limits.h"
#include "core/store/session_names.h"
#include "tool/arguments.h"
#include "tool/open_session.h"

namespace yewdrift::tool {
namespace {

/// Opens, changes, saves.
template <typename Edit>
void change(const SessionCommandOptions& o, const std::string& label, Edit edit) {
  SessionFolder folder = openToChange(o.session);
  folder.commit(label, edit(folder.session()));
}

void loop(const SessionCommandOptions& o) {
  change(o, "Set the loop", [&](Session session) {
    if (o.none) return setLoop(std::move(session), std::nullopt);
    if (o.span) {
      const Span span = parseSpan(*o.span, session.ruler());
      session = setLoop(std::move(session), span);
    }
    return o.lead > 0.0 || o.tail > 0.0 ? widenLoop(std::move(session), o.lead, o.tail) : session;
  });
}

void punch(const SessionCommandOptions& o) {
  change(o, "Set the punches", [&](Session session) {
    const Ruler ruler = session.ruler();
    if (o.none) session = setPunches(std::move(session), {});
    for (const std::string& span : o.add) session = addPunch(std::move(session), parseSpan(span, ruler));
    if (o.in) session = punchInAt(std::move(session), parsePosition(*o.in, ruler));
    if (o.out) session = punchOutAt(std::move(session), parsePosition(*o.out, ruler));
    return session;
  });
}

std::size_t markerIndex(int number) {
  if (number < 1) throw Error("Markers are numbered from 1, in order of time.");
  return static_cast<std::size_t>(number) - 1;
}

void marker(const SessionCommandOptions& o) {
  change(o, "Change the markers", [&](Session session) {
    std::vector<std::size_t> gone;
    for (const int number : o.remove) gone.push_back(markerIndex(number));
    for (std::size_t i = 0; i < session.markers.size(); ++i)
      if (o.dropouts && session.markers[i].kind == MarkerKind::Dropout) gone.push_back(i);
    for (const std::size_t index : gone)
      if (index >= session.markers.size()) throw Error("There is no such marker.");
    if (o.rename) session = renameMarker(std::move(session), markerIndex(*o.rename), o.name.value_or(""));
    if (o.at) {
      const Frames at = parsePosition(*o.at, session.ruler());
      session = addMarker(std::move(session), at, o.rename ? std::string() : o.name.value_or(""));
    }
    return gone.empty() ? session : removeMarkers(std::move(session), gone);
  });
}

void tempo(const SessionCommandOptions& o) {
  change(o, "Set the tempo", [&](Session session) {
    if (o.removeIt) return removeTempoChange(std::move(session), o.bar);
    TempoChange change = session.tempo.changeAt(o.bar);
    change.bar = o.bar;
    if (o.bpm) change.beatsPerMinute = *o.bpm;
    if (o.meter) change.meter = parseMeter(*o.meter);
    return setTempoChange(std::move(session), change);
  });
}

void track(const SessionCommandOptions& o) {
  change(o, "Set up " + o.track, [&](Session session) {
    if (o.make) session = addTrack(std::move(session), o.track, microphonesFor(o.channels));
    const Track& found = requireTrack(session, o.track);
    const TrackId id = found.id;
    if (o.input) {
      std::vector<Microphone> microphones = found.microphones;
      if (o.microphone < 1 || o.microphone > static_cast<int>(microphones.size()))
        throw Error("\"%1\" has no microphone %2.", o.track, o.microphone);
      microphones[static_cast<std::size_t>(o.microphone) - 1].input = *o.input - 1;
      session = setMicrophones(std::move(session), id, std::move(microphones));
    }
    if (o.monitor) session = setMonitoring(std::move(session), id, monitoringNamed(*o.monitor));
    if (o.into) {
      std::optional<LaneNumber> lane;
      if (*o.into != "new") lane = laneNumber(*o.into);
      session = setRecordInto(std::move(session), id, lane);
    }
    if (o.gain || o.pan)
      session = setTrackMix(std::move(session), id, o.gain ? Decibels{*o.gain} : found.gain,
                            o.pan ? Pan{*o.pan} : found.pan);
    if (o.arm || o.disarm) session = setTrackSwitch(std::move(session), id, TrackSwitch::Arm, o.arm);
    if (o.name) session = renameTrack(std::move(session), id, *o.name);
    return session;
  });
}

void setOptions(const SessionCommandOptions& o) {
  SessionFolder folder = openToChange(o.session);
  RecordingOptions options = folder.session().recording;
  if (o.preRoll) options.preRoll = parseMusicalLength(*o.preRoll);
  if (o.postRoll) {
    options.playOn = *o.postRoll == "until-stopped";
    if (!options.playOn) options.postRoll = parseMusicalLength(*o.postRoll);
  }
  if (o.cue) options.click.cue = cueNamed(*o.cue);
  if (o.result) options.result = passResultNamed(*o.result);
  if (o.countIn) options.countInBars = *o.countIn;
  if (o.passes) options.passes = *o.passes;
  for (auto [given, value] : {std::pair{&o.hush, &options.hush},
                              {&o.playBack, &options.playBack},
                              {&o.safeReview, &options.safeReview},
                              {&o.useLoop, &options.loop},
                              {&o.usePunches, &options.punch},
                              {&o.setAside, &options.setAside},
                              {&o.keepWhole, &options.keepWhole},
                              {&o.fillPreRoll, &options.fillPreRoll},
                              {&o.grid, &options.grid}})
    if (*given) *value = **given;
  // Remembered, and not a step of the history.
  folder.editHistory().replacePresent(setRecordingOptions(folder.session(), options));
  folder.save();
}

void plan(const SessionCommandOptions& o) {
  const SessionFolder folder = openToLook(o.session);
  const Session& session = folder.session();
  const Frames playhead = o.at ? parsePosition(*o.at, session.ruler()) : Frames{};
  std::cout << english(describeRecording(planRecording(session, {playhead, {}}), armedTracks(session),
                                         session.ruler()))
            << "\n";
}

void describeOptions(CLI::App& c, SessionCommandOptions& o) {
  c.add_option("--pre-roll", o.preRoll, "What plays before, as 2bars or 1.5s")->type_name("DUR");
  c.add_option("--post-roll", o.postRoll, "How long it goes on after the end")
      ->type_name("DUR|until-stopped");
  c.add_option("--fill-pre-roll", o.fillPreRoll,
               "A count-in takes the place of what the song's start cuts from the pre-roll")
      ->type_name("yes|no");
  c.add_option("--count-in", o.countIn, "Bars of click before it starts")->type_name("BARS");
  c.add_option("--passes", o.passes, "Times round the loop; 0: until stopped")->type_name("N");
  c.add_option("--result", o.result, "new-lane, replace or overdub");
  c.add_option("--loop", o.useLoop, "Go round the loop span")->type_name("yes|no");
  c.add_option("--punch", o.usePunches, "Record in the punch spans only")->type_name("yes|no");
  c.add_option("--hush", o.hush, "Earlier takes are silent where it is recorded")->type_name("yes|no");
  c.add_option("--play-back", o.playBack, "Every second time round plays back")->type_name("yes|no");
  c.add_option("--safe-review", o.safeReview, "After a punch pass, playing only plays")->type_name("yes|no");
  c.add_option("--set-aside", o.setAside, "Empty and broken-off passes are set aside")->type_name("yes|no");
  c.add_option("--keep-whole", o.keepWhole, "A pass that broke off is not heard in place of a whole take")
      ->type_name("yes|no");
  c.add_option("--cue", o.cue, "A low tick counts the beats to go: off, punches or punches-and-wraps");
  c.add_option("--grid", o.grid, "Bars are shown")->type_name("yes|no");
}

}  // namespace

void describeSessionCommands(CLI::App& app, SessionCommandOptions& o) {
  auto command = [&](const char* name, const char* help, auto action) {
    return addSessionCommand(app, name, help, o, action);
  };
  auto trackOption = [&](CLI::App* c) {
    c->add_option("--track", o.track, "The track's name")->required()->type_name("NAME");
  };
  CLI::App* c = command("loop", "Sets the loop span", loop);
  c->add_option("--span", o.span, "FROM..TO, half-open")->type_name("SPAN");
  c->add_option("--lead", o.lead, "So many bars more before it")->check(between(0.0, limits::widestLead));
  c->add_option("--tail", o.tail, "So many bars more behind it")->check(between(0.0, limits::widestLead));
  c->add_flag("--none", o.none, "There is none");
  c = command("punch", "Sets the punch spans", punch);
  c->add_option("--add", o.add, "One more; may be given several times")->type_name("SPAN");
  c->add_option("--in", o.in, "A punch-in alone")->type_name("POS");
  c->add_option("--out", o.out, "A punch-out alone")->type_name("POS");
  c->add_flag("--none", o.none, "Those that are there go first");
  c = command("marker", "Adds, renames or removes markers, numbered in order of time", marker);
  c->add_option("--at", o.at, "Drops one there")->type_name("POS");
  c->add_option("--name", o.name, "Its name")->type_name("NAME");
  c->add_option("--rename", o.rename, "Gives marker N the name")->type_name("N");
  c->add_option("--remove", o.remove, "Removes markers; may name several")->type_name("N");
  c->add_flag("--remove-dropouts", o.dropouts, "Removes the marks of dropouts");
  c = command("tempo", "Sets tempo and meter from a bar on", tempo);
  c->add_option("--bar", o.bar, "From this bar on (default 1)")->type_name("N");
  c->add_option("--bpm", o.bpm, "Beats a minute")->type_name("BPM");
  c->add_option("--meter", o.meter, "Beats and their note value")->type_name("N/M");
  c->add_flag("--remove", o.removeIt, "Removes the change that stands there");
  c = command("track", "Makes or sets up a track", track);
  trackOption(c);
  c->add_flag("--make", o.make, "Makes it");
  c->add_option("--channels", o.channels, "Of a track that is made: 1, 2, or as many microphones as named")
      ->check(between(1, 64));
  c->add_option("--name", o.name, "Renames it")->type_name("NAME");
  c->add_option("--microphone", o.microphone, "Which of its microphones --input is for")->type_name("N");
  c->add_option("--input", o.input, "Records from this input, counted from 1")
      ->check(between(1, limits::inputs))
      ->type_name("N");
  c->add_option("--monitor", o.monitor, "off, always or automatic");
  c->add_option("--into", o.into, "Passes go into that lane, or into new ones")->type_name("N|new");
  c->add_option("--gain", o.gain, "How loud the track is")->type_name("DB");
  c->add_option("--pan", o.pan, "Where it lies, -1 (left) to 1 (right)")->type_name("PAN");
  c->add_flag("--arm", o.arm, "Arms it");
  c->add_flag("--disarm", o.disarm, "Disarms it");
  describeOptions(*command("options", "Sets how the session records", setOptions), o);
  c = command("plan", "Says in a sentence what pressing record would do", plan);
  c->add_option("--playhead", o.at, "Where the playhead stands (default: the start)")->type_name("POS");
}

}  // namespace yewdrift::tool
