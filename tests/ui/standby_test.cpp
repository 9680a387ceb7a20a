// SPDX-License-Identifier: GPL-3.0-or-later
//
// Standing by for long: what is held is bounded, and a punch lies where it was played with a minute before
// it.
#include "ui/ui_tests.h"

#include "ui/driven_desk.h"

namespace {

fs::path makeArmed(const TemporaryFolder& temporary) {
  const fs::path path = temporary / "session";
  SessionFolder folder = emptySession(path, 1);
  Session session = folder.session();
  session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
  session.recording.loop = false;
  session.recording.click.recording = false;
  folder.editHistory().replacePresent(session);
  folder.editHistory().forget();
  folder.save();
  return path;
}

std::int64_t filesIn(const fs::path& folder) {
  return std::distance(fs::directory_iterator(folder), fs::directory_iterator());
}

/// The lane's samples by frame of the device, and where each should lie.
void checkPlaces(DrivenDesk& desk, int lane, std::int64_t handleSeconds) {
  const Clip& clip = desk.session().tracks.front()->lane({lane})->clips.front();
  const Samples file =
      readWave(desk.path() /
               (*desk.session().pool)[static_cast<std::size_t>(clip.channels.front().file)].path)
          .front();
  CHECK(clip.window.start - clip.extent().start >= Frames{handleSeconds * 48000});
  CHECK(clip.window.start - clip.extent().start < Frames{400 * 48000});
  for (Frames at = clip.window.start - Frames{handleSeconds * 48000}; at < clip.window.end;
       at += Frames{101}) {
    const float sample = file[static_cast<std::size_t>((at - clip.origin).count)];
    REQUIRE(sample != 0.0F);
    // Frames of the device are counted round and round (driven_desk.h).
    bool found = false;
    for (std::int64_t frame = frameOf(sample); frame < desk.clock() && !found; frame += 1 << 22)
      found = desk.playedTo(frame) == at.count;
    REQUIRE(found);
  }
}

constexpr std::int64_t minute = 60LL * 48000;

/// A desk that has stood by for so long.
struct StandingBy {
  explicit StandingBy(std::int64_t frames) : desk(makeArmed(temporary)) {
    desk.plugIn({700});
    desk.studio().transport().togglePlay();
    desk.run(frames, 4096);
    REQUIRE(desk.studio().recording().standingBy());
  }
  /// A quarter of a minute is punched in, and becomes the only take.
  void punch() {
    desk.studio().recording().punchByHand();
    desk.run(minute / 4, 512);
    CHECK(desk.studio().recording().recording());
    desk.studio().transport().stop();
    desk.settle();
    REQUIRE(desk.session().tracks.front()->lanes.size() == 1);
  }
  [[nodiscard]] std::int64_t files() const { return filesIn(desk.path() / "audio"); }
  TemporaryFolder temporary{"/dev/shm"};
  DrivenDesk desk;
};

}  // namespace

TEST_CASE("After minutes of standing by what is held is relayed, and a punch has its minute of handle") {
  StandingBy standing(4 * minute);
  CHECK(standing.files() == 1);
  standing.desk.run(minute + minute / 2, 4096);  // both, for a minute
  CHECK(standing.files() == 2);
  standing.desk.run(minute, 4096);
  CHECK(standing.files() == 1);  // the younger alone
  REQUIRE(standing.desk.studio().recording().standingBy());
  standing.punch();
  checkPlaces(standing.desk, 1, 60);
  CHECK(standing.files() == 1);
  standing.desk.close();
}

TEST_CASE("A punch while it is being relayed keeps the older, longer capture, and nothing else stays") {
  StandingBy standing(5 * minute + minute / 2);
  REQUIRE(standing.files() == 2);
  standing.punch();
  checkPlaces(standing.desk, 1, 300);
  standing.desk.close();
  CHECK(standing.files() == 1);
}
