// SPDX-License-Identifier: GPL-3.0-or-later
//
// Whole composites of tracks with several microphones and channels: what is told of their joins, and what is
// made of them, is what it was when it was judged. See recorded_numbers.h.
#include <random>

#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/joins/join_finder.h"
#include "core/recorded_numbers.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

constexpr SampleRate songRate{48000};

/// Notes with rests between them, each take in its own time, each channel a little its own.
std::vector<Samples> playedOn(std::mt19937& random, std::size_t channels) {
  constexpr std::size_t length = 48000;
  std::vector<Samples> played;
  for (std::size_t c = 0; c < channels; ++c)
    played.push_back(noise(length, static_cast<unsigned>(random()), 0.001F));
  for (std::size_t at = 500 + random() % 3000; at < length; at += 5000 + random() % 9000) {
    const double hertz = 150.0 * std::exp2(static_cast<double>(random() % 24) / 12.0);
    const double lasts = 3000.0 + static_cast<double>(random() % 6000);
    for (std::size_t c = 0; c < channels; ++c) {
      const double side = random() % 4 == 0 ? -0.3 : 0.2 + 0.05 * static_cast<double>(random() % 4);
      const double late = static_cast<double>(random() % 40);
      for (std::size_t i = at; i < length; ++i) {
        const double t = static_cast<double>(i - at);
        if (t < late) continue;
        played[c][i] += static_cast<float>(side * std::min(1.0, (t - late) / 100.0) * std::exp(-t / lasts) *
                                           std::sin(6.283185307 * hertz * (t - late) / songRate.hertz));
      }
    }
  }
  return played;
}

void addScene(Numbers& numbers, unsigned seed) {
  std::mt19937 random(seed);
  const TemporaryFolder temporary;
  Session session;
  session.rate = songRate;
  session.format = SampleFormat::Float32;
  std::vector<Microphone> microphones{{"pair", 0, 2, {}, {}}};
  if (seed % 2 == 0) microphones.push_back({"near", 2, 1, {}, {}});
  const std::size_t channels = seed % 2 == 0 ? 3 : 2;
  SessionFolder folder = SessionFolder::create(temporary / "s", session);
  session = addTrack(std::move(session), "Drum", microphones);
  const TrackId id = session.tracks.front()->id;
  for (int take = 0; take < 3; ++take) {
    const std::string path = "audio/" + std::to_string(take) + ".wav";
    writeWave(folder.path() / path, playedOn(random, channels), songRate.hertz, SampleFormat::Float32);
    session = addFileAsLane(std::move(session), id, {path, static_cast<int>(channels), {48000}}, {}, "");
  }
  for (int at = 6000; at < 44000; at += 7000)
    session =
        pick(std::move(session), id, {{at}, {at + 7000}}, LaneNumber{1 + static_cast<int>(random() % 3)});
  session = changePiece(std::move(session), id, {20500}, {Decibels{4.0}, {}, Frames{30}, {}});
  LaneChange quieter;
  quieter.gain = Decibels{-5.0};
  session = changeLane(std::move(session), id, LaneNumber{2}, quieter);
  session = setLevel(std::move(session), id, LaneNumber{3}, {{{0}, {0.0}}, {{40000}, {-8.0}}});
  folder.commit("Make", session);
  const auto joins = resolve(*session.track(id), songRate).joins;
  if (joins.size() > 3) session = settleJoin(std::move(session), id, joins[1].at, true);
  const std::string name = "drum " + std::to_string(seed) + " ";
  for (const MeasuredJoin& join : measureJoins(folder.disk(), session, id)) {
    const std::string at = name + "at " + std::to_string(join.join.at.count);
    numbers[at + " risk"] = join.risk;
    numbers[at + " step"] = join.measure.step;
    numbers[at + " correlation"] = join.measure.correlation;
    numbers[at + " level"] = join.measure.levelDifference;
    if (join.nearestOnset) numbers[at + " onset"] = static_cast<double>(join.nearestOnset->count);
    numbers[at + " reads: " + join.reading.english()] = 1.0;
  }
  for (const bool slips : {false, true}) {
    JoinWish wish = defaultWish(songRate);
    if (slips) wish.slipWithin = Frames{144};
    const Improvement improved = improveJoins(folder.disk(), session, id, wish, std::nullopt);
    const std::string way = name + (slips ? "slipped " : "better ");
    numbers[way + "looked"] = static_cast<double>(improved.looked);
    for (const ImprovedJoin& join : improved.joins) {
      const std::string at = way + std::to_string(join.was.at.count);
      numbers[at + " place"] = static_cast<double>(join.now.at.count);
      numbers[at + " slip"] = static_cast<double>(join.now.slip.count);
      numbers[at + " length"] = static_cast<double>((join.now.shape.before + join.now.shape.after).count);
      numbers[at + " cost"] = join.now.cost.total();
      numbers[at + " was"] = join.before.total();
      numbers[at + " because: " + join.now.why.english()] = 1.0;
    }
    int place = 0;
    for (const Join& join : resolve(*improved.session.track(id), songRate).joins)
      numbers[way + "join " + std::to_string(++place)] = static_cast<double>(join.at.count);
  }
}

}  // namespace

TEST_CASE("joins: of several microphones they are told of, and made, as they were when that was judged") {
  Numbers now;
  for (unsigned seed = 1; seed <= 8; seed += nextScene()) addScene(now, seed);
  checkRecorded("join-sessions", now);
}
