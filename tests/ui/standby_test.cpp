// SPDX-License-Identifier: GPL-3.0-or-later
//
// Standing by for long: what is held is bounded, and a punch lies where it was played with a minute before
// it.
#include <catch2/catch.hpp>

#include "core/edit/edit.h"
#include "engine/recording_support.h"
#include "ui/driven_desk.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

namespace {

fs::path makeArmed(const TemporaryFolder& temporary) {
  const fs::path path = temporary / "session";
  SessionFolder folder = emptySession(path, 1);
  Session session = folder.session();
  session = setTrackSwitch(session, session.tracks.front()->id, TrackSwitch::Arm, true);
  session.recording.loop = false;
  session.recording.click.recording = false;
  folder.editHistory() = History(session);
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

}  // namespace

TEST_CASE("After minutes of standing by what is held is relayed, and a punch has its minute of handle") {
  constexpr std::int64_t minute = 60LL * 48000;
  const TemporaryFolder temporary("/dev/shm");
  DrivenDesk desk(makeArmed(temporary));
  desk.plugIn({700});
  Studio& studio = desk.studio();
  studio.transport().togglePlay();
  desk.run(4 * minute, 4096);
  REQUIRE(studio.recording().standingBy());
  CHECK(filesIn(desk.path() / "audio") == 1);
  desk.run(minute + minute / 2, 4096);  // both, for a minute
  CHECK(filesIn(desk.path() / "audio") == 2);
  desk.run(minute, 4096);
  CHECK(filesIn(desk.path() / "audio") == 1);  // the younger alone
  REQUIRE(studio.recording().standingBy());
  studio.recording().punchByHand();
  desk.run(minute / 4, 512);
  CHECK(studio.recording().recording());
  studio.transport().stop();
  desk.settle();
  REQUIRE(desk.session().tracks.front()->lanes.size() == 1);
  checkPlaces(desk, 1, 60);
  CHECK(filesIn(desk.path() / "audio") == 1);
  desk.close();
}

TEST_CASE("A punch while it is being relayed keeps the older, longer capture, and nothing else stays") {
  constexpr std::int64_t minute = 60LL * 48000;
  const TemporaryFolder temporary("/dev/shm");
  DrivenDesk desk(makeArmed(temporary));
  desk.plugIn({700});
  Studio& studio = desk.studio();
  studio.transport().togglePlay();
  desk.run(5 * minute + minute / 2, 4096);
  REQUIRE(filesIn(desk.path() / "audio") == 2);
  studio.recording().punchByHand();
  desk.run(minute / 4, 512);
  studio.transport().stop();
  desk.settle();
  REQUIRE(desk.session().tracks.front()->lanes.size() == 1);
  checkPlaces(desk, 1, 300);
  desk.close();
  CHECK(filesIn(desk.path() / "audio") == 1);
}
