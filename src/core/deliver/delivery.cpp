// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/deliver/delivery.h"

#include <algorithm>
#include <iomanip>
#include <sstream>

#include "core/deliver/delivered_audio.h"
#include "core/deliver/edit_list.h"
#include "core/deliver/take_sheet.h"
#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/error.h"
#include "core/plan/pitched_files.h"
#include "core/session/resolved_composite.h"
#include "core/store/output_file.h"
#include "core/store/standard_midi_file.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;

/// A name as every file system takes it.
std::string fileName(const std::string& text) {
  std::string name;
  for (const char c : text)
    name += static_cast<unsigned char>(c) < 0x20 ||
                    std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos
                ? '-'
                : c;
  while (!name.empty() && (name.front() == '.' || name.front() == ' ')) name.erase(name.begin());
  constexpr std::size_t longest = 100;
  if (name.size() > longest) {
    std::size_t end = longest;
    while (end > 0 && (static_cast<unsigned char>(name[end]) & 0xC0U) == 0x80U) --end;  // in a character
    name.resize(end);
  }
  while (!name.empty() && (name.back() == '.' || name.back() == ' ')) name.pop_back();
  return name.empty() ? "unnamed" : name;
}

std::string twoDigits(std::size_t number) {
  return (number < 10 ? "0" : "") + std::to_string(number);
}

/// One file: text, or audio of a session.
struct Item {
  std::string name;
  std::function<std::string()> text;  // or:
  DeliveredAudio audio;
};

/// Everything but that track is silent; and that one is heard whatever its switches say.
Session alone(Session session, TrackId id) {
  for (auto& track : session.tracks) {
    Track& each = track.edit();
    each.soloed = false;
    each.muted = each.id != id;
  }
  return session;
}

/// Of these tracks only, whatever their switches say.
Session onlyThese(Session session, const std::vector<TrackId>& tracks) {
  for (auto& track : session.tracks) {
    Track& each = track.edit();
    each.soloed = false;
    each.muted = std::find(tracks.begin(), tracks.end(), each.id) == tracks.end();
  }
  return session;
}

/// Where the last take ends that is heard of a mix.
Frames mixEnds(const Session& session) {
  const bool anySolo = std::any_of(session.tracks.begin(), session.tracks.end(),
                                   [](const auto& track) { return track->soloed; });
  Frames end{-maximumPosition};
  for (const auto& track : session.tracks) {
    if (track->muted || (anySolo && !track->soloed)) continue;
    for (const Piece& piece : resolve(*track, session.rate).pieces)
      if (piece.lane) end = std::max(end, piece.span.end);
  }
  return end;
}

bool hasMaterial(const Track& track) {
  return track.kind == TrackKind::Audio && !materialOf(track).empty();
}

std::string markersAsText(const Session& session) {
  std::ostringstream text;
  const Ruler ruler = session.ruler();
  for (const Marker& marker : session.markers)
    text << marker.at.count << "f\t" << std::fixed << std::setprecision(6)
         << secondsFromFrames(marker.at, session.rate) << "\t" << barBeatText(marker.at, ruler) << "\t"
         << marker.name << "\n";
  return text.str();
}

class Planner {
 public:
  Planner(const SessionDisk& disk, const Session& session, const DeliveryWish& wish)
      : disk_(disk),
        session_(session),
        wish_(wish),
        extension_(wish.container == Container::Flac ? ".flac" : ".wav"),
        name_(fileName(session.name)) {
    for (const Deliverable what : wish.what) add(what);
    if (items_.empty()) throw Error("There is nothing to deliver: nothing has been recorded or added yet.");
    makeNamesUnique();
  }

  [[nodiscard]] const std::vector<Item>& items() const { return items_; }

 private:
  void add(Deliverable what) {
    switch (what) {
      case Deliverable::Mix:
        return addMix();
      case Deliverable::Stems:
        return eachTrack([&](const Track& track, const std::string& called) {
          addAudio({"stems/", called}, alone(session_, track.id), {});
        });
      case Deliverable::Takes:
        return eachTrack([&](const Track& track, const std::string& called) {
          for (const auto& lane : track.lanes)
            if (!lane->clips.empty())
              addAudio({"takes/", called, " - take ", twoDigits(static_cast<std::size_t>(lane->number.value)),
                        " ", fileName(lane->name)},
                       session_, {track.id, lane->number});
        });
      case Deliverable::Composites:
        return eachTrack([&](const Track& track, const std::string& called) {
          addAudio({"composites/", called}, session_, {track.id, std::nullopt});
          for (const KeptComposite& kept : track.keptComposites)
            addAudio({"composites/", called, " - ", fileName(kept.name)},
                     useComposite(session_, track.id, kept.name), {track.id, std::nullopt});
        });
      case Deliverable::Tempo:
        return addText(" tempo.mid", [this] { return tempoAsMidi(session_); });
      case Deliverable::Markers:
        if (!session_.markers.empty()) addText(" markers.txt", [this] { return markersAsText(session_); });
        return;
      case Deliverable::Edits:
        addText(" edits.json", [this] { return editListAsJson(disk_, session_); });
        return addText(" edits.txt", [this] { return editListAsText(session_); });
      case Deliverable::Sheet:
        addText(" takes.html", [this] { return takeSheetAsHtml(takeSheet(session_)); });
        return addText(" takes.pdf", [this] { return takeSheetAsPdf(takeSheet(session_)); });
    }
  }

  template <typename Each>
  void eachTrack(Each each) {
    std::size_t number = 0;
    for (const auto& track : session_.tracks) {
      ++number;
      const bool wanted = wish_.tracks.empty() || std::find(wish_.tracks.begin(), wish_.tracks.end(),
                                                            track->id) != wish_.tracks.end();
      if (wanted && hasMaterial(*track)) each(*track, twoDigits(number) + " " + fileName(track->name));
    }
  }
  void addMix() {
    Session mix = wish_.tracks.empty() ? session_ : onlyThese(session_, wish_.tracks);
    const Frames end = mixEnds(mix);
    const Frames start = deliveredSpan(session_).start;
    if (end <= start) throw Error("The mix would be silent: no track that is heard plays anything.");
    const Frames tail = framesFromSeconds(wish_.tailSeconds, session_.rate);
    items_.push_back({name_ + " mix" + extension_, {}, {std::move(mix), {}, Span{start, end + tail}}});
  }
  void addAudio(std::initializer_list<std::string_view> parts, Session session, AudioSource source) {
    std::string name;
    for (const std::string_view part : parts) name += part;
    items_.push_back({name + extension_, {}, {std::move(session), source}});
  }
  void addText(const std::string& ending, std::function<std::string()> text) {
    items_.push_back({name_ + ending, std::move(text), {}});
  }
  void makeNamesUnique() {
    std::set<std::string> taken;
    for (Item& item : items_) {
      const fs::path wanted = item.name;
      for (int n = 2; !taken.insert(item.name).second; ++n)
        item.name = (wanted.parent_path() /
                     (wanted.stem().string() + " " + std::to_string(n) + wanted.extension().string()))
                        .string();
    }
  }

  const SessionDisk& disk_;
  const Session& session_;
  const DeliveryWish& wish_;
  std::string extension_;
  std::string name_;
  std::vector<Item> items_;
};

/// As it will be written.
AudioFileKind kindOf(const Session& session, const DeliveryWish& wish) {
  AudioFileKind kind;
  kind.container = wish.container;
  kind.format = wish.format.value_or(session.format);
  if (wish.container == Container::Flac && !wish.format && kind.format == SampleFormat::Float32)
    kind.format = SampleFormat::Pcm24;
  kind.dither = wish.dither;
  if (wish.container == Container::Flac && kind.format == SampleFormat::Float32)
    throw Error("FLAC holds 16 or 24 bit, not floating point: choose one of these.");
  if (wish.rate) checkRate(*wish.rate);
  if (!(wish.tailSeconds >= 0.0 && wish.tailSeconds <= 60.0))
    throw Error("A mix goes on for 0 to 60 seconds after its last frame.");
  for (const TrackId track : wish.tracks) requireTrack(session, track);
  return kind;
}

std::uint64_t bytesOf(const Item& item, const AudioFileKind& kind, SampleRate rate) {
  if (item.text) return item.text().size();
  const Session& session = *item.audio.session;
  const Span span = item.audio.span.value_or(deliveredSpan(session));
  const double seconds = secondsFromFrames(span.length(), session.rate);
  const int width = kind.format == SampleFormat::Pcm16 ? 2 : kind.format == SampleFormat::Pcm24 ? 3 : 4;
  return static_cast<std::uint64_t>(seconds * rate.hertz * width * channelsOf(item.audio));
}

/// Made in a run, and taken away again where that fails.
class Written {
 public:
  ~Written() {
    if (kept_) return;
    std::error_code ignored;
    for (const fs::path& file : files_) fs::remove(file, ignored);
    for (auto folder = folders_.rbegin(); folder != folders_.rend(); ++folder) fs::remove(*folder, ignored);
  }
  void makeFolder(const fs::path& folder) {
    std::error_code failed;
    if (fs::is_directory(folder, failed)) return;
    fs::create_directory(folder, failed);
    if (failed)
      throw Error("The folder \"%1\" cannot be made there: %2.", folder.string(),
                  Sentence::verbatim(failed.message()));
    folders_.push_back(folder);
  }
  void add(const fs::path& file) { files_.push_back(file); }
  void keep() { kept_ = true; }

 private:
  std::vector<fs::path> files_;
  std::vector<fs::path> folders_;
  bool kept_ = false;
};

}  // namespace

const std::vector<std::pair<std::string, Deliverable>>& deliverables() {
  static const std::vector<std::pair<std::string, Deliverable>> all{
      {"mix", Deliverable::Mix},     {"stems", Deliverable::Stems},
      {"takes", Deliverable::Takes}, {"composites", Deliverable::Composites},
      {"tempo", Deliverable::Tempo}, {"markers", Deliverable::Markers},
      {"edits", Deliverable::Edits}, {"sheet", Deliverable::Sheet}};
  return all;
}

Span deliveredSpan(const Session& session) {
  const Span material = materialOf(session);
  return {std::min(Frames{}, material.start), material.end};
}

Delivery planDelivery(const SessionDisk& disk, const Session& session, const DeliveryWish& wish) {
  const AudioFileKind kind = kindOf(session, wish);
  const Planner planner(disk, session, wish);
  Delivery delivery;
  for (const Item& item : planner.items())
    delivery.files.push_back({item.name, bytesOf(item, kind, wish.rate.value_or(session.rate)), !item.text});
  return delivery;
}

Delivery deliver(const SessionDisk& disk, const Session& session, const DeliveryWish& wish,
                 const std::filesystem::path& folder, const std::function<bool(double)>& progress) {
  const AudioFileKind kind = kindOf(session, wish);
  const Planner planner(disk, session, wish);
  for (const Item& item : planner.items())
    if (std::error_code ignored; fs::exists(fs::symlink_status(folder / item.name, ignored)))
      throw Error("\"%1\" is there already, and nothing is replaced: choose an empty folder.",
                  (folder / item.name).string());
  Written written;
  written.makeFolder(folder);
  Delivery delivery;
  const auto count = static_cast<double>(planner.items().size());
  // Takes at another pitch are made first, once.
  for (const auto& wanted : pitchedFilesOf(session))
    if (!PitchedFiles::make(disk, session.rate, wanted, [&](double) { return !progress || progress(0.0); }))
      throw Error("The delivery was cancelled; nothing of it was left.");
  for (std::size_t i = 0; i < planner.items().size(); ++i) {
    const Item& item = planner.items()[i];
    const fs::path place = folder / item.name;
    written.makeFolder(place.parent_path());
    OutputFile output(disk, place, OutputFile::Existing::Refused);
    if (item.text) {
      const OpenFile file = output.take();
      writeAll(file.descriptor.get(), item.text(), place.string());
    } else {
      const std::int64_t clipped = writeAudio(
          output.take(), disk, item.audio, kind, wish.rate.value_or(session.rate),
          [&](double share) { return !progress || progress((static_cast<double>(i) + share) / count); });
      if (clipped > 0)
        delivery.notices.push_back(Sentence(
            "%n samples of \"%1\" lay beyond full scale and were cut off there.|One sample of \"%1\" "
            "lay beyond full scale and was cut off there.",
            item.name, Count{clipped}));
    }
    output.keep();
    written.add(place);
    delivery.files.push_back({item.name, fs::file_size(place), false});
  }
  written.keep();
  return delivery;
}

}  // namespace yewdrift
