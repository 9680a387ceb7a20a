// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/offline_render.h"

#include <algorithm>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/block_renderer.h"
#include "core/store/audio_file.h"
#include "core/store/output_file.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

Rendered renderTo(OpenFile out, const std::string& description, const SessionDisk& disk,
                  const Session& session, const RenderRequest& request, const RenderProgress& progress) {
  std::optional<AudioWriter> writer;
  const auto begin = [&](const Rendered& what) -> RenderSink {
    writer.emplace(
        std::move(out), what.channels, session.rate, request.format.value_or(session.format),
        request.timeStamped ? std::optional(TimeStamp{what.span.start, description}) : std::nullopt);
    return [&writer](const float* block, std::int64_t frames) { writer->write(block, frames); };
  };
  const Rendered rendered = renderBlocks(disk, session, request, begin, progress);
  writer->close();
  return rendered;
}

}  // namespace

Rendered renderBlocks(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                      const std::function<RenderSink(const Rendered&)>& begin,
                      const RenderProgress& progress) {
  // Making takes at another pitch is most of the work, where there is any.
  const bool pitched = request.track ? !pitchedFilesOf(session, requireTrack(session, *request.track)).empty()
                                     : !pitchedFilesOf(session).empty();
  const double before = pitched ? 0.8 : 0.0;
  BlockRenderer::makePitched(disk, session, request.track,
                             [&](double done) { return !progress || progress(before * done); });
  BlockRenderer renderer(disk, session, request.track, request.lane);
  const Span span = request.span.value_or(renderer.extent());
  if (span.empty()) throw Error("There is nothing to render: nothing has been recorded or added there yet.");
  renderer.requireFiles(*session.pool, span);
  const Rendered rendered{span, renderer.channels()};
  const RenderSink sink = begin(rendered);
  for (const Span part : SpanParts(span, {BlockRenderer::blockFrames})) {
    const auto count = static_cast<int>(part.length().count);
    sink(renderer.render(part.start, count), count);
    if (progress && !progress(before + (1.0 - before) * shareBefore(span, part.end)))
      throw Error("Rendering was cancelled; nothing was changed.");
  }
  return rendered;
}

Rendered renderToFile(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                      const std::filesystem::path& out, const RenderProgress& progress) {
  OutputFile output(disk, out);
  const Rendered rendered = renderTo(output.take(), out.stem().string(), disk, session, request, progress);
  output.keep();
  return rendered;
}

}  // namespace yewdrift
