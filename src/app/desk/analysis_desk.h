// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <atomic>
#include <map>
#include <memory>
#include <set>

#include "app/desk/in_hand.h"
#include "core/analysis/analysis_jobs.h"
#include "core/analysis/evidence.h"

namespace yewdrift::app {

/// What is measured of the takes in hand, in the background, as soon as somebody asks for it. Interface
/// thread.
class AnalysisDesk : public QObject {
  Q_OBJECT
 public:
  AnalysisDesk(SessionDesk& desk, InHand& inHand);

  /// That one looks at what is measured, or no more.
  void setWanted(const QObject* by, bool wanted);
  /// Whether lanes of that track show what is measured.
  [[nodiscard]] static bool isShown(const Track& track);
  /// What is known of files; asks for nothing.
  [[nodiscard]] FindAnalysis finder();
  /// How much of it is there, 0 to 1.
  [[nodiscard]] double share() const { return jobs_.share(); }
  /// Of the phrase in hand; takes that are not measured yet have only what is known without. None where no
  /// phrase is in hand.
  [[nodiscard]] std::optional<PhraseEvidence> evidence();

 signals:
  void changed();  // more is known, or of something else

 private:
  void follow();

  SessionDesk& desk_;
  InHand& inHand_;
  std::set<const QObject*> wantedBy_;
  std::map<int, std::shared_ptr<const FileAnalysis>> known_;
  std::optional<Shared<Track>> followed_;
  std::atomic<bool> told_{false};
  AnalysisJobs jobs_;  // last: its threads tell the others
};

}  // namespace yewdrift::app
