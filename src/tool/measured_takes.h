// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <memory>
#include <vector>

#include "core/analysis/analysis_jobs.h"
#include "core/analysis/take_analysis.h"
#include "core/session/resolved_phrases.h"
#include "core/store/session_folder.h"

namespace yewdrift::tool {

/// The phrases of a track, found by reading its takes.
std::vector<Phrase> phrasesIn(const SessionFolder& folder, const Track& track);

/// Everything that is measured of a track's takes; waits until it is there.
class MeasuredTakes {
 public:
  MeasuredTakes(const SessionFolder& folder, const Track& track);
  [[nodiscard]] FindAnalysis find();

 private:
  std::vector<PoolFile> pool_;
  AnalysisJobs jobs_;
  std::map<int, std::shared_ptr<const FileAnalysis>> known_;
};

}  // namespace yewdrift::tool
