// SPDX-License-Identifier: GPL-3.0-or-later
//
// The control thread's and the reader's half of the engine.
#include <algorithm>
#include <chrono>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double aheadSeconds = 2.0;
constexpr double alternativeSeconds = 0.75;
constexpr std::chrono::milliseconds alternativesTurn{10};
constexpr std::uint64_t turnsKept = 200;  // about two seconds of turns: going back a little needs no reading

}  // namespace

Engine::Engine(SampleRate rate, int largestBlock, Service service)
    : rate_(rate),
      largestBlock_(std::max(largestBlock, swapFrames)),
      mode_(service),
      queues_(std::make_unique<Queues>()),
      writer_(service == Service::Background ? DiskWriter::Threads::Own : DiskWriter::Threads::None),
      renderer_(largestBlock_),
      click_(rate),
      tone_(rate) {
  for (auto* buffer :
       {&left_, &right_, &oldLeft_, &oldRight_, &gatedLeft_, &gatedRight_, &gateGain_, &levels_})
    buffer->assign(static_cast<std::size_t>(largestBlock_), 0.0F);
  if (mode_ == Service::ByHand) return;
  reading_ = true;
  reader_ = std::thread([this] { readLoop(); });
}

Engine::~Engine() {
  reading_ = false;
  if (reader_.joinable()) reader_.join();
}

void Engine::setPlan(const std::filesystem::path& sessionPath, std::shared_ptr<const PlaybackPlan> plan,
                     const Track* inHand) {
  const std::lock_guard guard(mutex_);
  std::vector<std::shared_ptr<CachedFile>> files;
  for (const PoolFile& file : plan->files) {
    auto& cached = cache_[file.path];
    // A file that was still growing when it was opened is opened anew.
    if (!cached || cached->describedLength() != file.length)
      cached = std::make_shared<CachedFile>(sessionPath / file.path, file, openReaders_);
    files.push_back(cached);
  }
  auto prepared = std::make_shared<PreparedPlan>(
      PreparedPlan{std::move(plan), CachedFiles(std::move(files)), {}, false, ++tickets_});
  for (const MonitorPlan& monitor : prepared->plan->monitors)
    prepared->anyGated = prepared->anyGated || monitor.gated;
  if (inHand)
    for (const auto& lane : inHand->lanes)
      prepared->alternatives.insert(prepared->alternatives.end(), lane->clips.begin(), lane->clips.end());
  plans_.push_back(prepared);
  // One that nobody has taken yet, as there is no device or it was quick work, is not wanted any more.
  if (const PreparedPlan* untaken = queues_->plan.exchange(prepared.get(), std::memory_order_acq_rel))
    std::erase_if(plans_, [untaken](const auto& each) { return each.get() == untaken; });
}

void Engine::order(const Order& item) {
  // A thousand orders and nobody who takes them.
  if (!queues_->orders.push(item))
    throw Error("The audio device does not answer; choose it again, or another one.");
}

void Engine::start(RecordSetup setup, std::shared_ptr<CaptureStream> capture) {
  if (capture) writer_.add(capture);
  const std::lock_guard guard(mutex_);
  auto roll = std::make_shared<Roll>(Roll{std::move(setup), std::move(capture), ++tickets_});
  rolls_.push_back(roll);
  order({Order::Kind::Start, nullptr, roll.get()});
}

void Engine::play(const RollTimeline& timeline) {
  RecordSetup setup;
  setup.timeline = timeline;
  start(std::move(setup), nullptr);
}

void Engine::record(const RecordSetup& setup, std::shared_ptr<CaptureStream> capture) {
  if (capturing_.load(std::memory_order_acquire) && !standby_.load())
    throw Error("A recording is under way already.");
  start(setup, std::move(capture));
}

void Engine::punch() {
  order({Order::Kind::Punch});
}

void Engine::stop() {
  order({Order::Kind::Stop});
}

void Engine::setStandby(std::shared_ptr<StandbyTape> tape) {
  const std::lock_guard guard(mutex_);
  StandbyTape* const next = tape.get();
  if (tape) {
    writer_.add(tape);
    tapes_.push_back(std::move(tape));
  }
  order({Order::Kind::Standby, nullptr, nullptr, next});
}

void Engine::startProbe(std::shared_ptr<LoopBackProbe> probe) {
  const std::lock_guard guard(mutex_);
  probes_.push_back(std::move(probe));
  order({Order::Kind::Probe, nullptr, nullptr, nullptr, probes_.back().get()});
}

std::vector<EngineEvent> Engine::takeEvents() {
  std::vector<EngineEvent> events;
  EngineEvent event;
  while (queues_->events.pop(event)) events.push_back(event);
  return events;
}

void Engine::locate(Frames position) {
  if (state().rolling) {
    if (capturing_.load(std::memory_order_acquire)) return;  // a recording is never torn
    play(RollTimeline{position, std::nullopt, 0, std::nullopt, {}});
    return;
  }
  position_.store(position.count);
}

EngineState Engine::state() const {
  EngineState state;
  state.rolling = rolling_.load(std::memory_order_relaxed);
  state.capturing = capturing_.load(std::memory_order_acquire);
  state.recording = gateOpen_.load(std::memory_order_relaxed);
  state.countIn = {countInLeft_.load(std::memory_order_relaxed)};
  state.position = {position_.load(std::memory_order_relaxed)};
  state.rollFrame = {rollFrameNow_.load(std::memory_order_relaxed)};
  state.round = round_.load(std::memory_order_relaxed);
  state.underruns = underruns_.load(std::memory_order_relaxed);
  state.dropouts = dropouts_.load(std::memory_order_relaxed);
  state.load = load_.load(std::memory_order_relaxed);
  return state;
}

float Engine::takeInputPeak(int input) {
  return input >= 0 && static_cast<std::size_t>(input) < mostMeters
             ? inputPeaks_[static_cast<std::size_t>(input)].exchange(0.0F)
             : 0.0F;
}

float Engine::takeTrackPeak(int track) {
  return track >= 0 && static_cast<std::size_t>(track) < mostMeters
             ? trackPeaks_[static_cast<std::size_t>(track)].exchange(0.0F)
             : 0.0F;
}

float Engine::takeOutputPeak(int side) {
  return outputPeaks_[static_cast<std::size_t>(side & 1)].exchange(0.0F);
}

void Engine::readLoop() {
  while (reading_) {
    freeReturned();
    readAhead();
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
}

void Engine::service() {
  freeReturned();
  readAhead();
  if (mode_ == Service::ByHand) writer_.work();
}

void Engine::settle() {
  std::uint64_t wanted = 0;
  {
    const std::lock_guard guard(mutex_);
    wanted = tickets_;
  }
  while (!ready(wanted)) {
    if (mode_ == Service::ByHand)
      service();
    else
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
}

void Engine::freeReturned() {
  const std::lock_guard guard(mutex_);
  Order item;
  while (queues_->returned.pop(item)) {
    std::erase_if(plans_, [&](const auto& plan) { return plan.get() == item.plan; });
    std::erase_if(rolls_, [&](const auto& roll) { return roll.get() == item.roll; });
    if (item.tape) writer_.remove(item.tape);
    std::erase_if(tapes_, [&](const auto& tape) { return tape.get() == item.tape; });
    std::erase_if(probes_, [&](const auto& probe) { return probe.get() == item.probe; });
  }
}

void Engine::readAhead() {
  ++turn_;
  Ahead ahead;
  {
    const std::lock_guard guard(mutex_);
    ahead = {plans_, rolls_, tickets_};
  }
  for (const Span span : spansAhead(ahead, framesFromSeconds(aheadSeconds, rate_)))
    for (const auto& plan : ahead.plans) readHeard(*plan, span);
  readTicket_.store(ahead.ticket, std::memory_order_release);
  // Takes that could be chosen come after what is heard, and never keep that waiting for long.
  alternativesUntil_ = mode_ == Service::ByHand ? std::chrono::steady_clock::time_point::max()
                                                : std::chrono::steady_clock::now() + alternativesTurn;
  for (const Span span : spansAhead(ahead, framesFromSeconds(alternativeSeconds, rate_)))
    for (const auto& plan : ahead.plans) readAlternatives(*plan, span);
  evict();
}

void Engine::evict() {
  // Pages taken out may still be read by the block being made; they go one round later.
  const std::uint64_t epoch = audioEpoch_.load();
  if (epoch != evictedAt_ || epoch % 2 == 0) evicted_.clear();
  if (!evicted_.empty() || turn_ <= turnsKept || turn_ % 20 != 0) return;
  const std::lock_guard guard(mutex_);
  for (auto& [name, file] : cache_) file->evictBefore(turn_ - turnsKept, evicted_);
  evictedAt_ = audioEpoch_.load();
  if (evictedAt_ % 2 == 0) evicted_.clear();
  std::erase_if(cache_, [](const auto& entry) { return entry.second.use_count() == 1; });
}

std::vector<Span> Engine::spansAhead(const Ahead& ahead, Frames length) const {
  const Frames position{position_.load(std::memory_order_relaxed)};
  std::vector<Span> spans{{position, position + length}};
  const auto add = [&](Frames from, const RollTimeline& timeline) {
    Span next{from, from + length};
    if (const auto& loop = timeline.loop) {
      if (next.start < loop->end)
        next.end = std::min(next.end, loop->end + (timeline.passes > 0 ? length : Frames{}));
      spans.push_back({loop->start, std::min(loop->end, loop->start + length)});
    }
    spans.push_back(next);
  };
  for (const auto& roll : ahead.rolls) {
    add(roll->setup.timeline.start, roll->setup.timeline);
    add(position, roll->setup.timeline);
  }
  return spans;
}

void Engine::readHeard(const PreparedPlan& prepared, Span span) {
  for (const auto& track : prepared.plan->tracks) {
    const auto first = static_cast<std::size_t>(
        std::upper_bound(track->latestEnd.begin(), track->latestEnd.end(), span.start) -
        track->latestEnd.begin());
    for (std::size_t i = first; i < track->segments.size() && track->segments[i].span.start < span.end; ++i) {
      const Segment& segment = track->segments[i];
      const Span part = segment.span.intersect(span);
      if (part.empty()) continue;
      for (const ChannelSource& source : segment.channels)
        prepared.files.file(source.file).want(part.start - segment.origin, part.end - segment.origin, turn_);
    }
  }
}

void Engine::readAlternatives(const PreparedPlan& prepared, Span span) {
  for (const Clip& clip : prepared.alternatives) {
    const Span part = clip.window.intersect(span);
    if (part.empty()) continue;
    // What is there stays, whoever has the disk.
    const bool mayRead = std::chrono::steady_clock::now() < alternativesUntil_;
    for (const ChannelSource& source : clip.channels) {
      CachedFile& file = prepared.files.file(source.file);
      if (mayRead)
        file.want(part.start - clip.origin, part.end - clip.origin, turn_);
      else
        file.keep(part.start - clip.origin, part.end - clip.origin, turn_);
    }
  }
}

}  // namespace yewdrift
