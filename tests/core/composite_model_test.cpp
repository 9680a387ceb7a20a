// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a composite sounds like, against a model that asks for every frame anew: what plays there, which joins
// and cuts reach it, and how loud each take is.
#include "core/core_tests.h"

namespace {

constexpr std::int64_t length = 24000;
constexpr std::int64_t edgeFade = 240;  // 5 ms

/// Files that were never written.
struct Memory : SampleSource, CorrelationMeter {
  bool read(int file, int, Frames at, int count, float* out) noexcept override {
    for (int i = 0; i < count; ++i) out[i] = sample(file, at.count + i);
    return true;
  }
  [[nodiscard]] float sample(int file, std::int64_t at) const {
    const Samples& signal = files[static_cast<std::size_t>(file)];
    return at >= 0 && at < std::ssize(signal) ? signal[static_cast<std::size_t>(at)] : 0.0F;
  }
  float correlation(const std::vector<ChannelSource>& a, Frames aOrigin, const std::vector<ChannelSource>& b,
                    Frames bOrigin, Span over) override {
    double aa = 0.0;
    double bb = 0.0;
    double ab = 0.0;
    for (std::int64_t f = over.start.count; f < over.end.count; ++f) {
      const double left = sample(a[0].file, f - aOrigin.count);
      const double right = sample(b[0].file, f - bOrigin.count);
      aa += left * left;
      bb += right * right;
      ab += left * right;
    }
    return aa > 0.0 && bb > 0.0 ? static_cast<float>(ab / std::sqrt(aa * bb)) : 0.0F;
  }
  std::vector<Samples> files;
};

/// A stretch in which the same plays: nothing (a gap), silence that was picked, or takes.
struct Stretch {
  std::int64_t from = 0;
  std::int64_t to = 0;
  bool gap = false;
  std::vector<int> lanes;  // the one that was picked first, then what is laid over it
  std::int64_t slip = 0;
  double gain = 1.0;
  LevelLine line;
  bool split = false;  // it begins here, though the same plays before it
  [[nodiscard]] bool playsAs(const Stretch& other) const {
    return !other.split && gap == other.gap && lanes == other.lanes && slip == other.slip &&
           gain == other.gain && line == other.line;
  }
  [[nodiscard]] bool plays(int lane) const {
    return std::find(lanes.begin(), lanes.end(), lane) != lanes.end();
  }
  /// What of it does not sound on in the other.
  [[nodiscard]] std::vector<int> endingBefore(const Stretch& other) const {
    std::vector<int> ending;
    for (const int lane : lanes)
      if (slip != other.slip || gain != other.gain || line != other.line || !other.plays(lane))
        ending.push_back(lane);
    return ending;
  }
};

struct ModelFade {
  std::int64_t from = 0;
  std::int64_t to = 0;
  Curve curve = Curve::EqualGain;
  double correlation = 0.0;
  double bend = 0.0;

  /// How loud what comes in is at a frame; `out` for what goes.
  [[nodiscard]] double at(std::int64_t frame, bool out) const {
    if (frame < from) return out ? 1.0 : 0.0;
    if (frame >= to) return out ? 0.0 : 1.0;
    const double x = (static_cast<double>(frame - from) + 0.5) / static_cast<double>(to - from);
    const auto shape = [this](double y) {
      if (curve == Curve::EqualGain) return y;
      if (curve == Curve::S) return 0.5 - 0.5 * std::cos(std::numbers::pi * y);
      if (curve == Curve::Matched) {
        // Its way is that of a slope that rises over a quarter, stays, and falls over a quarter.
        if (y < 0.25)
          y = 8.0 / 3.0 * y * y;
        else if (y <= 0.75)
          y = 4.0 / 3.0 * y - 1.0 / 6.0;
        else
          y = 1.0 - 8.0 / 3.0 * (1.0 - y) * (1.0 - y);
      }
      return std::sin(y * std::numbers::pi / 2.0);
    };
    const double bent = std::pow(x, std::pow(3.0, -bend));
    const double in = shape(bent);
    const double away = shape(1.0 - bent);
    const double rho = curve == Curve::Matched ? std::clamp(correlation, -0.5, 1.0) : 0.0;
    return (out ? away : in) / std::sqrt(1.0 + 2.0 * rho * in * away);
  }
};

class Model {
 public:
  Model(const Track& track, Memory& memory) : track_(track), memory_(memory) {
    findStretches();
    findJoins();
    for (std::size_t i = 0; i < stretches_.size(); ++i)
      for (const int lane : stretches_[i].lanes) addLane(i, lane);
  }
  [[nodiscard]] double at(std::int64_t frame) const {
    double sum = 0.0;
    for (const Sounding& each : sounding_) {
      if (frame < each.from || frame >= each.to) continue;
      double gain = each.gain * factorOf(levelAt(each.lane->level, {frame - each.slip})) *
                    factorOf(levelAt(each.line, {frame}));
      if (each.in) gain *= each.in->at(frame, false);
      if (each.out) gain *= each.out->at(frame, true);
      sum += gain * memory_.sample(each.file, frame - each.origin);
    }
    sum *= factorOf(levelAt(track_.composite.level, {frame}));
    // How the whole begins and ends: an end is a beginning backwards.
    const auto sounds = [](const Stretch& stretch) { return !stretch.gap; };
    const auto first = std::find_if(stretches_.begin(), stretches_.end(), sounds);
    const auto last = std::find_if(stretches_.rbegin(), stretches_.rend(), sounds);
    if (first == stretches_.end()) return sum;
    const auto risen = [&](const EndFade& fade, std::int64_t from) {
      const std::int64_t length = std::min(fade.length.count, last->to - first->from);
      return ModelFade{0, length, fade.curve, 0.0, fade.bend}.at(from, false);
    };
    return sum * risen(track_.composite.fadeIn, frame - first->from) *
           risen(track_.composite.fadeOut, last->to - 1 - frame);
  }
  [[nodiscard]] std::size_t joins() const {
    return static_cast<std::size_t>(
        std::count_if(joins_.begin(), joins_.end(), [](const auto& j) { return j.has_value(); }));
  }

 private:
  struct Sounding {
    std::int64_t from, to, origin;
    int file;
    double gain;
    std::optional<ModelFade> in, out;
    const Lane* lane;
    std::int64_t slip;
    LevelLine line;
  };

  [[nodiscard]] Stretch playedAt(std::int64_t frame) const {
    Stretch here;
    for (const Piece& piece : track_.composite.picks) {
      if (!piece.span.contains({frame})) continue;
      here.split = piece.split && piece.span.start.count == frame;
      if (!piece.picked) break;
      if (piece.lane) here.lanes.push_back(piece.lane->value);
      for (const LaneNumber lane : piece.overdubs) here.lanes.push_back(lane.value);
      here.slip = piece.slip.count;
      here.gain = std::pow(10.0, piece.gain.value / 20.0);
      here.line = piece.level;
      return here;
    }
    here.gap = true;
    int newest = 0;
    for (const auto& lane : track_.lanes)
      for (const Clip& clip : lane->clips)
        if (!lane->setAside && clip.window.contains({frame})) newest = std::max(newest, lane->number.value);
    if (newest > 0) {
      here.gap = false;
      here.lanes = {newest};
    }
    here.split = here.split && !here.gap;
    return here;
  }
  void findStretches() {
    for (std::int64_t f = -100; f < length + 7000; ++f) {  // farther than any pick
      Stretch here = playedAt(f);
      if (!stretches_.empty() && stretches_.back().playsAs(here)) {
        stretches_.back().to = f + 1;
        continue;
      }
      here.from = f;
      here.to = f + 1;
      stretches_.push_back(here);
    }
  }
  [[nodiscard]] const Clip* clipHeard(int lane, std::int64_t frame) const {
    for (const Clip& clip : track_.lane({lane})->clips)
      if (clip.window.contains({frame})) return &clip;
    return nullptr;
  }
  void findJoins() {
    joins_.resize(stretches_.size());  // at the start of each
    struct Wanted {
      std::int64_t before, after;
      Curve curve;
      double bend;
    };
    std::vector<std::optional<Wanted>> wanted(stretches_.size());
    for (std::size_t i = 1; i < stretches_.size(); ++i) {
      const Stretch& left = stretches_[i - 1];
      const Stretch& right = stretches_[i];
      if (left.gap || right.gap) continue;
      const std::int64_t at = right.from;
      Wanted join{edgeFade, edgeFade, Curve::Matched, 0.0};
      for (const JoinSetting& set : track_.composite.joins)
        if (set.at.count == at && set.shape)
          join = {set.shape->before.count, set.shape->after.count, set.shape->curve, set.shape->bend};
      for (const int lane : left.endingBefore(right))
        if (const Clip* clip = clipHeard(lane, at - 1 - left.slip))
          join.after = std::clamp<std::int64_t>(clip->extent().end.count + left.slip - at, 0, join.after);
      for (const int lane : right.endingBefore(left))
        if (const Clip* clip = clipHeard(lane, at - right.slip))
          join.before =
              std::clamp<std::int64_t>(at - clip->extent().start.count - right.slip, 0, join.before);
      wanted[i] = join;
    }
    // No more of a stretch than there is: two joins share it as they would have had it.
    for (std::size_t i = 0; i < stretches_.size(); ++i) {
      const std::int64_t there = stretches_[i].to - stretches_[i].from;
      Wanted* first = wanted[i] ? &*wanted[i] : nullptr;
      Wanted* second = i + 1 < wanted.size() && wanted[i + 1] ? &*wanted[i + 1] : nullptr;
      if (first && second) {
        const std::int64_t both = first->after + second->before;
        if (both <= there) continue;
        first->after = there * first->after / both;
        second->before = there - first->after;
      } else if (first) {
        first->after = std::min(first->after, there);
      } else if (second) {
        second->before = std::min(second->before, there);
      }
    }
    for (std::size_t i = 1; i < stretches_.size(); ++i) {
      if (!wanted[i]) continue;
      const std::int64_t at = stretches_[i].from;
      ModelFade fade{at - wanted[i]->before, at + wanted[i]->after, wanted[i]->curve, 0.0, wanted[i]->bend};
      const auto firstClip = [&](const Stretch& stretch, const Stretch& other, std::int64_t frame) {
        const Clip* found = nullptr;
        for (const int lane : stretch.endingBefore(other))
          if (!found) found = clipHeard(lane, frame - stretch.slip);
        return found;
      };
      const Clip* a = firstClip(stretches_[i - 1], stretches_[i], at - 1);
      const Clip* b = firstClip(stretches_[i], stretches_[i - 1], at);
      if (a && b && fade.from < fade.to)
        fade.correlation =
            memory_.correlation(a->channels, a->origin + Frames{stretches_[i - 1].slip}, b->channels,
                                b->origin + Frames{stretches_[i].slip}, {{fade.from}, {fade.to}});
      joins_[i] = fade;
    }
  }
  /// What becomes of a lane at the start of stretch `i`, seen from `stretch`.
  [[nodiscard]] std::optional<ModelFade> joinAt(std::size_t i, const Stretch& stretch, const Stretch& other,
                                                int lane) const {
    const auto ending = stretch.endingBefore(other);
    const bool fades = std::find(ending.begin(), ending.end(), lane) != ending.end();
    return fades && joins_[i]->from < joins_[i]->to ? joins_[i] : std::nullopt;
  }
  /// Two clips of a lane that meet at `at`.
  static std::optional<ModelFade> meeting(const Clip& left, const Clip& right, std::int64_t at,
                                          std::int64_t slip) {
    if (left.origin == right.origin && left.channels == right.channels) return std::nullopt;
    const std::int64_t before =
        std::min({edgeFade / 2, at - slip - right.extent().start.count, left.window.length().count});
    const std::int64_t after =
        std::min({edgeFade / 2, left.extent().end.count + slip - at, right.window.length().count});
    if (before + after <= 0) return std::nullopt;
    return ModelFade{at - before, at + after, Curve::EqualPower, 0.0};
  }
  void addLane(std::size_t i, int number) {
    const Stretch& here = stretches_[i];
    const Lane& lane = *track_.lane({number});
    const auto& clips = lane.clips;
    for (std::size_t c = 0; c < clips.size(); ++c) {
      const Clip& clip = clips[c];
      const std::int64_t extentFrom = clip.extent().start.count + here.slip;
      const std::int64_t extentTo = clip.extent().end.count + here.slip;
      Sounding sounding{std::max(here.from, clip.window.start.count + here.slip),
                        std::min(here.to, clip.window.end.count + here.slip),
                        clip.origin.count + here.slip,
                        clip.channels[0].file,
                        here.gain * std::pow(10.0, lane.gain.value / 20.0),
                        {},
                        {},
                        &lane,
                        here.slip,
                        here.line};
      if (sounding.from >= sounding.to) continue;
      const bool outermostLeft = i == 0 || (stretches_[i - 1].gap && i == 1);
      const bool outermostRight =
          i + 1 == stretches_.size() || (stretches_[i + 1].gap && i + 2 == stretches_.size());
      const bool gapLeft = !outermostLeft && stretches_[i - 1].gap;
      const bool gapRight = !outermostRight && stretches_[i + 1].gap;
      if (sounding.from > here.from || gapLeft) {
        const std::int64_t at = sounding.from;
        if (c > 0 && clips[c - 1].window.end.count + here.slip == at) {
          sounding.in = meeting(clips[c - 1], clip, at, here.slip);
        } else if (const std::int64_t material = std::min(edgeFade, at - extentFrom); material > 0) {
          const std::int64_t room = gapLeft ? stretches_[i - 1].from : here.from;
          const std::int64_t from = at - std::min(material, at - room);
          sounding.in = ModelFade{from, from + material, Curve::EqualGain, 0.0};
        }
      } else if (!outermostLeft) {
        sounding.in = joinAt(i, here, stretches_[i - 1], number);
      }
      if (sounding.to < here.to || gapRight) {
        const std::int64_t at = sounding.to;
        if (c + 1 < clips.size() && clips[c + 1].window.start.count + here.slip == at) {
          sounding.out = meeting(clip, clips[c + 1], at, here.slip);
        } else if (const std::int64_t material = std::min(edgeFade, extentTo - at); material > 0) {
          const std::int64_t room = gapRight ? stretches_[i + 1].to : here.to;
          const std::int64_t to = at + std::min(material, room - at);
          sounding.out = ModelFade{to - material, to, Curve::EqualGain, 0.0};
        }
      } else if (!outermostRight) {
        sounding.out = joinAt(i + 1, here, stretches_[i + 1], number);
      }
      if (sounding.in) sounding.from = std::max(extentFrom, std::min(sounding.from, sounding.in->from));
      if (sounding.out) sounding.to = std::min(extentTo, std::max(sounding.to, sounding.out->to));
      sounding_.push_back(sounding);
    }
  }

  const Track& track_;
  Memory& memory_;
  std::vector<Stretch> stretches_;
  std::vector<std::optional<ModelFade>> joins_;
  std::vector<Sounding> sounding_;
};

}  // namespace

TEST_CASE(
    "Whatever was recorded, picked, slipped and joined, a composite is what the plain model makes of it") {
  std::mt19937 random(20261126);
  const auto number = [&random](std::int64_t low, std::int64_t high) {
    return std::uniform_int_distribution<std::int64_t>(low, high)(random);
  };
  std::size_t joins = 0;
  for (int trial = 0; trial < 200; ++trial) {
    INFO("trial " << trial);
    // On a coarse grid edges, fades and ends of takes meet all the time.
    const std::int64_t grid = trial % 2 == 0 ? 1 : edgeFade;
    const auto place = [&](std::int64_t low, std::int64_t high) {
      return grid * number((low + grid - 1) / grid, high / grid);
    };
    const auto line = [&] {
      LevelLine made;
      for (std::int64_t i = number(1, 3); i > 0; --i)
        made = withPoint(std::move(made), {{place(0, length)}, {static_cast<double>(number(-12, 3))}});
      return made;
    };
    Memory memory;
    Session session = addTrack(Session{}, "Viola", microphonesFor(1));
    const TrackId id = session.tracks.front()->id;
    const auto lanes = static_cast<int>(number(1, 4));
    for (int lane = 0; lane < lanes; ++lane) {
      std::vector<Clip> clips;
      std::int64_t at = place(0, 3000);
      const auto count = number(1, 3);
      for (std::int64_t c = 0; c < count && at < length - 2000; ++c) {
        const std::int64_t window = place(100, 9000);
        const std::int64_t before = number(0, 2) == 0 ? place(0, 300) : place(0, 3000);
        const std::int64_t behind = number(0, 2) == 0 ? place(0, 300) : place(0, 3000);
        const std::int64_t end = std::min(length, at + window);
        // Now and then a recording goes on in the next clip.
        if (!clips.empty() && number(0, 3) == 0 && clips.back().extent().end > Frames{at + 50}) {
          Clip more = clips.back();
          more.window = {{at}, {std::min(end, more.extent().end.count)}};
          clips.push_back(more);
          at = more.window.end.count + (number(0, 1) == 0 ? 0 : place(1, 2000));
          continue;
        }
        const std::int64_t all = before + (end - at) + behind;
        memory.files.push_back(
            noise(static_cast<std::size_t>(all), static_cast<unsigned>(trial * 100 + lane * 10 + c), 0.3F));
        session = addPoolFile(std::move(session),
                              {"audio/" + std::to_string(memory.files.size()) + ".wav", 1, {all}});
        clips.push_back(
            {{at - before}, {all}, {{at}, {end}}, {{static_cast<int>(memory.files.size()) - 1, 0}}});
        at = end + (number(0, 2) == 0 ? 0 : place(1, 2000));
      }
      session = addLane(std::move(session), id, clips);
      if (number(0, 2) == 0)
        session.tracks.front().edit().lanes.back().edit().gain = {static_cast<double>(number(-6, 0))};
      if (number(0, 3) == 0) session = setLevel(std::move(session), id, LaneNumber{lane + 1}, line());
      if (number(0, 5) == 0) session = setLaneAside(std::move(session), id, {lane + 1}, true);
    }
    for (std::int64_t edits = number(0, 6); edits > 0; --edits) {
      const std::int64_t from = place(0, length - 200);
      const Span span{{from}, {from + (number(0, 3) == 0 ? place(1, 400) : place(200, 6000))}};
      const LaneNumber lane{static_cast<int>(number(1, lanes))};
      const auto lenient = [](Session now, const auto& edit) {
        try {
          return edit(now);
        } catch (const Error&) {
          return now;  // nothing there
        }
      };
      switch (number(0, 6)) {
        case 6:
          session =
              lenient(std::move(session), [&](const Session& s) { return splitPiece(s, id, span.start); });
          break;
        case 0:
          session = pick(std::move(session), id, span, std::nullopt);
          break;
        case 1:
          session = overdub(std::move(session), id, span, lane);
          break;
        default:
          session = lenient(std::move(session), [&](const Session& s) { return pick(s, id, span, lane); });
      }
    }
    if (number(0, 2) == 0) session = setLevel(std::move(session), id, std::nullopt, line());
    for (const CompositeEnd end : {CompositeEnd::Start, CompositeEnd::End})
      if (number(0, 2) == 0)
        session = setEndFade(std::move(session), id, end,
                             {{place(0, 2000)},
                              static_cast<Curve>(number(0, 2)),
                              static_cast<double>(number(-10, 10)) / 10.0});
    // Pieces of their own slip, gain and line.
    Track& track = session.tracks.front().edit();
    std::vector<Piece> picks(track.composite.picks.begin(), track.composite.picks.end());
    for (Piece& piece : picks) {
      if (!piece.picked) continue;
      if (number(0, 3) == 0) piece.slip = {place(0, 600) - place(0, 300)};
      if (number(0, 3) == 0) piece.gain = {-6.0};
      if (number(0, 4) == 0) piece.level = line();
    }
    track.composite.picks = SharedSequence<Piece>(picks);
    for (const Join& join : resolve(track, session.rate).joins) {
      if (number(0, 1) == 0) continue;
      const JoinShape shape{{number(0, 3) == 0 ? 0 : place(0, 700)},
                            {number(0, 3) == 0 ? 0 : place(0, 700)},
                            static_cast<Curve>(number(0, 3)),
                            number(0, 1) == 0 ? 0.0 : static_cast<double>(number(-10, 10)) / 10.0};
      try {
        session = setJoin(session, id, join.at, shape);
      } catch (const Error&) {
      }
    }
    checkInvariants(session);

    const TrackPlan plan = compileTrack(session, *session.tracks.front(), memory);
    Model model(*session.tracks.front(), memory);
    joins += model.joins();
    Renderer renderer(4096);
    for (std::int64_t at = -100; at < length + 100;) {
      const auto count = static_cast<int>(std::min<std::int64_t>(number(1, 4096), length + 100 - at));
      Samples out(static_cast<std::size_t>(count), 9.0F);
      float* pointer = out.data();
      REQUIRE(renderer.renderTrack(plan, {at}, count, memory, &pointer));
      for (int i = 0; i < count; ++i)
        if (const double expected = model.at(at + i);
            std::abs(out[static_cast<std::size_t>(i)] - expected) > 2e-6) {
          INFO("frame " << at + i);
          REQUIRE(out[static_cast<std::size_t>(i)] == Approx(expected).margin(2e-6));
        }
      at += count;
    }
  }
  CHECK(joins > 500);
}
