// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/joins/join_finder.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <mutex>
#include <thread>

#include "core/edit/edit.h"
#include "core/edit/edit_pieces.h"
#include "core/error.h"
#include "core/joins/join_sides.h"
#include "core/signal/correlation.h"
#include "core/signal/pitch_track.h"

namespace yewdrift {
namespace {

constexpr std::size_t marginSteps = 16;  // 40 ms beyond the farthest fade
constexpr double farthestSeconds = 5.0;  // from a boundary: of longer crossfades only that much is judged
constexpr double surroundings = 1.0;     // seconds either way, by which a place is loud or at rest
constexpr double farthestSlip = 0.05;    // seconds
constexpr float plainOnset = 0.15F;      // strength
constexpr double slipPenalty = 0.05;     // what slipping costs: it is the player's timing
constexpr double leastGain = 0.01;       // of cost: what gains less,
constexpr double leastShare = 0.05;      // or less of it, is left as it is: no measure is that exact
constexpr double leastThere = 1e-4;      // unless only the curve changes
constexpr double clean = 0.15;           // of cost: a join that costs less is heard by hardly anybody
constexpr int mostSearches = 4;          // from one better place to the next

std::vector<JoinSides> sidesOf(const SideSamples& outgoing, const SideSamples& incoming, std::size_t from,
                               std::size_t count) {
  std::vector<JoinSides> sides;
  for (std::size_t channel = 0; channel < outgoing.size(); ++channel)
    sides.push_back({std::span(outgoing[channel]).subspan(from, count),
                     std::span(incoming[channel]).subspan(from, count)});
  return sides;
}

std::size_t stepCount(const JoinScene& scene, double step) {
  return static_cast<std::size_t>(std::clamp(step, 0.0, static_cast<double>(scene.steps())));
}

/// The steps a crossfade of the session covers; at least one.
FadeSteps stepsOf(const JoinScene& scene, Frames at, const JoinShape& shape) {
  const double from = scene.stepOf(at - shape.before);
  const double to = scene.stepOf(at + shape.after);
  FadeSteps fade;
  fade.from = stepCount(scene, std::round(from));
  fade.length = std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(std::max(0.0, to - from))));
  if (fade.from + fade.length > scene.steps()) fade.length = scene.steps() - fade.from;
  fade.curve = shape.curve;
  fade.bend = shape.bend;
  return fade;
}

JoinReach reachOf(const Session& session, const Track& track, const JoinView& view, const JoinWish& wish) {
  const JoinScene& scene = *view.scene;
  const Frames at = view.join.at;
  // To the middle of either piece, so that joins can be found side by side.
  const auto middle = [](const Piece& piece) {
    return piece.span.start + Frames{piece.span.length().count / 2};
  };
  const Frames farthest = maximumPosition;
  const Span room{view.left.span.empty() ? -farthest : middle(view.left),
                  view.right.span.empty() ? farthest : middle(view.right)};
  const Span all{scene.start, scene.at(static_cast<double>(scene.steps()))};
  const Span outgoing = materialAround(track, view.left, at - Frames{1}, all);
  const Span incoming = materialAround(track, view.right, at, all);
  JoinReach reach;
  reach.at = scene.stepOf(at);
  const auto up = [&](Frames f) { return stepCount(scene, std::ceil(scene.stepOf(f))); };
  const auto down = [&](Frames f) { return stepCount(scene, std::floor(scene.stepOf(f))); };
  reach.first = up(std::max({all.start, room.start, incoming.start}));
  reach.last = down(std::min({all.end, room.end, outgoing.end}));
  reach.firstCentre = up(reachableBoundary(session, track.id, at, std::max(at - wish.within, room.start)));
  reach.lastCentre = down(reachableBoundary(session, track.id, at, std::min(at + wish.within, room.end)));
  return reach;
}

std::vector<float> addedUp(const SideSamples& channels) {
  std::vector<float> sum = channels.front();
  for (std::size_t channel = 1; channel < channels.size(); ++channel)
    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += channels[channel][i];
  return sum;
}

JoinMeasure measureOf(const SideSamples& outgoing, const SideSamples& incoming, Span heard, const Join& join,
                      SampleRate rate) {
  const Frames least = framesFromSeconds(0.005, rate);
  const Span judged =
      Span{join.at - std::max(join.shape.before, least), join.at + std::max(join.shape.after, least)}
          .intersect(heard);
  const auto from = static_cast<std::size_t>((judged.start - heard.start).count);
  const auto count = static_cast<std::size_t>(judged.length().count);
  const auto out = addedUp(outgoing);
  const auto in = addedUp(incoming);
  return measureJoin(std::span(out).subspan(from, count), std::span(in).subspan(from, count),
                     static_cast<std::size_t>((join.at - judged.start).count));
}

double levelAround(const MicrophoneScene& scene, const SceneSide& side, double centre) {
  double sum = 0.0;
  int count = 0;
  const auto from = static_cast<std::size_t>(std::max(0.0, centre - 4.0));
  for (std::size_t k = from; k < std::min(scene.unlikeness.size(), from + 8); ++k, ++count)
    sum += side.square[k];
  return 10.0 * std::log10(std::max(sum / std::max(count, 1), 1e-12));
}

/// What there is at a fade that makes it good.
struct Circumstances {
  double outgoing = -120.0;  // dB of full scale, through the loudest microphone
  double incoming = -120.0;
  bool rests = true;  // both takes, through every microphone
  double correlation = 0.0;
  std::optional<double> attackIn;  // milliseconds from the fade's end to the next attack of the incoming take
  std::optional<double> attackAt;  // the step of it
};

Circumstances circumstancesOf(const JoinScene& scene, const FadeSteps& fade) {
  Circumstances found;
  for (const MicrophoneScene& microphone : scene.microphones) {
    const double out = levelAround(microphone, microphone.outgoing, fade.centre());
    const double in = levelAround(microphone, microphone.incoming, fade.centre());
    found.outgoing = std::max(found.outgoing, out);
    found.incoming = std::max(found.incoming, in);
    const double loud = 10.0 * std::log10(std::max<double>(microphone.reference, 1e-12));
    if (std::max(out, in) > std::max(loud - 30.0, -70.0)) found.rests = false;
    for (const SceneOnset& onset : microphone.incoming.onsets) {
      const double behind =
          (static_cast<double>(onset.step) - static_cast<double>(fade.from + fade.length)) * 2.5;
      if (behind < -2.5 || onset.strength < plainOnset) continue;
      if (!found.attackIn || behind < *found.attackIn) {
        found.attackIn = std::max(0.0, behind);
        found.attackAt = onset.step;
      }
    }
  }
  found.correlation = scene.correlation(fade.from, fade.from + fade.length);
  return found;
}

Sentence whyOf(const JoinScene& scene, const FadeSteps& fade, const Ruler& ruler) {
  const Circumstances here = circumstancesOf(scene, fade);
  const auto place = [&](double step) { return Sentence::verbatim(positionText(scene.at(step), ruler)); };
  const Decimal out{here.outgoing, 0};
  const Decimal in{here.incoming, 0};
  const Decimal length{static_cast<double>(fade.length) * 2.5, 1};
  if (here.rests && here.attackAt && *here.attackIn < 500.0)
    return Sentence("In the rest before %1: the takes are at %2 and %3 dB there.", place(*here.attackAt), out,
                    in);
  if (here.rests)
    return Sentence("In a rest at %1: the takes are at %2 and %3 dB there.", place(fade.centre()), out, in);
  if (here.attackAt && *here.attackIn <= 20.0)
    return Sentence("%1 ms ahead of the attack at %2, which covers it.", Decimal{*here.attackIn, 1},
                    place(*here.attackAt));
  if (here.correlation >= 0.7)
    return Sentence("In a held sound, where both takes are in phase: they agree by %1 over %2 ms.",
                    Decimal{here.correlation, 2}, length);
  return Sentence("Where the takes sound most alike, gradually over %1 ms.", length);
}

JoinShape shapeOf(const FadeSteps& fade, const JoinScene& scene) {
  const Frames length = scene.step * static_cast<std::int64_t>(fade.length);
  const Frames before{length.count / 2};
  return {before, length - before, fade.curve, fade.bend};
}

/// The fades that are plainly better than one of that cost, best first, from where the boundary is.
std::vector<FoundFade> fadesBetterThan(double cost, const JoinScene& scene, JoinJudge& judge,
                                       const JoinReach& reach, KnownGuesses& known, std::size_t most) {
  std::vector<FoundFade> better;
  for (const FoundFade& found : findFades(scene, judge, reach, known, most)) {
    // Where it is, whatever is better at all is taken: nothing moves.
    const bool there = std::abs(found.fade.centre() - reach.at) < 0.5;
    const double least = there ? leastThere : std::max(leastGain, leastShare * cost);
    if (found.total() <= cost - least) better.push_back(found);
  }
  return better;
}

/// The same in words. From the best place another one may come into reach that is better still, so the search
/// goes on from there, within the same bounds: asking once finds what asking again would.
std::vector<JoinFinding> betterThan(double cost, const JoinScene& scene, JoinJudge& judge,
                                    const JoinReach& reach, Frames slip, const Ruler& ruler,
                                    std::size_t most) {
  KnownGuesses known(scene);
  std::vector<FoundFade> fades = fadesBetterThan(cost, scene, judge, reach, known, most);
  JoinReach from = reach;
  for (int again = 0; again < mostSearches && !fades.empty(); ++again) {
    if (fades.front().cost.total() < clean) break;
    from.at = fades.front().fade.centre();
    const auto further = fadesBetterThan(fades.front().cost.total(), scene, judge, from, known, most);
    if (further.empty()) break;
    fades.insert(fades.begin(), further.begin(), further.end());
  }
  if (fades.size() > most) fades.resize(most);
  std::vector<JoinFinding> better;
  for (const FoundFade& found : fades) {
    const auto centre = static_cast<double>(found.fade.from + found.fade.length / 2);
    const bool curveOnly =
        std::abs(found.fade.centre() - reach.at) < 0.5 && found.fade.curve == Curve::EqualPower;
    better.push_back({scene.at(centre), shapeOf(found.fade, scene), slip, found.cost,
                      curveOnly ? Sentence("It stays where it is: with equal power the sound changes more "
                                           "gradually.")
                                : whyOf(scene, found.fade, ruler)});
  }
  return better;
}

}  // namespace

JoinWish defaultWish(SampleRate rate) {
  return {framesFromSeconds(0.1, rate), {}};
}

JoinFinder::JoinFinder(const SessionDisk& disk, SampleRate rate, std::shared_ptr<const FadeLeaks> leaks)
    : listener_(disk),
      leaks_(leaks ? std::move(leaks) : std::make_shared<const FadeLeaks>(rate)),
      spectra_(rate, sceneStep(rate)),
      judge_(*leaks_) {}

JoinView JoinFinder::view(const Session& session, const Track& track, const ResolvedComposite& composite,
                          const Join& join, const JoinWish& wish) {
  JoinView view;
  view.join = join;
  view.left = *composite.pieceAt(join.at - Frames{1});
  view.right = *composite.pieceAt(join.at);
  return viewOf(session, track, std::move(view), wish);
}

JoinView JoinFinder::viewOf(const Session& session, const Track& track, JoinView view, const JoinWish& wish) {
  const Join& join = view.join;
  const Frames step = sceneStep(session.rate);
  // The boundary lies on a step, and the longest fade fits in wherever it goes, the one that is there too.
  const Frames farthest = std::min(std::max({wish.within, join.shape.before, join.shape.after}),
                                   framesFromSeconds(farthestSeconds, session.rate));
  const std::int64_t reach = (farthest.count + step.count - 1) / step.count +
                             static_cast<std::int64_t>(fadeLengths.back() / 2 + marginSteps);
  const Frames start = join.at - step * reach;
  const auto count = static_cast<std::size_t>((step * (2 * reach)).count);
  const Frames around = std::max(framesFromSeconds(surroundings, session.rate), step * reach);
  const Span wide{join.at - around, join.at + around};
  const SideSamples outgoing = listener_.hear(session, track, view.left, wide);
  const SideSamples incoming = listener_.hear(session, track, view.right, wide);
  std::vector<float> references;
  for (std::size_t channel = 0; channel < outgoing.size(); ++channel)
    references.push_back(std::max(loudestSquare(outgoing[channel], session.rate),
                                  loudestSquare(incoming[channel], session.rate)));
  const auto from = static_cast<std::size_t>((start - wide.start).count);
  view.scene = std::make_shared<const JoinScene>(
      makeJoinScene(spectra_, sidesOf(outgoing, incoming, from, count), session.rate, start, references));
  view.measure = measureOf(outgoing, incoming, wide, join, session.rate);
  view.reach = reachOf(session, track, view, wish);
  view.cost = judge_.cost(*view.scene, stepsOf(*view.scene, join.at, join.shape));
  return view;
}

/// By how much the incoming take is to be slipped, to be most nearly in phase with the outgoing one around
/// `place`; 0 where that gains little.
Frames JoinFinder::slipInPhase(const Session& session, const Track& track, const JoinView& view, Frames place,
                               Frames within) {
  const Frames half = framesFromSeconds(0.02, session.rate);
  const Span span{place - half, place + half};
  const SideSamples outgoing = listener_.hear(session, track, view.left, span);
  const SideSamples incoming =
      listener_.hear(session, track, view.right, {span.start - within, span.end + within});
  const auto count = static_cast<std::size_t>(span.length().count);
  const auto correlationAt = [&](Frames slip) {
    CorrelationSums sums;
    for (std::size_t channel = 0; channel < outgoing.size(); ++channel)
      sums.add(outgoing[channel],
               std::span(incoming[channel]).subspan(static_cast<std::size_t>((within - slip).count), count));
    return sums.correlation();
  };
  Frames best;
  double most = correlationAt({}) + 0.1;
  for (Frames slip = -within; slip <= within; slip += Frames{1})
    if (const double found = correlationAt(slip); found > most) {
      most = found;
      best = slip;
    }
  return best;
}

std::vector<JoinFinding> JoinFinder::better(const Session& session, const Track& track, const JoinView& view,
                                            const JoinWish& wish, std::size_t most) {
  const Ruler ruler = session.ruler();
  const double now = view.cost.total();
  std::vector<JoinFinding> found = betterThan(now, *view.scene, judge_, view.reach, {}, ruler, most);
  if (wish.slipWithin.count <= 0 || !view.right.lane || !view.left.lane) return found;
  // In phase where it would be best to join, and where the join is.
  std::vector<Frames> slips;
  for (const Frames place : {view.join.at, found.empty() ? view.join.at : found.front().at}) {
    const Frames slip = slipInPhase(session, track, view, place, wish.slipWithin);
    if (slip.count != 0 && std::find(slips.begin(), slips.end(), slip) == slips.end()) slips.push_back(slip);
  }
  for (const Frames slip : slips) {
    JoinView slipped{view.join, nullptr, {}, {}, view.left, view.right};
    slipped.right.slip += slip;
    slipped = viewOf(session, track, std::move(slipped), wish);
    const auto other =
        betterThan(now - slipPenalty, *slipped.scene, judge_, slipped.reach, slip, ruler, most);
    found.insert(found.end(), other.begin(), other.end());
  }
  const auto total = [](const JoinFinding& one) {
    return one.cost.total() + (one.slip.count != 0 ? slipPenalty : 0.0);
  };
  std::stable_sort(found.begin(), found.end(),
                   [&](const JoinFinding& a, const JoinFinding& b) { return total(a) < total(b); });
  if (found.size() > most) found.resize(most);
  return found;
}

Session takeFinding(Session session, TrackId id, Frames at, const JoinFinding& finding) {
  if (finding.slip.count != 0) {
    PieceChange change;
    for (const Piece& piece : piecesAround(requireTrack(session, id), at))
      if (piece.span.contains(at)) change.slip = piece.slip + finding.slip;
    session = changePiece(std::move(session), id, at, change);
  }
  const Frames to = reachableBoundary(session, id, at, finding.at);
  session = moveBoundary(std::move(session), id, at, to);
  return setJoin(std::move(session), id, to, finding.shape, true);
}

double riskOf(const JoinCost& cost) {
  return 1.0 - std::exp(-1.5 * cost.total());
}

Sentence readingOf(const JoinView& view) {
  const JoinCost& cost = view.cost;
  const FadeSteps fade = stepsOf(*view.scene, view.join.at, view.join.shape);
  const Circumstances here = circumstancesOf(*view.scene, fade);
  if (cost.total() < clean) {
    if (here.rests) return Sentence("Clean: both takes rest.");
    if (here.correlation >= 0.7) return Sentence("Clean: both takes are in phase.");
    return Sentence("Clean.");
  }
  struct Part {
    double cost;
    Sentence reading;
  };
  const std::vector<Part> parts{
      {cost.doubled, Sentence("An attack is heard twice: the takes are apart there.")},
      {cost.lost, Sentence("An attack is lost: neither take's is heard.")},
      {cost.cut, Sentence("The crossfade cuts into an attack.")},
      {cost.outside, Sentence("The takes work against each other: weaker, or louder, than either.")},
      {cost.change, Sentence("The sound changes suddenly.")},
      {cost.together, Sentence("Both takes are heard at once, and differ.")},
      {cost.exposed, Sentence("Loud there, and the takes sound unlike.")},
      {cost.click, Sentence("The crossfade is so short that it may click.")},
  };
  return std::ranges::max_element(parts, {}, &Part::cost)->reading;
}

std::optional<Frames> nearestOnset(const JoinView& view) {
  std::optional<Frames> nearest;
  for (const MicrophoneScene& microphone : view.scene->microphones)
    for (const SceneSide* side : {&microphone.outgoing, &microphone.incoming})
      for (const SceneOnset& onset : side->onsets) {
        if (onset.strength < plainOnset) continue;
        const Frames away = view.scene->at(static_cast<double>(onset.step)) - view.join.at;
        if (!nearest || std::abs(away.count) < std::abs(nearest->count)) nearest = away;
      }
  return nearest;
}

std::optional<Cents> pitchDifference(const JoinView& view) {
  const JoinScene& scene = *view.scene;
  const Frames half = framesFromSeconds(0.06, scene.rate);
  const Frames middle = view.join.at - scene.start;
  const auto pitchOf = [&](const SceneSide MicrophoneScene::*side) {
    std::vector<float> sum = (scene.microphones.front().*side).samples;
    for (std::size_t i = 1; i < scene.microphones.size(); ++i)
      for (std::size_t k = 0; k < sum.size(); ++k) sum[k] += (scene.microphones[i].*side).samples[k];
    return medianOf(trackPitch(sum, scene.rate).voicedIn(middle - half, middle + half));
  };
  const double difference = pitchOf(&MicrophoneScene::incoming) - pitchOf(&MicrophoneScene::outgoing);
  if (std::isnan(difference)) return std::nullopt;
  return Cents{difference};
}

MeasuredJoin measured(const JoinView& view) {
  return {view.join,          view.measure,          riskOf(view.cost),
          nearestOnset(view), pitchDifference(view), readingOf(view)};
}

namespace {

Error cancelled() {
  return Error("The search for better joins was cancelled; nothing was changed.");
}

/// Calls `each` with every join, side by side on all cores; throws what it throws.
void forEachJoin(const SessionDisk& disk, const Session& session, const Track& track,
                 const ResolvedComposite& composite, const std::vector<Join>& joins, const JoinWish& wish,
                 const std::function<bool(double)>& progress,
                 const std::function<void(std::size_t, JoinFinder&, const JoinView&)>& each) {
  const auto leaks = std::make_shared<const FadeLeaks>(session.rate);
  std::atomic<std::size_t> next{0};
  std::atomic<std::size_t> done{0};
  std::atomic<bool> stopped{false};
  std::mutex mutex;
  std::exception_ptr failed;
  const auto work = [&](bool tells) {
    try {
      JoinFinder finder(disk, session.rate, leaks);
      for (std::size_t i = next++; i < joins.size() && !stopped; i = next++) {
        each(i, finder, finder.view(session, track, composite, joins[i], wish));
        ++done;
        if (tells && progress && !progress(static_cast<double>(done) / static_cast<double>(joins.size())))
          stopped = true;
      }
    } catch (...) {
      const std::lock_guard lock(mutex);
      failed = std::current_exception();
      stopped = true;
    }
  };
  {
    std::vector<std::jthread> helpers;
    const std::size_t threads =
        std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), joins.size());
    for (std::size_t i = 1; i < threads; ++i) helpers.emplace_back([&] { work(false); });
    work(true);
  }
  if (failed) std::rethrow_exception(failed);
  if (stopped) throw cancelled();
}

}  // namespace

std::vector<MeasuredJoin> measureJoins(const SessionDisk& disk, const Session& session, TrackId id,
                                       const std::function<bool(double)>& progress) {
  const Track& track = requireTrack(session, id);
  const ResolvedComposite composite = resolve(track, session.rate);
  std::vector<MeasuredJoin> all(composite.joins.size());
  forEachJoin(disk, session, track, composite, composite.joins, {}, progress,
              [&](std::size_t i, JoinFinder&, const JoinView& view) { all[i] = measured(view); });
  std::ranges::stable_sort(all, std::greater(), &MeasuredJoin::risk);
  return all;
}

namespace {

Improvement improveSideBySide(const SessionDisk& disk, const Session& session, const Track& track,
                              const ResolvedComposite& composite, const JoinWish& wish,
                              const std::vector<Join>& joins, const std::function<bool(double)>& progress) {
  std::vector<std::optional<ImprovedJoin>> found(joins.size());
  forEachJoin(disk, session, track, composite, joins, wish, progress,
              [&](std::size_t i, JoinFinder& finder, const JoinView& view) {
                const auto better = finder.better(session, track, view, wish, 1);
                if (!better.empty()) found[i] = ImprovedJoin{joins[i], view.cost, better.front()};
              });
  Improvement improvement{session, {}, joins.size()};
  for (const auto& one : found) {
    if (one) {
      improvement.session = takeFinding(std::move(improvement.session), track.id, one->was.at, one->now);
      improvement.joins.push_back(*one);
    }
  }
  return improvement;
}

/// What the join there costs; nothing where there is none.
double costAt(JoinFinder& finder, const Session& session, TrackId id, Frames at, const JoinWish& wish) {
  const Track& track = requireTrack(session, id);
  const ResolvedComposite composite = resolve(track, session.rate);
  const Join* const join = composite.joinAt(at);
  return join ? finder.view(session, track, composite, *join, wish).cost.total() : 0.0;
}

/// Takes what is best for a join, where that is no cost to the next one.
void takeBest(JoinFinder& finder, TrackId id, const Join& join, const JoinView& view, const JoinWish& wish,
              Improvement& improvement) {
  const Session now = improvement.session;
  const Frames next = view.right.span.end;
  for (const JoinFinding& found : finder.better(now, requireTrack(now, id), view, wish)) {
    Session taken = takeFinding(now, id, join.at, found);
    const bool nextSuffers = found.slip.count != 0 && costAt(finder, taken, id, next, wish) >
                                                          costAt(finder, now, id, next, wish) + leastGain;
    if (!nextSuffers) {
      improvement.joins.push_back({join, view.cost, found});
      improvement.session = std::move(taken);
      return;
    }
  }
}

/// One after the other: what is slipped into phase at a join is slipped at the next one too, which is judged
/// as it is then; and no join gains at the expense of the next.
Improvement improveInTurn(const SessionDisk& disk, const Session& session, TrackId id, const JoinWish& wish,
                          const std::vector<Join>& joins, const std::function<bool(double)>& progress) {
  JoinFinder finder(disk, session.rate);
  Improvement improvement{session, {}, joins.size()};
  for (std::size_t i = 0; i < joins.size(); ++i) {
    if (progress && !progress(static_cast<double>(i) / static_cast<double>(joins.size()))) throw cancelled();
    const Track& track = requireTrack(improvement.session, id);
    const ResolvedComposite composite = resolve(track, improvement.session.rate);
    if (const Join* const join = composite.joinAt(joins[i].at))
      takeBest(finder, id, joins[i], finder.view(improvement.session, track, composite, *join, wish), wish,
               improvement);
  }
  return improvement;
}

}  // namespace

Improvement improveJoins(const SessionDisk& disk, const Session& session, TrackId id, const JoinWish& wish,
                         std::optional<Frames> only, const std::function<bool(double)>& progress) {
  const Track& track = requireTrack(session, id);
  const ResolvedComposite composite = resolve(track, session.rate);
  if (wish.within > framesFromSeconds(farthestSeconds, session.rate))
    throw Error("A join is searched for no more than 5 s from where it is.");
  if (wish.slipWithin > framesFromSeconds(farthestSlip, session.rate))
    throw Error("A take is slipped by no more than 50 ms to be in phase.");
  std::vector<Join> joins;
  for (const Join& join : composite.joins)
    if (only ? join.at == *only : !join.set && !join.settled) joins.push_back(join);
  return wish.slipWithin.count > 0
             ? improveInTurn(disk, session, id, wish, joins, progress)
             : improveSideBySide(disk, session, track, composite, wish, joins, progress);
}

}  // namespace yewdrift
