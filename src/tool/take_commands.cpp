// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/take_commands.h"

#include <CLI/CLI.hpp>
#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/analysis/evidence.h"
#include "core/analysis/line_up_takes.h"
#include "core/analysis/track_phrases.h"
#include "core/edit/edit_gather.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/store/session_names.h"
#include "tool/arguments.h"
#include "tool/measured_takes.h"
#include "tool/open_session.h"
#include "tool/take_report.h"

namespace yewdrift::tool {
namespace {

using Options = TakeCommandOptions;

LaneNumber laneOf(const Options& o) {
  return {o.lane.value_or(0)};
}

/// Opens, changes the track, saves.
template <typename Edit>
void change(const Options& o, const std::string& label, Edit edit) {
  SessionFolder folder = openToChange(o.session);
  const Track& track = requireTrack(folder.session(), o.track);
  folder.commit(label, edit(folder.session(), track.id));
}

// -- lanes

void lane(const Options& o) {
  const bool anything = o.name || o.note || o.rating || o.palette || o.gain || o.pitch || o.mute || o.nudge ||
                        o.place || o.shows || o.aside || o.bringBack || o.discard;
  if (!anything) throw CLI::RequiredError("Something of the lane to be set");
  std::string label = "Change lane " + std::to_string(o.lane.value_or(0));
  if (o.discard) label = "Discard a take";
  if (o.aside) label = "Set a take aside";
  if (o.bringBack) label = "Bring a take back";
  change(o, label, [&](Session session, TrackId id) {
    const LaneNumber number = laneOf(o);
    requireLane(requireTrack(session, id), number);
    LaneChange wanted;
    wanted.name = o.name;
    wanted.note = o.note;
    wanted.rating = o.rating;
    wanted.palette = o.palette;
    wanted.muted = o.mute;
    if (o.gain) wanted.gain = Decibels{*o.gain};
    if (o.pitch) wanted.pitch = Cents{*o.pitch};
    if (o.shows) wanted.picture = lanePictureNamed(*o.shows);
    session = changeLane(std::move(session), id, number, wanted);
    if (o.nudge) {
      const Frames by =
          parseSignedDuration(*o.nudge, session.ruler(), materialOf(requireTrack(session, id)).start);
      session = nudgeLane(std::move(session), id, number, by);
    }
    if (o.place) session = placeLane(std::move(session), id, number, *o.place);
    if (o.aside || o.bringBack) session = setLaneAside(std::move(session), id, number, o.aside);
    if (o.discard) session = removeLane(std::move(session), id, number);
    return session;
  });
}

void cut(const Options& o) {
  change(o, o.restore ? "Give back what was cut" : "Cut a take", [&](const Session& session, TrackId id) {
    const Span span = parseSpan(*o.span, session.ruler());
    return o.restore ? restoreLane(session, id, laneOf(o), span) : cutLane(session, id, laneOf(o), span);
  });
}

void mark(const Options& o) {
  change(o, "Mark a take", [&](const Session& session, TrackId id) {
    if (o.removeMark) {
      if (*o.removeMark < 1) throw Error("Marks are numbered from 1, in order of time.");
      return removeTakeMark(session, id, laneOf(o), static_cast<std::size_t>(*o.removeMark) - 1);
    }
    if (!o.at) throw CLI::RequiredError("--at (or --remove)");
    return markTake(session, id, laneOf(o), parsePosition(*o.at, session.ruler()), o.name.value_or(""));
  });
}

LevelPoint levelPoint(const std::string& text, const Ruler& ruler) {
  const auto sign = text.find('=');
  std::size_t used = 0;
  try {
    const double gain = sign == std::string::npos ? 0.0 : std::stod(text.substr(sign + 1), &used);
    if (used > 0 && sign + 1 + used == text.size() && std::isfinite(gain))
      return {parsePosition(text.substr(0, sign), ruler), {gain}};
  } catch (const std::logic_error&) {
    used = 0;
  }
  throw Error("\"%1\" is not a point of a level; write POS=DB, such as 2.5s=-6.", text);
}

void level(const Options& o) {
  if (o.points.empty() && !o.clear) throw CLI::RequiredError("--point (or --clear)");
  change(o, "Ride the level", [&](const Session& session, TrackId id) {
    const Track& track = requireTrack(session, id);
    const auto ridden = [&](LevelLine line) {
      if (o.clear) line.clear();
      for (const std::string& point : o.points)
        line = withPoint(std::move(line), levelPoint(point, session.ruler()));
      return line;
    };
    if (o.piece) {
      const Frames at = parsePosition(*o.piece, session.ruler());
      const ResolvedComposite composite = resolve(track, session.rate);
      const Piece* const piece = composite.pieceAt(at);
      PieceChange change;
      change.level = ridden(piece ? piece->level : LevelLine{});
      return changePiece(session, id, at, change);
    }
    LevelLine line = ridden(o.lane ? requireLane(track, laneOf(o)).level : track.composite.level);
    return setLevel(session, id, o.lane ? std::optional(laneOf(o)) : std::nullopt, std::move(line));
  });
}

// -- phrases and evidence

void phrases(const Options& o) {
  const bool changes = o.add || o.remove || o.move || o.found || o.rest || o.shortest;
  SessionFolder folder = changes ? openToChange(o.session) : openToLook(o.session);
  const TrackId id = requireTrack(folder.session(), o.track).id;
  if (changes) {
    Session session = folder.session();
    const Ruler ruler = session.ruler();
    if (o.rest || o.shortest) {
      PhraseRules rules = requireTrack(session, id).phraseRules;
      rules.shortestRest = o.rest.value_or(rules.shortestRest);
      rules.shortestPhrase = o.shortest.value_or(rules.shortestPhrase);
      session = setPhraseRules(std::move(session), id, rules);
    }
    if (o.found) session = forgetPhrases(std::move(session), id);
    if (o.add || o.remove || o.move) {
      const auto now = phrasesIn(folder, requireTrack(session, id));
      if (o.add) session = addPhraseEdge(std::move(session), id, now, parsePosition(*o.add, ruler));
      if (o.remove) session = removePhraseEdge(std::move(session), id, now, parsePosition(*o.remove, ruler));
      if (o.move) {
        if (!o.moveTo) throw CLI::RequiredError("--to (where --move leads)");
        session = movePhraseEdge(std::move(session), id, now, parsePosition(*o.move, ruler),
                                 parsePosition(*o.moveTo, ruler));
      }
    }
    folder.commit("Change the phrases", std::move(session));
  }
  const auto now = phrasesIn(folder, requireTrack(folder.session(), id));
  std::cout << (o.json ? phrasesReport(now).dump(1) + "\n" : phrasesText(now, folder.session().ruler()));
}

void rate(const Options& o) {
  SessionFolder folder = openToChange(o.session);
  const Track& track = requireTrack(folder.session(), o.track);
  const Lane& found = requireLane(track, laneOf(o));
  const auto all = phrasesIn(folder, track);
  const Phrase* phrase = phraseAt(all, parsePosition(*o.at, folder.session().ruler()));
  if (!phrase) throw Error("\"%1\" has no phrases yet.", track.name);
  folder.commit("Rate a phrase",
                changeCell(folder.session(), track.id, found.number, *phrase, o.rating, o.note));
}

void evidence(const Options& o) {
  const SessionFolder folder = openToLook(o.session);
  const Session& session = folder.session();
  const Track& track = requireTrack(session, o.track);
  if (o.lane) requireLane(track, laneOf(o));
  const auto all = phrasesIn(folder, track);
  MeasuredTakes measured(folder, track);
  auto found = evidenceOf(session, track, all, measured.find(),
                          session.recording.grid ? session.recording.divisions : 0);
  if (o.lane)
    for (PhraseEvidence& phrase : found)
      std::erase_if(phrase.takes, [&](const CellEvidence& cell) { return cell.lane != laneOf(o); });
  std::cout << (o.json ? evidenceReport(found).dump(1) + "\n" : evidenceText(found, session.ruler()));
}

void lineUpLane(const Options& o) {
  SessionFolder folder = o.apply ? openToChange(o.session) : openToLook(o.session);
  const Session& session = folder.session();
  const Track& track = requireTrack(session, o.track);
  const Lane& take = requireLane(track, laneOf(o));
  const Lane& reference = requireLane(track, {o.to});
  const auto span = o.span ? std::optional(parseSpan(*o.span, session.ruler())) : std::nullopt;
  const Frames within =
      parseDuration(o.within.value_or("500ms"), session.ruler(), span ? span->start : Frames{});
  if (within.count < 1 || within > framesFromSeconds(60.0, session.rate))
    throw Error("Takes are lined up within a frame to a minute.");
  FileSampleSource source(folder.disk(), *session.pool);
  const LineUp found = lineUpTakes(session, track, take, reference, span, within, source);
  if (o.apply && found.sureness < leastSureness)
    throw Error(
        "Lane %1 is not like lane %2 enough to be lined up to it (sureness %3, at least %4 is needed); "
        "nothing was changed.",
        take.number.value, reference.number.value, Decimal{found.sureness, 2}, Decimal{leastSureness, 2});
  if (o.json)
    std::cout << lineUpReport(found).dump(1) << "\n";
  else
    std::cout << lineUpText(take.number, reference.number, found, session.rate);
  if (o.apply && found.offset.count != 0)
    folder.commit("Line up lane " + std::to_string(take.number.value),
                  nudgeLane(session, track.id, take.number, found.offset));
}

// -- tracks and takes

std::vector<TrackId> tracksNamed(const Session& session, const std::vector<std::string>& names) {
  std::vector<TrackId> tracks;
  for (const std::string& name : names) tracks.push_back(requireTrack(session, name).id);
  return tracks;
}

void spread(const Options& o) {
  change(o, "Spread the takes of " + o.track, [&](const Session& session, TrackId id) {
    std::vector<LaneNumber> only;
    for (const int lane : o.spreadLanes) only.push_back({lane});
    return spreadTakes(session, id, spreadEvenly(requireTrack(session, id), o.width, only));
  });
}

void absorb(const Options& o) {
  change(o, "Gather takes in " + o.track, [&](const Session& session, TrackId id) {
    return absorbTracks(session, id, tracksNamed(session, o.from));
  });
}

void gather(const Options& o) {
  change(o, "Gather the microphones of " + o.track, [&](const Session& session, TrackId id) {
    return gatherMicrophones(session, id, tracksNamed(session, o.from));
  });
}

void separate(const Options& o) {
  change(o, "Separate the microphones of " + o.track,
         [&](const Session& session, TrackId id) { return separateMicrophones(session, id); });
}

void describeLane(CLI::App& c, Options& o) {
  c.add_option("--name", o.name, "Its name")->type_name("TEXT");
  c.add_option("--note", o.note, "A note on it")->type_name("TEXT");
  c.add_option("--rating", o.rating, "1 to 5, or 0 for none")->type_name("0..5");
  c.add_option("--palette", o.palette, "Its colour and mark, 1 to 8, or 0 for those of its number")
      ->type_name("K");
  c.add_option("--gain", o.gain, "Its gain")->type_name("DB");
  c.add_option("--pitch", o.pitch, "Shifts its pitch, -2400 to 2400")->type_name("CENTS");
  c.add_option("--mute", o.mute, "Silent where the composite plays it")->type_name("on|off");
  c.add_option("--nudge", o.nudge, "Its material lies that much later (earlier with a minus)")
      ->type_name("DUR");
  c.add_option("--place", o.place, "It becomes the K-th shown")->type_name("K");
  c.add_option("--shows", o.shows, "waveform, onsets, level or pitch");
  auto* how = c.add_option_group("how");
  how->add_flag("--aside", o.aside, "Sets it aside");
  how->add_flag("--bring-back", o.bringBack, "Brings it back");
  how->add_flag("--discard", o.discard, "Discards it; its files stay in the pool");
  how->require_option(0, 1);
}

}  // namespace

void describeTakeCommands(CLI::App& app, Options& o) {
  auto command = [&](const char* name, const char* help, auto action) {
    return addTrackCommand(app, name, help, o, action);
  };
  auto lane_ = [&](CLI::App* c, const char* help) {
    return c->add_option("--lane", o.lane, help)->check(between(1, 1'000'000'000))->type_name("N");
  };
  auto span = [&](CLI::App* c) {
    return c->add_option("--span", o.span, "FROM..TO, half-open")->type_name("SPAN");
  };
  auto json = [&](CLI::App* c) { c->add_flag("--json", o.json, "As JSON"); };
  auto from = [&](CLI::App* c, const char* help) {
    c->add_option("--from", o.from, help)->required()->expected(1, -1)->type_name("NAME");
  };

  CLI::App* c =
      command("lane", "Sets what is known of a lane, where it lies, and whether it is among the takes", lane);
  lane_(c, "The lane's number")->required();
  describeLane(*c, o);
  c = command("cut", "That stretch of the lane is silent; the file stays", cut);
  lane_(c, "The lane's number")->required();
  span(c)->required();
  c->add_flag("--restore", o.restore, "Gives it back");
  c = command("mark", "Marks a spot of a take, or removes a mark", mark);
  lane_(c, "The lane's number")->required();
  c->add_option("--at", o.at, "The spot")->type_name("POS");
  c->add_option("--name", o.name, "What it is called")->type_name("TEXT");
  c->add_option("--remove", o.removeMark, "Removes the K-th mark of the lane")->type_name("K");
  c = command("level", "The line of points that rides the level of a lane, of a piece, or of the composite",
              level);
  auto* ofLane = lane_(c, "The lane's number (default: the composite)");
  c->add_option("--piece", o.piece, "The piece of the composite there")->type_name("POS")->excludes(ofLane);
  c->add_option("--point", o.points, "Adds a point, or moves the one there")
      ->expected(1, -1)
      ->type_name("POS=DB");
  c->add_flag("--clear", o.clear, "The points that are there go first");
  c = command("phrases", "The phrases; those that a person set are kept", phrases);
  c->add_option("--add", o.add, "Cuts the phrase there in two")->type_name("POS");
  c->add_option("--remove", o.remove, "The phrases on both sides of the edge near there become one")
      ->type_name("POS");
  c->add_option("--move", o.move, "Moves the edge near there")->type_name("POS");
  c->add_option("--to", o.moveTo, "Where it is moved")->type_name("POS");
  c->add_option("--rest", o.rest, "The shortest rest, in seconds")->type_name("SECONDS");
  c->add_option("--shortest", o.shortest, "The shortest phrase, in seconds")->type_name("SECONDS");
  c->add_flag("--found", o.found, "Forgets what a person set");
  json(c);
  c = command("line-up", "By how much a lane lies early or late against another", lineUpLane);
  lane_(c, "The lane to be moved")->required();
  c->add_option("--to", o.to, "The lane it is compared with")->required()->type_name("M");
  span(c);
  c->add_option("--within", o.within, "No further than that (default 500ms)")->type_name("DUR");
  c->add_flag("--apply", o.apply, "Moves it, if that is sure enough (0.3)");
  json(c);
  c = command("evidence", "What can be measured of every take in every phrase", evidence);
  lane_(c, "Only this lane");
  json(c);
  c = command("rate", "Rates a take in the phrase at a position", rate);
  lane_(c, "The lane's number")->required();
  c->add_option("--at", o.at, "In the phrase")->required()->type_name("POS");
  c->add_option("--rating", o.rating, "1 to 5, or 0 for none")->required()->type_name("0..5");
  c->add_option("--note", o.note, "A note on it")->type_name("TEXT");
  c = command("spread", "Takes become tracks of their own, panned from left to right", spread);
  c->add_option("--lanes", o.spreadLanes, "Only these takes; the others stay in their lanes")->type_name("N");
  c->add_option("--width", o.width, "0 (all in the middle) to 1 (hard left to hard right)")
      ->type_name("0..1");
  c = command("absorb", "Tracks become takes of a track", absorb);
  from(c, "Those tracks");
  c = command("set", "Tracks that were recorded apart become one mic set", gather);
  from(c, "Those tracks");
  command("unset", "The microphones of a set become tracks of their own", separate);
}

}  // namespace yewdrift::tool
