// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the views look at and act on: the session with its history, what is heard, the transport, recording.
// The only object of the interface that knows the engine.
#pragma once

#include <QObject>
#include <QTimer>
#include <functional>
#include <memory>
#include <optional>

#include "app/desk/audio_choice.h"
#include "app/desk/device_watcher.h"
#include "app/desk/peaks_store.h"
#include "app/desk/saver.h"
#include "core/device/audio_gate.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/join_close_up.h"

namespace yewdrift::app {

/// A pass that is being recorded, as far as it has come.
struct GrowingPass {
  TrackId track;
  PassWindow pass;
  LaneNumber number;  // that it will have
  const PeakPyramid* peaks = nullptr;
};

class Studio : public QObject {
  Q_OBJECT
 public:
  enum class DeviceMode { Normal, None };
  /// Opens the session; throws Error. With `None` nothing sounds and tests drive the engine.
  explicit Studio(const std::filesystem::path& sessionPath, DeviceMode mode = DeviceMode::Normal,
                  QObject* parent = nullptr);
  ~Studio() override;

  // -- the session
  [[nodiscard]] const Session& session() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] Ruler ruler() const { return session().ruler(); }
  [[nodiscard]] const std::vector<std::string>& openingNotices() const { return notices_; }
  [[nodiscard]] const std::filesystem::path& folderPath() const { return path_; }
  PeaksStore& peaks() { return peaks_; }
  /// Makes the edit's result the present. Where the edit throws, says so and changes nothing.
  using Edit = std::function<Session(const Session&)>;
  bool apply(const QString& label, const Edit& edit);
  /// For a drag: shows the result without a step in the history until finishPreview().
  void preview(const Edit& edit);
  /// The same for a boundary of the track in hand; its join stays in hand while it moves.
  void previewBoundary(Frames from, Frames to);
  void finishPreview(const QString& label);
  void cancelPreview();
  void undo();
  void redo();
  /// How this session records: remembered, and not a step of the history.
  [[nodiscard]] const RecordingOptions& options() const { return session().recording; }
  void setOptions(const RecordingOptions& options);
  bool flushToDisk() { return saver_->flush(); }

  // -- what is in hand
  [[nodiscard]] const Track* trackInHand() const { return session().track(inHand_); }
  void setTrackInHand(TrackId track);
  [[nodiscard]] std::optional<Span> selection() const { return selection_; }
  void select(std::optional<Span> span);
  [[nodiscard]] std::optional<Frames> joinInHand() const { return joinInHand_; }
  void takeJoinInHand(std::optional<Frames> at);
  /// Where a gesture lands, by the session's way to snap. `by`: the take under the pointer, whose zero
  /// crossings count.
  Frames snapped(Frames at, const Lane* by = nullptr);
  void stepSnap(int direction);
  [[nodiscard]] const ResolvedComposite& composite(const Track& track);
  /// The join in hand over `around` frames on either side of `centre` (of the join itself where there is
  /// none).
  std::optional<JoinCloseUp> joinCloseUp(Frames around, std::optional<Frames> centre);

  // -- hearing
  [[nodiscard]] std::optional<LaneNumber> heardLane() const { return heard_; }
  void hear(std::optional<LaneNumber> lane);
  void hearNeighbour(int direction);

  // -- transport
  [[nodiscard]] EngineState transport() const { return engine_->state(); }
  /// Something of this roll will be heard. While it merely stands by, everything else goes on as in playing.
  [[nodiscard]] bool recording() const { return recorder_ && (punchAsked_ || !recorder_->standsBy()); }
  [[nodiscard]] bool standingBy() const { return recorder_ && !recording(); }
  [[nodiscard]] bool looping() const { return options().loop; }
  void setLooping(bool on);
  /// Automatic punch: record in the punch spans only.
  void setAutoPunch(bool on);
  /// True where playing would record the punch spans too; a pass makes it stand down (safe review).
  [[nodiscard]] bool autoPunchStandsBy() const;
  void togglePlay();
  void stop();
  void locate(Frames at);
  void toggleRecord();
  /// While rolling with an armed track: in, or out, now.
  void punchByHand();
  /// Back from the playhead (or to the selection), play what leads up to it, record on from there.
  void backUpAndPickUp();
  /// What armed inputs heard last, while nothing was recorded, becomes a take at the playhead.
  void claim();
  [[nodiscard]] Frames claimable() const { return tape_ ? tape_->held() : Frames{}; }
  /// The lanes that the last recording left, until something else is done with them.
  [[nodiscard]] const std::vector<RecordedLane>& lastRecorded() const { return lastRecorded_; }
  void discardLastRecorded();
  void dropMarker();
  /// Loops around the join in hand until it is called again.
  void toggleHearJoin();
  [[nodiscard]] const std::vector<GrowingPass>& growing() const { return growing_; }
  /// One sentence: what pressing record would do, or why it cannot.
  [[nodiscard]] QString recordingSentence() const;
  /// The setup behind that sentence; none where nothing could be recorded.
  [[nodiscard]] std::optional<RecordSetup> plannedRecording() const;
  [[nodiscard]] std::vector<TrackId> armedTracks() const;

  /// Each file becomes a lane of the track in hand, from the playhead on, or a backing track of its own, from
  /// the start on; in the background.
  void importFiles(const QStringList& files, bool backing = false);

  // -- finishing
  void flattenInHand();

  // -- device
  [[nodiscard]] QString deviceName() const { return deviceName_; }
  /// As it was opened; null where none is open.
  [[nodiscard]] const AudioDevice* device() const { return device_.get(); }
  [[nodiscard]] const AudioChoice& audioChoice() const { return choice_; }
  /// Opens a device with the choice's settings; says so where it cannot. The simulated interface is there at
  /// once; others are opened in the background. Without a driver, the best that is there is taken.
  void openDevice(const AudioChoice& choice);
  [[nodiscard]] bool openingDevice() const { return opening_; }
  /// What runs and is plugged in on this machine.
  [[nodiscard]] DeviceWatcher& devices() { return devices_; }
  /// Why nothing comes in, where nothing has for some seconds; else empty.
  [[nodiscard]] QString nothingComesIn() const;
  /// The delay that recordings are moved back by, and where that figure comes from.
  [[nodiscard]] Frames roundTrip() const { return roundTrip_; }
  [[nodiscard]] bool roundTripMeasured() const { return roundTripMeasured_; }
  /// Plays a test signal and listens for it on that input; latencyMeasured() follows in three seconds.
  void measureLatency(int input);
  /// As if the simulated interface were pulled out, or its driver had stopped calling.
  void unplugForTest(bool freeze = false);
  Engine& engine() { return *engine_; }
  /// Loudest sample since the last tick, of an input or of all inputs of a track.
  [[nodiscard]] float inputPeak(int input) const;
  [[nodiscard]] float inputPeak(const Track& track) const;

 signals:
  void sessionChanged();
  void inHandChanged();  // track, selection, join, heard lane
  void transportChanged();
  void moved();  // position, meters, growing passes; some thirty times a second
  void said(const QString& sentence);
  void latencyMeasured(bool good, const QString& sentence);
  void progressed(const QString& what, double share);  // 1: done

 private:
  void refreshPlan();
  void persist();
  void tick();
  void startRoll();
  [[nodiscard]] RollTimeline playTimeline(Frames from) const;
  void startPlaying(Frames from);
  void beginRoll(const RecordSetup& setup);
  void startRecording();
  void finishRecording();
  void dropStandby();
  void captureArmedTracks();
  void takeEngineEvents();
  void updateGrowing();
  void followPlayBack();
  void updateStandbyTape();
  void checkProbe();
  void closeDevice();
  void openSimulated(const DeviceSettings& settings);
  void openInBackground(const DeviceSettings& settings);
  struct OpenedDevice;
  void deviceOpened(OpenedDevice opened, const QString& problem);
  void useBestDevice();
  void devicesChanged();
  void followDefaults();
  void checkDevice();
  void listenForSilence();
  void keepInHandValid();
  void useRoundTrip();
  void waitForDisk(const std::function<bool()>& done);
  void requireInputs();
  void finishClaim(const std::vector<std::pair<TrackId, std::vector<PoolFile>>>& files, Frames at,
                   Span window);
  FileSampleSource& closeUpSource();
  Frames nearestPhraseEdge(Frames at);
  Frames nearestZeroCrossing(Frames at, const Lane* by);

  std::filesystem::path path_;
  DeviceMode mode_;
  std::unique_ptr<SessionFolder> folder_;
  History history_;
  std::optional<Session> beforePreview_;
  std::vector<std::string> notices_;
  std::unique_ptr<Saver> saver_;
  PeaksStore peaks_;
  FileCorrelationMeter meter_;
  Compiler compiler_;
  std::unique_ptr<Engine> engine_;
  /// A device, with what it calls until it is taken on.
  struct OpenedDevice {
    std::unique_ptr<AudioGate> gate;
    std::unique_ptr<AudioDevice> device;  // last: it calls the gate
  };
  std::unique_ptr<AudioGate> gate_;
  std::unique_ptr<AudioDevice> device_;
  AudioChoice choice_;
  QString deviceName_;
  Frames roundTrip_;
  bool roundTripMeasured_ = false;
  bool deviceLost_ = false;
  bool deviceMissing_ = false;  // could not be opened; may come
  bool opening_ = false;
  int openings_ = 0;            // the newest counts
  bool bestTaken_ = false;      // on the first start; it is said once it is open
  bool defaultsMoved_ = false;  // to be followed once the transport stands
  bool silenceSaid_ = false;
  int silentTicks_ = 0;
  DeviceWatcher devices_;
  QThreadPool opener_;
  std::shared_ptr<StandbyTape> tape_;
  std::shared_ptr<LoopBackProbe> probe_;
  std::unique_ptr<Recorder> recorder_;
  std::vector<std::unique_ptr<Recorder>> abandoned_;  // until their streams are closed
  bool recordingLost_ = false;
  bool punchAsked_ = false;  // by hand, and the engine has not yet said where
  bool pickUpNext_ = false;  // back up and pick up, once what is being recorded has ended
  bool punchStandsBy_ = true;
  std::vector<RecordedLane> lastRecorded_;
  /// The time round that plays the one before, and whether all of that is in the plan.
  struct PlayBack {
    int round = 0;
    bool whole = false;
  } playBack_;
  std::vector<PeakPyramid> growingPeaks_;
  std::vector<GrowingPass> growing_;
  TrackId inHand_;
  std::optional<Span> selection_;
  std::optional<Frames> joinInHand_;
  std::optional<LaneNumber> heard_;
  std::optional<Span> joinLoop_;
  bool wasRolling_ = false;
  std::array<float, 128> inputPeaks_{};
  struct ResolvedTrack {
    std::optional<Shared<Track>> from;
    ResolvedComposite composite;
  };
  std::map<TrackId, ResolvedTrack> resolved_;
  std::optional<FileSampleSource> closeUpSource_;
  std::vector<PoolFile> closeUpFiles_;
  QTimer timer_;
  QThreadPool work_;
};

}  // namespace yewdrift::app
