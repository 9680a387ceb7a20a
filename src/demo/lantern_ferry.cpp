// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/lantern_ferry.h"

#include <future>
#include <map>

#include "core/device/performer_file.h"
#include "core/edit/edit.h"
#include "core/store/audio_file.h"
#include "core/store/session_folder.h"
#include "demo/instruments.h"
#include "demo/score.h"

namespace yewdrift::demo {
namespace {

constexpr SampleRate rate{demoRate};

Frames writeFile(OpenFile file, const std::vector<Signal>& channels) {
  AudioWriter writer(std::move(file), static_cast<int>(channels.size()), rate, SampleFormat::Pcm24);
  std::vector<float> interleaved;
  for (std::size_t i = 0; i < channels.front().size(); ++i)
    for (const Signal& channel : channels) interleaved.push_back(channel[i]);
  writer.write(interleaved.data(), static_cast<std::int64_t>(channels.front().size()));
  writer.close();
  return writer.written();
}

/// Adds a lane whose channels each come from a mono file, or from one file that holds them all.
Session addMaterial(const SessionFolder& folder, Session session, const std::string& trackName,
                    const std::vector<Signal>& channels, const std::string& laneName, bool oneFile) {
  const TrackId track = session.trackNamed(trackName)->id;
  Clip clip;
  for (std::size_t c = 0; c < channels.size(); c += oneFile ? channels.size() : 1) {
    const auto part = oneFile ? channels : std::vector<Signal>{channels[c]};
    SessionDisk::Named made = folder.disk().createNumbered("audio", trackName + "-" + laneName, "wav");
    const std::string name = made.name;
    const Frames length = writeFile(std::move(made.file), part);
    session = addPoolFile(std::move(session), {name, static_cast<int>(part.size()), length});
    for (std::size_t i = 0; i < part.size(); ++i)
      clip.channels.push_back({static_cast<int>(session.pool->size()) - 1, static_cast<int>(i)});
    clip.sourceLength = length;
  }
  clip.window = clip.extent();
  return addLane(std::move(session), track, {clip}, laneName);
}

Signal violaTake(const ViolaTake& take) {
  const Stereo played = playInstrument(41, violaNotes(take), songSeconds, 0.25);
  Signal signal(played.left.size());
  for (std::size_t i = 0; i < signal.size(); ++i) signal[i] = 0.5F * (played.left[i] + played.right[i]);
  normalise({&signal}, 0.62F);
  addRoom(signal, 0.004F, take.seed);
  for (const double knock : take.knocks) addKnock(signal, knock, take.seed);
  return signal;
}

/// Everything that is slow to make, made side by side: the narrator's voice meanwhile on the calling thread.
class Players {
 public:
  Players() {
    for (const auto& takes : {violaTakes(), violaPerformances()})
      for (const ViolaTake& take : takes)
        violas_[take.seed] = std::async(std::launch::async, [take] { return violaTake(take); });
    for (int take = 1; take <= 4; ++take)
      drums_[take] = std::async(std::launch::async, [take] {
        return playFrameDrum(drumStrokes(take), drumSeconds(take), static_cast<std::uint32_t>(take));
      });
  }
  Signal viola(const ViolaTake& take) { return violas_.at(take.seed).get(); }
  std::vector<Signal> drum(int take) { return drums_.at(take).get(); }

 private:
  std::map<std::uint32_t, std::future<Signal>> violas_;
  std::map<int, std::future<std::vector<Signal>>> drums_;
};

Signal narratorTake(int take) {
  Signal signal(static_cast<std::size_t>(songSeconds * demoRate));
  for (const SpokenLine& line : narration(take)) {
    Signal spoken = speak(line.text, line.wordsPerMinute, line.pitch);
    normalise({&spoken}, line.level);
    addAt(signal, spoken, line.start);
  }
  addRoom(signal, 0.003F, static_cast<std::uint32_t>(900 + take));
  return signal;
}

Session addTracks(Session session) {
  session = addTrack(std::move(session), "River backing", {{"Mix", 0, 2, {-3.0}, {}}}, true);
  session = addTrack(std::move(session), "Celesta guide", {{"Mix", 0, 2, {-9.0}, {}}}, true);
  session = addTrack(std::move(session), "Lead viola", {{"Viola", 0, 1, {1.5}, {-0.1}}});
  session = addTrack(
      std::move(session), "Frame drum",
      {{"Near", 1, 1, {-4.0}, {0.1}}, {"Room", 2, 1, {-6.0}, {-0.5}}, {"Under", 3, 1, {-6.0}, {0.3}}});
  return addTrack(std::move(session), "Narrator", {{"Voice", 4, 1, {-2.0}, {}}});
}

void writePerformer(const SessionDisk& disk, Players& players) {
  std::vector<PerformerFilePart> parts(3);
  auto add = [&](PerformerFilePart& part, const std::string& name, const std::vector<Signal>& channels) {
    writeFile(disk.create("performer/" + name), channels);
    part.files.push_back(name);
  };
  parts[0].firstInput = 0;
  for (const ViolaTake& take : violaPerformances())
    add(parts[0], "viola-" + std::to_string(take.seed) + ".wav", {players.viola(take)});
  parts[1].firstInput = 1;
  add(parts[1], "drum.wav", players.drum(4));
  parts[2].firstInput = 4;
  add(parts[2], "narrator.wav", {narratorTake(5)});
  writePerformerFile(disk, parts);
}

}  // namespace

void makeLanternFerry(const std::filesystem::path& path, const std::function<void(double)>& tell) {
  Session session;
  session.recording = optionsForPlayers();
  session.name = "The Lantern Ferry";
  session.rate = rate;
  session.tempo = TempoMap({{1, songTempo, {3, 4}}});
  SessionFolder folder = SessionFolder::create(path, session);
  session = addTracks(std::move(session));
  Players players;

  const std::vector<ViolaTake> violas = violaTakes();
  constexpr int drums = 3;
  constexpr int narrators = 4;
  int made = 0;
  const auto add = [&](const char* track, const std::vector<Signal>& channels, const std::string& name,
                       bool oneFile) {
    session = addMaterial(folder, std::move(session), track, channels, name, oneFile);
    if (tell) tell(++made / (2.0 + static_cast<double>(violas.size()) + drums + narrators));
  };
  const auto takeName = [](int number) { return "Take " + std::to_string(number); };
  const auto backing = playBacking();
  add("River backing", {backing.left, backing.right}, "Harp, bass and strings", true);
  const auto celesta = playCelesta();
  add("Celesta guide", {celesta.left, celesta.right}, "Guide", true);
  int number = 0;
  for (const ViolaTake& take : violas) add("Lead viola", {players.viola(take)}, takeName(++number), true);
  for (int take = 1; take <= drums; ++take) add("Frame drum", players.drum(take), takeName(take), false);
  for (int take = 1; take <= narrators; ++take) add("Narrator", {narratorTake(take)}, takeName(take), true);

  const Ruler ruler = session.ruler();
  session = setLoop(std::move(session), Span{parsePosition("9|1", ruler), parsePosition("13|1", ruler)});
  const TrackId viola = session.trackNamed("Lead viola")->id;
  session = setTrackSwitch(std::move(session), viola, TrackSwitch::Arm, true);
  folder.editHistory().replacePresent(session);
  folder.save();
  writePerformer(folder.disk(), players);
}

}  // namespace yewdrift::demo
