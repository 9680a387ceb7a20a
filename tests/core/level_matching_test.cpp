// SPDX-License-Identifier: GPL-3.0-or-later
//
// All takes equally loud over what is compared: against tones of known loudness.
#include "core/analysis/level_matching.h"

#include "core/core_tests.h"

namespace {

/// A sine of 1 kHz whose peak is at so many dB; its loudness in one channel is 3 dB below that (EBU Tech
/// 3341: in both channels at -23 dB it reads -23 LUFS).
Samples tone(double decibels) {
  return sine(240000, 1000.0, 48000.0, static_cast<float>(std::pow(10.0, decibels / 20.0)));
}

struct Matched {
  explicit Matched(const std::vector<Samples>& takes)
      : folder(sessionWithLanes(temporary / "s", takes)),
        session(folder.session()),
        jobs(folder.disk(), session.rate) {
    jobs.want(filesOfTakes(session, *session.tracks.front()));
    jobs.wait();
  }
  FindAnalysis find() {
    return [this](int file) -> const FileAnalysis* {
      auto& known = found[file];
      if (!known && !blind) known = jobs.find((*session.pool)[static_cast<std::size_t>(file)].path);
      return known.get();
    };
  }
  LevelMatching match(Span span = {{0}, {240000}}, bool compositeStays = false) {
    return matchLevels(session, *session.tracks.front(), span, find(), compositeStays);
  }
  double of(const LevelMatching& matching, int lane) { return matching.lanes.at(LaneNumber{lane}).value; }

  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
  AnalysisJobs jobs;
  bool blind = false;  // nothing is measured
  std::map<int, std::shared_ptr<const FileAnalysis>> found;
};

}  // namespace

TEST_CASE("No take is turned up so far that it would pass full scale, behind the track's gain too") {
  Samples peaky = tone(-30.0);
  peaky[1000] = 0.9F;  // 0.9 dB below full scale
  Matched takes({peaky, tone(-10.0), tone(-10.0)});
  LevelMatching matching = takes.match();
  const float loudest = 0.9F * std::pow(10.0F, static_cast<float>(takes.of(matching, 1)) / 20.0F);
  CHECK(loudest <= 1.0F);
  CHECK(takes.of(matching, 1) == Approx(0.9).margin(0.05));
  // With the composite around, and louder than it can be.
  matching = takes.match({{0}, {240000}}, true);
  CHECK(takes.of(matching, 1) == Approx(0.9).margin(0.05));
  const TrackId id = takes.session.tracks.front()->id;
  takes.session = setTrackMix(takes.session, id, Decibels{6.0}, Pan{});
  matching = takes.match();
  CHECK(takes.of(matching, 1) <= 0.0);
}

TEST_CASE("Only the stretch counts; silence, and what is not measured, is left as it is") {
  Samples half = tone(-20.0);
  const Samples quiet = tone(-32.0);
  std::copy(quiet.begin() + 120000, quiet.end(), half.begin() + 120000);
  Matched takes({half, tone(-20.0), Samples(240000, 0.0F)});
  const TrackId id = takes.session.tracks.front()->id;
  takes.session = pick(takes.session, id, {{0}, {240000}}, LaneNumber{2});
  CHECK(takes.of(takes.match({{0}, {96000}}), 1) == Approx(0.0).margin(0.1));
  const LevelMatching later = takes.match({{144000}, {240000}});
  CHECK(takes.of(later, 1) == Approx(12.0).margin(0.1));
  CHECK(takes.of(later, 3) == 0.0);
  CHECK(later.measured);
  takes.found.clear();
  takes.blind = true;
  const LevelMatching unknown = takes.match();
  CHECK_FALSE(unknown.measured);
  for (int lane = 1; lane <= 3; ++lane) CHECK(takes.of(unknown, lane) == 0.0);
}

TEST_CASE("The microphones of a set count by their gains: what is mixed in softly says little") {
  const auto asSet = [](Session session, double near, double room) {
    Track track = *session.tracks.front();
    const std::vector<Shared<Lane>> files = track.lanes;
    track.microphones = {{"Near", 0, 1, {near}, {}}, {"Room", 1, 1, {room}, {}}};
    track.lanes.clear();
    for (const std::size_t first : {0U, 2U}) {
      Lane lane = *files[first];
      lane.clips[0].channels.push_back(files[first + 1]->clips[0].channels[0]);
      track.lanes.push_back(lane);
    }
    session.tracks.front() = track;
    return session;
  };
  // As loud in the one microphone as the other take is in the other.
  Matched takes({tone(-20.0), tone(-50.0), tone(-50.0), tone(-20.0)});
  const Session apart = takes.session;
  const auto first = [&](double near, double room) {
    takes.session = asSet(apart, near, room);
    const LevelMatching matching = takes.match();
    CHECK(matching.composite.value == Approx(0.0).margin(0.1));  // of three the middle, and the newest take
    CHECK(takes.of(matching, 3) == Approx(0.0).margin(0.1));
    return takes.of(matching, 1);
  };
  CHECK(first(0.0, 0.0) == Approx(0.0).margin(0.1));
  CHECK(first(0.0, -10.0) == Approx(-10.0).margin(0.1));
  CHECK(first(-10.0, 0.0) == Approx(10.0).margin(0.1));
  CHECK(first(-10.0, -10.0) == Approx(0.0).margin(0.1));

  // Both microphones together would pass full scale, where each has room.
  Matched hot({tone(-8.0), tone(-8.0), tone(-2.0), tone(-2.0)});
  hot.session = asSet(hot.session, 0.0, 0.0);
  const LevelMatching matching = hot.match();
  const double room = 8.0 - 20.0 * std::log10(2.0);
  CHECK(hot.of(matching, 1) == Approx(room).margin(0.1));
  CHECK(hot.of(matching, 3) == Approx(room - 6.0).margin(0.1));
}

TEST_CASE("Matched again after whatever was changed, it is as if it were for the first time") {
  Matched takes({tone(-30.0), tone(-26.0), tone(-20.0), tone(-24.0)});
  Session& session = takes.session;
  const TrackId id = session.tracks.front()->id;
  const Span whole{{0}, {240000}};
  LevelMatcher matcher;
  LevelMatching before;
  /// What it says after `change`, which makes a difference.
  int step = 0;
  const auto says = [&](Span span, bool stays) {
    INFO("step " << ++step);
    const LevelMatching now = matcher.match(session, *session.tracks.front(), span, takes.find(), stays);
    CHECK(now == takes.match(span, stays));
    CHECK_FALSE(now == before);
    before = now;
  };
  takes.blind = true;
  says(whole, false);  // nothing is measured yet
  takes.blind = false;
  says(whole, false);
  session = changeLane(session, id, {1}, LaneChange{.gain = Decibels{-7.0}});
  says(whole, false);
  session = setLevel(session, id, LaneNumber{2}, LevelLine{{{120000}, {0.0}}, {{120001}, {-10.0}}});
  says(whole, false);
  says({{130000}, {240000}}, false);
  says(whole, false);
  session = setLevel(session, id, std::nullopt, LevelLine{{{60000}, {-9.0}}, {{60001}, {0.0}}});
  says(whole, true);
  session = setLevel(session, id, std::nullopt, LevelLine{{{60000}, {0.0}}, {{200000}, {-12.0}}});
  says(whole, true);
  says(whole, false);
  session = pick(session, id, whole, LaneNumber{1});
  says(whole, false);
  // So loud that nothing can be turned up.
  session = setMicrophones(session, id, {{"Viola", 0, 1, {30.0}, {}}});
  says(whole, false);
  session = setLaneAside(session, id, {4}, true);
  says(whole, false);
  session = setLaneAside(session, id, {4}, false);
  says(whole, false);
}

TEST_CASE("With the composite around them they are turned to it, and it stays") {
  Matched takes({tone(-30.0), tone(-26.0), tone(-20.0)});
  const TrackId id = takes.session.tracks.front()->id;
  takes.session = pick(takes.session, id, {{0}, {240000}}, LaneNumber{2});
  takes.session = changePiece(takes.session, id, {1000}, PieceChange{.gain = Decibels{2.0}});
  const LevelMatching matching = takes.match({{0}, {240000}}, true);
  CHECK(matching.composite.value == 0.0);
  CHECK(takes.of(matching, 1) == Approx(6.0).margin(0.1));
  CHECK(takes.of(matching, 2) == Approx(2.0).margin(0.1));
  CHECK(takes.of(matching, 3) == Approx(-4.0).margin(0.1));
  // What it plays elsewhere, or is silent of, does not count.
  takes.session = pick(takes.session, id, {{96000}, {192000}}, LaneNumber{3});
  takes.session = pick(takes.session, id, {{192000}, {216000}}, std::nullopt);
  CHECK(takes.of(takes.match({{0}, {96000}}, true), 1) == Approx(6.0).margin(0.1));
  CHECK(takes.of(takes.match({{96000}, {216000}}, true), 1) == Approx(10.0).margin(0.1));
}
