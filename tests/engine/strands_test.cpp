// SPDX-License-Identifier: GPL-3.0-or-later
//
// The one way to jump, against a model that keeps a weight for whatever still sounds.
#include "core/engine/strands.h"

#include "engine/engine_tests.h"

namespace {

constexpr int fadeLength = 240;  // 5 ms at 48 kHz
constexpr std::size_t frames = 24000;

/// A viola on the left with two takes, a drum on the right that is hushed where it is recorded. Silent until
/// frame 2000, where both come in at once, and from 22000 on.
struct Stage {
  Stage() {
    for (unsigned i = 0; i < 3; ++i) {
      signals[i] = noise(frames, i + 1, 0.3F);
      std::fill(signals[i].begin(), signals[i].begin() + 2000, 0.0F);
      std::fill(signals[i].begin() + 22000, signals[i].end(), 0.0F);
    }
    folder.emplace(sessionWithLanes(temporary / "s", {signals[0], signals[1]}));
    writeWave(folder->path() / "audio" / "drum.wav", {signals[2]}, 48000, SampleFormat::Float32);
    Session session = addTrack(folder->session(), "Drum", microphonesFor(1));
    viola = session.tracks[0]->id;
    drum = session.tracks[1]->id;
    session = addFileAsLane(session, drum, {"audio/drum.wav", 1, {frames}}, {}, "Take 1");
    session = setTrackMix(session, viola, {}, {-1.0});
    session = setTrackMix(session, drum, {}, {1.0});
    session = setTrackSwitch(session, drum, TrackSwitch::Arm, true);
    meter.emplace(folder->disk());
    meter->setFiles(*session.pool);
    compiler.emplace(*meter);
    for (auto* plan : {&first, &second}) {
      std::vector<std::shared_ptr<CachedFile>> files;
      for (const PoolFile& file : *session.pool) {
        files.push_back(std::make_shared<CachedFile>(folder->disk(), file));
        files.back()->want({}, {frames}, 1);
      }
      *plan = std::make_unique<PreparedPlan>(compiler->compile(session, {{}, {drum}, viola}),
                                             CachedFiles(std::move(files)), 1);
    }
    composite = *first->plan->choiceOf(viola, std::nullopt);
    take1 = *first->plan->choiceOf(viola, LaneNumber{1});
  }
  /// What is heard of a strand at `offset` frames behind its position: left and right.
  [[nodiscard]] std::pair<float, float> at(const Strand& strand, std::int64_t offset, float gate) const {
    const std::int64_t frame = strand.position.count + offset;
    if (!strand.plan || frame < 0 || frame >= static_cast<std::int64_t>(frames)) return {0.0F, 0.0F};
    const auto i = static_cast<std::size_t>(frame);
    return {signals[strand.heard == take1 ? 0 : 1][i], (1.0F - gate) * signals[2][i]};
  }
  TemporaryFolder temporary;
  std::array<Samples, 3> signals;
  std::optional<SessionFolder> folder;
  TrackId viola;
  TrackId drum;
  std::optional<FileCorrelationMeter> meter;
  std::optional<Compiler> compiler;
  std::unique_ptr<PreparedPlan> first;
  std::unique_ptr<PreparedPlan> second;
  int composite = 0;  // plays the newer take
  int take1 = 0;
};

/// What sounds, each with the weight that it had at the last break.
class Model {
 public:
  explicit Model(const Stage& stage) : stage_(stage) {}

  void follow(const Strand& next, float gate) {
    const bool goesOn = now_.plan == next.plan &&
                        (!next.plan || (now_.heard == next.heard && now_.position == next.position));
    if (goesOn) return;
    const double progress = old_.empty() ? 1.0 : static_cast<double>(done_) / fadeLength;
    const double present = atRest_ ? 1.0 : progress;
    judge_ = next.plan && (!now_.plan || now_.position != next.position);
    if (present <= 0.0) {
      now_ = next;
      return;
    }
    for (auto& each : old_) each.weight *= 1.0 - progress;
    if (old_.size() == 4)
      old_.erase(std::min_element(old_.begin(), old_.end(),
                                  [](const auto& a, const auto& b) { return a.weight < b.weight; }));
    old_.push_back({now_, gate, present});
    now_ = next;
    done_ = 0;
    atRest_ = false;
  }
  std::size_t fading() const { return old_.size(); }

  void render(int count, const Samples& gate, Samples& left, Samples& right) {
    if (judge_ && !old_.empty()) {
      judge_ = false;
      float before = 0.0F;
      float behind = 0.0F;
      for (int i = -32; i < std::min(count, fadeLength); ++i) {
        const auto [l, r] = stage_.at(now_, i, i < 0 ? 0.0F : gate[static_cast<std::size_t>(i)]);
        (i < 0 ? before : behind) = std::max({i < 0 ? before : behind, std::abs(l), std::abs(r)});
      }
      if (before <= 0.01F * behind) atRest_ = true;
    }
    for (int i = 0; i < count; ++i) {
      auto [l, r] = stage_.at(now_, i, gate[static_cast<std::size_t>(i)]);
      double sumLeft = l;
      double sumRight = r;
      if (!old_.empty()) {
        const double away = 1.0 - (done_ + 0.5) / fadeLength;
        double all = 0.0;
        for (const auto& each : old_) all += each.weight;
        for (auto& each : old_) {
          const auto [oldLeft, oldRight] = stage_.at(each.strand, 0, each.gate);
          const double takenOver = atRest_ ? 0.0 : 1.0 / all;
          sumLeft += each.weight * away * (oldLeft - takenOver * l);
          sumRight += each.weight * away * (oldRight - takenOver * r);
          each.strand.position += Frames{1};
        }
        if (++done_ == fadeLength) {
          old_.clear();
          atRest_ = false;
        }
      }
      left[static_cast<std::size_t>(i)] = static_cast<float>(sumLeft);
      right[static_cast<std::size_t>(i)] = static_cast<float>(sumRight);
    }
    now_.position += Frames{count};
  }

 private:
  struct Old {
    Strand strand;
    float gate;
    double weight;
  };
  const Stage& stage_;
  Strand now_;
  std::vector<Old> old_;
  int done_ = 0;
  bool judge_ = false;
  bool atRest_ = false;
};

}  // namespace

TEST_CASE("Whatever breaks off whatever, each fades from where it was and the rest takes its place") {
  const Stage stage;
  std::mt19937 random(5);
  const auto number = [&random](int low, int high) {
    return std::uniform_int_distribution(low, high)(random);
  };
  for (int trial = 0; trial < 200; ++trial) {
    INFO("trial " << trial);
    Strands strands({48000}, 1024);
    Model model(stage);
    CHECK(strands.fadeFrames() == fadeLength);
    Strand playing;
    float level = 0.0F;
    for (int step = 0; step < 40; ++step) {
      switch (number(0, 7)) {
        case 0:
          playing = {};
          break;
        case 1:
          playing = {stage.first.get(), stage.composite, {number(0, 23000)}};
          break;
        case 2:
          playing = {stage.second.get(), stage.take1, {number(1900, 2100)}};
          break;
        case 3:
          playing = {stage.first.get(), stage.take1, {2000}};  // what comes in there comes from rest
          break;
        case 4:
          if (playing.plan) playing.heard = playing.heard == stage.take1 ? stage.composite : stage.take1;
          break;
        case 5:
          if (playing.plan)
            playing.plan = playing.plan == stage.first.get() ? stage.second.get() : stage.first.get();
          break;
        default:
          break;  // it simply goes on
      }
      const int count = number(0, 2) == 0 ? number(1, 60) : number(1, 1024);
      const float target = number(0, 1) == 0 ? 0.0F : 1.0F;
      Samples gate(static_cast<std::size_t>(count));
      const float before = level;
      for (float& each : gate) each = level += std::clamp(target - level, -0.01F, 0.01F);
      strands.follow(playing, before);
      model.follow(playing, before);
      REQUIRE(strands.crowded() == (model.fading() == 4));
      REQUIRE(strands.holds(playing.plan));
      Samples left(gate.size(), 9.0F);
      Samples right(gate.size(), 9.0F);
      Samples expectedLeft(gate.size());
      Samples expectedRight(gate.size());
      REQUIRE(strands.render(count, gate.data(), left.data(), right.data(), nullptr));
      model.render(count, gate, expectedLeft, expectedRight);
      for (std::size_t i = 0; i < gate.size(); ++i) {
        REQUIRE(left[i] == Approx(expectedLeft[i]).margin(2e-6));
        REQUIRE(right[i] == Approx(expectedRight[i]).margin(2e-6));
      }
      playing.position += Frames{count};
    }
  }
}
