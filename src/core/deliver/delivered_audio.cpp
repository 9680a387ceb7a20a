// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/deliver/delivered_audio.h"

#include "core/deliver/delivery.h"
#include "core/edit/edit.h"
#include "core/plan/offline_render.h"
#include "core/signal/resampler.h"

namespace yewdrift {
namespace {

/// At the rate of the file, from its first frame on.
std::vector<CuePoint> cuesOf(const Session& session, Span span, SampleRate rate) {
  std::vector<CuePoint> cues;
  for (const Marker& marker : session.markers)
    if (span.contains(marker.at))
      cues.push_back(
          {framesFromSeconds(secondsFromFrames(marker.at - span.start, session.rate), rate), marker.name});
  return cues;
}

}  // namespace

int channelsOf(const DeliveredAudio& audio) {
  return audio.source.track ? requireTrack(*audio.session, *audio.source.track).channels() : 2;
}

std::int64_t writeAudio(OpenFile out, const SessionDisk& disk, const DeliveredAudio& audio,
                        AudioFileKind kind, SampleRate rate, const std::function<bool(double)>& progress) {
  const Session& session = *audio.session;
  RenderRequest request;
  request.track = audio.source.track;
  request.lane = audio.source.lane;
  request.span = audio.span.value_or(deliveredSpan(session));
  const Span span = *request.span;
  kind.timeStamp = TimeStamp{{}, session.name};  // the session's start; before it no stamp reaches
  kind.cues = cuesOf(session, span, rate);
  std::optional<AudioWriter> writer;
  std::optional<Resampler> resampler;
  const auto write = [&](const float* block, std::int64_t frames) { writer->write(block, frames); };
  renderBlocks(
      disk, session, request,
      [&](const Rendered& what) -> RenderSink {
        writer.emplace(std::move(out), what.channels, rate, kind);
        if (rate == session.rate) return write;
        resampler.emplace(session.rate, rate, what.channels);
        return [&](const float* block, std::int64_t frames) { resampler->feed(block, frames, write); };
      },
      progress);
  if (resampler) resampler->finish(write);
  const std::int64_t clipped = writer->clipped();
  writer->close();
  return clipped;
}

}  // namespace yewdrift
