// SPDX-License-Identifier: GPL-3.0-or-later
//
// What comes out on either side, against a mixer that is as plain as can be: two tracks, one of them a stereo
// and a mono microphone, everything panned elsewhere, signals that lie on no format's grid.
#include <numbers>
#include "engine/engine_tests.h"

#include "core/plan/offline_render.h"

namespace {

constexpr std::size_t length = 24000;
constexpr int block = 192;

struct Gains {
  double left = 0.0;
  double right = 0.0;
};

double factor(double decibels) {
  return std::pow(10.0, decibels / 20.0);
}
/// Equal-power pan law (common practice): -3 dB on both sides in the middle.
Gains panned(double decibels, double pan) {
  return {factor(decibels) * std::cos((pan + 1.0) * std::numbers::pi / 4.0),
          factor(decibels) * std::sin((pan + 1.0) * std::numbers::pi / 4.0)};
}
/// Each channel stays on its side; the side panned away from loses level (common practice).
Gains balanced(double decibels, double pan) {
  return {factor(decibels) * std::min(1.0, 1.0 - pan), factor(decibels) * std::min(1.0, 1.0 + pan)};
}

/// Rounded as a file of 24 bits holds it.
float in24(float sample) {
  return static_cast<float>(std::lrint(static_cast<double>(sample) * 8388608.0) / 8388608.0);
}

/// "Pair" hears inputs 1 and 2 in stereo and input 3; "Voice", hard on the right, hears input 4.
struct Ensemble {
  explicit Ensemble(const fs::path& path) : folder(make(path)) {
    interface.settings.inputs = 4;
    interface.roundTrip = {333};
    for (int input = 0; input < 4; ++input)
      interface.parts.push_back({input, {}, {played(signal(input))}, false, {}});
  }
  static SessionFolder make(const fs::path& path) {
    Session session;
    session.format = SampleFormat::Pcm24;
    SessionFolder made = SessionFolder::create(path, session);
    session = addTrack(std::move(session), "Pair",
                       {{"Room", 0, 2, {1.5}, {0.25}}, {"Close", 2, 1, {-6.0}, {-0.5}}});
    session = addTrack(std::move(session), "Voice", {{"Voice", 3, 1, {}, {}}});
    session = setTrackMix(session, session.tracks[0]->id, {-3.0}, {0.125});
    session = setTrackMix(session, session.tracks[1]->id, {2.0}, {1.0});
    session.recording.click.recording = false;
    made.commit("Make", session);
    return made;
  }
  /// What input `input` hears.
  static Samples signal(int input) {
    return sine(length + 2000, 173.0 + 97.0 * input, 48000.0, 0.11F + 0.07F * static_cast<float>(input),
                0.3 * input);
  }
  /// Records all four inputs, so that both tracks have a take.
  void record() {
    Rig rig(folder, block, interface);
    RecordSetup setup;
    setup.roundTrip = interface.roundTrip;
    setup.timeline.stopAt = Frames{length};
    rig.record(setup, {pair(), voice()});
  }
  [[nodiscard]] TrackId pair() const { return folder.session().tracks[0]->id; }
  [[nodiscard]] TrackId voice() const { return folder.session().tracks[1]->id; }
  /// The naive mix of what was played, or of what the inputs hear; by track.
  [[nodiscard]] static Gains sound(std::size_t frame, bool recorded, bool pairSounds, bool voiceSounds) {
    static const std::array<Samples, 4> heard{signal(0), signal(1), signal(2), signal(3)};
    std::array<double, 4> at{};
    for (std::size_t input = 0; input < 4; ++input)
      at[input] = recorded ? in24(heard[input][frame]) : heard[input][frame];
    Gains sum;
    if (pairSounds) {
      const Gains room = balanced(1.5 - 3.0, 0.375);
      const Gains close = panned(-6.0 - 3.0, -0.375);
      sum.left += room.left * at[0] + close.left * at[2];
      sum.right += room.right * at[1] + close.right * at[2];
    }
    if (voiceSounds) sum.right += factor(2.0) * at[3];
    return sum;
  }
  SessionFolder folder;
  SimulatedInterface interface;
};

void checkMix(const Rig::Sides& heard, std::size_t from, std::size_t to, std::size_t firstFrame,
              bool recorded, bool pairSounds = true, bool voiceSounds = true) {
  for (std::size_t i = from; i < to; ++i) {
    const Gains expected = Ensemble::sound(firstFrame + i, recorded, pairSounds, voiceSounds);
    REQUIRE(heard.left[i] == Approx(expected.left).margin(2e-6));
    REQUIRE(heard.right[i] == Approx(expected.right).margin(2e-6));
  }
}

}  // namespace

TEST_CASE("Both sides of the mix, live and offline, are what a plain mixer makes of the takes") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();
  Rig rig(ensemble.folder, block);
  rig.engine.play({});
  rig.engine.settle();
  const Rig::Sides live = rig.playBoth(length - block);
  checkMix(live, 300, length - block, 0, true);
  RenderRequest request;
  request.format = SampleFormat::Float32;
  renderToFile(ensemble.folder.disk(), ensemble.folder.session(), request, temporary / "mix.wav");
  const auto offline = readWave(temporary / "mix.wav");
  REQUIRE(offline.size() == 2);
  checkMix({offline[0], offline[1]}, 0, length, 0, true);
  for (std::size_t i = 0; i < live.left.size(); ++i) {
    REQUIRE(live.left[i] == offline[0][i]);
    REQUIRE(live.right[i] == offline[1][i]);
  }
}

TEST_CASE("What is monitored goes through the same mix, on both sides") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  Session session = ensemble.folder.session();
  for (const TrackId id : {ensemble.pair(), ensemble.voice()})
    session = setMonitoring(setTrackSwitch(session, id, TrackSwitch::Arm, true), id, Monitoring::Always);
  Rig rig(ensemble.folder, block);
  const auto monitored = [&](const Session& now) {
    rig.setPlan(now);
    Rig::Sides out{Samples(block), Samples(block)};
    const std::array<float*, 2> to{out.left.data(), out.right.data()};
    std::array<Samples, 4> signals;
    for (int input = 0; input < 4; ++input)
      signals[static_cast<std::size_t>(input)] = Ensemble::signal(input);
    for (std::size_t at = 0; at < 9600; at += block) {
      std::array<const float*, 4> from{};
      for (std::size_t input = 0; input < 4; ++input) from[input] = signals[input].data() + at;
      rig.engine.process({from.data(), 4, to.data(), 2, block, false});
    }
    return out;
  };
  checkMix(monitored(session), 0, block, 9600 - block, false);
  checkMix(monitored(setTrackSwitch(session, ensemble.pair(), TrackSwitch::Mute, true)), 0, block,
           9600 - block, false, false, true);
  checkMix(monitored(setTrackSwitch(session, ensemble.voice(), TrackSwitch::Arm, false)), 0, block,
           9600 - block, false, true, false);
}

TEST_CASE("The click is as loud as it is set on both sides, its first beat louder; alone in the count-in") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();  // so there would be something to hear under the count-in
  Session session = ensemble.folder.session();
  const auto countedIn = [&](double decibels, bool accent) {
    session.recording.click.level = {decibels};
    session.recording.click.accent = accent;
    Rig rig(ensemble.folder, 240);
    rig.setPlan(session);
    RecordSetup setup;
    setup.timeline.countIn = {96000};  // a bar of 4/4 at 120 beats a minute
    setup.timeline.stopAt = Frames{96000 + 4800};
    rig.roll(setup, {ensemble.voice()});
    ensemble.folder.editHistory().undo();
    return rig.heard;
  };
  const auto loudest = [](const Samples& side, std::size_t from, std::size_t to) {
    float peak = 0.0F;
    for (std::size_t i = from; i < to; ++i) peak = std::max(peak, std::abs(side[i]));
    return peak;
  };
  const Rig::Sides plain = countedIn(0.0, false);
  const Rig::Sides accented = countedIn(0.0, true);
  const Rig::Sides quiet = countedIn(-6.0, true);
  constexpr std::size_t beat = 24000;
  constexpr std::size_t knock = 1680;  // 35 ms
  for (const auto side : {&Rig::Sides::left, &Rig::Sides::right}) {
    const float level = loudest(plain.*side, 0, knock);
    CHECK(level > 0.4F);
    CHECK(level < 1.0F);
    for (std::size_t each = 0; each < 4; ++each) {
      const std::size_t at = each * beat;
      CHECK(loudest(plain.*side, at, at + knock) == Approx(level));
      CHECK(loudest(plain.*side, at + knock, at + beat) == 0.0F);  // nothing of the song
      CHECK(loudest(quiet.*side, at, at + knock) ==
            Approx(loudest(accented.*side, at, at + knock) * factor(-6.0)).margin(1e-4));
    }
    // A first beat is told by its pitch, too: 1650 Hz for 1100, in the 20 ms in which it dies away.
    const auto pitch = [](const Samples& heard, std::size_t at) {
      int turns = 0;
      for (std::size_t i = at + 480; i < at + 1440; ++i)
        turns += (heard[i] < 0.0F) != (heard[i + 1] < 0.0F) ? 1 : 0;
      return turns / 2.0 / 0.02;
    };
    CHECK(pitch(plain.*side, 0) == Approx(1100.0).margin(30.0));
    CHECK(pitch(accented.*side, 0) == Approx(1650.0).margin(30.0));
    CHECK(pitch(accented.*side, beat) == Approx(1100.0).margin(30.0));
    // Half as loud after some 4 ms, and all but silent at its end.
    CHECK(loudest(plain.*side, 240, knock) < 0.55F * level);
    CHECK(loudest(plain.*side, 1440, knock) < 0.01F * level);
    CHECK(loudest(accented.*side, 0, knock) > 1.25F * level);
    CHECK(loudest(accented.*side, beat, beat + knock) == Approx(level));
    CHECK(loudest(accented.*side, 3 * beat, 3 * beat + knock) == Approx(level));
  }
  CHECK(std::equal(accented.left.begin(), accented.left.begin() + 96000, accented.right.begin()));
  // And with the first frame of the take the song is there.
  checkMix({Samples(accented.left.begin() + 96000, accented.left.end()),
            Samples(accented.right.begin() + 96000, accented.right.end())},
           300, 4500, 0, true);
}

TEST_CASE("A device with one output plays both sides on it; beyond the second nothing sounds") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();
  for (const int outputs : {1, 4}) {
    Rig rig(ensemble.folder, block);
    rig.engine.play({});
    rig.engine.settle();
    std::vector<Samples> out(static_cast<std::size_t>(outputs), Samples(block, 9.0F));
    std::vector<float*> to;
    for (Samples& each : out) to.push_back(each.data());
    for (std::size_t at = 0; at < 9600; at += block) {
      rig.engine.service();
      rig.engine.prepare(block);
      rig.engine.process({nullptr, 0, to.data(), outputs, block, false});
      if (at < 1000) continue;
      for (std::size_t i = 0; i < block; ++i) {
        const Gains expected = Ensemble::sound(at + i, true, true, true);
        if (outputs == 1) {
          REQUIRE(out[0][i] == Approx(0.5 * (expected.left + expected.right)).margin(2e-6));
        } else {
          REQUIRE(out[0][i] == Approx(expected.left).margin(2e-6));
          REQUIRE(out[1][i] == Approx(expected.right).margin(2e-6));
          REQUIRE(out[2][i] == 0.0F);
          REQUIRE(out[3][i] == 0.0F);
        }
      }
    }
    CHECK(rig.engine.takeOutputPeak(0) > 0.1F);
  }
}

TEST_CASE("Muting and soloing while it rolls is heard at once, on both sides, and without a step") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();
  const Session session = ensemble.folder.session();
  Rig rig(ensemble.folder, block);
  rig.engine.play({});
  rig.engine.settle();
  Rig::Sides all = rig.playBoth(block * 10);
  std::size_t at = all.left.size();
  const auto change = [&](const Session& now, bool pairSounds, bool voiceSounds) {
    rig.setPlan(now);
    const Rig::Sides heard = rig.playBoth(block * 10);
    checkMix(heard, 2 * block, heard.left.size(), at, true, pairSounds, voiceSounds);
    at += heard.left.size();
    all.left.insert(all.left.end(), heard.left.begin(), heard.left.end());
    all.right.insert(all.right.end(), heard.right.begin(), heard.right.end());
  };
  change(setTrackSwitch(session, ensemble.voice(), TrackSwitch::Solo, true), false, true);
  change(session, true, true);
  change(setTrackSwitch(session, ensemble.pair(), TrackSwitch::Solo, true), true, false);
  change(setTrackSwitch(session, ensemble.voice(), TrackSwitch::Mute, true), true, false);
  change(setTrackSwitch(setTrackSwitch(session, ensemble.voice(), TrackSwitch::Solo, true), ensemble.voice(),
                        TrackSwitch::Mute, true),
         false, false);
  change(session, true, true);
  // Twice the material's own greatest step at the most.
  for (const auto* side : {&all.left, &all.right}) {
    double own = 0.0;
    for (std::size_t i = 1; i < at; ++i) {
      const Gains now = Ensemble::sound(i, true, true, true);
      const Gains then = Ensemble::sound(i - 1, true, true, true);
      own = std::max(own, std::abs(side == &all.left ? now.left - then.left : now.right - then.right));
    }
    for (std::size_t i = 1; i < at; ++i) REQUIRE(std::abs((*side)[i] - (*side)[i - 1]) <= 2.0 * own);
  }
}

TEST_CASE("Where it is recorded earlier takes of the track are hushed on both sides, others go on") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();
  for (const bool hush : {true, false}) {
    Rig rig(ensemble.folder, block, ensemble.interface);
    rig.setPlan(ensemble.folder.session(),
                {{}, hush ? std::vector{ensemble.pair()} : std::vector<TrackId>{}});
    RecordSetup setup;
    setup.roundTrip = ensemble.interface.roundTrip;
    setup.timeline.stopAt = Frames{18000};
    setup.punches = {{{6000}, {12000}}};
    const Session before = ensemble.folder.session();
    rig.roll(setup, {ensemble.pair()});
    checkMix(rig.heard, 300, 6000, 0, true);
    checkMix(rig.heard, 6000 + RecordGate::fadeFrames, 12000, 0, true, !hush, true);
    checkMix(rig.heard, 12000 + RecordGate::fadeFrames, 17500, 0, true);
    ensemble.folder.commit("Back", before);
  }
}

TEST_CASE("A stereo and a mono microphone are recorded channel by channel, rounded to the nearest step") {
  const TemporaryFolder temporary;
  Ensemble ensemble(temporary / "s");
  ensemble.record();
  const Session& session = ensemble.folder.session();
  const Clip& clip = session.tracks[0]->lanes.front()->clips.front();
  CHECK(clip.window == Span{{0}, {static_cast<std::int64_t>(length)}});
  REQUIRE(clip.channels.size() == 3);
  for (int channel = 0; channel < 3; ++channel) {
    const Samples audible = laneSamples(ensemble.folder, 1, 0, static_cast<std::size_t>(channel));
    const Samples signal = Ensemble::signal(channel);
    REQUIRE(audible.size() == length);
    for (std::size_t i = 0; i < length; ++i) REQUIRE(audible[i] == in24(signal[i]));
  }
  // One file a microphone.
  CHECK(session.pool->size() == 3);
  CHECK((*session.pool)[0].channels == 2);
  CHECK((*session.pool)[1].channels == 1);
}
