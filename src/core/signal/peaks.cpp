// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/peaks.h"

#include <algorithm>
#include <cmath>

#include "core/signal/extremes.h"

namespace yewdrift {
namespace {

Peak joined(const Peak& a, const Peak& b, float weightOfA) {
  return {std::min(a.low, b.low), std::max(a.high, b.high),
          std::sqrt(weightOfA * a.rms * a.rms + (1.0F - weightOfA) * b.rms * b.rms)};
}

Peak combined(const Peak* first, std::size_t count) {
  Peak result = first[0];
  for (std::size_t i = 1; i < count; ++i)
    result = joined(result, first[i], static_cast<float>(i) / static_cast<float>(i + 1));
  return result;
}

}  // namespace

void PeakPyramid::append(std::span<const float> samples) {
  if (samples.empty()) return;
  auto& base = levels_.front();
  const std::size_t firstTouched = static_cast<std::size_t>(length_ / baseSpan);
  std::size_t done = 0;
  while (done < samples.size()) {
    const std::int64_t filled = length_ % baseSpan;
    if (filled == 0) {
      base.push_back({samples[done], samples[done], {}});
      sumOfSquares_ = 0.0;
    }
    const auto n = std::min<std::size_t>(static_cast<std::size_t>(baseSpan - filled), samples.size() - done);
    Peak& peak = base.back();
    const Extremes found = extremesOf(samples.subspan(done, n));
    const float low = std::min(peak.low, found.low);
    const float high = std::max(peak.high, found.high);
    sumOfSquares_ += found.squares;
    length_ += static_cast<std::int64_t>(n);
    done += n;
    peak = {low, high,
            static_cast<float>(
                std::sqrt(sumOfSquares_ / static_cast<double>(filled + static_cast<std::int64_t>(n))))};
  }
  refreshAbove(firstTouched);
}

void PeakPyramid::refreshAbove(std::size_t firstBase) {
  std::size_t first = firstBase;
  for (std::size_t level = 0; levels_[level].size() > 1; ++level) {
    first /= levelFactor;
    if (level + 1 == levels_.size()) {
      levels_.emplace_back();
      first = 0;
    }
    const auto& below = levels_[level];
    auto& above = levels_[level + 1];
    above.resize((below.size() + levelFactor - 1) / levelFactor);
    for (std::size_t i = first; i < above.size(); ++i) {
      const std::size_t from = i * levelFactor;
      above[i] = combined(&below[from], std::min<std::size_t>(levelFactor, below.size() - from));
    }
  }
}

Peak PeakPyramid::over(std::int64_t from, std::int64_t to) const {
  from = std::clamp<std::int64_t>(from, 0, length_);
  to = std::clamp<std::int64_t>(to, from, length_);
  if (from == to) return {};
  std::size_t level = 0;
  std::int64_t span = baseSpan;
  // A level is fine enough while its stretches are at most half of what is asked.
  while (level + 1 < levels_.size() && span * levelFactor * 2 <= to - from) {
    ++level;
    span *= levelFactor;
  }
  const auto& peaks = levels_[level];
  const auto first = static_cast<std::size_t>(from / span);
  const auto last = std::min(peaks.size(), static_cast<std::size_t>((to + span - 1) / span));
  return combined(&peaks[first], last - first);
}

void PeakPyramid::replaceBase(std::size_t from, std::span<const Peak> peaks, std::int64_t length) {
  auto& base = levels_.front();
  base.resize(from);
  base.insert(base.end(), peaks.begin(), peaks.end());
  length_ = length;
  refreshAbove(from > 0 ? from - 1 : 0);
}

PeakPyramid PeakPyramid::fromBase(std::vector<Peak> base, std::int64_t length) {
  PeakPyramid pyramid;
  pyramid.levels_.front() = std::move(base);
  pyramid.length_ = length;
  pyramid.refreshAbove(0);
  return pyramid;
}

}  // namespace yewdrift
