// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/analysis/evidence.h"

namespace yewdrift::app {

/// The measures of all cells of a track, made in the background whenever something that they depend on is
/// another; until they are there, those made before count. Interface thread.
class EvidenceFinder : public QObject {
  Q_OBJECT
 public:
  /// What is known of files, each held by whoever looks.
  using KnownFiles = std::map<int, std::shared_ptr<const FileAnalysis>>;
  /// `known` is asked only when something is to be measured.
  explicit EvidenceFinder(std::function<KnownFiles()> known);
  ~EvidenceFinder() override;

  /// What the measures are to be of.
  struct Wanted {
    Shared<Track> track;
    std::vector<Phrase> phrases;
    std::size_t first = 0;  // of these, which is the most urgent
    Ruler ruler;
    int divisions = 0;
    double share = 0.0;  // how much of it can be known by now
  };
  void want(Wanted wanted);
  /// Nothing is wanted any more.
  void drop();
  /// Of the cells of that phrase, as far as they were measured.
  [[nodiscard]] std::span<const CellMeasures> of(const Phrase& phrase) const;

 signals:
  void found();  // there are other measures than before

 private:
  using Measures = std::map<Frames, std::vector<CellMeasures>>;  // by the start of the phrase
  static bool sameMaterial(const Wanted& a, const Wanted& b);
  void begin();

  std::function<KnownFiles()> known_;
  std::optional<Wanted> wanted_;
  bool stale_ = false;                          // more can be known than was measured from
  std::shared_ptr<std::atomic<bool>> looking_;  // to be set where what is looked for is given up
  QElapsedTimer sinceBegun_;
  Measures measures_;
  QThreadPool pool_;
};

}  // namespace yewdrift::app
