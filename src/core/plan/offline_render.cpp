// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/plan/offline_render.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/edit/edit.h"
#include "core/error.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/pitched_files.h"
#include "core/plan/renderer.h"
#include "core/store/audio_file.h"
#include "core/store/output_file.h"

namespace yewdrift {
namespace {

constexpr int blockFrames = 4096;

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

/// Makes what is to be heard at another pitch.
void makePitched(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
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

class BlockRenderer {
 public:
  BlockRenderer(const SessionDisk& disk, const Session& session, std::optional<TrackId> track,
                std::optional<LaneNumber> lane)
      : meter_(disk), pitched_(disk), renderer_(blockFrames) {
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

  [[nodiscard]] int channels() const { return track_ ? track_->channels() : 2; }
  [[nodiscard]] Span extent() const { return track_ ? extentOf(*track_) : extentOf(*mix_); }

  void requireFiles(const SessionDisk& disk, const std::vector<PoolFile>& pool, Span span) const {
    if (track_) return requireMaterial(disk, pool, pitched_.files(), *track_, span);
    for (const auto& track : mix_->tracks)
      if (track->audible) requireMaterial(disk, pool, pitched_.files(), *track, span);
  }

  const float* render(Frames at, int count) {
    if (track_)
      renderer_.renderTrack(*track_, at, count, *source_, pointers_.data());
    else
      renderer_.renderMix(*mix_, at, count, *source_, pointers_[0], pointers_[1], nullptr);
    for (std::size_t channel = 0; channel < channels_.size(); ++channel)
      for (std::size_t i = 0; i < static_cast<std::size_t>(count); ++i)
        interleaved_[i * channels_.size() + channel] = channels_[channel][i];
    return interleaved_.data();
  }

 private:
  FileCorrelationMeter meter_;
  PitchedFiles pitched_;
  std::optional<FileSampleSource> source_;
  Renderer renderer_;
  std::optional<TrackPlan> track_;
  std::shared_ptr<const PlaybackPlan> mix_;
  std::vector<std::vector<float>> channels_;
  std::vector<float*> pointers_;
  std::vector<float> interleaved_;
};

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
  makePitched(disk, session, request.track,
              [&](double done) { return !progress || progress(before * done); });
  BlockRenderer renderer(disk, session, request.track, request.lane);
  const Span span = request.span.value_or(renderer.extent());
  if (span.empty()) throw Error("There is nothing to render: nothing has been recorded or added there yet.");
  renderer.requireFiles(disk, *session.pool, span);
  if (request.flattens && !span.overlaps(renderer.extent()))
    throw Error("The composite plays nothing there: there is nothing to flatten.");
  const Rendered rendered{span, renderer.channels()};
  const RenderSink sink = begin(rendered);
  for (Frames at = span.start; at < span.end; at += Frames{blockFrames}) {
    const int count = static_cast<int>(std::min<std::int64_t>(blockFrames, (span.end - at).count));
    sink(renderer.render(at, count), count);
    const double done =
        static_cast<double>((at - span.start).count) / static_cast<double>(span.length().count);
    if (progress && !progress(before + (1.0 - before) * done))
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

namespace {

/// Reads a file back while what plays live is rendered once more. Returns the largest difference; throws
/// where a sample is not the nearest one that its format has.
double compareWithLive(const SessionDisk& disk, const Session& session, const RenderRequest& request,
                       const std::string& path, const RenderProgress& progress) {
  AudioReader reader(disk.open(path));
  const SampleFormat format = request.format.value_or(session.format);
  const double step = format == SampleFormat::Pcm16   ? 1.0 / 32768.0
                      : format == SampleFormat::Pcm24 ? 1.0 / 8388608.0
                                                      : 0.0;
  double largest = 0.0;
  Frames at;
  std::vector<float> back;
  const auto begin = [&](const Rendered& what) -> RenderSink {
    return [&, channels = static_cast<std::size_t>(what.channels)](const float* live, std::int64_t frames) {
      back.resize(static_cast<std::size_t>(frames) * channels);
      if (reader.readAt(at, frames, back.data()) != frames)
        throw Error("\"%1\" could not be read back; it was not taken.", path);
      at += Frames{frames};
      for (std::size_t i = 0; i < back.size(); ++i) {
        // Integers hold no more than full scale.
        const double wanted = step > 0.0 ? std::clamp<double>(live[i], -1.0, 1.0 - step) : live[i];
        const double away = std::abs(static_cast<double>(back[i]) - wanted);
        largest = std::max(largest, away);
        if (away > step / 2.0 || std::isnan(away))
          throw Error("What was written to \"%1\" is not what plays live; it was not taken.", path);
      }
    };
  };
  renderBlocks(disk, session, request, begin, progress);
  return largest;
}

}  // namespace

FlattenedFile renderComposite(const SessionDisk& disk, const Session& session, TrackId id,
                              const RenderProgress& progress, std::optional<Span> span) {
  PendingFile file(disk, "audio", requireTrack(session, id).name + "-flattened");
  RenderRequest request;
  request.track = id;
  request.span = span;
  request.timeStamped = true;
  request.flattens = true;
  const std::string description = std::filesystem::path(file.expectedName()).stem().string();
  constexpr double written = 0.6;  // of the work; the rest is reading it back
  const Rendered rendered = renderTo(file.take(), description, disk, session, request,
                                     [&](double done) { return !progress || progress(written * done); });
  FlattenedFile flattened{{file.keep(), rendered.channels, rendered.span.length()}, rendered.span.start, 0.0};
  try {
    request.span = rendered.span;
    flattened.difference = compareWithLive(disk, session, request, flattened.file.path, [&](double done) {
      return !progress || progress(written + (1.0 - written) * done);
    });
  } catch (...) {
    disk.remove(flattened.file.path);
    throw;
  }
  return flattened;
}

Sentence verifiedSentence(const FlattenedFile& file) {
  if (file.difference == 0.0) return Sentence("Read back, it is what plays live, bit for bit.");
  return Sentence("Read back, it differs from what plays live by %1 dB of full scale at most: rounding.",
                  Decimal{20.0 * std::log10(file.difference), 1});
}

}  // namespace yewdrift
