// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/session_glimpse.h"

#include <algorithm>
#include <map>

#include "core/session/resolved_composite.h"
#include "core/store/peaks_cache.h"
#include "core/store/session_folder.h"

namespace yewdrift {
namespace {

class Glimpser {
 public:
  Glimpser(const SessionFolder& folder, Span whole, std::size_t columns, const std::atomic<bool>& cancelled)
      : folder_(folder), whole_(whole), columns_(columns), cancelled_(cancelled) {}

  std::vector<GlimpseColumn> row(const Track& track) {
    std::vector<GlimpseColumn> row(columns_);
    for (const Piece& piece : resolve(track, folder_.session().rate).pieces) {
      if (const Lane* const lane = piece.lane ? track.lane(*piece.lane) : nullptr)
        for (const Clip& clip : lane->clips)
          paint(row, clip, piece.slip, clip.window.shifted(piece.slip).intersect(piece.span),
                track.backing ? GlimpseColumn::backing : lane->colour());
    }
    return row;
  }

 private:
  void paint(std::vector<GlimpseColumn>& row, const Clip& clip, Frames slip, Span played, int colour) {
    if (played.empty() || cancelled_) return;
    const ChannelSource source = clip.channels.front();
    const PeakPyramid* peaks = peaksOf(source);
    for (std::size_t i = 0; i < columns_; ++i) {
      const Span part = Span{edge(i), std::max(edge(i) + Frames{1}, edge(i + 1))}.intersect(played);
      if (!part.empty()) show(row[i], levelOf(peaks, part.shifted(-slip - clip.origin)), colour);
    }
  }

  static float levelOf(const PeakPyramid* peaks, Span part) {
    if (!peaks) return GlimpseColumn::unmeasured;
    const Peak peak = peaks->over(part.start.count, part.end.count);
    return std::max(std::abs(peak.low), std::abs(peak.high));
  }

  /// Where several meet in a column, the loudest is seen.
  static void show(GlimpseColumn& column, float level, int colour) {
    if (column.colour == 0 || level > column.level) column = {level, colour};
  }

  [[nodiscard]] Frames edge(std::size_t column) const {
    const double share = static_cast<double>(column) / static_cast<double>(columns_);
    return whole_.start +
           Frames{static_cast<std::int64_t>(share * static_cast<double>(whole_.length().count))};
  }

  const PeakPyramid* peaksOf(ChannelSource source) {
    const auto [found, fresh] = known_.try_emplace(source.file);
    if (fresh)
      found->second =
          cachedPeaks(folder_.disk(), (*folder_.session().pool)[static_cast<std::size_t>(source.file)]);
    const auto channel = static_cast<std::size_t>(source.channel);
    return channel < found->second.size() ? &found->second[channel] : nullptr;
  }

  const SessionFolder& folder_;
  Span whole_;
  std::size_t columns_;
  const std::atomic<bool>& cancelled_;
  std::map<int, std::vector<PeakPyramid>> known_;  // of files
};

}  // namespace

SessionGlimpse glimpse(const std::filesystem::path& path, std::size_t columns, std::size_t rows,
                       const std::atomic<bool>& cancelled) {
  const SessionFolder folder = SessionFolder::open(path, SessionFolder::Access::Read);
  const Session& session = folder.session();
  const Span whole{{}, std::max(Frames{}, materialOf(session).end)};
  SessionGlimpse seen{
      session.name, static_cast<double>(whole.end.count) / session.rate.hertz, session.tracks.size(), 0, {}};
  Glimpser glimpser(folder, whole, columns, cancelled);
  for (const auto& track : session.tracks) {
    if (!track->backing)
      seen.takes += static_cast<std::size_t>(std::count_if(track->lanes.begin(), track->lanes.end(),
                                                           [](const auto& lane) { return !lane->setAside; }));
    if (seen.rows.size() < rows && !whole.empty()) seen.rows.push_back(glimpser.row(*track));
  }
  return seen;
}

}  // namespace yewdrift
