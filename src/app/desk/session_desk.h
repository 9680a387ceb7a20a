// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <optional>

#include "app/desk/messages.h"
#include "app/desk/peaks_store.h"
#include "app/desk/saver.h"
#include "core/edit/history.h"
#include "core/store/session_folder.h"

namespace yewdrift::app {

/// The session on the desk: its folder, its history, edits, drags as previews of edits, and saving.
class SessionDesk : public QObject {
  Q_OBJECT
 public:
  /// Opens the session; throws Error.
  SessionDesk(const std::filesystem::path& path, Messages& messages);

  [[nodiscard]] const Session& session() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] Ruler ruler() const { return session().ruler(); }
  [[nodiscard]] const std::vector<std::string>& openingNotices() const { return notices_; }
  [[nodiscard]] const std::filesystem::path& folderPath() const { return path_; }
  SessionFolder& folder() { return *folder_; }
  PeaksStore& peaks() { return peaks_; }

  /// Makes the edit's result the present. Where the edit throws, says so and changes nothing.
  using Edit = std::function<Session(const Session&)>;
  bool apply(const QString& label, const Edit& edit);
  /// For a drag: shows the result without a step in the history until finishPreview().
  void preview(const Edit& edit);
  void finishPreview(const QString& label);
  void cancelPreview();
  /// What a drag that is under way began from; without one, the present.
  [[nodiscard]] const Session& beforePreview() const { return beforePreview_ ? *beforePreview_ : session(); }
  void undo();
  void redo();
  /// Asked before undo and redo: why neither can be done now; an empty sentence where both can.
  void setUndoGuard(std::function<QString()> whyNot) { whyNoUndo_ = std::move(whyNot); }
  /// How this session records: remembered, and not a step of the history.
  [[nodiscard]] const RecordingOptions& options() const { return session().recording; }
  void setOptions(const RecordingOptions& options);
  bool flushToDisk() { return saver_->flush(); }

 signals:
  /// The present is another, for good: before anything of it is shown.
  void committed();
  /// What is shown is another, by an edit or by a drag.
  void changed();

 private:
  void persist();

  Messages& messages_;
  std::filesystem::path path_;
  std::unique_ptr<SessionFolder> folder_;
  History history_;
  std::optional<Session> beforePreview_;
  std::vector<std::string> notices_;
  PeaksStore peaks_;
  std::function<QString()> whyNoUndo_;
  std::unique_ptr<Saver> saver_;  // last: its thread uses the folder
};

}  // namespace yewdrift::app
