// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/composite_commands.h"

#include <CLI/CLI.hpp>
#include <charconv>
#include <functional>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_pieces.h"
#include "core/error.h"
#include "core/joins/join_finder.h"
#include "core/joins/pick_over.h"
#include "core/joins/rough_composite.h"
#include "core/session/resolved_composite.h"
#include "core/store/session_names.h"
#include "tool/arguments.h"
#include "tool/measured_takes.h"
#include "tool/open_session.h"
#include "tool/report.h"

namespace yewdrift::tool {
namespace {

void change(const CompositeCommandOptions& o, const std::string& label,
            const std::function<Session(const Session&, const Track&)>& edit) {
  SessionFolder folder = openToChange(o.session);
  const Track& track = requireTrack(folder.session(), o.track);
  folder.commit(label, edit(folder.session(), track));
}

/// `#N`, counted from 1, or the phrase at a position.
PickOver phraseAsked(const std::string& text, const Session& session, const Track& track,
                     const std::vector<Phrase>& phrases) {
  if (text.starts_with('#')) {
    int number = 0;
    const auto [end, error] = std::from_chars(text.data() + 1, text.data() + text.size(), number);
    if (error != std::errc() || end != text.data() + text.size() || number < 1)
      throw Error("\"%1\" is not a phrase; write #N, counted from 1, or a position.", text);
    return phraseOver(phrases, static_cast<std::size_t>(number - 1));
  }
  const Phrase* const phrase = phraseAt(phrases, parsePosition(text, session.ruler()));
  if (!phrase) throw Error("\"%1\" has no phrases yet.", track.name);
  return phraseOver(phrases, static_cast<std::size_t>(phrase - phrases.data()));
}

void pickLane(const CompositeCommandOptions& o) {
  if (!o.phrase && !o.piece && !o.punch && o.span.empty())
    throw CLI::RequiredError("--span (or --phrase, --piece, --punch)");
  SessionFolder folder = openToChange(o.session);
  const Session& session = folder.session();
  const Track& track = requireTrack(session, o.track);
  PickRequest request{.track = track.id, .over = {}, .lane = {}};
  if (o.lane != "none") request.lane = laneNumber(o.lane);
  if (request.lane) requireLane(track, *request.lane);
  request.reach = o.handles ? PickReach::Handles : PickReach::Audible;
  std::vector<Phrase> phrases;
  std::optional<MeasuredTakes> measured;
  if (o.phrase) {
    phrases = phrasesIn(folder, track);
    request.over = phraseAsked(*o.phrase, session, track, phrases);
    measured.emplace(folder, track);
  } else if (o.piece) {
    request.over = pieceOver(session, track.id, parsePosition(*o.piece, session.ruler()));
  } else if (o.punch) {
    request.over = punchOver(session, *o.punch);
  } else {
    request.over.span = parseSpan(o.span, session.ruler());
  }
  Picked picked = pickOver(session, request, phrases, measured ? measured->find() : FindAnalysis{});
  folder.commit(request.lane ? "Pick lane " + o.lane : "Pick silence", std::move(picked.session));
  // Only once it is done: nothing is said of what was not.
  for (const Sentence& each : picked.notices) std::cout << each << "\n";
}

void split(const CompositeCommandOptions& o) {
  change(o, "Split the composite", [&](const Session& session, const Track& track) {
    return splitPiece(session, track.id, parsePosition(o.at, session.ruler()));
  });
}

const Join& nearestJoin(const ResolvedComposite& composite, const Track& track, Frames at) {
  const Join* nearest = composite.nearestJoin(at);
  if (!nearest)
    throw Error("The composite of \"%1\" has no joins: it plays one take throughout.", track.name);
  return *nearest;
}

void merge(const CompositeCommandOptions& o) {
  change(o, "Merge two pieces", [&](const Session& session, const Track& track) {
    const ResolvedComposite composite = resolve(track, session.rate);
    return mergePieces(session, track.id,
                       nearestJoin(composite, track, parsePosition(o.at, session.ruler())).at);
  });
}

void piece(const CompositeCommandOptions& o) {
  if (!o.gain && !o.pitch && !o.slip) throw CLI::RequiredError("--gain (or --pitch, or --slip)");
  change(o, "Change a piece", [&](const Session& session, const Track& track) {
    const Frames at = parsePosition(o.at, session.ruler());
    PieceChange wanted;
    if (o.gain) wanted.gain = Decibels{*o.gain};
    if (o.pitch) wanted.pitch = Cents{*o.pitch};
    if (o.slip) wanted.slip = parseSignedDuration(*o.slip, session.ruler(), at);
    Session changed = changePiece(session, track.id, at, wanted);
    if (o.slip)
      if (const auto notice = slipNotice(changed, track.id, at)) std::cout << *notice << "\n";
    return changed;
  });
}

/// The shape that the options make of the one that is there. What was set counts, not what the material left
/// of it.
JoinShape wantedShape(const CompositeCommandOptions& o, const Session& session, const Track& track,
                      Frames at) {
  JoinShape shape = defaultJoin(session.rate);
  for (const JoinSetting& setting : track.composite.joins)
    if (setting.at == at && setting.shape) shape = *setting.shape;
  if (o.length) {
    const Frames length = parseDuration(*o.length, session.ruler(), at);
    shape.before = {length.count / 2};
    shape.after = length - shape.before;
  }
  if (o.before) shape.before = parseDuration(*o.before, session.ruler(), at);
  if (o.after) shape.after = parseDuration(*o.after, session.ruler(), at);
  if (o.curve) shape.curve = curveNamed(*o.curve);
  if (o.bend) shape.bend = *o.bend;
  return shape;
}

void join(const CompositeCommandOptions& o) {
  change(o, "Set a join", [&](const Session& session, const Track& track) {
    const ResolvedComposite composite = resolve(track, session.rate);
    const Frames at = nearestJoin(composite, track, parsePosition(o.at, session.ruler())).at;
    Session next = session;
    if (o.reset) next = resetJoin(std::move(next), track.id, at);
    if (o.length || o.before || o.after || o.curve || o.bend)
      next = setJoin(std::move(next), track.id, at, wantedShape(o, session, track, at));
    if (o.settled) next = settleJoin(std::move(next), track.id, at, *o.settled);
    if (o.move)
      next = moveBoundaryExactly(std::move(next), track.id, at, parsePosition(*o.move, session.ruler()));
    return next;
  });
}

void printJoins(const CompositeCommandOptions& o, const SessionDisk& disk, const Session& session,
                const Track& track, const std::vector<ImprovedJoin>& improved) {
  const auto measured = measureJoins(disk, session, track.id);
  std::cout << (o.json ? joinsReport(measured, improved).dump(1) + "\n"
                       : joinsText(measured, improved, session.ruler()));
}

JoinWish wishOf(const CompositeCommandOptions& o, const Session& session) {
  const Frames at = o.at.empty() ? Frames{} : parsePosition(o.at, session.ruler());
  return {parseDuration(o.within, session.ruler(), at), parseDuration(o.slipWithin, session.ruler(), at)};
}

void improve(const CompositeCommandOptions& o) {
  const auto better = [&](const SessionFolder& folder) {
    const Session& session = folder.session();
    const Track& track = requireTrack(session, o.track);
    std::optional<Frames> only;
    if (!o.at.empty())
      only = nearestJoin(resolve(track, session.rate), track, parsePosition(o.at, session.ruler())).at;
    return improveJoins(folder.disk(), session, track.id, wishOf(o, session), only);
  };
  const auto tell = [&](const SessionFolder& folder, const Improvement& improvement) {
    printJoins(o, folder.disk(), improvement.session, requireTrack(improvement.session, o.track),
               improvement.joins);
    if (!o.json)
      std::cout << Sentence("%1 of %2 joins %3 better.", improvement.joins.size(), improvement.looked,
                            Sentence::verbatim(o.dryRun ? "could be" : "are"))
                << "\n";
  };
  if (o.dryRun) {
    const SessionFolder folder = openToLook(o.session);
    return tell(folder, better(folder));
  }
  SessionFolder folder = openToChange(o.session);
  const Improvement improvement = better(folder);
  if (!improvement.joins.empty()) folder.commit("Improve joins", improvement.session);
  tell(folder, improvement);
}

/// One shape for many of them.
void setMany(const CompositeCommandOptions& o) {
  change(o, "Set all joins", [&](const Session& session, const Track& track) {
    const std::optional<Span> span =
        o.span.empty() ? std::nullopt : std::optional(parseSpan(o.span, session.ruler()));
    JoinChange wanted;
    if (o.length) {
      const Frames length = parseDuration(*o.length, session.ruler(), span ? span->start : Frames{});
      wanted.before = Frames{length.count / 2};
      wanted.after = length - *wanted.before;
    }
    if (o.curve) wanted.curve = curveNamed(*o.curve);
    wanted.bend = o.bend;
    return changeJoins(session, track.id, wanted, span);
  });
}

void joins(const CompositeCommandOptions& o) {
  if (o.improve) return improve(o);
  if (!o.at.empty() || o.dryRun) throw CLI::RequiredError("--improve");
  if (o.length || o.curve || o.bend)
    setMany(o);
  else if (!o.span.empty())
    throw CLI::RequiredError("--length (or --curve, or --bend)");
  const SessionFolder folder = openToLook(o.session);
  printJoins(o, folder.disk(), folder.session(), requireTrack(folder.session(), o.track), {});
}

void listComposites(const CompositeCommandOptions& o, const Session& session, const Track& track) {
  std::vector<Span> differences;
  if (o.compare)
    differences = differencesBetween(track, track.composite, compositeNamed(track, *o.compare), session.rate);
  if (o.json) {
    nlohmann::json report{{"composites", nlohmann::json::array()}};
    for (const std::string& name : compositeNames(track))
      report["composites"].push_back({{"name", name},
                                      {"used", name == compositeName(track)},
                                      {"pieces", compositeNamed(track, name).picks.size()}});
    if (o.compare) report["differences"] = nlohmann::json::array();
    for (const Span span : differences)
      report["differences"].push_back({{"start", span.start.count}, {"end", span.end.count}});
    std::cout << report.dump(1) << "\n";
    return;
  }
  for (const std::string& name : compositeNames(track))
    std::cout << (name == compositeName(track) ? "* " : "  ") << name << "\n";
  const Ruler ruler = session.ruler();
  for (const Span span : differences)
    std::cout << "differs  " << barBeatText(span.start, ruler) << " .. " << barBeatText(span.end, ruler)
              << "  (" << span.start.count << "f.." << span.end.count << "f)\n";
  if (o.compare && differences.empty()) std::cout << "They play the same.\n";
}

nlohmann::json roughReport(const RoughComposite& rough) {
  nlohmann::json report{{"audibility", rough.audibility}, {"phrases", nlohmann::json::array()}};
  for (const RoughChoice& choice : rough.phrases) {
    auto& told = report["phrases"].emplace_back(nlohmann::json{{"start", choice.span.start.count},
                                                               {"end", choice.span.end.count},
                                                               {"lane", nullptr},
                                                               {"stays", choice.stays},
                                                               {"rating", choice.rating},
                                                               {"alike", nlohmann::json::array()},
                                                               {"audibility", choice.audibility},
                                                               {"why", choice.why.english()}});
    if (choice.lane) told["lane"] = choice.lane->value;
    for (const LaneNumber lane : choice.alike) told["alike"].push_back(lane.value);
  }
  return report;
}

void makeRough(const CompositeCommandOptions& o) {
  SessionFolder folder = o.dryRun ? openToLook(o.session) : openToChange(o.session);
  const Session& session = folder.session();
  const Track& track = requireTrack(session, o.track);
  const auto phrases = phrasesIn(folder, track);
  MeasuredTakes measured(folder, track);
  const RoughComposite rough = roughComposite(session, track, phrases, measured.find(), !o.anew);
  if (!o.dryRun) {
    Session next = session;
    if (o.keep) next = keepComposite(std::move(next), track.id, *o.keep);
    folder.commit("Rough composite", playRough(std::move(next), track.id, rough.pieces, !o.anew));
  }
  if (o.json) {
    std::cout << nlohmann::json{{"rough", roughReport(rough)}}.dump(1) << "\n";
    return;
  }
  const Ruler ruler = session.ruler();
  for (const RoughChoice& choice : rough.phrases)
    std::cout << barBeatText(choice.span.start, ruler) << "  " << choice.why << "\n";
}

void composite(const CompositeCommandOptions& o) {
  if (o.rough) return makeRough(o);
  if (o.anew || o.dryRun) throw CLI::RequiredError("--rough");
  if ((o.curve || o.bend) && !o.fadeIn && !o.fadeOut) throw CLI::RequiredError("--fade-in (or --fade-out)");
  const bool changes = o.keep || o.use || o.remove || o.fadeIn || o.fadeOut;
  if (changes)
    change(o, "Change the composites", [&](const Session& session, const Track& track) {
      Session next = session;
      if (o.keep) next = keepComposite(std::move(next), track.id, *o.keep);
      if (o.use) next = useComposite(std::move(next), track.id, *o.use);
      if (o.remove) next = removeComposite(std::move(next), track.id, *o.remove);
      for (const auto& [text, end] :
           {std::pair{o.fadeIn, CompositeEnd::Start}, {o.fadeOut, CompositeEnd::End}}) {
        if (!text) continue;
        const Composite& now = requireTrack(next, track.id).composite;
        EndFade fade = end == CompositeEnd::Start ? now.fadeIn : now.fadeOut;
        fade.length = parseDuration(*text, session.ruler(), {});
        if (o.curve) fade.curve = curveNamed(*o.curve);
        if (o.bend) fade.bend = *o.bend;
        next = setEndFade(std::move(next), track.id, end, fade);
      }
      return next;
    });
  if (changes && !o.json) return;
  const SessionFolder folder = openToLook(o.session);
  listComposites(o, folder.session(), requireTrack(folder.session(), o.track));
}

void describeShape(CLI::App& c, CompositeCommandOptions& o) {
  c.add_option("--curve", o.curve, "equal-gain, equal-power, s or matched")
      ->check(CLI::IsMember({"equal-gain", "equal-power", "s", "matched"}));
  c.add_option("--bend", o.bend, "-1 (late) to 1 (early)")->type_name("BEND");
}

}  // namespace

void describeCompositeCommands(CLI::App& app, CompositeCommandOptions& o) {
  auto command = [&](const char* name, const char* help, auto action) {
    return addTrackCommand(app, name, help, o, action);
  };
  auto at = [&](CLI::App* c, const char* help) {
    c->add_option("--at", o.at, help)->required()->type_name("POS");
  };
  auto json = [&](CLI::App* c) { c->add_flag("--json", o.json, "As JSON"); };

  CLI::App* c =
      command("pick",
              "The composite plays that lane (or silence) there: what is audible of it, and nothing "
              "else changes; prints what stayed as it was, and why",
              pickLane);
  c->add_option("--lane", o.lane, "The lane's number, or none for silence")->required()->type_name("N");
  CLI::Option* const over[] = {
      c->add_option("--span", o.span, "FROM..TO, half-open")->type_name("SPAN"),
      c->add_option("--phrase", o.phrase,
                    "The phrase there, or the N-th, as a whole, so that no word at its edges loses its end")
          ->type_name("POS|#N"),
      c->add_option("--piece", o.piece, "The piece of the composite there, and nothing else")
          ->type_name("POS"),
      c->add_option("--punch", o.punch, "The N-th punch span, counted from 1")->type_name("N")};
  for (auto* one : over)
    for (auto* other : over)
      if (one != other) one->excludes(other);
  c->add_flag("--with-handles", o.handles, "Takes what lies in the take's handles too, and makes it audible");
  c = command("split", "A boundary there; both sides go on playing the same until one is picked anew", split);
  at(c, "Where");
  c = command("merge", "The boundary nearest to the position goes: what plays before it plays on", merge);
  at(c, "Near which the boundary is");
  c = command("piece", "Sets gain, pitch and slip of the piece there", piece);
  at(c, "In the piece");
  c->add_option("--gain", o.gain, "Its gain")->type_name("DB");
  c->add_option("--pitch", o.pitch, "Shifts its pitch, -2400 to 2400")->type_name("CENTS");
  c->add_option("--slip", o.slip, "Plays the take that much later (earlier with a minus)")->type_name("DUR");
  c = command("join", "Sets the join nearest to the position", join);
  at(c, "Near which the join is");
  c->add_option("--length", o.length, "Of the crossfade, centred on the boundary")->type_name("DUR");
  c->add_option("--before", o.before, "Of the crossfade before the boundary")->type_name("DUR");
  c->add_option("--after", o.after, "Of the crossfade behind it")->type_name("DUR");
  describeShape(*c, o);
  c->add_option("--move", o.move, "Moves the boundary there")->type_name("POS");
  c->add_option("--settled", o.settled, "It was heard, and is well")->type_name("on|off");
  c->add_flag("--reset", o.reset, "It is as made");
  c = command("joins", "Lists the joins with their measures, riskiest first", joins);
  c->add_flag(
      "--improve", o.improve,
      "Moves each to the best place near it, with the best crossfade; those a person set, or settled, stay");
  c->add_option("--at", o.at, "Only the join nearest to that, whoever set it")->type_name("POS");
  c->add_option("--within", o.within, "How far a boundary may move (100ms)")->type_name("DUR");
  c->add_option("--slip-within", o.slipWithin, "How far what plays behind it may be slipped (not at all)")
      ->type_name("DUR");
  c->add_flag("--dry-run", o.dryRun, "Says what would be better, and changes nothing");
  auto* improves = c->get_option("--improve");
  for (const char* search : {"--within", "--slip-within"}) c->get_option(search)->needs(improves);
  for (auto* many : {c->add_option("--length", o.length, "Of all crossfades, but for settled ones"),
                     c->add_option("--span", o.span, "Only of those in there")})
    many->excludes(improves);
  describeShape(*c, o);
  for (const char* many : {"--curve", "--bend"}) c->get_option(many)->excludes(improves);
  json(c);
  c = command("composite", "Several composites of a track, side by side: lists, keeps, uses, removes them",
              composite);
  c->add_option("--keep", o.keep, "Keeps a copy of the present one under that name")->type_name("NAME");
  c->add_option("--use", o.use, "Uses that one; the present one is kept")->type_name("NAME");
  c->add_option("--remove", o.remove, "Removes that one")->type_name("NAME");
  c->add_option("--compare", o.compare, "Lists where that one plays something else")->type_name("NAME");
  c->add_option("--fade-in", o.fadeIn, "How long the composite fades in at its start")->type_name("DUR");
  c->add_option("--fade-out", o.fadeOut, "How long it fades out at its end")->type_name("DUR");
  describeShape(*c, o);
  auto* rough = c->add_flag("--rough", o.rough,
                            "Makes one from the ratings: in each phrase the take rated best, and of those "
                            "rated alike the ones whose joins are heard least; says why");
  for (const char* other : {"--use", "--remove", "--compare", "--fade-in", "--fade-out"})
    rough->excludes(c->get_option(other));
  c->add_flag("--anew", o.anew, "With --rough: also where a take was picked");
  c->add_flag("--dry-run", o.dryRun, "With --rough: says what it would choose, and changes nothing");
  json(c);
}

}  // namespace yewdrift::tool
