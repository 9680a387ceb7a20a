// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <memory>
#include <optional>
#include <vector>

#include "app/desk/in_hand.h"
#include "core/analysis/line_up_takes.h"

namespace yewdrift::app {

/// Looks in the background by how much a take lies early or late, and proposes it; nothing moves until the
/// proposal is taken. Interface thread.
class LineUpDesk : public QObject {
  Q_OBJECT
 public:
  LineUpDesk(SessionDesk& desk, InHand& inHand);
  ~LineUpDesk() override;

  struct Proposal {
    TrackId track;
    LaneNumber take;
    std::optional<LaneNumber> reference;  // none: the grid
    LineUp found;
    QString problem;  // in place of it
  };
  /// Against another take of the track in hand, or the grid; over the selection, else all of it; for offsets
  /// up to so many seconds either way. The last question counts, those before are given up. Where one of the
  /// two changes meanwhile, or is moved, it is asked anew.
  void look(LaneNumber take, std::optional<LaneNumber> reference, double withinSeconds);
  [[nodiscard]] bool looking() const { return looking_ != nullptr; }
  [[nodiscard]] const std::optional<Proposal>& proposal() const { return proposal_; }
  /// In a sentence.
  [[nodiscard]] QString words() const;
  /// It is moved so.
  void take();
  void forget();

 signals:
  void changed();

 private:
  struct Question {
    TrackId track;
    LaneNumber take;
    std::optional<LaneNumber> reference;
    std::optional<Span> span;
    Frames within;
    std::vector<Shared<Lane>> lanes;  // the take and what it is compared with, as they were
  };
  void ask(Question question);
  void giveUp();
  void lookAgainIfChanged();
  /// The take and what it is compared with, as they are; empty where one of them is gone.
  [[nodiscard]] std::vector<Shared<Lane>> lanesOf(TrackId id, LaneNumber take,
                                                  std::optional<LaneNumber> reference) const;

  SessionDesk& desk_;
  InHand& inHand_;
  std::shared_ptr<std::atomic<bool>> looking_;  // to be set where it is given up
  std::optional<Proposal> proposal_;
  std::optional<Question> question_;
  QThreadPool pool_;  // last: its work tells the others
};

}  // namespace yewdrift::app
