// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/finish_commands.h"

#include <CLI/CLI.hpp>
#include <iostream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/deliver/delivery.h"
#include "core/deliver/take_sheet.h"
#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/flatten.h"
#include "core/store/output_file.h"
#include "core/store/pool_files.h"
#include "core/store/session_names.h"
#include "tool/arguments.h"
#include "tool/open_session.h"

namespace yewdrift::tool {
namespace {

using nlohmann::json;

OtherLanes otherLanes(const std::string& name) {
  return name == "archive" ? OtherLanes::Archive : name == "remove" ? OtherLanes::Remove : OtherLanes::Keep;
}

void flattenTrack(const FinishCommandOptions& o) {
  SessionFolder folder = openToChange(o.session);
  const Session& session = folder.session();
  const Track& track = requireTrack(session, o.track);
  if (o.span && o.lanes != "keep")
    throw Error("Of a stretch the other lanes are still needed: they are kept.");
  std::optional<OutputFile> output;
  if (o.out) output.emplace(folder.disk(), *o.out);
  const std::optional<Span> span = o.span ? std::optional(parseSpan(*o.span, session.ruler())) : std::nullopt;
  const FlattenedFile flattened = renderComposite(folder.disk(), session, track.id, {}, span);
  try {
    Session next =
        span ? takePlaceInComposite(session, track.id, flattened.file, flattened.origin, flattened.span)
             : takePlaceOfComposite(session, track.id, flattened.file, flattened.origin, otherLanes(o.lanes));
    if (output) output->keepCopyOf(folder.disk().open(flattened.file.path));
    folder.commit("Flatten " + o.track, std::move(next));
  } catch (...) {
    folder.disk().remove(flattened.file.path);
    throw;
  }
  std::cout << "Flattened to " << flattened.file.path << ", " << flattened.file.length.count << " frames.";
  for (const Sentence& each : verifiedSentences(flattened)) std::cout << " " << each;
  std::cout << "\n";
}

// -- delivery

std::set<Deliverable> whatOf(const std::string& list) {
  std::set<Deliverable> what;
  std::istringstream names(list);
  for (std::string name; std::getline(names, name, ',');) {
    const auto& all = deliverables();
    const auto found =
        std::find_if(all.begin(), all.end(), [&](const auto& each) { return each.first == name; });
    if (found == all.end())
      throw CLI::ValidationError("--what", "\"" + name + "\" is nothing that can be delivered.");
    what.insert(found->second);
  }
  return what;
}

DeliveryWish wishOf(const FinishCommandOptions& o, const Session& session) {
  DeliveryWish wish;
  wish.what = whatOf(o.what);
  for (const std::string& name : o.tracks) wish.tracks.push_back(requireTrack(session, name).id);
  wish.tailSeconds = o.tail;
  wish.container = o.format == "flac"   ? Container::Flac
                   : o.format == "rf64" ? Container::Rf64
                                        : Container::Wave;
  if (o.depth) wish.format = sampleFormatNamed(*o.depth);
  if (o.rate) wish.rate = SampleRate{*o.rate};
  wish.dither = !o.noDither;
  return wish;
}

void deliverSession(const FinishCommandOptions& o) {
  const SessionFolder folder = openToLook(o.session);
  const DeliveryWish wish = wishOf(o, folder.session());
  const Delivery delivery = o.dryRun ? planDelivery(folder.disk(), folder.session(), wish)
                                     : deliver(folder.disk(), folder.session(), wish, o.to);
  if (o.json) {
    json report{{"files", json::array()}, {"notices", json::array()}};
    for (const Delivered& file : delivery.files)
      report["files"].push_back({{"name", file.name}, {"bytes", file.bytes}, {"estimated", file.estimated}});
    for (const Sentence& notice : delivery.notices) report["notices"].push_back(notice.english());
    std::cout << report.dump(1) << "\n";
    return;
  }
  for (const Delivered& file : delivery.files)
    std::cout << file.name << "  " << (file.estimated ? "about " : "") << file.bytes << " bytes\n";
  for (const Sentence& notice : delivery.notices) std::cout << notice << "\n";
}

// -- the pool

const char* nameOf(FileState state) {
  switch (state) {
    case FileState::Missing:
      return "missing";
    case FileState::Shorter:
      return "shorter than it was";
    case FileState::Unreadable:
      return "unreadable";
    case FileState::There:
      break;
  }
  return "there";
}

const char* nameOf(Needed needed) {
  return needed == Needed::Now ? "session" : needed == Needed::ForHistory ? "history" : "nobody";
}

void relinkFiles(const FinishCommandOptions& o) {
  SessionFolder folder = openToChange(o.session);
  const auto found = findMissing(folder, *o.relink);
  for (const FoundFile& file : found) {
    putBack(folder.disk(), file);
    if (!o.json) std::cout << file.path << " is back, from " << file.found.string() << "\n";
  }
  if (found.empty() && !o.json) std::cout << "Nothing that is missing was found there.\n";
}

void trashFiles(const FinishCommandOptions& o) {
  SessionFolder folder = openToChange(o.session);
  if (!o.yes) {
    if (o.json) return;
    std::uint64_t bytes = 0;
    for (const FileOfSession& file : filesOf(folder))
      if (file.needed == Needed::ByNobody) {
        std::cout << file.path << "  " << file.bytes << " bytes\n";
        bytes += file.bytes;
      }
    std::cout << bytes << " bytes would go to the trash; say so with --yes.\n";
    return;
  }
  for (const std::string& path : trashUnneeded(folder))
    if (!o.json) std::cout << path << " is in the trash.\n";
}

void listFiles(const FinishCommandOptions& o) {
  const SessionFolder folder = openToLook(o.session);
  const auto files = filesOf(folder);
  std::uint64_t all = 0;
  std::uint64_t unused = 0;
  json report{{"files", json::array()}};
  for (const FileOfSession& file : files) {
    all += file.bytes;
    if (file.needed == Needed::ByNobody) unused += file.bytes;
    json users = json::array();
    for (const FileUser& user : file.users)
      users.push_back({{"track", user.track}, {"lane", user.lane.value}});
    report["files"].push_back({{"path", file.path},
                               {"state", nameOf(file.state)},
                               {"needed", nameOf(file.needed)},
                               {"inPool", file.inPool},
                               {"bytes", file.bytes},
                               {"channels", file.channels},
                               {"length", file.length.count},
                               {"format", file.format ? json(nameOf(*file.format)) : json()},
                               {"users", users}});
    if (o.json) continue;
    std::cout << file.path << "  " << file.bytes << " bytes  " << nameOf(file.state) << "  ";
    if (file.users.empty())
      std::cout << "needed by " << (file.needed == Needed::ByNobody ? "nobody" : "the history");
    for (std::size_t i = 0; i < file.users.size(); ++i)
      std::cout << (i > 0 ? ", " : "") << file.users[i].track << " " << file.users[i].lane.value;
    std::cout << "\n";
  }
  report["bytes"] = all;
  report["unusedBytes"] = unused;
  if (o.json)
    std::cout << report.dump(1) << "\n";
  else
    std::cout << Sentence("%n file(s)", Count{static_cast<std::int64_t>(files.size())}) << ", " << all
              << " bytes; " << unused << " of them nobody needs.\n";
}

void pool(const FinishCommandOptions& o) {
  if (o.yes && !o.trashUnused) throw CLI::RequiredError("--trash-unused");
  if (o.relink) relinkFiles(o);
  if (o.trashUnused) trashFiles(o);
  // Importing copies: nothing that a session plays lies outside its folder.
  if (o.collect && !o.json) std::cout << "All files of the session lie in its folder already.\n";
  if (o.json || !(o.relink || o.trashUnused || o.collect)) listFiles(o);
}

void sheet(const FinishCommandOptions& o) {
  const std::string ending = std::filesystem::path(*o.out).extension().string();
  if (ending != ".html" && ending != ".pdf")
    throw Error("A take sheet is written as .html or as .pdf, not as \"%1\".", *o.out);
  const SessionFolder folder = openToLook(o.session);
  const TakeSheet taken = takeSheet(folder.session());
  const std::string page = ending == ".pdf" ? takeSheetAsPdf(taken) : takeSheetAsHtml(taken);
  OutputFile output(folder.disk(), *o.out, OutputFile::Existing::Refused);
  const OpenFile file = output.take();
  writeAll(file.descriptor.get(), page, *o.out);
  output.keep();
}

}  // namespace

void describeFinishCommands(CLI::App& app, FinishCommandOptions& o) {
  auto command = [&](const char* name, const char* help, auto action) {
    return addSessionCommand(app, name, help, o, action);
  };
  CLI::App* c =
      command("flatten", "Renders the composite to a new pool file that takes its place, and reads it back",
              flattenTrack);
  c->add_option("--track", o.track, "The track's name")->required()->type_name("NAME");
  c->add_option("--out", o.out, "Also writes that file there")->type_name("FILE");
  c->add_option("--span", o.span, "Only there")->type_name("SPAN");
  c->add_option("--lanes", o.lanes, "What becomes of the other lanes")
      ->check(CLI::IsMember({"keep", "archive", "remove"}))
      ->type_name("keep|archive|remove");
  c = command("deliver", "Writes files that others can open; never replaces one", deliverSession);
  c->add_option("--to", o.to, "The folder; made where it is missing")->required()->type_name("FOLDER");
  c->add_option("--what", o.what,
                "Of mix,stems,takes,composites,tempo,markers,edits,sheet (default: all but the mix)")
      ->type_name("LIST");
  c->add_option("--tracks", o.tracks, "Only the audio of these tracks")->type_name("NAME");
  c->add_option("--tail", o.tail, "Seconds that the mix goes on after its last frame (2)")
      ->type_name("SECONDS");
  c->add_option("--format", o.format, "Of audio files")
      ->check(CLI::IsMember({"wav", "rf64", "flac"}))
      ->type_name("wav|rf64|flac");
  c->add_option("--depth", o.depth, "Of audio files (default: the session's)")
      ->check(CLI::IsMember({"pcm16", "pcm24", "float"}))
      ->type_name("pcm16|pcm24|float");
  c->add_option("--rate", o.rate, "Of audio files (default: the session's)")->type_name("HZ");
  c->add_flag("--no-dither", o.noDither, "To 16 bit without noise");
  c->add_flag("--dry-run", o.dryRun, "Says what would be written, and writes nothing");
  c->add_flag("--json", o.json, "As JSON");
  c = command("pool", "The audio files: sizes, users, what is missing", pool);
  c->add_option("--relink", o.relink, "Looks there for missing files, and copies them into their places")
      ->type_name("DIR");
  c->add_flag("--collect", o.collect, "Copies what lies outside the session's folder into it");
  c->add_flag("--trash-unused", o.trashUnused,
              "Lists what neither the session nor its history needs; with --yes moves it to the trash");
  c->add_flag("--yes", o.yes, "Moves them");
  c->add_flag("--json", o.json, "As JSON");
  c = command("sheet", "The take sheet, as an HTML page or a PDF", sheet);
  c->add_option("--out", o.out, "The page to write")->required()->type_name("FILE.html|FILE.pdf");
}

}  // namespace yewdrift::tool
