// SPDX-License-Identifier: GPL-3.0-or-later
//
// The transport and everything that runs in time. Three threads meet here:
//   the control thread   calls the public functions below;
//   the audio thread     calls prepare() and process(); it neither allocates, locks, waits nor touches files;
//   the reader           reads ahead, what is heard first, and frees what the audio thread has let go of;
// and behind them a writer and a finisher, which bring what is captured to disk (disk_writer.h).
// Plans and rolls go to the audio thread by pointer through a single-producer single-consumer queue and come
// back the same way to be freed; what happens there comes back as events.
#pragma once

#include <array>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

#include "core/device/audio_device.h"
#include "core/edit/recorded_roll.h"
#include "core/engine/capture.h"
#include "core/engine/click.h"
#include "core/engine/disk_writer.h"
#include "core/engine/input_tape.h"
#include "core/engine/loop_back.h"
#include "core/engine/page_cache.h"
#include "core/engine/prepared_plan.h"
#include "core/engine/record_gate.h"
#include "core/engine/strands.h"
#include "core/engine/test_tone.h"
#include "core/plan/playback_plan.h"

namespace yewdrift {

struct EngineState {
  bool rolling = false;
  bool capturing = false;  // to disk; goes on up to the round trip after the roll's end
  bool recording = false;  // what is played now will be audible
  Frames position;
  Frames rollFrame;
  Frames countIn;  // left of it
  int round = 1;
  std::int64_t underruns = 0;  // blocks whose samples were not read in time
  std::int64_t dropouts = 0;   // as the device reports them
  double load = 0.0;           // of the last block: time spent over time there is
};

/// Something that happened on the audio thread, in order.
struct EngineEvent {
  enum class Kind {
    PunchIn,
    PunchOut,
    Dropout,  // before what is captured at `rollFrame`, which was played one round trip earlier
    WentOn,   // a roll that goes on from where another was began at `position`
    Relayed   // the relay of a roll that stands by captures from `rollFrame` on
  } kind = Kind::Dropout;
  Frames rollFrame;
  Frames position;
  RollNumber roll = 0;
};

/// Where a roll begins.
enum class RollFrom {
  Start,  // of its timeline
  Here    // where the transport is when it begins, if it rolls: nothing jumps; see goingOnFrom()
};

class Engine : public AudioCallback {
 public:
  /// Captured behind every recording, so that its last pass has a handle too.
  static constexpr double tailSeconds = 4.0;
  enum class Service { Background, ByHand };
  /// `ByHand`: nobody reads or writes until service() is called; for rendering faster than time.
  Engine(SampleRate rate, int largestBlock, Service service = Service::Background);
  ~Engine() override;

  // -- control thread
  /// What plays from now on; while rolling the change is faded in, without a click. What can be chosen in it
  /// is kept at hand, so that hear() is instant.
  void setPlan(const SessionDisk& disk, std::shared_ptr<const PlaybackPlan> plan);
  /// What plays from that frame of the present roll on. It is forgotten when the roll ends; at most four
  /// wait, and a later one for the same frame takes the place of the earlier.
  void setPlanAt(Frames rollFrame, const SessionDisk& disk, std::shared_ptr<const PlaybackPlan> plan);
  /// Which choice of the newest plan is heard, from the next block on: neither compiling nor disk is needed.
  /// False where it has no such choice.
  bool hear(TrackId track, std::optional<LaneNumber> lane);
  /// The same from that frame of the present roll on. Forgotten when the roll ends; at most 64 wait.
  void hearAt(Frames rollFrame, TrackId track, std::optional<LaneNumber> lane);
  RollNumber play(const RollTimeline& timeline, RollFrom from = RollFrom::Start);
  /// Rolls and captures. One recording at a time; a roll punched by hand in which nothing was punched yet
  /// gives way.
  RollNumber record(const RecordSetup& setup, std::shared_ptr<CaptureStream> capture,
                    RollFrom from = RollFrom::Start);
  /// While a roll stands by: another stream captures along, so that it can take over and the older go. An
  /// event tells from which frame on.
  RollNumber relay(const RecordSetup& setup, std::shared_ptr<CaptureStream> capture);
  /// The relay takes over, or goes.
  void relieve() { order({Order::Kind::Relieve}); }
  void dropRelay() { order({Order::Kind::DropRelay}); }
  /// What is captured behind the end of the last recording ends now.
  void endTail() { order({Order::Kind::EndTail}); }
  /// In a roll punched by hand: in, or out, at the start of the next block. An event tells where that was.
  void punch();
  void stop();
  /// Where the transport stands; while rolling it goes on from there.
  void locate(Frames position);
  [[nodiscard]] EngineState state() const;
  std::vector<EngineEvent> takeEvents();
  /// What keeps the last of the inputs, whatever rolls. Before a device calls.
  void setTape(std::shared_ptr<InputTape> tape);
  /// Plays the probe on all outputs and fills it; it is finished when it says so.
  void startProbe(std::shared_ptr<LoopBackProbe> probe);
  /// A tone of 1 kHz on both sides, faded in and out, to hear where the sound comes out.
  void setTestTone(bool on) { tone_.set(on); }
  [[nodiscard]] bool testTone() const { return tone_.on(); }
  /// Ends whatever rolls or captures, at once, and takes what was ordered since. Only while no device calls:
  /// it stands in for the audio thread.
  void deviceClosed();
  /// Loudest sample since the last call.
  float takeInputPeak(int input);
  float takeTrackPeak(int trackIndex);
  float takeOutputPeak(int side);
  /// One round of reading ahead and writing behind.
  void service();
  /// Waits, servicing by hand where need be, until the plan and start orders given so far are read ahead.
  void settle();

  // -- audio thread
  std::span<const PlayedStretch> prepare(int frames) noexcept override;
  void process(const AudioBlock& block) noexcept override;

 private:
  static constexpr std::size_t mostMeters = 128;
  static constexpr std::size_t mostPartChannels = 256;

  struct Roll {
    RecordSetup setup;  // of a roll that only plays just the timeline counts
    std::shared_ptr<CaptureStream> capture;
    RollFrom from = RollFrom::Start;
    RollNumber number = 0;
    RollTimeline ordered;  // as the reader knows it; the audio thread may let it begin elsewhere
    Frames capturesFrom;   // audio thread: frame of the roll at which the stream begins
    /// Audible from the start on: the click of recordings sounds.
    [[nodiscard]] bool records() const { return capture && !(setup.byHand && setup.handPunches.empty()); }
  };
  /// What goes to the audio thread by pointer and comes back to be freed.
  struct Order {
    enum class Kind {
      Plan,  // to play from a frame of the roll on; comes back this way too
      Hear,
      Start,
      Stop,
      Punch,
      Relay,
      Relieve,
      DropRelay,
      EndTail,
      Probe
    } kind = Kind::Stop;
    PreparedPlan* plan = nullptr;
    Roll* roll = nullptr;
    LoopBackProbe* probe = nullptr;
    Frames at{};  // frame of the present roll
    TrackId track{};
    std::optional<LaneNumber> lane{};
  };
  struct Switch {
    Frames at;
    TrackId track;
    std::optional<LaneNumber> lane{};
  };
  struct WaitingPlan {
    Frames at;
    PreparedPlan* plan = nullptr;
  };
  struct Queues;

  // control and reader
  /// What is to be read ahead, whoever changes it meanwhile.
  struct Ahead {
    std::vector<std::shared_ptr<PreparedPlan>> plans;
    std::vector<RollTimeline> timelines;
    std::uint64_t ticket = 0;
  };
  /// False where some of what could be heard soon waits for the next turn.
  [[nodiscard]] bool readAhead();
  void readHeard(const PreparedPlan& plan, Span span);
  void readAlternatives(const PreparedPlan& plan, Span span);
  [[nodiscard]] bool orderedSince(std::uint64_t ticket) const;
  void evict();
  void freeReturned();
  std::shared_ptr<PreparedPlan> addPlan(const SessionDisk& disk, std::shared_ptr<const PlaybackPlan> plan);
  RollNumber roll(Order::Kind kind, RecordSetup setup, std::shared_ptr<CaptureStream> capture, RollFrom from);
  /// Throws Error where nobody has taken orders for long.
  void order(const Order& item);
  void readLoop();
  void wakeReader();

  // audio
  void takeOrders() noexcept;
  void takeRollOrder(const Order& order) noexcept;
  bool ready(std::uint64_t ticket) const noexcept {
    return readTicket_.load(std::memory_order_acquire) >= ticket;
  }
  void adoptPlan() noexcept;
  void adoptRoll() noexcept;
  void refuseNextRoll() noexcept;
  void punchNow() noexcept;
  void relayNow(Roll* roll) noexcept;
  void relieveNow() noexcept;
  void dropRelayNow() noexcept;
  void giveBack(const Order& item) noexcept;
  void letGo(PreparedPlan* plan) noexcept;
  void report(EngineEvent::Kind kind) noexcept;
  void endRoll() noexcept;
  void tearStandby() noexcept;
  void beginTail() noexcept;
  void endTailNow() noexcept;
  void layOut(int frames) noexcept;
  void waitFor(WaitingPlan waiting) noexcept;
  void waitFor(Switch waiting) noexcept;
  void switchNow() noexcept;
  void forgetSwitches() noexcept;
  void render(const AudioBlock& block) noexcept;
  void renderStretch(const PlayedStretch& stretch) noexcept;
  void strikeClicks(const RollTimeline::Run& run, const PlayedStretch& stretch) noexcept;
  void showRoll() noexcept;
  void monitor(const AudioBlock& block) noexcept;
  void quietForProbe(int frames) noexcept;
  void probe(const AudioBlock& block) noexcept;
  void capture(const AudioBlock& block) noexcept;
  void captureTail(const AudioBlock& block, int offset) noexcept;
  void processPart(const AudioBlock& block) noexcept;
  void meterInputs(const AudioBlock& block) noexcept;
  void writeOutputs(const AudioBlock& block) noexcept;

  SampleRate rate_;
  int largestBlock_;
  Service mode_;
  std::unique_ptr<Queues> queues_;

  DiskWriter writer_;

  // shared by control and reader; the lock is never held while the disk is waited for
  mutable std::mutex mutex_;
  std::shared_ptr<OpenReaders> openReaders_ = std::make_shared<OpenReaders>(OpenReaders::sensible());
  std::map<std::string, std::shared_ptr<CachedFile>> cache_;
  std::vector<std::shared_ptr<PreparedPlan>> plans_;  // alive
  std::shared_ptr<PreparedPlan> newest_;              // what is heard of it can be chosen
  std::vector<std::shared_ptr<Roll>> rolls_;
  std::vector<std::shared_ptr<LoopBackProbe>> probes_;
  std::uint64_t tickets_ = 0;  // of plans and rolls: what is read ahead for them is counted by these

  // reader only
  static constexpr std::uint64_t turnsKept = 200;  // about two seconds: going back a little needs no reading
  std::uint64_t turn_ = turnsKept;
  std::chrono::steady_clock::time_point alternativesUntil_;  // then what is heard has its turn again
  RetiredPages evicted_;

  // shared with the audio thread
  std::atomic<std::uint64_t> readTicket_{0};
  std::atomic<std::uint64_t> audioEpoch_{0};  // odd while a block is being made
  std::atomic<bool> rolling_{false};
  std::atomic<bool> capturing_{false};
  std::atomic<bool> standby_{false};  // captures, and nothing was audible yet
  std::atomic<bool> gateOpen_{false};
  std::atomic<std::int64_t> position_{0};
  std::atomic<std::int64_t> rollFrameNow_{0};
  std::atomic<std::int64_t> countInLeft_{0};
  std::atomic<int> round_{1};
  std::atomic<std::int64_t> underruns_{0};
  std::atomic<std::int64_t> dropouts_{0};
  std::atomic<float> load_{0.0F};
  std::array<std::atomic<float>, mostMeters> inputPeaks_{};
  std::array<std::atomic<float>, mostMeters> trackPeaks_{};
  std::array<std::atomic<float>, 2> outputPeaks_{};

  // audio thread only
  Strands strands_;
  Click click_;
  TestTone tone_;
  RecordGate gate_;
  PreparedPlan* plan_ = nullptr;
  PreparedPlan* nextPlan_ = nullptr;           // waiting until it is read ahead
  std::array<WaitingPlan, 4> waitingPlans_{};  // for frames of this roll, the earliest first
  std::size_t waitingPlanCount_ = 0;
  std::array<Switch, 64> switches_{};  // the same
  std::size_t switchCount_ = 0;
  std::array<PreparedPlan*, 8> leaving_{};  // not played any more, but still fading
  Roll* roll_ = nullptr;
  Roll* nextRoll_ = nullptr;
  Roll* relay_ = nullptr;
  Roll* tail_ = nullptr;  // over, but still captured
  Frames tailLeft_;
  int nextPunches_ = 0;  // by hand, meant for the roll that waits
  std::shared_ptr<InputTape> tape_;
  LoopBackProbe* probe_ = nullptr;
  Frames rollFrame_;
  bool moving_ = false;           // roll_ plays; else it only captures its last frames
  std::optional<Frames> rolled_;  // roll frames played, once it has ended
  Frames captured_;               // since the roll began
  bool prepared_ = false;
  std::array<PlayedStretch, 8192 / 64 + 72> stretches_{};
  std::size_t stretchCount_ = 0;
  std::vector<float> left_;
  std::vector<float> right_;
  std::vector<float> gateGain_;  // of every frame of the block
  std::vector<float> levels_;    // of a track's monitoring, of every frame of the block
  float mixLevel_ = 1.0F;        // 0 while a probe is out
  std::array<float, mostMeters> trackPeaksNow_{};
  std::array<float, mostMeters> monitorLevel_{};  // of each track, 0..1
  std::thread reader_;
  std::mutex wakeMutex_;
  std::condition_variable wake_;
  bool woken_ = false;
  std::atomic<bool> reading_{false};
};

}  // namespace yewdrift
