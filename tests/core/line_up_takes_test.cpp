// SPDX-License-Identifier: GPL-3.0-or-later
//
// Takes of a track lined up to each other and to the grid, wherever they lie in the song.
#include "core/analysis/line_up_takes.h"

#include "core/core_tests.h"

#include "core/known_takes.h"

namespace {

/// Strokes that die away, at those frames.
Samples strokesAt(const std::vector<std::int64_t>& at, std::size_t length, unsigned seed = 3) {
  Samples samples(length, 0.0F);
  for (const std::int64_t from : at) {
    const Samples breath = noise(7200, ++seed, 0.5F);  // no stroke is like another
    for (std::size_t i = 0; i < breath.size(); ++i)
      if (const auto k = static_cast<std::size_t>(from) + i; k < length)
        samples[k] += breath[i] * std::exp(-static_cast<float>(i) / 1500.0F);
  }
  return samples;
}

struct InSong {
  explicit InSong(const std::vector<Samples>& takes, std::vector<Frames> at = {})
      : folder(sessionWithLanes(temporary / "s", takes)), session(folder.session()) {
    Track& track = session.tracks.front().edit();
    for (std::size_t i = 0; i < at.size(); ++i) {
      Clip& clip = track.lanes[i].edit().clips.front();
      clip.origin += at[i];
      clip.window = clip.extent();
    }
    checkInvariants(session);
  }
  [[nodiscard]] const Track& track() const { return *session.tracks.front(); }
  [[nodiscard]] const Lane& lane(int number) const { return *track().lane({number}); }
  LineUp toGrid(std::optional<Span> span = std::nullopt, Frames within = seconds(0.1)) {
    FileSampleSource source(folder.disk(), *session.pool);
    return lineUpToGrid(session, track(), lane(1), span, within, source);
  }
  LineUp toTake(std::optional<Span> span = std::nullopt, Frames within = seconds(0.5)) {
    FileSampleSource source(folder.disk(), *session.pool);
    return lineUpTakes(session, track(), lane(2), lane(1), span, within, source);
  }

  TemporaryFolder temporary;
  SessionFolder folder;
  Session session;
};

}  // namespace

TEST_CASE("A take is lined up to the divisions of the beats where it lies, in the tempo that holds there") {
  // Three bars of 100 bpm in 3/4, then 150 bpm in 4/4: a beat is 28,800 frames, then 19,200.
  const TempoMap tempo({{1, 100.0, {3, 4}}, {4, 150.0, {4, 4}}});
  const Frames bar4 = tempo.frameOf({4, 1.0}, rate);
  REQUIRE(bar4 == Frames{9 * 28800});
  // Eighths from bar 4 on, 600 frames early; the file itself begins in bar 3.
  const Frames begins = bar4 - Frames{20000};
  std::vector<std::int64_t> at;
  for (int eighth = 0; eighth < 16; ++eighth) at.push_back((bar4 - begins).count + eighth * 9600 - 600);
  InSong song({strokesAt(at, 200000)}, {begins});
  song.session.tempo = tempo;
  song.session.recording.divisions = 2;
  const LineUp found = song.toGrid();
  CHECK(found.sureness > leastSureness);
  CHECK(std::abs(found.offset.count - 600) < 240);
  CHECK_FALSE(found.samePerformance);
  // Over a span of it only what begins there counts, and positions stay those of the song.
  const LineUp part = song.toGrid(Span{bar4 + Frames{30000}, bar4 + Frames{130000}});
  CHECK(part.sureness > leastSureness);
  CHECK(std::abs(part.offset.count - 600) < 240);
  // Where beats are not divided, those between them are half a beat away from any.
  song.session.recording.divisions = 1;
  CHECK(song.toGrid().sureness < found.sureness);
  song.session.recording.divisions = 0;
  CHECK(song.toGrid().sureness < found.sureness);
}

TEST_CASE("A take is lined up to another wherever both lie, and over the span that is asked for") {
  const Samples one = strokesAt({20000, 51000, 77000, 124000, 130000}, 160000);
  InSong song({one, one}, {Frames{300000}, Frames{301234}});
  const LineUp found = song.toTake();
  CHECK(found.offset == Frames{-1234});
  CHECK(found.samePerformance);
  // What lies outside the span is not looked at.
  CHECK(song.toTake(Span{{315000}, {440000}}).offset == Frames{-1234});
  CHECK(song.toTake(Span{{0}, {100000}}).sureness < leastSureness);
  // Longer than what is compared at once, and nothing sounds but their ends.
  const Samples longer = strokesAt({6010000, 6041000, 6067000, 6114000, 6120000}, 6240000);
  InSong late({longer, longer}, {Frames{300000}, Frames{301234}});
  CHECK(late.toTake().offset == Frames{-1234});
  // A take that begins before the other, and ends behind it.
  InSong around({Samples(one.begin() + 15000, one.begin() + 90000), one}, {Frames{400000}, Frames{384400}});
  CHECK(around.toTake().offset == Frames{600});
}

namespace {

/// Gives up in the middle of what is read, as who closes the window does.
class GivenUpWhileReading : public SampleSource {
 public:
  GivenUpWhileReading(SampleSource& from, int after) : from_(from), after_(after) {}
  bool read(int file, int channel, Frames at, int count, float* out) noexcept override {
    if (++reads == after_) cancelled = true;
    return from_.read(file, channel, at, count, out);
  }
  std::atomic<bool> cancelled = false;
  int reads = 0;

 private:
  SampleSource& from_;
  int after_;
};

}  // namespace
