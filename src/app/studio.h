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

#include "app/peaks_store.h"
#include "app/saver.h"
#include "core/device/audio_device.h"
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
  bool flushToDisk() { return saver_->flush(); }

  // -- what is in hand
  [[nodiscard]] const Track* trackInHand() const { return session().track(inHand_); }
  void setTrackInHand(TrackId track);
  [[nodiscard]] std::optional<Span> selection() const { return selection_; }
  void select(std::optional<Span> span);
  [[nodiscard]] std::optional<Frames> joinInHand() const { return joinInHand_; }
  void takeJoinInHand(std::optional<Frames> at);
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
  [[nodiscard]] bool recording() const { return recorder_ != nullptr; }
  [[nodiscard]] bool looping() const { return looping_; }
  void setLooping(bool on);
  void togglePlay();
  void stop();
  void locate(Frames at);
  void toggleRecord();
  /// Loops around the join in hand until it is called again.
  void toggleHearJoin();
  [[nodiscard]] const std::vector<GrowingPass>& growing() const { return growing_; }
  /// One sentence: what pressing record would do, or why it cannot.
  [[nodiscard]] QString recordingSentence() const;
  [[nodiscard]] std::vector<TrackId> armedTracks() const;

  /// Each file becomes a lane of the track in hand, from the playhead on; in the background.
  void importTakes(const QStringList& files);

  // -- finishing
  void flattenInHand();

  // -- device
  [[nodiscard]] QString deviceName() const { return deviceName_; }
  /// Opens a driver's device; "Simulated" is the simulated interface.
  void openDevice(const QString& driver, const QString& device);
  /// As if the simulated interface were pulled out.
  void unplugForTest();
  Engine& engine() { return *engine_; }
  float takeInputPeak(const Track& track);

 signals:
  void sessionChanged();
  void inHandChanged();  // track, selection, join, heard lane
  void transportChanged();
  void moved();  // position, meters, growing passes; some thirty times a second
  void said(const QString& sentence);
  void progressed(const QString& what, double share);  // 1: done

 private:
  void refreshPlan();
  void persist();
  void tick();
  void startRoll();
  RecordSetup recordSetup() const;
  void startRecording();
  void finishRecording();
  void updateGrowing();
  void closeDevice();
  void keepInHandValid();

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
  std::unique_ptr<AudioDevice> device_;
  QString deviceName_;
  Frames roundTrip_;
  std::unique_ptr<Recorder> recorder_;
  bool recordingLost_ = false;
  std::vector<PeakPyramid> growingPeaks_;
  std::vector<GrowingPass> growing_;
  TrackId inHand_;
  std::optional<Span> selection_;
  std::optional<Frames> joinInHand_;
  std::optional<LaneNumber> heard_;
  std::optional<Span> joinLoop_;
  bool looping_ = true;
  bool wasRolling_ = false;
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
