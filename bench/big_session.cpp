// SPDX-License-Identifier: GPL-3.0-or-later
#include "big_session.h"

#include <random>

#include "core/edit/edit.h"
#include "core/store/audio_file.h"

namespace yewdrift::bench {
namespace {

Frames writeNoise(const std::filesystem::path& path, double seconds, unsigned seed) {
  AudioWriter writer(path, 1, {48000}, SampleFormat::Pcm24);
  std::minstd_rand random(seed);
  std::vector<float> block(48000);
  for (int second = 0; second < static_cast<int>(seconds); ++second) {
    for (float& sample : block) sample = static_cast<float>(random()) / 4.3e9F - 0.25F;
    writer.write(block.data(), static_cast<std::int64_t>(block.size()));
  }
  writer.close();
  return writer.written();
}

}  // namespace

std::filesystem::path workFolder() {
  return std::filesystem::temp_directory_path() / "yewdrift-bench";
}

SessionFolder makeBigSession(const BigSession& what) {
  const std::filesystem::path path = workFolder() / what.name;
  if (std::filesystem::exists(path / "done")) return SessionFolder::open(path, SessionFolder::Access::Read);
  std::filesystem::remove_all(path);
  Session session;
  session.name = what.name;
  SessionFolder folder = SessionFolder::create(path, session);
  Frames length;
  for (int t = 0; t < what.tracks; ++t) {
    session = addTrack(std::move(session), "Track " + std::to_string(t + 1), microphonesFor(1));
    const TrackId id = session.tracks.back()->id;
    for (int lane = 0; lane < what.lanesPerTrack; ++lane) {
      std::string name = session.pool->empty() ? std::string() : session.pool->front().path;
      if (what.ownFiles || name.empty()) {
        name = folder.disk().createNumbered("audio", "noise", "wav").name;
        length = writeNoise((folder.path() / name), what.seconds, static_cast<unsigned>(t * 100 + lane + 1));
      }
      session = addFileAsLane(std::move(session), id, {name, 1, length}, {}, "");
    }
    const std::int64_t step = length.count / std::max(what.pieces, 1);
    for (int piece = 0; piece < what.pieces; ++piece)
      session = pick(std::move(session), id, {{piece * step}, {piece * step + step}},
                     LaneNumber{1 + piece % what.lanesPerTrack});
  }
  folder.commit("Make", session);
  std::filesystem::create_directory(path / "done");
  return folder;
}

}  // namespace yewdrift::bench
