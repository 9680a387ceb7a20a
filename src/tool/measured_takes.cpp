// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/measured_takes.h"

#include <atomic>

#include "core/analysis/track_phrases.h"
#include "core/store/peaks_cache.h"

namespace yewdrift::tool {

std::vector<Phrase> phrasesIn(const SessionFolder& folder, const Track& track) {
  const Session& session = folder.session();
  std::map<int, std::vector<PeakPyramid>> peaks;
  const std::atomic<bool> cancelled{false};
  return phrasesOf(session, track, [&](int file) {
    auto& known = peaks[file];
    if (known.empty())
      known = loadPeaks(folder.disk(), (*session.pool)[static_cast<std::size_t>(file)], cancelled);
    return &known;
  });
}

MeasuredTakes::MeasuredTakes(const SessionFolder& folder, const Track& track)
    : pool_(*folder.session().pool), jobs_(folder.disk(), folder.session().rate) {
  jobs_.want(filesOfTakes(folder.session(), track));
  jobs_.wait();
}

FindAnalysis MeasuredTakes::find() {
  return [this](int file) -> const FileAnalysis* {
    auto& known = known_[file];
    if (!known) known = jobs_.find(pool_[static_cast<std::size_t>(file)].path);
    return known.get();
  };
}

}  // namespace yewdrift::tool
