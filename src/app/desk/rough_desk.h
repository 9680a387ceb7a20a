// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <memory>
#include <optional>

#include "app/desk/analysis_desk.h"
#include "app/desk/jobs.h"
#include "core/joins/rough_composite.h"

namespace yewdrift::app {

/// What a composite from the ratings would play in each phrase of the track in hand, and why: kept up to date
/// in the background while somebody looks; and making it. Interface thread.
class RoughDesk : public QObject {
  Q_OBJECT
 public:
  RoughDesk(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis, Jobs& jobs, Messages& messages);
  ~RoughDesk() override;

  /// Whether somebody looks.
  void setWanted(bool wanted);
  /// What it would choose there; null while it is not known, or where there are no takes.
  [[nodiscard]] const RoughChoice* choiceIn(const Phrase& phrase) const;
  /// It is being worked out, or the takes are still being measured.
  [[nodiscard]] bool looking() const { return looking_ != nullptr || (wanted_ && analysis_.share() < 1.0); }

  /// The composite of the track in hand becomes that, a job; picks of a person stay, unless `anew`.
  void make(bool anew);

 signals:
  void found();

 private:
  /// What it depends on.
  struct Sought {
    Shared<Track> track;
    std::vector<Phrase> phrases;
  };
  [[nodiscard]] std::optional<Sought> sought() const;
  void look();
  void take(TrackId track, const RoughComposite& rough, bool anew);

  SessionDesk& desk_;
  InHand& inHand_;
  AnalysisDesk& analysis_;
  Jobs& jobs_;
  Messages& messages_;
  bool wanted_ = false;
  std::optional<Sought> known_;  // or being looked for
  std::optional<RoughComposite> rough_;
  std::vector<Phrase> roughOf_;
  std::shared_ptr<std::atomic<bool>> looking_;  // to be set where it is given up
  QThreadPool pool_;
};

}  // namespace yewdrift::app
