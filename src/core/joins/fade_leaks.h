// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/joins/join_scene.h"

namespace yewdrift {

/// Lengths of crossfades that are tried, in steps of a scene; all even, so that centres lie on whole steps.
inline constexpr std::array<std::size_t, 10> fadeLengths{2, 4, 6, 8, 12, 16, 24, 32, 48, 80};

/// How much of a tone is heard in other bands because it is faded: the shorter the fade, the more. Made once
/// for a rate; any thread.
class FadeLeaks {
 public:
  explicit FadeLeaks(SampleRate rate);

  /// Of what changes in a fade of that length, band by band, what it puts into the others.
  [[nodiscard]] SceneBands leaked(std::size_t length, const SceneBands& changing) const;

 private:
  using Table = std::array<SceneBands, sceneBands>;  // by the band it comes from
  std::vector<Table> tables_;                        // one for each length
};

}  // namespace yewdrift
