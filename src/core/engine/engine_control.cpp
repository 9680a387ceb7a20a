// SPDX-License-Identifier: GPL-3.0-or-later
//
// The control thread's and the reader's half of the engine.
#include <algorithm>
#include <chrono>

#include "core/engine/engine.h"
#include "core/engine/engine_queues.h"
#include "core/engine/read_ahead.h"
#include "core/error.h"

namespace yewdrift {
namespace {

constexpr double soonSeconds = 1.0;   // is there before a roll or a plan is taken up
constexpr double aheadSeconds = 4.0;  // then a disk may do nothing for that long
constexpr double alternativeSeconds = 0.75;
constexpr std::chrono::milliseconds alternativesTurn{10};
// While nothing rolls and all of it is read, only what nobody needs any more is to be freed.
constexpr std::chrono::milliseconds turnOfReader{5};
constexpr std::chrono::milliseconds turnAtRest{100};
constexpr std::uint64_t turnsBetweenEvictions = 20;

}  // namespace

Engine::Engine(SampleRate rate, int largestBlock, Service service)
    : rate_(rate),
      largestBlock_(std::max(largestBlock, 256)),
      mode_(service),
      queues_(std::make_unique<Queues>()),
      writer_(service == Service::Background ? DiskWriter::Threads::Own : DiskWriter::Threads::None),
      strands_(rate, largestBlock_),
      click_(rate),
      tone_(rate) {
  for (auto* buffer : {&left_, &right_, &gateGain_, &levels_})
    buffer->resize(static_cast<std::size_t>(largestBlock_));
  if (mode_ == Service::ByHand) return;
  reading_ = true;
  reader_ = std::thread([this] { readLoop(); });
}

Engine::~Engine() {
  reading_ = false;
  wakeReader();
  if (reader_.joinable()) reader_.join();
}

std::shared_ptr<PreparedPlan> Engine::addPlan(const SessionDisk& disk,
                                              std::shared_ptr<const PlaybackPlan> plan) {
  const auto cachedOf = [&](const std::vector<PoolFile>& described) {
    CachedFiles::Files files;
    for (const PoolFile& file : described) {
      auto& cached = cache_[file.path];
      // A file that was still growing when the pool took it in is described anew.
      if (!cached || cached->describedLength() != file.length)
        cached = std::make_shared<CachedFile>(disk, file, openReaders_);
      files.push_back(cached);
    }
    return files;
  };
  CachedFiles files(cachedOf(plan->files), cachedOf(plan->derived));
  plans_.push_back(std::make_shared<PreparedPlan>(std::move(plan), std::move(files), ++tickets_));
  wakeReader();
  return plans_.back();
}

void Engine::setPlan(const SessionDisk& disk, std::shared_ptr<const PlaybackPlan> plan) {
  const std::lock_guard guard(mutex_);
  newest_ = addPlan(disk, std::move(plan));
  // One that nobody has taken yet, as there is no device or it was quick work, is not wanted any more.
  if (const PreparedPlan* untaken = queues_->plan.exchange(newest_.get(), std::memory_order_acq_rel))
    std::erase_if(plans_, [untaken](const auto& each) { return each.get() == untaken; });
}

void Engine::setPlanAt(Frames rollFrame, const SessionDisk& disk, std::shared_ptr<const PlaybackPlan> plan) {
  const std::lock_guard guard(mutex_);
  Order item{Order::Kind::Plan, addPlan(disk, std::move(plan)).get()};
  item.at = rollFrame;
  order(item);
}

bool Engine::hear(TrackId track, std::optional<LaneNumber> lane) {
  const std::lock_guard guard(mutex_);
  const auto choice = newest_ ? newest_->plan->choiceOf(track, lane) : std::nullopt;
  if (choice) newest_->heard.store(*choice, std::memory_order_relaxed);
  return choice.has_value();
}

void Engine::hearAt(Frames rollFrame, TrackId track, std::optional<LaneNumber> lane) {
  Order item{Order::Kind::Hear};
  item.at = rollFrame;
  item.track = track;
  item.lane = lane;
  order(item);
}

void Engine::order(const Order& item) {
  // A thousand orders and nobody who takes them.
  if (!queues_->orders.push(item))
    throw Error("The audio device does not answer; choose it again, or another one.");
}

RollNumber Engine::roll(Order::Kind kind, RecordSetup setup, std::shared_ptr<CaptureStream> capture,
                        RollFrom from) {
  if (capture) writer_.add(capture);
  const std::lock_guard guard(mutex_);
  const RollTimeline ordered = setup.timeline;
  rolls_.push_back(
      std::make_shared<Roll>(Roll{std::move(setup), std::move(capture), from, ++tickets_, ordered, {}}));
  wakeReader();
  order({kind, nullptr, rolls_.back().get()});
  return rolls_.back()->number;
}

RollNumber Engine::play(const RollTimeline& timeline, RollFrom from) {
  RecordSetup setup;
  setup.timeline = timeline;
  return roll(Order::Kind::Start, std::move(setup), nullptr, from);
}

RollNumber Engine::record(const RecordSetup& setup, std::shared_ptr<CaptureStream> capture, RollFrom from) {
  if (capturing_.load(std::memory_order_acquire) && !standby_.load())
    throw Error("A recording is under way already.");
  return roll(Order::Kind::Start, setup, std::move(capture), from);
}

RollNumber Engine::relay(const RecordSetup& setup, std::shared_ptr<CaptureStream> capture) {
  return roll(Order::Kind::Relay, setup, std::move(capture), RollFrom::Start);
}

void Engine::punch() {
  order({Order::Kind::Punch});
}

void Engine::stop() {
  order({Order::Kind::Stop});
}

void Engine::setTape(std::shared_ptr<InputTape> tape) {
  writer_.setTape(tape);
  tape_ = std::move(tape);
}

void Engine::startProbe(std::shared_ptr<LoopBackProbe> probe) {
  const std::lock_guard guard(mutex_);
  probes_.push_back(std::move(probe));
  order({Order::Kind::Probe, nullptr, nullptr, probes_.back().get()});
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
  wakeReader();
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
    const bool all = readAhead();
    const bool atRest =
        all && !rolling_.load(std::memory_order_relaxed) && !capturing_.load(std::memory_order_relaxed);
    std::unique_lock lock(wakeMutex_);
    wake_.wait_for(lock, atRest ? turnAtRest : turnOfReader, [this] { return std::exchange(woken_, false); });
  }
}

void Engine::wakeReader() {
  const std::lock_guard guard(wakeMutex_);
  woken_ = true;
  wake_.notify_one();
}

void Engine::service() {
  freeReturned();
  (void)readAhead();
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
    std::erase_if(probes_, [&](const auto& probe) { return probe.get() == item.probe; });
  }
}

bool Engine::readAhead() {
  ++turn_;
  Ahead ahead;
  {
    const std::lock_guard guard(mutex_);
    ahead.plans = plans_;
    for (const auto& roll : rolls_) ahead.timelines.push_back(roll->ordered);
    ahead.ticket = tickets_;
  }
  const Frames playhead{position_.load(std::memory_order_relaxed)};
  for (const double seconds : {soonSeconds, aheadSeconds}) {
    for (const Span span : spansAhead(playhead, ahead.timelines, framesFromSeconds(seconds, rate_)))
      for (const auto& plan : ahead.plans) {
        if (seconds > soonSeconds && orderedSince(ahead.ticket))
          return false;  // what is heard soon comes first
        readHeard(*plan, span);
      }
    readTicket_.store(ahead.ticket, std::memory_order_release);
  }
  // Takes that could be chosen come after what is heard, and never keep that waiting for long.
  alternativesUntil_ = mode_ == Service::ByHand ? std::chrono::steady_clock::time_point::max()
                                                : std::chrono::steady_clock::now() + alternativesTurn;
  for (const Span span : spansAhead(playhead, ahead.timelines, framesFromSeconds(alternativeSeconds, rate_)))
    for (const auto& plan : ahead.plans) readAlternatives(*plan, span);
  evict();
  return std::chrono::steady_clock::now() < alternativesUntil_;
}

bool Engine::orderedSince(std::uint64_t ticket) const {
  const std::lock_guard guard(mutex_);
  return tickets_ != ticket;
}

void Engine::evict() {
  evicted_.freeUnseen(audioEpoch_.load());
  if (!evicted_.empty() || turn_ % turnsBetweenEvictions != 0) return;
  const std::lock_guard guard(mutex_);
  std::vector<std::unique_ptr<CachedFile::Retired>> out;
  for (auto& [name, file] : cache_) file->evictBefore(turn_ - turnsKept, out);
  evicted_.keep(std::move(out), audioEpoch_.load());
  std::erase_if(cache_, [](const auto& entry) { return entry.second.use_count() == 1; });
}

void Engine::readHeard(const PreparedPlan& prepared, Span span) {
  const PlaybackPlan& plan = *prepared.plan;
  const int heard = prepared.heard.load(std::memory_order_relaxed);
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    const Choice* const chosen = plan.chosen(t, heard);
    for (const FilePart& part : partsPlayed(chosen ? *chosen->plan : *plan.tracks[t], span))
      prepared.files.file(part.file).want(part.from, part.to, turn_);
  }
}

void Engine::readAlternatives(const PreparedPlan& prepared, Span span) {
  for (const Choice& choice : prepared.plan->choices)
    for (const FilePart& part : partsPlayed(*choice.plan, span)) {
      CachedFile& file = prepared.files.file(part.file);
      // What is there stays, whoever has the disk.
      if (std::chrono::steady_clock::now() < alternativesUntil_)
        file.want(part.from, part.to, turn_);
      else
        file.keep(part.from, part.to, turn_);
    }
}

}  // namespace yewdrift
