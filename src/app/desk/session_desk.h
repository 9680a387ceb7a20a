// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <optional>

#include "app/desk/messages.h"
#include "app/desk/peaks_store.h"
#include "app/desk/position_words.h"
#include "app/desk/samples_store.h"
#include "app/desk/saver.h"
#include "app/look/key_names.h"
#include "core/edit/history.h"
#include "core/store/session_folder.h"

namespace yewdrift::app {

class HeldEdit;

/// The session on the desk: its folder, its history, edits, what a hand holds over them, and saving.
class SessionDesk : public QObject {
  Q_OBJECT
 public:
  /// Opens the session; throws Error.
  SessionDesk(const std::filesystem::path& path, Messages& messages);

  /// What is shown and heard: the present, with what a hand holds applied over it.
  [[nodiscard]] const Session& session() const { return shown_ ? *shown_ : history_.now(); }
  /// The present without that: what edits work on.
  [[nodiscard]] const Session& present() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] Ruler ruler() const { return session().ruler(); }
  [[nodiscard]] PositionWords positionWords() const { return PositionWords(ruler()); }
  /// How keys are called in sentences that are shown.
  [[nodiscard]] const KeyNames& keyNames() const { return keyNames_; }
  void setKeyNames(const KeyNames& names);
  [[nodiscard]] const std::vector<Sentence>& openingNotices() const { return notices_; }
  [[nodiscard]] const std::filesystem::path& folderPath() const { return path_; }
  [[nodiscard]] const SessionDisk& disk() const { return folder_->disk(); }
  PeaksStore& peaks() { return peaks_; }
  SamplesStore& samples() { return samples_; }
  /// That pool file is another than it was: what is shown of it is read anew.
  void lookAgain(const std::string& path);

  /// Makes the edit's result the present; what a hand holds is kept first. Where the edit throws, where its
  /// result is no valid session, or where a guard is against it, says so and changes nothing.
  using Edit = std::function<Session(const Session&)>;
  bool apply(const QString& label, const Edit& edit);
  /// The same for what arrives by itself (a pass, an import): goes beneath what a hand holds.
  bool bringIn(const QString& label, const Edit& edit);
  /// Makes takes of the audio files in the session's folder that nobody needs, and says what became of them.
  void bringInUnneeded();
  /// So many that were missing are there again.
  void filesAreBack(int count);
  /// Those that nobody needs go to the trash; says what became of them.
  void trashUnneeded();
  /// A hand holds an edit (HeldEdit) that lies over the present.
  [[nodiscard]] bool holding() const { return held_ != nullptr; }
  void keepHeld();
  void dropHeld();
  /// Takes back what a hand holds, where it holds something; else the last step.
  void undo();
  void redo();
  /// To where so many of the history's steps are done: 0 is its beginning.
  void goTo(std::size_t done);
  /// Asked before an edit is made the present: why it cannot be now; an empty sentence where it can.
  using EditGuard = std::function<QString(const Session& present, const Session& next)>;
  void setEditGuard(EditGuard whyNot) { whyNoEdit_ = std::move(whyNot); }
  /// Asked before undo and redo: why neither can be done now; an empty sentence where both can.
  void setUndoGuard(std::function<QString()> whyNot) { whyNoUndo_ = std::move(whyNot); }
  /// How this session records: remembered, and not a step of the history.
  [[nodiscard]] const RecordingOptions& options() const { return session().recording; }
  void setOptions(const RecordingOptions& options);
  /// False where it is open to look at and listen to only.
  [[nodiscard]] bool writable() const { return folder_->writable(); }
  /// Throws Error where nothing can be changed.
  void requireWritable() const;
  /// Says so, and returns false.
  bool mayWrite();
  [[nodiscard]] bool saved() const { return !saver_ || saver_->saved(); }
  /// What the steps are called that are not on disk yet, in order.
  [[nodiscard]] std::vector<std::string> unsavedSteps() const;
  bool flushToDisk() { return !saver_ || saver_->flush(); }

 signals:
  /// The present is another, for good: before anything of it is shown.
  void committed();
  /// Files of the session are there again, or have gone, without a step.
  void filesChanged();
  /// What is held shows something else, or has ended: what is heard follows.
  void dragged();
  /// What is shown is another, by an edit or by a hand.
  void changed();

 private:
  friend class HeldEdit;
  void persist();
  [[nodiscard]] bool mayUndoRecovery();
  void showHeld();
  void endHeld(bool keep);

  Messages& messages_;
  KeyNames keyNames_;
  std::filesystem::path path_;
  std::unique_ptr<SessionFolder> folder_;
  History history_;
  HeldEdit* held_ = nullptr;      // its owner is a view, which lets go of it first
  std::optional<Session> shown_;  // what is held, over the present
  std::int64_t recoveredAt_;      // the step that recovered what was cut off, where any did
  bool undoesRecovery_ = false;   // asked for once
  std::vector<Sentence> notices_;
  PeaksStore peaks_;
  SamplesStore samples_;
  EditGuard whyNoEdit_;
  std::function<QString()> whyNoUndo_;
  std::unique_ptr<Saver> saver_;  // last: its thread uses the folder; null where nothing can be saved
};

}  // namespace yewdrift::app
