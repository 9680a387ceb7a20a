// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QThreadPool>
#include <atomic>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <vector>

#include "app/desk/peaks_store.h"
#include "core/session/resolved_phrases.h"

namespace yewdrift::app {

/// The phrases of tracks. What rests is looked for only where what takes hold has changed, at once where that
/// is quick, else in the background; until then what was found before counts. Interface thread.
class PhraseFinder : public QObject {
  Q_OBJECT
 public:
  explicit PhraseFinder(PeaksStore& peaks);
  ~PhraseFinder() override;

  /// As the track is now; the reference holds until the next call.
  const std::vector<Phrase>& phrasesOf(const Session& session, TrackId track);

 signals:
  void moreFound();  // in the background

 private:
  struct Found {
    std::vector<Shared<Lane>> lanes;  // that it was found in
    PhraseRules rules;
    bool stale = true;
    bool looking = false;
    std::vector<Span> spans;
    /// Resolved with what a person set.
    std::optional<Shared<Track>> resolvedFrom;
    TempoMap tempo;
    bool grid = false;
    std::vector<Phrase> phrases;
  };
  static bool sameMaterial(const Found& found, const Track& track);
  void look(const Session& session, const Track& track, Found& found);

  PeaksStore& peaks_;
  std::map<TrackId, Found> found_;
  const std::vector<Phrase> none_;
  std::atomic<bool> closing_{false};
  QThreadPool pool_;
};

}  // namespace yewdrift::app
