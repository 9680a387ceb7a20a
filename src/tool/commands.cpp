// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/commands.h"

#include <CLI/CLI.hpp>
#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/offline_render.h"
#include "core/session/limits.h"
#include "core/store/audio_file.h"
#include "core/store/file_uses.h"
#include "core/store/import_audio.h"
#include "core/store/output_file.h"
#include "core/store/session_names.h"
#include "tool/arguments.h"
#include "tool/composite_commands.h"
#include "tool/device_commands.h"
#include "tool/finish_commands.h"
#include "tool/open_session.h"
#include "tool/record_command.h"
#include "tool/report.h"
#include "tool/session_commands.h"
#include "tool/take_commands.h"

namespace yewdrift::tool {
namespace {

namespace fs = std::filesystem;

/// Everything any command can be given; CLI fills in what the command line names.
struct CommandOptions {
  std::string session;
  std::string track;
  std::vector<std::string> files;
  std::optional<std::string> at;
  std::optional<std::string> span;
  std::optional<std::string> out;
  std::optional<std::string> format;
  std::string lane;
  std::string meter = "4/4";
  int rate = 48000;
  double tempo = 120.0;
  bool backing = false;
  bool json = false;
  bool bringIn = false;
  std::optional<std::size_t> to;
  RecordOptions record;
};

void makeNew(const CommandOptions& options) {
  Session session;
  session.name = fs::path(options.session).lexically_normal().filename().string();
  if (session.name.empty()) session.name = fs::path(options.session).parent_path().filename().string();
  session.rate = {options.rate};
  checkRate(session.rate);
  session.tempo = TempoMap({{1, options.tempo, parseMeter(options.meter)}});
  session.format = sampleFormatNamed(options.format.value_or("pcm24"));
  SessionFolder::create(options.session, session);
  std::cout << "Made an empty session at " << options.rate << " Hz.\n";
}

void add(const CommandOptions& options) {
  SessionFolder folder = openToChange(options.session);
  Session session = folder.session();
  const Frames at = options.at ? parsePosition(*options.at, session.ruler()) : Frames{};
  std::vector<std::string> imported;
  try {
    for (const std::string& path : options.files) {
      const Track* const track = session.trackNamed(options.track);
      const Imported made = importAudio(folder.disk(), {session.rate, track ? track->channels() : 0}, path);
      const PoolFile& file = made.file;
      imported.push_back(file.path);
      for (const Sentence& notice : noticesOf(fs::path(path).filename().string(), made))
        std::cerr << "yewdrift-tool: " << notice << "\n";
      if (!session.trackNamed(options.track))
        session = addTrack(std::move(session), options.track, microphonesFor(file.channels), options.backing);
      const TrackId into = session.trackNamed(options.track)->id;
      session = addFileAsLane(std::move(session), into, file, at, fs::path(path).stem().string());
    }
    folder.commit(
        options.files.size() == 1 ? "Add a file" : "Add " + std::to_string(options.files.size()) + " files",
        std::move(session));
  } catch (...) {
    for (const std::string& path : imported) folder.disk().remove(path);
    throw;
  }
  const Track& track = *folder.session().trackNamed(options.track);
  std::cout << Sentence("\"%1\" now has %n lane(s).", track.name,
                        Count{static_cast<std::int64_t>(track.lanes.size())})
            << "\n";
}

/// Opens, changes the track by `edit`, saves.
template <typename Edit>
void change(const CommandOptions& options, const std::string& label, Edit edit) {
  SessionFolder folder = openToChange(options.session);
  const Track& track = requireTrack(folder.session(), options.track);
  folder.commit(label, edit(folder.session(), track));
}

void window(const CommandOptions& options) {
  change(options, "Pull a take's edges", [&](const Session& session, const Track& track) {
    const LaneNumber lane = laneNumber(options.lane);
    requireLane(track, lane);
    return pullWindow(session, track.id, lane, parseSpan(*options.span, session.ruler()));
  });
}

void render(const CommandOptions& options) {
  const SessionFolder folder = openToLook(options.session);
  const Session& session = folder.session();
  RenderRequest request;
  if (!options.track.empty()) request.track = requireTrack(session, options.track).id;
  if (!options.lane.empty()) {
    if (!request.track) throw CLI::RequiredError("--track (whose lane it is)");
    request.lane = laneNumber(options.lane);
    requireLane(requireTrack(session, *request.track), *request.lane);
  }
  if (options.span) request.span = parseSpan(*options.span, session.ruler());
  if (options.format) request.format = sampleFormatNamed(*options.format);
  request.timeStamped = true;
  const Rendered rendered = renderToFile(folder.disk(), session, request, *options.out);
  std::cout << "Rendered " << rendered.span.length().count << " frames from " << rendered.span.start.count
            << "f.\n";
}

void undoOrRedo(const CommandOptions& options, bool undo) {
  SessionFolder folder = openToChange(options.session);
  // What was brought in by opening it is no step that anybody means to take back without knowing of it.
  if (undo && !folder.recovered().empty())
    throw Error(
        "A recording that was cut off was brought in just now, so nothing was undone; undo once more to take "
        "that back.");
  const std::string label = undo ? folder.editHistory().undo() : folder.editHistory().redo();
  folder.save();
  std::cout << (undo ? "Undone: " : "Redone: ") << label << "\n";
}

void goInHistory(const CommandOptions& options) {
  SessionFolder folder = openToChange(options.session);
  if (!folder.recovered().empty())
    throw Error(
        "A recording that was cut off was brought in just now, so nothing was undone; ask once more to go "
        "back behind that.");
  folder.editHistory().goTo(*options.to);
  folder.save();
}

void history(const CommandOptions& options) {
  if (options.to) goInHistory(options);
  const SessionFolder folder = openToLook(options.session);
  const History& history = folder.history();
  if (options.json) {
    nlohmann::json report{{"done", history.doneCount()}, {"steps", nlohmann::json::array()}};
    for (const History::Step& step : history.steps()) report["steps"].push_back(step->label());
    std::cout << report.dump(1) << "\n";
    return;
  }
  std::size_t number = 0;
  for (const History::Step& step : history.steps()) {
    ++number;
    std::cout << (number == history.doneCount() ? "* " : "  ") << number << "  " << step->label()
              << (number > history.doneCount() ? "  (undone)" : "") << "\n";
  }
}

void show(const CommandOptions& options) {
  const SessionFolder folder = openToLook(options.session);
  std::cout << (options.json ? sessionReport(folder.session()).dump(1) + "\n"
                             : sessionText(folder.session()));
}

/// What nobody needs is listed; with --bring-in it becomes takes.
void tellUnneeded(SessionFolder& folder, bool bringIn) {
  if (bringIn) {
    folder.requireWritable();
    BroughtIn brought = bringInUnneeded(folder);
    for (const Sentence& sentence : brought.sentences) std::cout << sentence << "\n";
    if (brought.files > 0) folder.commit("Bring in files", std::move(brought.session));
    return;
  }
  for (const FileUse& use : fileUses(folder))
    if (use.needed == Needed::ByNobody)
      std::cout << "\"" << use.path << "\" is in the folder, but nothing refers to it.\n";
}

/// Where another program has the session open, the end of a take may still be on its way to the disk: a file
/// that is not whole is looked at again for some seconds.
SessionFolder openToCheck(const std::string& session) {
  constexpr int mostTries = 12;
  for (int tries = 1;; ++tries) {
    SessionFolder folder = SessionFolder::open(session, SessionFolder::Access::WriteOrRead);
    if (folder.writable() || folder.fileProblems().empty() || tries == mostTries) return folder;
    std::this_thread::sleep_for(std::chrono::milliseconds(500));
  }
}

void check(const CommandOptions& options) {
  SessionFolder folder = openToCheck(options.session);
  for (const Sentence& notice : folder.notices()) std::cout << notice << "\n";
  tellUnneeded(folder, options.bringIn);
  const std::size_t problems = folder.fileProblems().size();
  if (problems > 0)
    throw Error("%n audio files are not as they should be.|One audio file is not as it should be.",
                Count{static_cast<std::int64_t>(problems)});
  const auto size = [](const auto& of) { return Count{static_cast<std::int64_t>(of.size())}; };
  std::cout << "The session is whole: " << Sentence("%n audio file(s)", size(*folder.session().pool)) << ", "
            << Sentence("%n track(s)", size(folder.session().tracks)) << ".\n";
}

void addRecordOptions(CLI::App& command, RecordOptions& record) {
  command
      .add_option("--performance", record.performances,
                  "What the performer plays, a file a pass; the last one again if there are fewer")
      ->expected(1, -1)
      ->type_name("FILE");
  command
      .add_option("--performance-at", record.performanceAt,
                  "Where a performance's first frame belongs (default: the loop's start, or --from)")
      ->type_name("POS");
  command
      .add_option(
          "--round-trip", record.roundTrip,
          "Frames by which the interface delays its input; of a real device, what was measured counts "
          "where it is not given")
      ->check(between(0LL, 10'000'000LL))
      ->type_name("FRAMES");
  command.add_option("--block", record.block, "Frames a block")->check(between(1, 8192))->type_name("FRAMES");
  command.add_option("--from", record.from, "Where recording starts")->required()->type_name("POS");
  command.add_option("--to", record.to, "Where it stops, without a loop")->type_name("POS");
  command.add_option("--loop", record.loop, "Goes round this span, a pass each time")->type_name("SPAN");
  command
      .add_option("--passes", record.passes, "Stops after N times round (default: one for each performance)")
      ->check(between(1, 100'000))
      ->type_name("N");
  command
      .add_option(
          "--punch", record.punches,
          "Only this is heard of a pass; may be given several times; FROM.. and ..TO leave an end open")
      ->type_name("SPAN");
  command
      .add_option(
          "--hand-punch", record.handPunches,
          "Punches in and out by hand there, at the block that comes next; may be given several times")
      ->type_name("SPAN");
  command.add_option("--count-in", record.countIn, "Bars of click before it starts")
      ->check(between(0, 16))
      ->type_name("BARS");
  command.add_flag("--play-back", record.playBack, "Every second time round plays back instead of recording");
  command.add_option("--into-lane", record.intoLane, "The (last) pass goes into that lane")->type_name("N");
  command.add_option("--stop-after", record.stopAfter, "Stops by hand after that long")->type_name("DUR");
  command
      .add_option("--dropout-every", record.dropoutEvery,
                  "Every so many blocks the interface loses its input")
      ->check(between(0, 1'000'000))
      ->type_name("BLOCKS");
  command.add_flag("--dry-run", record.dryRun, "Only says in a sentence what would be recorded");
  command.add_option("--pre-roll", record.preRoll, "Starts that much earlier")->type_name("DUR");
  command.add_option("--post-roll", record.postRoll, "Goes on that much longer")->type_name("DUR");
  command.add_option("--result", record.result, "new-lane, replace or overdub")
      ->check(CLI::IsMember({"new-lane", "replace", "overdub"}));
  command
      .add_option("--driver", record.driver, "Records from a real device: PipeWire, JACK, PulseAudio or ALSA")
      ->type_name("NAME");
  command.add_option("--in", record.source, "What is recorded from (default: the system's)")
      ->type_name("NAME");
  command.add_option("--out", record.sink, "What is played to (default: the system's)")->type_name("NAME");
  command.add_flag("--realtime", record.realtime, "Runs in real time instead of as fast as it can");
}

void recordPasses(CommandOptions& options) {
  if (options.record.driver && !options.record.performances.empty())
    throw CLI::ExcludesError("--driver", "--performance");
  if (!options.record.driver && options.record.performances.empty())
    throw CLI::RequiredError("--performance (or --driver)");
  if (!options.record.loop && !options.record.to && !options.record.stopAfter)
    throw CLI::RequiredError("--to (or --loop, or --stop-after)");
  options.record.session = options.session;
  options.record.track = options.track;
  std::cout << record(options.record) << "\n";
}

void describeCommands(CLI::App& app, CommandOptions& o) {
  auto command = [&](const char* name, const char* help, auto action) {
    return addSessionCommand(app, name, help, o, action);
  };
  auto track = [&](CLI::App* c) {
    return c->add_option("--track", o.track, "The track's name")->type_name("NAME");
  };
  auto span = [&](CLI::App* c) {
    return c->add_option("--span", o.span, "FROM..TO, half-open")->type_name("SPAN");
  };
  auto lane = [&](CLI::App* c, const char* help) {
    c->add_option("--lane", o.lane, help)->required()->type_name("N");
  };
  auto format = [&](CLI::App* c) {
    c->add_option("--format", o.format, "pcm16, pcm24 or float")
        ->check(CLI::IsMember({"pcm16", "pcm24", "float"}));
  };
  auto json = [&](CLI::App* c) { c->add_flag("--json", o.json, "As JSON"); };

  CLI::App* c = command("new", "Makes an empty session; refuses a folder that has something in it", makeNew);
  c->add_option("--rate", o.rate, "Frames a second, 44100 to 192000")->type_name("HZ");
  c->add_option("--tempo", o.tempo, "Beats a minute")->type_name("BPM");
  c->add_option("--meter", o.meter, "Beats and their note value")->type_name("N/M");
  format(c);
  c = command("add", "Each file becomes a lane of the track, in the order given", add);
  track(c)->required();
  c->add_option("--at", o.at, "Where the files start (default: at the session's start)")->type_name("POS");
  c->add_flag("--backing", o.backing, "A plain track that plays the file");
  c->add_option("files", o.files, "Audio files")->required()->type_name("FILE");
  c = command("record", "Records from the simulated interface or a real device", recordPasses);
  track(c)->required();
  addRecordOptions(*c, o.record);
  c = command("window", "Pulls the audible window of the clip nearest to the span out to it, or in", window);
  track(c)->required();
  lane(c, "The lane's number");
  span(c)->required();
  c = command("render", "What would be heard: the mix, or one track alone before gain and pan", render);
  track(c);
  c->add_option("--lane", o.lane, "One lane of the track alone, as it is listened to")->type_name("N");
  span(c);
  c->add_option("--out", o.out, "The file to write")->required()->type_name("FILE");
  format(c);
  command("undo", "Takes back one step of the session's history",
          [](const CommandOptions& options) { undoOrRedo(options, true); });
  command("redo", "Does again what was undone last",
          [](const CommandOptions& options) { undoOrRedo(options, false); });
  c = command("history", "The steps of the session's history, and which of them are done", history);
  c->add_option("--to", o.to, "Undoes or redoes until so many are done; 0: none")
      ->check(CLI::NonNegativeNumber)
      ->type_name("K");
  json(c);
  json(command("show", "Tracks, lanes, pieces, joins, spans, markers and the pool", show));
  c = command("check",
              "Verifies every reference and file; says what was recovered or is missing, and which files "
              "nothing refers to",
              check);
  c->add_flag("--bring-in", o.bringIn, "Files that nothing refers to become takes of tracks of their own");
}

Exit complain(const std::string& sentence, Exit exit) {
  std::string line = readableText(sentence);  // whatever bytes it quotes
  std::replace(line.begin(), line.end(), '\n', ' ');
  std::cerr << "yewdrift-tool: " << line << "\n";
  return exit;
}

/// A sentence where what stands in a command's place is none.
std::optional<std::string> notACommand(const CLI::App& app, const std::vector<std::string>& arguments) {
  const auto first = std::find_if(arguments.begin(), arguments.end(), [](const std::string& each) {
    return each.empty() || each.front() != '-';
  });
  if (first == arguments.end())
    return arguments.empty()
               ? std::optional<std::string>("Say what to do: a command is missing (see --help).")
               : std::nullopt;
  const auto commands = app.get_subcommands({});
  const bool known = std::any_of(commands.begin(), commands.end(),
                                 [&](const CLI::App* each) { return each->get_name() == *first; });
  return known ? std::nullopt : std::optional("There is no command " + quoted(*first) + " (see --help).");
}

}  // namespace

Exit run(const std::vector<std::string>& arguments) {
  CLI::App app(
      "Records, picks, joins and flattens takes without a display.\nPositions: 123456f (frames), 2.5s "
      "(seconds), 5|1 (bar|beat). Spans: FROM..TO, half-open. Lengths: 480f, 10ms, 0.5s, 2bars.",
      "yewdrift-tool");
  app.require_subcommand(1);
  app.option_defaults()->disable_flag_override();  // a flag is given or not; it takes no value
  app.set_help_all_flag("--help-all", "All commands with all their options");
  CommandOptions options;
  describeCommands(app, options);
  SessionCommandOptions sessionOptions;
  describeSessionCommands(app, sessionOptions);
  CompositeCommandOptions compositeOptions;
  describeCompositeCommands(app, compositeOptions);
  TakeCommandOptions takeOptions;
  describeTakeCommands(app, takeOptions);
  FinishCommandOptions finishOptions;
  describeFinishCommands(app, finishOptions);
  DeviceCommandOptions deviceOptions;
  describeDeviceCommands(app, deviceOptions);
  if (const auto wrong = notACommand(app, arguments)) return complain(*wrong, Exit::WrongUsage);
  std::vector<std::string> reversed(arguments.rbegin(), arguments.rend());
  try {
    app.parse(reversed);
    return Exit::Done;
  } catch (const CLI::CallForHelp&) {
    std::cout << app.help();
    return Exit::Done;
  } catch (const CLI::CallForAllHelp&) {
    std::cout << app.help("", CLI::AppFormatMode::All);
    return Exit::Done;
  } catch (const CLI::ParseError& e) {
    return complain(saidOf(e), Exit::WrongUsage);
  } catch (const Error& e) {
    return complain(e.what(), Exit::CouldNot);
  } catch (const std::bad_alloc&) {
    return complain("There is not enough memory for that.", Exit::CouldNot);
  } catch (const std::exception& e) {
    return complain(Sentence("That could not be done: %1", std::string(e.what())).english(), Exit::CouldNot);
  }
}

}  // namespace yewdrift::tool
