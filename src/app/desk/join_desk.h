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

/// How joins are worked on: remembered, and the same in every session.
struct JoinHabits {
  static constexpr double mostWithin = 1000.0;
  static constexpr double mostSlip = 20.0;
  static constexpr double leastAround = 0.1;
  static constexpr double mostAround = 20.0;

  double within = 100.0;  // milliseconds: how far a better place is looked for
  double slip = 0.0;      // milliseconds: how far what plays behind may be slipped to be in phase
  double around = 1.0;    // seconds: how much is heard on either side
  bool operator==(const JoinHabits&) const = default;
};

/// What the joins of the track in hand sound like, and where they would be better; looked for in the
/// background while somebody wants to know. Interface thread.
class JoinDesk : public QObject {
  Q_OBJECT
 public:
  JoinDesk(SessionDesk& desk, InHand& inHand, Jobs& jobs, Messages& messages);
  ~JoinDesk() override;

  [[nodiscard]] const JoinHabits& habits() const { return habits_; }
  void setHabits(const JoinHabits& habits);
  /// How much is heard on either side of a join.
  [[nodiscard]] Frames around() const;

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
  /// Where the join that is, or was, at `join` would be better; none while that is not known.
  [[nodiscard]] std::vector<Frames> goodPlaces(Frames join) const;
  /// The riskiest that nobody has settled, behind the one in hand; none where all are settled.
  [[nodiscard]] std::optional<Frames> nextUnsettled() const;
  /// How many nobody has settled.
  [[nodiscard]] int unsettled() const;

  /// The join in hand becomes that finding.
  void take(std::size_t finding);
  /// The best of them; says why, or that there is none.
  void improveInHand();
  /// All joins of the track in hand, or those within a stretch, that no person set or settled: a job.
  void improveAll(std::optional<Span> within = {});
  /// They get the length, the curve and the bend of the one in hand, but for settled ones.
  void setAllLikeInHand(std::optional<Span> within = {});
  /// What was last done to the join in hand is undone, to hear what was before; and done again.
  void compareBefore();
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
  /// A join that was measured, and what that depends on.
  struct Remembered {
    MeasuredJoin measured;
    Piece left;
    Piece right;
    std::vector<Shared<Lane>> lanes;
    LevelLine level;
    [[nodiscard]] bool isOf(const Track& track, const ResolvedComposite& composite, const Join& join) const;
  };
  void begin(const Sought& sought);
  static void measureAll(JoinFinder& finder, const Session& session, const Track& track,
                         const ResolvedComposite& composite, std::vector<Remembered>& remembered,
                         const std::atomic<bool>& givenUp);
  void takeFindings(std::optional<Frames> join, std::vector<JoinFinding> findings);
  void takeMeasures(std::vector<Remembered> remembered);
  [[nodiscard]] JoinWish wish() const;
  void takeImprovement(TrackId id, const Improvement& improvement, std::optional<Span> within);

  SessionDesk& desk_;
  InHand& inHand_;
  Jobs& jobs_;
  Messages& messages_;
  JoinHabits habits_;
  std::optional<Sought> known_;  // or being looked for
  std::vector<MeasuredJoin> joins_;
  std::vector<Remembered> remembered_;  // the same, in order of time
  std::vector<JoinFinding> findings_;
  std::optional<Frames> findingsOf_;
  std::optional<Frames> improvesWhenFound_;  // asked for while it was still looked for
  /// What was taken back to hear how a join was before.
  struct Compared {
    std::int64_t undone = 0;  // the step at which the history stands since
    Frames now;               // where the join is without that
  };
  std::optional<Compared> compared_;
  std::shared_ptr<std::atomic<bool>> looking_;  // to be set where it is given up
  std::shared_ptr<const FadeLeaks> leaks_;
  QThreadPool pool_;
};

}  // namespace yewdrift::app
