// SPDX-License-Identifier: GPL-3.0-or-later
//
// A random desk: everything a person can do, in any order, as fast as it can be done, against a plain record
// of what the device heard and where the transport was. Whatever happened: every sample lies where it was
// played, nothing that was shown as being recorded is missing, undo to the start is the start, what is heard
// is what is rendered, closing and opening again changes nothing, no step changes what it is not for, and
// what is said is a sentence.
#include <nlohmann/json.hpp>
#include "ui/ui_tests.h"

#include "ui/busy_day.h"
#include "ui/driven_desk.h"
#include "ui/only_asked.h"

namespace {

class RandomDesk {
 public:
  RandomDesk(const fs::path& path, unsigned seed)
      : seed_(seed), random_(seed), desk_(path), start_(desk_.session()), day_(desk_, random_, asked_) {
    desk_.setOnOpen([this] { watch(); });
  }

  void act() {
    const int what = pick(58);
    asked_ = {};
    checkLost();
    desk_.run(pick(12) == 0 ? 30000 : pick(4000), 16 + pick(1500));
    Studio& studio = desk_.studio();
    INFO("seed " << seed_ << ": " << story_);
    switch (what) {
      case 0:
      case 1:
      case 2:
        return say("play or stop"), studio.transport().togglePlay();
      case 3:
        return say("stop"), studio.transport().stop();
      case 4:
      case 5:
        return say("locate"), studio.transport().locate({pick(90000)});
      case 6:
      case 7:
      case 8:
        return say("record"), studio.recording().toggleRecord();
      case 9:
      case 10:
      case 11:
        return say("punch"), studio.recording().punchByHand();
      case 12:
        return say("back up"), studio.recording().backUpAndPickUp();
      case 13:
        return say("automatic punch"), studio.recording().setAutoPunch(pick(2) == 0);
      case 14:
      case 15:
        return setOptions();
      case 16:
        return edit("loop", [&](const Session& s) { return setLoop(s, loop()); });
      case 17:
        return edit("punch span", [&](const Session& s) {
          const Frames at{pick(60000)};
          return addPunch(s, {at, at + Frames{2000 + pick(20000)}});
        });
      case 18:
        return edit("no punches", [&](const Session& s) { return setPunches(s, {}); });
      case 19:
      case 20:
        return edit("arm", [&](const Session& s) {
          const auto& t = track(s);
          return setTrackSwitch(s, t.id, TrackSwitch::Arm, !t.armed);
        });
      case 21:
        return edit("mute", [&](const Session& s) {
          const auto& t = track(s);
          return setTrackSwitch(s, t.id, TrackSwitch::Mute, !t.muted);
        });
      case 22:
        asked_.inputs = true;
        return edit("input", [&](const Session& s) { return otherInput(s); });
      case 23:
        asked_.anything = true;
        return say("undo"), studio.desk().undo();
      case 24:
        asked_.anything = true;
        return say("redo"), studio.desk().redo();
      case 25:
        return drag();
      case 26:
        return say("let go"), studio.desk().keepHeld();
      case 27:
        return say("claim"), studio.recording().claim();
      case 28:
        askForLanes();
        return say("discard"), studio.recording().discardLastRecorded();
      case 29:
        return edit("pick", [&](const Session& s) { return pickSomething(s); });
      case 30:
        return hear();
      case 31:
        return say("another device"), desk_.plugIn({pick(2000)});
      case 32:
        return unplug();
      case 33:
        return say("import"), day_.import();
      case 34:
        return say("flatten"), day_.flatten();
      case 35:
      case 36:
        return edit("boundary", [&](const Session& s) { return moveSomething(s); });
      case 37:
        return edit("window", [&](const Session& s) { return pullSomething(s); });
      case 38:
        return edit("monitor", [&](const Session& s) {
          return setMonitoring(s, track(s).id, static_cast<Monitoring>(pick(3)));
        });
      case 39:
        askForLanes();
        return edit("aside", [&](const Session& s) {
          const auto [changed, lane] = someLane(s);
          return setLaneAside(s, changed, lane, !s.track(changed)->lane(lane)->setAside);
        });
      case 40:
        return hearFile();
      case 41:
      case 42:
        return say("type"), day_.typeBoundary();
      case 43:
      case 44:
        return say("cut phrases"), day_.cutPhrases();
      case 45:
        return say("rate"), day_.rate();
      case 46:
        return say("rough composite"), day_.roughComposite();
      case 47:
      case 48:
        return say("pick a phrase"), day_.pickTake();
      case 49:
        return say("pick up over and over"), day_.pickUpOverAndOver();
      case 50:
        return say("full disk"), held_.reset(), day_.fillDisk();
      case 51:
        return say("flatten"), day_.flatten();
      case 52:
        return say("import"), day_.import();
      case 53:
      case 54:
        return say("lose something"), desk_.lose();
      default:
        return reopen();
    }
  }

  void checkAll() {
    desk_.play(true);
    desk_.studio().desk().dropHeld();
    held_.reset();
    if (!desk_.studio().device().alive()) desk_.plugIn({pick(2000)});
    desk_.studio().transport().stop();
    desk_.settle();
    desk_.waitForJobs();
    desk_.turn();
    notePool();
    checkInvariants(desk_.session());
    checkHeard();
    checkFiles();
    const Session before = desk_.session();
    desk_.close();
    checkNothingLeftOver(before);
    desk_.open();
    INFO(nlohmann::json::diff(toJson(before), toJson(desk_.session())).dump());
    CHECK(desk_.session() == before);
    checkUndo();
    desk_.close();
  }

  [[nodiscard]] const std::string& story() const { return story_; }

 private:
  int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
  void say(const std::string& what) {
    story_ += what + " at " + std::to_string(desk_.clock()) + "; ";
    notePool();
  }
  const Track& track(const Session& s) {
    return *s.tracks[static_cast<std::size_t>(pick(static_cast<int>(s.tracks.size())))];
  }
  std::optional<Span> loop() {
    const Frames at{pick(60000)};
    return Span{at, at + Frames{3000 + pick(30000)}};
  }
  void askForLanes() {
    for (const auto& each : desk_.session().tracks) asked_.lanes.insert(each->id);
  }
  /// Every step, whoever made it, against the session before it; what is said, and what is heard.
  void watch() {
    seen_ = desk_.session();
    Studio& studio = desk_.studio();
    QObject::connect(&studio.desk(), &SessionDesk::committed, [this] { noteStep(); });
    QObject::connect(&studio.messages(), &Messages::said, [this](const QString& said) {
      INFO("seed " << seed_ << ": " << story_);
      checkSaid(said);
      static const QRegularExpression lost(R"(lost what came in at (\d+) places?;)");
      if (const auto match = lost.match(said); match.hasMatch()) lostSaid_ = match.captured(1).toInt();
    });
    QObject::connect(&studio.inHand(), &InHand::changed, [this] {
      const InHand& inHand = desk_.studio().inHand();
      const auto heard = inHand.heardLane();
      INFO("seed " << seed_ << ": " << story_);
      if (heard) CHECK((inHand.track() && inHand.track()->lane(*heard)));
    });
  }
  static std::ptrdiff_t lostMarks(const Session& s) {
    return std::ranges::count(s.markers, MarkerKind::Dropout, &Marker::kind);
  }
  /// Marks, counter and sentence agree.
  void checkLost() {
    INFO("seed " << seed_ << ": " << story_);
    CHECK(lostSaid_ == lostMarked_);
    lostSaid_ = lostMarked_ = 0;
  }
  void noteStep() {
    const SessionDesk& desk = desk_.studio().desk();
    const std::string label = desk.history().undoLabel().value_or("nothing");
    Asked asked = asked_;
    if (!asked.anything && lostMarks(desk.present()) > lostMarks(seen_))
      lostMarked_ = static_cast<int>(lostMarks(desk.present()) - lostMarks(seen_));
    const Span everywhere{-maximumPosition, maximumPosition};
    for (const auto& each : seen_.tracks) {
      if (label == "Rough composite") asked.composite[each->id] = {everywhere};
      if (each->recordInto) asked.lanes.insert(each->id);  // passes go into a lane that is there
      if (label == "Take back the slip" || (label.starts_with("Flatten") && day_.flattensWhole())) {
        asked.composite[each->id] = {everywhere};
        asked.lanes.insert(each->id);
      }
    }
    INFO("seed " << seed_ << ", " << label << ": " << story_);
    checkOnlyAsked(seen_, desk.present(), asked);
    notePulled(seen_, desk.present());
    seen_ = desk.present();
  }
  void edit(const std::string& what, const SessionDesk::Edit& edit) {
    say(what);
    desk_.studio().desk().apply(QString::fromStdString(what), edit);
  }
  void setOptions() {
    say("options");
    RecordingOptions options = desk_.studio().desk().options();
    switch (pick(9)) {
      case 0:
        options.loop = !options.loop;
        break;
      case 1:
        options.result = static_cast<PassResult>(pick(3));
        break;
      case 2:
        options.hush = !options.hush;
        break;
      case 3:
        options.passes = pick(4);
        break;
      case 4:
        options.playBack = !options.playBack;
        break;
      case 5:
        options.countInBars = pick(2);
        break;
      case 6:
        options.preRoll = {0.1 * pick(6), LengthUnit::Seconds};
        break;
      case 7:
        options.safeReview = !options.safeReview;
        break;
      default:
        options.setAside = !options.setAside;
        break;
    }
    desk_.studio().desk().setOptions(options);
  }
  Session otherInput(const Session& s) {
    const Track& changed = track(s);
    std::vector<Microphone> microphones = changed.microphones;
    microphones.front().input = pick(DrivenDesk::inputs - microphones.front().channels + 1);
    return setMicrophones(s, changed.id, microphones);
  }
  Session pickSomething(const Session& s) {
    const Track& chosen = track(s);
    if (chosen.lanes.empty()) throw Error("Nothing to pick.");
    const Frames at{pick(60000)};
    const auto lane =
        chosen.lanes[static_cast<std::size_t>(pick(static_cast<int>(chosen.lanes.size())))]->number;
    const Span span{at, at + Frames{1 + pick(20000)}};
    asked_.composite[chosen.id] = {span};
    const Session picked = yewdrift::pick(s, chosen.id, span, lane);
    return picked;
  }
  std::pair<TrackId, LaneNumber> someLane(const Session& s) {
    const Track& chosen = track(s);
    if (chosen.lanes.empty()) throw Error("No lane.");
    return {chosen.id,
            chosen.lanes[static_cast<std::size_t>(pick(static_cast<int>(chosen.lanes.size())))]->number};
  }
  Session moveSomething(const Session& s) {
    const Track& chosen = track(s);
    const ResolvedComposite composite = resolve(chosen, s.rate);
    if (composite.pieces.size() < 2) throw Error("No boundary.");
    const Frames at =
        composite.pieces[1 + static_cast<std::size_t>(pick(static_cast<int>(composite.pieces.size()) - 1))]
            .span.start;
    const Frames to = at + Frames{pick(8000) - 4000};
    asked_.composite[chosen.id] = {{std::min(at, to), std::max(at, to)}};
    asked_.lanes = {chosen.id};
    const Session moved = moveBoundary(s, chosen.id, at, to);
    return moved;
  }
  Session pullSomething(const Session& s) {
    const auto [id, number] = someLane(s);
    const Clip& clip = s.track(id)->lane(number)->clips.front();
    Span window = clip.window;
    (pick(2) == 0 ? window.start : window.end) += Frames{pick(4000) - 2000};
    asked_.lanes = {id};
    const Session pulled = pullWindow(s, id, number, window);
    return pulled;
  }
  /// What is pulled out of a lane's handle was played somewhere else.
  void notePulled(const Session& before, const Session& after) {
    for (const auto& was : before.tracks)
      for (const auto& lane : was->lanes)
        if (!after.track(was->id))
          continue;
        else if (const Lane* now = after.track(was->id)->lane(lane->number);
                 now && !(now->clips == lane->clips))
          pulled_.insert({was->id, lane->number});
  }
  void hold(const SessionDesk::Edit& edit) {
    if (!held_) held_.emplace(desk_.studio().desk());
    if (!held_->held() || pick(2) == 0) held_->begin("Drag");
    held_->show(edit);
  }
  void drag() {
    if (pick(3) == 0) {
      say("drag the loop");
      const auto to = loop();
      return hold([=](const Session& s) { return setLoop(s, to); });
    }
    say("drag");
    const TrackId id = track(desk_.session()).id;
    const double gain = -0.1 * pick(100);
    hold([=](const Session& s) { return setTrackMix(s, id, {gain}, {}); });
  }
  void hear() {
    say("hear");
    Studio& studio = desk_.studio();
    if (pick(3) == 0) return studio.inHand().takeTrack(track(desk_.session()).id);
    studio.inHand().hearNeighbour(pick(2) * 2 - 1);
  }
  void hearFile() {
    say("hear a file");
    const auto& pool = *desk_.session().pool;
    const auto which = static_cast<std::size_t>(pick(static_cast<int>(pool.size())));
    desk_.studio().transport().toggleHearFile(PoolFile(pool[which]));
  }
  void unplug() {
    say("unplug");
    desk_.unplug();
    desk_.turn();
    for (int i = 0; i < 30; ++i) {
      desk_.studio().transport().engine().service();
      desk_.turn();
    }
    desk_.plugIn({pick(2000)});
  }
  void reopen() {
    if (pick(3) != 0) return desk_.play(pick(4) != 0);
    say("close and open");
    held_.reset();
    desk_.close();
    desk_.open();
    // What is undone behind the start of this window is another matter.
  }

  void notePool() {
    for (const PoolFile& file : *desk_.session().pool) pooled_.insert(file.path);
  }

  static bool notRecorded(const std::string& name) {
    return name.find("take-") != std::string::npos || name.find("flattened") != std::string::npos;
  }

  /// All of it is found again: each file is one stretch of what one input heard, each audible sample of a
  /// lane lies where it was played.
  void checkFiles() {
    struct Held {
      Span frames;
      int input = 0;
    };
    std::vector<Held> held;
    std::map<std::string, std::vector<std::int64_t>> begins;  // of each channel, in frames of the device
    for (const std::string& name : pooled_) {
      if (!fs::exists(desk_.path() / name) || notRecorded(name)) continue;
      for (const Samples& channel : readWave(desk_.path() / name)) {
        std::size_t first = 0;
        while (first < channel.size() && channel[first] == 0.0F) ++first;
        if (first == channel.size()) {
          begins[name].push_back(-1);
          continue;
        }
        const std::int64_t begin = frameOf(channel[first]) - static_cast<std::int64_t>(first);
        const int input = channel[first] > 0.0F ? 0 : 1;
        std::size_t last = channel.size();
        while (last > first && channel[last - 1] == 0.0F) --last;
        for (std::size_t i = first; i < last; ++i) {
          // Not an assertion for each of millions of samples.
          if (channel[i] == desk_.expected(begin + static_cast<std::int64_t>(i), input)) continue;
          FAIL(name << ": frame " << i << " of the file is not frame " << begin + static_cast<std::int64_t>(i)
                    << " of the device");
        }
        begins[name].push_back(begin);
        held.push_back({{{begin}, {begin + static_cast<std::int64_t>(last)}}, input});
      }
    }
    checkPlaces(begins);
    for (const DrivenDesk::Audible& audible : desk_.audible())
      for (const int input : audible.inputs) {
        const Span heard = audible.frames.intersect({{}, {desk_.clock()}});
        if (heard.empty() || desk_.expected(heard.start.count, 0) == 0.0F ||
            desk_.expected(heard.end.count - 1, 0) == 0.0F)
          continue;
        INFO("frames " << heard.start.count << " to " << heard.end.count << " of input " << input);
        CHECK(std::any_of(held.begin(), held.end(), [&](const Held& each) {
          return each.input % 2 == input % 2 && each.frames.start <= heard.start &&
                 each.frames.end >= heard.end;
        }));
      }
  }

  void checkPlaces(const std::map<std::string, std::vector<std::int64_t>>& begins) {
    const Session& session = desk_.session();
    for (const auto& track : session.tracks)
      for (const auto& lane : track->lanes)
        for (const Clip& clip : lane->clips)
          for (const ChannelSource& source : clip.channels) {
            if (pulled_.contains({track->id, lane->number})) continue;
            const std::string& name = (*session.pool)[static_cast<std::size_t>(source.file)].path;
            const auto found = begins.find(name);
            if (found == begins.end()) continue;
            const std::int64_t begin = found->second[static_cast<std::size_t>(source.channel)];
            if (begin < 0) continue;
            const bool claimed = name.find("claimed") != std::string::npos;
            for (Frames at = clip.window.start; at < clip.window.end; at += Frames{7}) {
              const std::int64_t frame = begin + (at - clip.origin).count;
              if (frame < 0 || frame >= desk_.clock()) continue;
              const std::int64_t played = desk_.playedTo(frame);
              // What was claimed as the transport stood has no place of its own.
              if (claimed && (played == DrivenDesk::stands ||
                              desk_.stoodAt(begin + (clip.window.start - clip.origin).count)))
                continue;
              if (played == at.count) continue;
              FAIL("lane " << lane->number.value << " of " << track->name << ", " << name << " at "
                           << clip.origin.count << ", window " << clip.window.start.count << " to "
                           << clip.window.end.count << ", at " << at.count << ", frame " << frame
                           << " of the device"
                           << ", which was played to " << played);
            }
          }
  }

  void checkHeard() {
    Studio& studio = desk_.studio();
    RecordingOptions options = studio.desk().options();
    options.loop = false;
    options.click.playing = false;
    studio.desk().setOptions(options);
    for (const auto& each : Session(desk_.session()).tracks)
      if (each->armed)
        studio.desk().apply(
            "Disarm", [&](const Session& s) { return setTrackSwitch(s, each->id, TrackSwitch::Arm, false); });
    studio.inHand().hear(std::nullopt);
    desk_.run(2048, 256);
    const Frames from{pick(30000)};
    studio.transport().locate(from);
    studio.transport().togglePlay();
    Samples live;
    Samples right;
    bool rolls = false;
    for (int i = 0; i < 400 && live.size() < 12000; ++i) {
      const bool before = rolls;
      desk_.block(100);
      rolls = studio.transport().state().rolling;
      if (!rolls && !before) continue;
      live.insert(live.end(), desk_.heard.begin(), desk_.heard.end());
      right.insert(right.end(), desk_.heardRight.begin(), desk_.heardRight.end());
    }
    REQUIRE(live.size() >= 12000);
    studio.transport().stop();
    desk_.settle();
    RenderRequest request;
    request.span = Span{from, from + Frames{12000}};
    request.format = SampleFormat::Float32;
    const fs::path mix = desk_.path().string() + "-mix.wav";
    renderToFile(SessionDisk(desk_.path()), desk_.session(), request, mix);
    const auto offline = readWave(mix);
    // Behind the fades in which it began.
    for (std::size_t i = 1500; i < 12000; ++i) {
      if (live[i] == offline[0][i] && right[i] == offline[1][i]) continue;
      FAIL("frame " << i << " from " << from.count << " is heard as " << live[i] << " and " << right[i]
                    << " and rendered as " << offline[0][i] << " and " << offline[1][i]);
    }
  }

  void checkNothingLeftOver(const Session& session) {
    for (const PoolFile& file : *session.pool) pooled_.insert(file.path);
    for (const auto& entry : fs::directory_iterator(desk_.path() / "audio")) {
      INFO(entry.path().string());
      CHECK(pooled_.contains("audio/" + entry.path().filename().string()));
    }
    for (const auto& entry : fs::directory_iterator(desk_.path())) {
      INFO(entry.path().string());
      CHECK(entry.path().filename().string().rfind("recording", 0) == std::string::npos);
      CHECK(entry.path().extension() != ".new");
    }
  }

  void checkUndo() {
    SessionDesk& desk = desk_.studio().desk();
    asked_.anything = true;
    for (int i = 0; i < 500 && desk.history().undoLabel(); ++i) desk.undo();
    Session now = desk.session();
    now.recording = start_.recording;
    now.pool = start_.pool;  // what there is to play from stays
    CHECK((now == start_));
  }

  unsigned seed_;
  int lostMarked_ = 0;  // by the last recording
  int lostSaid_ = 0;
  std::mt19937 random_;
  DrivenDesk desk_;
  Asked asked_;
  Session seen_;
  std::optional<HeldEdit> held_;
  Session start_;
  BusyDay day_;
  std::string story_;
  std::set<std::string> pooled_;
  std::set<std::pair<TrackId, LaneNumber>> pulled_;
};

/// Two tracks, one of them stereo, with a take each that nobody recorded here.
fs::path makeSession(const TemporaryFolder& temporary) {
  const fs::path path = temporary / "session";
  SessionFolder folder = emptySession(path, 1);
  Session session = folder.session();
  session = addTrack(session, "Pair", {{"Pair", 1, 2, {}, {}}});
  for (int t = 0; t < 2; ++t) {
    std::vector<Samples> channels(static_cast<std::size_t>(t + 1),
                                  noise(70000, 5 + static_cast<unsigned>(t), 0.3F));
    const std::string name = "audio/take-" + std::to_string(t) + ".wav";
    writeWave(path / name, channels);
    const TrackId id = session.tracks[static_cast<std::size_t>(t)]->id;
    session = addFileAsLane(session, id, {name, t + 1, {70000}}, {}, "Old");
    session = setTrackSwitch(session, id, TrackSwitch::Arm, t == 0);
  }
  BusyDay::makeForeignFiles(path / "cache");
  session = setLoop(session, Span{{10000}, {30000}});
  session.recording.click.recording = false;
  session.recording.preRoll = {0.2, LengthUnit::Seconds};
  folder.editHistory().replacePresent(session);
  folder.editHistory().forget();
  folder.save();
  return path;
}

int sequences() {
  const char* const asked = std::getenv("YEWDRIFT_RANDOM_DESK");
  return asked ? std::atoi(asked) : 1000;
}
unsigned firstSeed() {
  const char* const asked = std::getenv("YEWDRIFT_RANDOM_DESK_SEED");
  return asked ? static_cast<unsigned>(std::atoi(asked)) : 1;
}

}  // namespace

TEST_CASE("Whatever is done, in any order: nothing is lost, misplaced or heard otherwise than rendered") {
  for (unsigned seed = firstSeed(); seed < firstSeed() + static_cast<unsigned>(sequences()); ++seed) {
    const TemporaryFolder temporary("/dev/shm");
    RandomDesk desk(makeSession(temporary), seed);
    try {
      for (int i = 0; i < 30; ++i) desk.act();
      INFO("seed " << seed << ": " << desk.story());
      desk.checkAll();
    } catch (const std::exception& e) {
      FAIL("seed " << seed << ": " << e.what() << "; " << desk.story());
    }
  }
}
