// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <atomic>
#include <map>
#include <memory>

#include "app/desk/evidence_finder.h"
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

  /// What somebody looks at: nothing, what is known of files, or that and the measures of all cells.
  enum class Want { Nothing, Files, Cells };
  void setWanted(const QObject* by, Want want);
  /// Whether lanes of that track show what is measured.
  [[nodiscard]] static bool isShown(const Track& track);
  /// What is known of files; asks for nothing.
  [[nodiscard]] FindAnalysis finder();
  /// What is known of the files of the track in hand, for another thread. Only while something is wanted.
  [[nodiscard]] EvidenceFinder::KnownFiles knownFiles();
  /// How much of it is there, 0 to 1.
  [[nodiscard]] double share() const { return jobs_.share(); }
  /// Of that phrase of the track in hand; takes that are not measured yet have only what is known without.
  [[nodiscard]] PhraseEvidence evidenceOf(const Phrase& phrase);
  /// Of the phrase in hand. None where none is.
  [[nodiscard]] std::optional<PhraseEvidence> evidence();
  /// Only what was measured of it.
  [[nodiscard]] std::span<const CellMeasures> measuresOf(const Phrase& phrase) const {
    return cells_.of(phrase);
  }

 signals:
  void changed();  // more is known, or of something else

 private:
  void follow();
  void measure();
  [[nodiscard]] bool wants(Want least) const;

  SessionDesk& desk_;
  InHand& inHand_;
  std::map<const QObject*, Want> wantedBy_;
  EvidenceFinder::KnownFiles known_;
  std::optional<Shared<Track>> followed_;
  std::atomic<bool> told_{false};
  EvidenceFinder cells_;
  AnalysisJobs jobs_;  // last: its threads tell the others
};

}  // namespace yewdrift::app
