// SPDX-License-Identifier: GPL-3.0-or-later
//
// What record is planned to do, the sentence that says so, and what the engine then does: the three agree.
#include <iterator>
#include <sstream>
#include "engine/engine_tests.h"

#include "core/edit/describe_recording.h"

namespace {

std::string sentence(const Session& session, int playheadBar) {
  return english(describeRecording(planRecording(session, {bar(playheadBar), {}}), armedTracks(session),
                                   session.ruler()));
}

/// "bar 9 and bars 11 to 12" as 9-9 and 11-12.
std::vector<std::string> barsNamed(const std::string& text) {
  std::istringstream words(text);
  std::vector<std::string> all{std::istream_iterator<std::string>(words), {}};
  std::vector<std::string> named;
  for (std::size_t i = 0; i + 1 < all.size(); ++i) {
    const bool numbered = std::isdigit(static_cast<unsigned char>(all[i + 1].front())) != 0;
    if ((all[i] != "bar" && all[i] != "bars") || !numbered) continue;
    const bool range = i + 3 < all.size() && all[i + 2] == "to";
    const std::string first = std::to_string(std::stoi(all[i + 1]));
    named.push_back(first + "-" + (range ? std::to_string(std::stoi(all[i + 3])) : first));
  }
  return named;
}

}  // namespace

TEST_CASE("The sentence says what will happen, in the words of the options") {
  Session session = session240();
  session = setLoop(session, Span{bar(9), bar(13)});
  session.recording.passes = 3;
  CHECK(sentence(session, 10) ==
        "Plays from 1 bar before. Records Viola round bars 9 to 12. Each time round makes a new lane. "
        "Earlier takes "
        "are hushed there. Goes round 3 times, then stops.");
  session.recording.preRoll = {2.0, LengthUnit::Bars};
  session.recording.postRoll = {1.0, LengthUnit::Bars};
  session.recording.passes = 0;
  session.recording.loop = false;
  session = addPunch(addPunch(session, {bar(15), bar(19)}), {bar(22), bar(23)});
  CHECK(sentence(session, 30) ==
        "Plays from 2 bars before. Records Viola in bars 15 to 18 and bar 22. Makes a new lane. Earlier "
        "takes are "
        "hushed there. After that it plays on for 1 bar, then stops.");
  session.recording.countInBars = 2;
  session.recording.hush = false;
  session.recording.result = PassResult::Replace;
  CHECK(sentence(session, 30) ==
        "Counts in 2 bars. Plays from 2 bars before. Records Viola in bars 15 to 18 and bar 22. Replaces "
        "what plays "
        "there. Earlier takes are heard too. After that it plays on for 1 bar, then stops.");
  session.recording = {};
  session.recording.punch = false;
  session.recording.loop = false;
  session.recording.preRoll.amount = 2.0;
  CHECK(sentence(session, 2) ==
        "Plays from the session's start, where the pre-roll is cut short. Records Viola from 2|1. Makes a "
        "new lane. "
        "Earlier takes are hushed there. Goes on until you stop.");
  session.recording.preRoll = {1.5, LengthUnit::Seconds};
  session.recording.grid = false;
  session.recording.loop = false;
  CHECK(sentence(session, 4) ==
        "Plays from 1.5 seconds before. Records Viola from 0:03.000. Makes a new lane. Earlier takes are "
        "hushed "
        "there. Goes on until you stop.");
  session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, false);
  CHECK_THAT(sentence(session, 4), Catch::Contains("No track is armed"));
}

TEST_CASE("Back up and pick up: so far back, a lead before it, and what is recorded replaces") {
  Session session = session240();
  session.recording.backUpSeconds = 3.0;
  session.recording.leadSeconds = 2.0;
  RecordSetup setup = planPickUp(session, {bar(11), {480}}, std::nullopt);
  CHECK(setup.recordFrom == bar(8));
  CHECK(setup.timeline.start == bar(6));
  CHECK(setup.result == PassResult::Replace);
  CHECK_FALSE(setup.timeline.loop);
  setup = planPickUp(session, {bar(11), {480}}, Span{bar(4), bar(5)});
  CHECK(setup.recordFrom == bar(4));
  setup = planPickUp(session, {bar(2), {480}}, std::nullopt);
  CHECK(setup.recordFrom == Frames{});
}

TEST_CASE("Bad spans each get their sentence, and the plan is refused") {
  Session session = session240();
  session = setLoop(session, Span{bar(2), bar(4)});
  session = addPunch(session, {bar(6), bar(7)});
  CHECK_THROWS_WITH(planRecording(session, {{}, {}}), Catch::Contains("outside the loop"));
  CHECK_THROWS_WITH(addPunch(session, {bar(9), bar(8)}), Catch::Contains("punch-out must lie after"));
  CHECK_THROWS_WITH(setPunches(session, {{bar(2), bar(5)}, {bar(4), bar(6)}}), Catch::Contains("overlap"));
  CHECK_THROWS_WITH(setPunches(session, {Punch{}}), Catch::Contains("an in or an out"));
  CHECK_THROWS_WITH(punchInAt(session, bar(6) + Frames{100}), Catch::Contains("overlap"));
  CHECK_THROWS_WITH(setLoop(session, Span{bar(2), bar(2)}), Catch::Contains("at least 64 frames"));
  RecordingOptions options;
  options.countInBars = 17;
  CHECK_THROWS_WITH(setRecordingOptions(session, options), Catch::Contains("count-in"));
  options = {};
  options.preRoll.amount = -1;
  CHECK_THROWS_WITH(setRecordingOptions(session, options), Catch::Contains("pre-roll"));
  // Spans that touch become one.
  session = addPunch(session, {bar(7), bar(8)});
  CHECK(session.punches == std::vector<Punch>{{bar(6), bar(8)}});
}

TEST_CASE("The sentence and the engine agree: what it names is what lands in the lanes") {
  std::mt19937 random(7);
  auto pickOne = [&random](int least, int most) {
    return std::uniform_int_distribution(least, most)(random);
  };
  for (int trial = 0; trial < 40; ++trial) {
    Session session = session240();
    session.recording.click.recording = pickOne(0, 1) == 1;
    session.recording.countInBars = pickOne(0, 2);
    session.recording.preRoll = {static_cast<double>(pickOne(0, 2)), LengthUnit::Bars};
    session.recording.postRoll = {static_cast<double>(pickOne(0, 1)), LengthUnit::Bars};
    session.recording.playBack = pickOne(0, 2) == 0;
    session.recording.loop = pickOne(0, 1) == 1;
    session.recording.passes = pickOne(1, 4);
    const int first = pickOne(3, 5);
    const int length = pickOne(2, 4);
    session = setLoop(session, Span{bar(first), bar(first + length)});
    const bool punches = !session.recording.loop || pickOne(0, 1) == 1;
    if (punches) session = addPunch(session, {bar(first), bar(first + 1)});
    if (punches && length > 3) session = addPunch(session, {bar(first + 2), bar(first + 3)});

    const TemporaryFolder temporary;
    SessionFolder folder = SessionFolder::create(temporary / "s", session);
    SimulatedInterface interface;
    interface.roundTrip = {777};
    interface.parts = {{0, {}, {played(noise(48000 * 60, 1))}, true, {}}};
    Rig rig(folder, 1024, interface);
    const int playhead = pickOne(1, 12);
    const RecordSetup setup = planRecording(session, {bar(playhead), {777}});
    const std::string said = english(describeRecording(setup, armedTracks(session), session.ruler()));
    const auto result = rig.roll(setup, {session.tracks.front()->id});
    INFO(said);

    // The bars that the sentence names...
    const std::string where = said.substr(said.find("ecords Viola"));
    const std::string list = where.substr(0, std::min(where.find(", going round"), where.find('.')));
    const std::vector<std::string> named = barsNamed(list);
    // ... are the windows of every lane, and there are as many lanes as times round that record.
    int rounds = 1;
    if (session.recording.loop)
      rounds = session.recording.playBack ? (session.recording.passes + 1) / 2 : session.recording.passes;
    REQUIRE(static_cast<int>(result.lanes.size()) == rounds);
    CHECK((said.find("Every second time round") != std::string::npos) ==
          (session.recording.loop && session.recording.playBack));
    for (const auto& lane : result.session.tracks.front()->lanes) {
      std::vector<std::string> heard;
      for (const Clip& clip : lane->clips) {
        REQUIRE(clip.window.start.count % 48000 == 0);  // to the frame
        REQUIRE(clip.window.end.count % 48000 == 0);
        heard.push_back(std::to_string(clip.window.start.count / 48000 + 1) + "-" +
                        std::to_string(clip.window.end.count / 48000));
      }
      CHECK(heard == named);
    }
    // How long it rolled, in bars: count-in, lead, rounds or the way through the punches, and post-roll.
    const RecordingOptions& options = session.recording;
    int begins = first;
    const int ends = first + (options.loop ? options.passes * length : length > 3 ? 3 : 1);
    // Punches behind the playhead are not come by, unless there are no others.
    if (!options.loop && playhead > first && length > 3 && playhead < first + 3) begins = first + 2;
    const int start =
        playhead < begins ? playhead : std::max(1, begins - static_cast<int>(options.preRoll.amount));
    const int bars = options.countInBars + (ends - start) + static_cast<int>(options.postRoll.amount);
    const std::int64_t blocks = static_cast<std::int64_t>(rig.heard.left.size()) / 1024;
    // And what is captured behind it: a round trip, and four seconds.
    const std::int64_t expected = bars * std::int64_t{48000} + 777 + 4 * 48000;
    CHECK(blocks == (expected + 1023) / 1024);
  }
}
