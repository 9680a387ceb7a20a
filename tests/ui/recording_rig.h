// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>

#include "ui/window_rig.h"

namespace yewdrift::test {

/// A window in which it is recorded, and what came of it.
struct RecordingRig : WindowRig {
  explicit RecordingRig(const fs::path& path) : WindowRig(path) {}

  void setOptions(const std::function<void(RecordingOptions&)>& change) {
    RecordingOptions options = studio().desk().options();
    change(options);
    studio().desk().setOptions(options);
  }
  bool rollTo(std::int64_t frame) {
    return waitFor([&] { return studio().transport().state().position.count >= frame; });
  }
  bool settled() {
    return waitFor([&] {
      const EngineState state = studio().transport().state();
      return !studio().recording().recording() && !state.rolling && !state.capturing;
    });
  }
  QPoint punchRow(std::int64_t frame) { return {lanes().xOf({frame}), lanes().punchRowRect().center().y()}; }
  const std::vector<Punch>& punches() { return studio().desk().session().punches; }
  /// The audible samples of a lane's clip, from its file.
  Samples samplesOf(LaneNumber lane, std::size_t clip = 0) {
    const Clip& c = track().lane(lane)->clips.at(clip);
    const PoolFile& file =
        (*studio().desk().session().pool)[static_cast<std::size_t>(c.channels.front().file)];
    const Samples whole = readWave(studio().desk().folderPath() / file.path).front();
    const auto from = whole.begin() + (c.window.start - c.origin).count;
    return {from, from + c.window.length().count};
  }
};

/// What the rig's player plays in the time round with that number.
inline Samples performance(int number, std::int64_t from, std::int64_t length) {
  const Samples whole = noise(480000, 10 + static_cast<unsigned>(number), 0.3F);
  return {whole.begin() + from, whole.begin() + from + length};
}

}  // namespace yewdrift::test
