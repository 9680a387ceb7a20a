// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QStringList>

#include "app/desk/in_hand.h"
#include "app/desk/jobs.h"
#include "app/desk/transport.h"
#include "core/deliver/delivery.h"
#include "core/edit/edit.h"
#include "core/plan/flatten.h"

namespace yewdrift::app {

/// What of a composite is flattened, and what becomes of the other lanes; of a stretch they are needed on.
struct FlattenWish {
  std::optional<Span> span{};
  OtherLanes lanes = OtherLanes::Keep;
};

/// What comes in from files, and what is made into one.
class FileDesk : public QObject {
  Q_OBJECT
 public:
  FileDesk(SessionDesk& desk, InHand& inHand, Transport& transport, const RollCompanion& companion,
           Jobs& jobs, Messages& messages);
  /// Each file becomes a lane of the track in hand, from the playhead on, or a backing track of its own, from
  /// the start on; in the background.
  void importFiles(const QStringList& files, bool backing = false);
  /// Lanes of that track, from that place on.
  void importTakes(const QStringList& files, TrackId into, Frames at);
  void flattenInHand() { flatten(inHand_.trackId(), {}); }
  /// One new file in its place, read back and compared: a job.
  void flatten(TrackId track, const FlattenWish& wish);
  /// Makes takes of the audio files in the session's folder that nobody needs. Not while any are on their way
  /// into the session, or out of its folder.
  void bringInUnneeded();
  /// The same for what nobody needs going to the trash.
  void trashUnneeded();
  /// Copies missing files back that are found there: a job.
  void findMissing(const std::filesystem::path& where);
  /// Writes it there: a job.
  void deliver(const DeliveryWish& wish, const std::filesystem::path& folder);

 private:
  [[nodiscard]] bool filesAreOnTheirWay();
  /// Where files go: to that track (none: a new one), from that place on.
  struct ImportTo {
    std::optional<TrackId> track;
    Frames at;
    bool backing = false;
  };
  struct FileToTake {
    std::filesystem::path from;
    PoolFile file;
  };
  void import(const QStringList& files, const ImportTo& to);
  void bringIn(const std::vector<FileToTake>& files, QStringList problems, const ImportTo& to);
  static Session withFile(Session session, const FileToTake& each, std::optional<TrackId>& into,
                          const ImportTo& to);
  void takeFlattened(const Session& before, const FlattenedFile& flattened, TrackId id,
                     const FlattenWish& wish);
  void removeFile(const PoolFile& file);

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  const RollCompanion& companion_;
  Jobs& jobs_;
  Messages& messages_;
};

}  // namespace yewdrift::app
