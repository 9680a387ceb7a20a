// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/flatten.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <future>
#include <limits>
#include <map>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/block_renderer.h"
#include "core/plan/verbatim.h"
#include "core/store/audio_file.h"
#include "core/time/span_parts.h"

namespace yewdrift {
namespace {

void requireNotCancelled(const RenderProgress& progress, double share) {
  if (progress && !progress(share)) throw Error("Rendering was cancelled; nothing was changed.");
}

/// Writes a track's composite over a span: copied where a file plays as it is, else rendered.
class CompositeWriter {
 public:
  CompositeWriter(const SessionDisk& disk, const Session& session, BlockRenderer& renderer,
                  AudioWriter& writer, Span span, const RenderProgress& progress)
      : disk_(disk),
        session_(session),
        renderer_(renderer),
        writer_(writer),
        span_(span),
        progress_(progress) {}

  void write() {
    for (const Verbatim& stretch : verbatimStretches(*renderer_.trackPlan(), *session_.pool, span_)) {
      const AudioReader& file = readerOf(stretch.file);
      if (writer_.takesAsItIs(file)) {
        renderUntil(stretch.span.start);
        copyUntil(stretch.span.end, file, stretch.origin);
      }
    }
    renderUntil(span_.end);
  }

 private:
  void renderUntil(Frames end) {
    while (at_ < end) {
      const int count =
          static_cast<int>(std::min<std::int64_t>(BlockRenderer::blockFrames, (end - at_).count));
      writer_.write(renderer_.render(at_, count), count);
      go(Frames{count});
    }
  }

  void copyUntil(Frames end, const AudioReader& file, Frames origin) {
    constexpr std::int64_t atOnce = 1 << 22;  // so that it can be cancelled
    while (at_ < end) {
      const std::int64_t count = std::min(atOnce, (end - at_).count);
      writer_.copy(file, at_ - origin, count);
      go(Frames{count});
    }
  }

  void go(Frames by) {
    at_ += by;
    requireNotCancelled(progress_, shareBefore(span_, at_));
  }

  const AudioReader& readerOf(int file) {
    auto found = readers_.find(file);
    if (found == readers_.end()) {
      // A process may open only so many files.
      if (readers_.size() >= 64) readers_.clear();
      found =
          readers_.try_emplace(file, disk_.open((*session_.pool)[static_cast<std::size_t>(file)].path)).first;
    }
    return found->second;
  }

  const SessionDisk& disk_;
  const Session& session_;
  BlockRenderer& renderer_;
  AudioWriter& writer_;
  Span span_;
  const RenderProgress& progress_;
  Frames at_ = span_.start;
  std::map<int, AudioReader> readers_;
};

/// Reads the file back while what plays live is rendered, all of it. Returns the largest difference; throws
/// where a sample is not the nearest one that its format has.
double compareWithLive(AudioReader back, BlockRenderer& live, SampleFormat format, Span span,
                       const RenderProgress& progress) {
  const float step = format == SampleFormat::Pcm16   ? 1.0F / 32768.0F
                     : format == SampleFormat::Pcm24 ? 1.0F / 8388608.0F
                                                     : 0.0F;
  // Integers hold no more than full scale.
  const float most = step > 0.0F ? 1.0F - step : std::numeric_limits<float>::infinity();
  const float least = step > 0.0F ? -1.0F : -most;
  // Differences without sign are compared by their bits, which go up as they do and beyond them where one is
  // no number; whole vectors at a time.
  const auto half = std::bit_cast<std::int32_t>(step / 2.0F);
  std::int32_t largest = 0;
  std::vector<float> read;
  for (const Span part : SpanParts(span, {BlockRenderer::blockFrames})) {
    const std::int64_t frames = part.length().count;
    const float* const played = live.render(part.start, static_cast<int>(frames));
    read.resize(static_cast<std::size_t>(frames * live.channels()));
    if (back.readAt(part.start - span.start, frames, read.data()) != frames)
      throw Error("\"%1\" could not be read back; it was not taken.", back.name());
    for (std::size_t i = 0; i < read.size(); ++i) {
      const float wanted = played[i] > most ? most : played[i] < least ? least : played[i];
      largest = std::max(largest, std::bit_cast<std::int32_t>(std::abs(read[i] - wanted)));
    }
    if (largest > half)
      throw Error("What was written to \"%1\" is not what plays live; it was not taken.", back.name());
    requireNotCancelled(progress, shareBefore(span, part.end));
  }
  return static_cast<double>(std::bit_cast<float>(largest));
}

}  // namespace

FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId id,
                              const RenderProgress& progress, std::optional<Span> wanted) {
  const Track& track = requireTrack(session, id);
  // Making takes at another pitch is most of the work, where there is any.
  const double pitched = pitchedFilesOf(session, track).empty() ? 0.0 : 0.8;
  const auto part = [&progress](double from, double to) -> RenderProgress {
    return [&progress, from, to](double share) { return !progress || progress(from + (to - from) * share); };
  };
  BlockRenderer::makePitched(disk, session, id, part(0.0, pitched));
  BlockRenderer renderer(disk, session, id, std::nullopt);
  const Span span = wanted.value_or(renderer.extent());
  if (span.empty()) throw Error("There is nothing to render: nothing has been recorded or added there yet.");
  renderer.requireFiles(*session.pool, span);
  if (!span.overlaps(renderer.extent()))
    throw Error("The composite plays nothing there: there is nothing to flatten.");

  PendingFile file(disk, "audio", track.name + "-flattened");
  const std::string name = file.expectedName();
  AudioWriter writer(file.take(), renderer.channels(), session.rate, session.format,
                     TimeStamp{span.start, std::filesystem::path(name).stem().string()});
  const double written = pitched + 0.5 * (1.0 - pitched);
  CompositeWriter(disk, session, renderer, writer, span, part(pitched, written)).write();
  writer.finish();
  // The disk takes it while it is read back.
  std::future<void> synced = std::async(std::launch::async, [&writer] { writer.sync(); });
  OpenFile back = disk.open(file.workingName());
  back.name = name;
  const double difference =
      compareWithLive(AudioReader(std::move(back)), renderer, session.format, span, part(written, 1.0));
  synced.get();
  writer.close();
  return {{file.keep(), renderer.channels(), span.length()}, span.start, difference, writer.clipped()};
}

std::vector<Sentence> verifiedSentences(const FlattenedFile& file) {
  std::vector<Sentence> said;
  if (file.clipped > 0)
    said.push_back(
        Sentence("%n samples lay beyond full scale and were cut off there.|"
                 "One sample lay beyond full scale and was cut off there.",
                 Count{file.clipped}));
  if (file.difference > 0.0)
    said.push_back(
        Sentence("Read back, it differs from what plays live by %1 dB of full scale at most: rounding.",
                 Decimal{20.0 * std::log10(file.difference), 1}));
  else if (file.clipped > 0)
    said.push_back(Sentence("Read back, the rest is what plays live, bit for bit."));
  else
    said.push_back(Sentence("Read back, it is what plays live, bit for bit."));
  return said;
}

}  // namespace yewdrift
