// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <memory>
#include <optional>
#include <vector>

#include "app/desk/in_hand.h"
#include "app/desk/jobs.h"
#include "app/desk/messages.h"
#include "app/desk/session_desk.h"
#include "core/joins/join_finder.h"

namespace yewdrift::app {

/// What the joins of the track in hand sound like, and where they would be better; looked for in the
/// background while somebody wants to know. Interface thread.
class JoinDesk : public QObject {
  Q_OBJECT
 public:
  JoinDesk(SessionDesk& desk, InHand& inHand, Jobs& jobs, Messages& messages);
  ~JoinDesk() override;

  /// Somebody looks: of the track in hand, the join in hand first. Nothing is done twice.
  void want();
  /// Those measured, riskiest first; none where the track is another by now.
  [[nodiscard]] const std::vector<MeasuredJoin>& joins() const { return joins_; }
  [[nodiscard]] const MeasuredJoin* joinAt(Frames at) const;
  /// It is still being looked for.
  [[nodiscard]] bool looking() const { return looking_ != nullptr; }
  /// What could be made of the join in hand, best first; none while it is not known, or where it is best as
  /// it is.
  [[nodiscard]] const std::vector<JoinFinding>& findings() const;
  /// The riskiest that nobody has settled, behind the one in hand; none where all are settled.
  [[nodiscard]] std::optional<Frames> nextUnsettled() const;
  /// How many nobody has settled.
  [[nodiscard]] int unsettled() const;

  /// The join in hand becomes that finding.
  void take(std::size_t finding);
  /// The best of them; says why, or that there is none.
  void improveInHand();
  /// All joins of the track in hand that no person set or settled: a job.
  void improveAll();
  /// The join in hand was heard and is well, or is to be looked at again.
  void settle();

 signals:
  void found();

 private:
  struct Sought {
    Shared<Track> track;
    std::optional<Frames> join;
    [[nodiscard]] bool same(const Sought& other) const {
      return track.same(other.track) && join == other.join;
    }
  };
  [[nodiscard]] std::optional<Sought> sought() const;
  void begin(const Sought& sought);
  void takeImprovement(TrackId id, const Improvement& improvement);

  SessionDesk& desk_;
  InHand& inHand_;
  Jobs& jobs_;
  Messages& messages_;
  std::optional<Sought> known_;  // or being looked for
  std::vector<MeasuredJoin> joins_;
  std::vector<JoinFinding> findings_;
  std::optional<Frames> findingsOf_;
  std::optional<Frames> improvesWhenFound_;     // asked for while it was still looked for
  std::shared_ptr<std::atomic<bool>> looking_;  // to be set where it is given up
  std::shared_ptr<const FadeLeaks> leaks_;
  QThreadPool pool_;
};

}  // namespace yewdrift::app
