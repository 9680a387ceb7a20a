// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the search makes of a kind's seams, held against a careless hand, as the judge hears both.
#pragma once

#include <span>

#include "core/joins/join_finder.h"
#include "core/store/session_folder.h"
#include "seams/seam_judge.h"
#include "seams/seam_set.h"

namespace yewdrift::bench {

/// A session whose composite goes from one take to the other at every seam.
struct SeamSession {
  SessionFolder folder;
  Session session;
  TrackId track;
  Frames length;
};
/// Made in that folder, in place of one of the same name.
SeamSession makeSeamSession(const SeamKind& kind, const std::filesystem::path& folder);

struct JudgedSeam {
  Frames at;
  std::span<const float> out;  // of the kind's takes, with the seam in the middle
  std::span<const float> in;
  double loudest = 0.0;  // for judgeSeam()
  Badness naive;         // 10 ms of equal power where it is
  Badness found;         // where the search has it
  [[nodiscard]] bool asClean() const { return found.total() <= naive.total() + 0.02; }
  [[nodiscard]] bool audiblyWorse() const { return found.total() > naive.total() + 0.25; }
};
struct JudgedSeams {
  SeamSession session;
  Improvement improvement;
  double seconds = 0.0;  // that the search took
  std::vector<JudgedSeam> seams;
};
/// A quarter of a second on either side of a seam is judged; seams that lie nearer to an end are left out.
/// The result refers to the kind's takes.
JudgedSeams judgeSeams(const SeamKind& kind, const std::filesystem::path& folder);

/// The matched curve from one to the other over `length` samples from `from` on.
demo::Signal faded(std::span<const float> out, std::span<const float> in, std::int64_t from, int length);

}  // namespace yewdrift::bench
