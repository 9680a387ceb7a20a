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
#include "core/plan/track_plan_parts.h"
#include "core/plan/verbatim.h"
#include "core/session/resolved_composite.h"
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

/// A stretch of a composite, and what the file that takes its place holds: at an edge where a join is kept,
/// the takes inside the stretch play on as far as the join fades.
struct Stretch {
  Span span;
  Span file;
  std::optional<Span> joinBefore;  // the fade of the join that is kept at the start
  std::optional<Span> joinAfter;
};

/// Whether the joins at the edges of a stretch are kept; else the stretch grows by their crossfades.
struct KeptJoins {
  bool atStart = true;
  bool atEnd = true;
};

Stretch stretchOf(const ResolvedComposite& composite, Span span, KeptJoins keep) {
  Stretch stretch{span, span, {}, {}};
  const auto fadeOf = [](const Join& join) {
    return Span{join.at - join.shape.before, join.at + join.shape.after};
  };
  const auto keptAt = [&](Frames edge) -> std::optional<Span> {
    const Join* const join = composite.joinAt(edge);
    return join ? std::optional(fadeOf(*join)) : std::nullopt;
  };
  if (keep.atStart) stretch.joinBefore = keptAt(span.start);
  if (keep.atEnd) stretch.joinAfter = keptAt(span.end);
  // A crossfade that an edge would cut lies in the stretch as a whole. The next one may begin where it ends.
  for (const Join& join : composite.joins)
    if (const Span fade = fadeOf(join); !stretch.joinAfter && fade.start < stretch.span.end)
      stretch.span.end = std::max(stretch.span.end, fade.end);
  for (auto join = composite.joins.rbegin(); join != composite.joins.rend(); ++join)
    if (const Span fade = fadeOf(*join); !stretch.joinBefore && fade.end > stretch.span.start)
      stretch.span.start = std::min(stretch.span.start, fade.start);
  stretch.file = stretch.span;
  if (stretch.joinBefore) stretch.file.start = std::min(stretch.file.start, stretch.joinBefore->start);
  if (stretch.joinAfter) stretch.file.end = std::max(stretch.file.end, stretch.joinAfter->end);
  return stretch;
}

/// What plays inside the stretch, without the joins that are kept and what they fade to.
TrackPlan insideOf(const Track& track, const TrackPlan& plan, const Stretch& stretch) {
  const auto isIn = [](const std::optional<Fade>& fade, const std::optional<Span>& join) {
    return fade && join && fade->span == *join;
  };
  std::vector<Segment> inside;
  for (Segment segment : plan.segments) {
    const bool before = isIn(segment.fadeOut, stretch.joinBefore) || segment.span.end <= stretch.span.start;
    const bool after = isIn(segment.fadeIn, stretch.joinAfter) || segment.span.start >= stretch.span.end;
    if (before || after) continue;
    if (isIn(segment.fadeIn, stretch.joinBefore)) segment.fadeIn.reset();
    if (isIn(segment.fadeOut, stretch.joinAfter)) segment.fadeOut.reset();
    inside.push_back(std::move(segment));
  }
  return finished(track, std::move(inside));
}

/// What a difference between two renderings may come to that nobody can hear or measure in a file: a step of
/// the format, or what rounding leaves of floating point.
float exactnessOf(SampleFormat format) {
  return format == SampleFormat::Pcm16 ? 1.0F / 32768.0F : 1.0F / 1048576.0F;
}

/// The largest difference between what two sessions play over a span; beyond full scale none counts where
/// the format holds no more.
float largestDifference(BlockRenderer& one, BlockRenderer& other, SampleFormat format, Span span) {
  const float most = format == SampleFormat::Float32 ? std::numeric_limits<float>::max() : 1.0F;
  float largest = 0.0F;
  std::vector<float> first;
  for (const Span part : SpanParts(span, {BlockRenderer::blockFrames})) {
    const auto count = static_cast<std::size_t>(part.length().count * one.channels());
    const float* played = one.render(part.start, static_cast<int>(part.length().count));
    first.assign(played, played + count);
    played = other.render(part.start, static_cast<int>(part.length().count));
    for (std::size_t i = 0; i < count; ++i)
      largest =
          std::max(largest, std::abs(std::clamp(first[i], -most, most) - std::clamp(played[i], -most, most)));
  }
  return largest;
}

/// The part of the whole that a step of the work is.
RenderProgress partOf(const RenderProgress& progress, double from, double to) {
  return [&progress, from, to](double share) { return !progress || progress(from + (to - from) * share); };
}

/// Writes a file, reads it back, and keeps it.
class Flattening {
 public:
  Flattening(const SessionDisk& disk, const Session& session, TrackId id, const RenderProgress& progress)
      : disk_(disk), session_(session), track_(requireTrack(session, id)), progress_(progress) {
    // Making takes at another pitch is most of the work, where there is any.
    begun_ = pitchedFilesOf(session, track_).empty() ? 0.0 : 0.8;
    BlockRenderer::makePitched(disk, session, id, partOf(progress, 0.0, begun_));
    live_.emplace(disk, session, id, std::nullopt);
  }

  FlattenedFile whole() {
    if (live_->extent().empty())
      throw Error("There is nothing to render: nothing has been recorded or added there yet.");
    return write(*live_, live_->extent());
  }

  FlattenedFile stretch(Span span) {
    requireFlattenableInPart(track_);
    if (span.empty() || !span.overlaps(live_->extent()))
      throw Error("The composite plays nothing there: there is nothing to flatten.");
    const ResolvedComposite composite = resolve(track_, session_.rate);
    KeptJoins keep;
    for (;;) {
      const Stretch stretch = stretchOf(composite, span, keep);
      BlockRenderer renderer(disk_, session_, track_.id, std::nullopt);
      renderer.play(insideOf(track_, *live_->trackPlan(), stretch));
      FlattenedFile made = write(renderer, stretch.file);
      made.span = stretch.span;
      try {
        const auto [start, end] = edgeDifferences(made, stretch);
        const float most = exactnessOf(session_.format);
        made.difference = std::max({made.difference, double{start}, double{end}});
        if (start <= most && end <= most) return made;
        const bool grows = (start > most && stretch.joinBefore) || (end > most && stretch.joinAfter);
        if (!grows) throw Error("What was flattened would sound otherwise at its edges; it was not taken.");
        keep.atStart = keep.atStart && start <= most;
        keep.atEnd = keep.atEnd && end <= most;
      } catch (...) {
        disk_.remove(made.file.path);
        throw;
      }
      disk_.remove(made.file.path);
    }
  }

 private:
  FlattenedFile write(BlockRenderer& renderer, Span span) {
    renderer.requireFiles(*session_.pool, span);
    PendingFile file(disk_, "audio", track_.name + "-flattened");
    const std::string name = file.expectedName();
    AudioWriter writer(file.take(), renderer.channels(), session_.rate, session_.format,
                       TimeStamp{span.start, std::filesystem::path(name).stem().string()});
    const double written = begun_ + 0.5 * (1.0 - begun_);
    CompositeWriter(disk_, session_, renderer, writer, span, partOf(progress_, begun_, written)).write();
    writer.finish();
    // The disk takes it while it is read back.
    std::future<void> synced = std::async(std::launch::async, [&writer] { writer.sync(); });
    OpenFile back = disk_.open(file.workingName());
    back.name = name;
    const double difference = compareWithLive(AudioReader(std::move(back)), renderer, session_.format, span,
                                              partOf(progress_, written, 1.0));
    synced.get();
    writer.close();
    return {
        {file.keep(), renderer.channels(), span.length()}, span.start, span, difference, writer.clipped()};
  }

  /// Between what plays before and after the file takes its place, around each edge.
  std::pair<float, float> edgeDifferences(const FlattenedFile& made, const Stretch& stretch) {
    const Session after = takePlaceInComposite(session_, track_.id, made.file, made.origin, made.span);
    BlockRenderer placed(disk_, after, track_.id, std::nullopt);
    const Frames around{session_.rate.hertz};
    const auto difference = [&](Frames edge, const std::optional<Span>& join) {
      const Span fade = join.value_or(Span{edge, edge});
      return largestDifference(*live_, placed, session_.format, {fade.start - around, fade.end + around});
    };
    return {difference(stretch.span.start, stretch.joinBefore),
            difference(stretch.span.end, stretch.joinAfter)};
  }

  const SessionDisk& disk_;
  const Session& session_;
  const Track& track_;
  const RenderProgress& progress_;
  double begun_ = 0.0;
  std::optional<BlockRenderer> live_;
};

}  // namespace

FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId id,
                              const RenderProgress& progress, std::optional<Span> wanted) {
  Flattening flattening(disk, session, id, progress);
  return wanted ? flattening.stretch(*wanted) : flattening.whole();
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
