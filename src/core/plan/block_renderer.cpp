// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/block_renderer.h"

#include <algorithm>
#include <map>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

/// A render that leaves out what is missing would be a lie; the sentence names the file.
void requireMaterial(const SessionDisk& disk, const std::vector<PoolFile>& pool,
                     const std::vector<PoolFile>& derived, const TrackPlan& plan, Span span) {
  std::map<int, Frames> needed;
  for (const Segment& segment : plan.segments)
    for (const ChannelSource& source : segment.channels)
      if (const Span part = segment.span.intersect(span); !part.empty())
        needed[source.file] = std::max(needed[source.file], part.end - segment.origin);
  for (const auto& [index, end] : needed) {
    const PoolFile& file = fileNamed(index, pool, derived);
    const AudioFileInfo info = probeAudioFile(disk.open(file.path));
    if (info.length < end || info.channels < file.channels)
      throw Error("The audio file \"%1\" is shorter than it was when it was recorded; nothing was rendered.",
                  file.path);
  }
}

}  // namespace

BlockRenderer::BlockRenderer(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
                             std::optional<LaneNumber> lane)
    : disk_(disk), meter_(disk), pitched_(disk), renderer_(blockFrames) {
  meter_.setFiles(*session.pool);
  if (track && lane)
    track_ = compileLane(session, requireTrack(session, *track),
                         requireLane(requireTrack(session, *track), *lane), &pitched_);
  else if (track)
    track_ = compileTrack(session, requireTrack(session, *track), meter_, &pitched_);
  else
    mix_ = Compiler(meter_, &pitched_).compile(session, {});
  source_.emplace(disk, *session.pool, pitched_.files());
  channels_.assign(static_cast<std::size_t>(channels()), std::vector<float>(blockFrames));
  for (auto& channel : channels_) pointers_.push_back(channel.data());
  interleaved_.resize(static_cast<std::size_t>(blockFrames) * channels_.size());
}

void BlockRenderer::makePitched(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
                                const RenderProgress& progress) {
  const auto wanted =
      track ? pitchedFilesOf(session, requireTrack(session, *track)) : pitchedFilesOf(session);
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    const auto told = [&](double share) {
      return !progress || progress((static_cast<double>(i) + share) / static_cast<double>(wanted.size()));
    };
    if (!PitchedFiles::make(disk, session.rate, wanted[i], told))
      throw Error("Rendering was cancelled; nothing was changed.");
  }
}

Span BlockRenderer::extent() const {
  return track_ ? extentOf(*track_) : extentOf(*mix_);
}

void BlockRenderer::requireFiles(const std::vector<PoolFile>& pool, Span span) const {
  if (track_) return requireMaterial(disk_, pool, pitched_.files(), *track_, span);
  for (const auto& track : mix_->tracks)
    if (track->audible) requireMaterial(disk_, pool, pitched_.files(), *track, span);
}

const float* BlockRenderer::render(Frames at, int count) {
  if (track_)
    renderer_.renderTrack(*track_, at, count, *source_, pointers_.data());
  else
    renderer_.renderMix(*mix_, at, count, *source_, pointers_[0], pointers_[1], nullptr);
  // Silence in place of what the disk did not give would pass for what was played.
  if (const auto unread = source_->unread())
    throw Error("The audio file \"%1\" could not be read; nothing was rendered.", *unread);
  if (channels_.size() == 1) return channels_.front().data();
  for (std::size_t channel = 0; channel < channels_.size(); ++channel)
    for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
      interleaved_[i * channels_.size() + channel] = channels_[channel][i];
  return interleaved_.data();
}

}  // namespace yewdrift
