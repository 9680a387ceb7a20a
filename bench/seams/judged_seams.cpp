// SPDX-License-Identifier: GPL-3.0-or-later
#include "seams/judged_seams.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numbers>

#include "core/edit/edit.h"
#include "core/plan/offline_render.h"
#include "core/store/audio_file.h"
#include "core/store/import_audio.h"

namespace yewdrift::bench {
namespace {

using demo::Signal;

constexpr SampleRate rate{demo::demoRate};
constexpr std::int64_t around = 12000;

Session withSignal(SessionFolder& folder, Session session, TrackId track, const Signal& signal,
                   const std::filesystem::path& file) {
  AudioWriter writer(file, 1, rate, SampleFormat::Float32);
  writer.write(signal.data(), static_cast<std::int64_t>(signal.size()));
  writer.close();
  const auto imported = importAudio(folder.disk(), {rate}, file.string());
  return addFileAsLane(std::move(session), track, imported.file, {}, file.stem().string());
}

Signal rendered(const SeamSession& made, const Session& session, const std::filesystem::path& file) {
  RenderRequest request;
  request.track = made.track;
  request.span = Span{{}, made.length};
  request.format = SampleFormat::Float32;
  renderToFile(made.folder.disk(), session, request, file);
  Signal signal(static_cast<std::size_t>(made.length.count));
  AudioReader(file).readAt({}, made.length.count, signal.data());
  return signal;
}

std::span<const float> near(const Signal& signal, Frames seam) {
  return std::span(signal).subspan(static_cast<std::size_t>(seam.count - around),
                                   static_cast<std::size_t>(2 * around));
}

double loudestAround(const SeamKind& kind, Frames seam) {
  const auto from = static_cast<std::size_t>(std::max<std::int64_t>(0, seam.count - 72000));
  double loudest = 0.0;
  for (const Signal* take : {&kind.first, &kind.second})
    for (std::size_t i = from; i + 480 < std::min(take->size(), from + 144000); i += 480) {
      double sum = 0.0;
      for (std::size_t k = i; k < i + 480; ++k) sum += static_cast<double>((*take)[k]) * (*take)[k];
      loudest = std::max(loudest, sum / 480.0);
    }
  return loudest;
}

}  // namespace

SeamSession makeSeamSession(const SeamKind& kind, const std::filesystem::path& folder) {
  const auto path = folder / kind.name;
  std::filesystem::remove_all(path);
  Session session;
  session.name = kind.name;
  session.rate = rate;
  session.format = SampleFormat::Float32;
  SessionFolder made = SessionFolder::create(path, session);
  session = addTrack(made.session(), "takes", microphonesFor(1));
  const TrackId id = session.tracks.back()->id;
  session = withSignal(made, std::move(session), id, kind.first, folder / "first.wav");
  session = withSignal(made, std::move(session), id, kind.second, folder / "second.wav");
  const Frames length{static_cast<std::int64_t>(std::min(kind.first.size(), kind.second.size()))};
  Frames from;
  for (std::size_t i = 0; i <= kind.seams.size(); ++i) {
    const Frames to = i < kind.seams.size() ? kind.seams[i] : length;
    session = pick(std::move(session), id, {from, to}, LaneNumber{i % 2 == 0 ? 1 : 2});
    from = to;
  }
  return {std::move(made), std::move(session), id, length};
}

JudgedSeams judgeSeams(const SeamKind& kind, const std::filesystem::path& folder) {
  JudgedSeams judged{makeSeamSession(kind, folder), {}, 0.0, {}};
  const SeamSession& made = judged.session;
  Session naive = made.session;
  for (const Frames seam : kind.seams)
    naive = setJoin(std::move(naive), made.track, seam, {{240}, {240}, Curve::EqualPower, 0.0});
  const auto begin = std::chrono::steady_clock::now();
  judged.improvement =
      improveJoins(made.folder.disk(), made.session, made.track, defaultWish(rate), std::nullopt);
  judged.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  const Signal careless = rendered(made, naive, folder / "heard.wav");
  const Signal careful = rendered(made, judged.improvement.session, folder / "heard.wav");
  for (std::size_t i = 0; i < kind.seams.size(); ++i) {
    const Frames seam = kind.seams[i];
    if (seam.count < around || seam.count + around > made.length.count) continue;
    JudgedSeam one;
    one.at = seam;
    one.out = near(i % 2 == 0 ? kind.first : kind.second, seam);
    one.in = near(i % 2 == 0 ? kind.second : kind.first, seam);
    one.loudest = loudestAround(kind, seam);
    std::int64_t centre = around;
    for (const ImprovedJoin& join : judged.improvement.joins)
      if (join.was.at == seam) centre = (join.now.at - seam).count + around;
    one.naive = judgeSeam(one.out, one.in, near(careless, seam), around, one.loudest);
    one.found =
        judgeSeam(one.out, one.in, near(careful, seam), static_cast<std::size_t>(centre), one.loudest);
    judged.seams.push_back(one);
  }
  return judged;
}

Signal faded(std::span<const float> out, std::span<const float> in, std::int64_t from, int length) {
  double aa = 1e-20;
  double bb = 1e-20;
  double ab = 0.0;
  for (std::int64_t i = from; i < from + length; ++i) {
    const double x = out[static_cast<std::size_t>(i)];
    const double y = in[static_cast<std::size_t>(i)];
    aa += x * x;
    bb += y * y;
    ab += x * y;
  }
  const double rho = std::clamp(ab / std::sqrt(aa * bb), -0.5, 1.0);
  Signal mixed(out.size());
  for (std::size_t i = 0; i < mixed.size(); ++i) {
    const double x =
        std::clamp((static_cast<double>(i) - static_cast<double>(from) + 0.5) / length, 0.0, 1.0);
    const double turn = 0.25 * std::numbers::pi * (1.0 - std::cos(std::numbers::pi * x));
    const double scale = 1.0 / std::sqrt(1.0 + 2.0 * rho * std::cos(turn) * std::sin(turn));
    mixed[i] = static_cast<float>(scale * (std::cos(turn) * out[i] + std::sin(turn) * in[i]));
  }
  return mixed;
}

}  // namespace yewdrift::bench
