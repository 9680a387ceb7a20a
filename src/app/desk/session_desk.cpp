// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/session_desk.h"

#include <utility>

#include "app/desk/held_edit.h"
#include "app/look/spoken.h"
#include "core/edit/edit.h"
#include "core/error.h"
#include "core/store/file_uses.h"
#include "core/store/pool_files.h"

namespace yewdrift::app {

SessionDesk::SessionDesk(const std::filesystem::path& path, Messages& messages)
    : messages_(messages),
      path_(std::filesystem::absolute(path)),
      folder_(std::make_unique<SessionFolder>(SessionFolder::open(path, SessionFolder::Access::WriteOrRead))),
      history_(folder_->history()),
      recoveredAt_(history_.at()),
      notices_(folder_->notices()),
      peaks_(folder_->disk()),
      samples_(folder_->disk()) {
  if (!folder_->writable()) return;
  saver_ = std::make_unique<Saver>(*folder_, [this](const std::optional<Sentence>& failure) {
    QMetaObject::invokeMethod(this, [this, failure] {
      const QString about = "saving";
      if (failure)
        messages_.alarm(tr("%1 What you do is kept in memory, and saved as soon as the disk takes it.")
                            .arg(spoken(*failure)),
                        about);
      else
        messages_.tell(tr("The disk takes the session again: everything is saved."), about);
    });
  });
}

std::vector<std::string> SessionDesk::unsavedSteps() const {
  std::vector<std::string> labels;
  if (!saver_) return labels;
  const std::int64_t saved = saver_->savedStep();
  for (std::size_t i = history_.doneCount(); i-- > 0 && history_.steps()[i]->id() != saved;)
    labels.insert(labels.begin(), history_.steps()[i]->label());
  return labels;
}

void SessionDesk::lookAgain(const std::string& path) {
  peaks_.lookAgain(path);
  samples_.lookAgain(path);
}

bool SessionDesk::apply(const QString& label, const Edit& edit) {
  keepHeld();
  return bringIn(label, edit);
}

bool SessionDesk::bringIn(const QString& label, const Edit& edit) {
  try {
    requireWritable();
    Session next = edit(present());
    checkInvariants(next);
    const QString whyNot = whyNoEdit_ ? whyNoEdit_(present(), next) : QString();
    if (!whyNot.isEmpty()) throw refusal(whyNot);
    history_.commit(label.toStdString(), std::move(next));
    persist();
    return true;
  } catch (const std::exception& e) {
    messages_.say(e);
    return false;
  }
}

void SessionDesk::bringInUnneeded() {
  keepHeld();
  // What the folder knows and what is on the desk are the same then.
  if (!mayWrite() || !flushToDisk()) return;
  const BroughtIn brought = yewdrift::bringInUnneeded(*folder_);
  if (brought.sentences.empty())
    return messages_.say(tr("The session or its history needs every audio file in its folder."));
  if (brought.files > 0)
    apply(tr("Bring in unused files"), [&brought](const Session&) { return brought.session; });
  for (const Sentence& sentence : brought.sentences) messages_.warn(spoken(sentence));
}

void SessionDesk::filesAreBack(int count) {
  messages_.say(count > 0 ? tr("%n files are back.|One file is back.", nullptr, count)
                          : tr("Nothing that is missing was found there."));
  if (count == 0) return;
  peaks_.lookForMissing();
  samples_.lookForMissing();
  emit filesChanged();
  emit changed();
}

void SessionDesk::trashUnneeded() {
  keepHeld();
  if (!mayWrite() || !flushToDisk()) return;
  try {
    const auto gone = yewdrift::trashUnneeded(*folder_);
    messages_.say(
        tr("%n files are in the trash; the desktop can restore them.|"
           "One file is in the trash; the desktop can restore it.",
           nullptr, static_cast<int>(gone.size())));
    emit filesChanged();
  } catch (const std::exception& e) {
    messages_.warn(spoken(e));
  }
}

void SessionDesk::requireWritable() const {
  folder_->requireWritable();
}

bool SessionDesk::mayWrite() {
  try {
    requireWritable();
    return true;
  } catch (const std::exception& e) {
    messages_.say(e);
    return false;
  }
}

void SessionDesk::persist() {
  showHeld();
  emit committed();
  saver_->save(history_);
  emit changed();
}

void SessionDesk::setOptions(const RecordingOptions& options) {
  keepHeld();
  if (options == session().recording) return;
  try {
    requireWritable();
    history_.replacePresent(setRecordingOptions(present(), options));
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::showHeld() {
  shown_.reset();
  if (!held_ || !held_->edit_) return;
  try {
    Session shown = held_->edit_(present());
    checkInvariants(shown);
    shown_ = std::move(shown);
  } catch (const std::exception&) {
    return;  // nothing there to drag to
  }
}

void SessionDesk::endHeld(bool keep) {
  HeldEdit& ended = *std::exchange(held_, nullptr);
  ended.edit_ = nullptr;
  const std::optional<Session> shown = shown_;
  // Nothing is told in between: what is in hand has moved with what was held.
  if (keep && shown && !(*shown == present()) &&
      bringIn(ended.label_, [&shown](const Session&) { return *shown; }))
    return;
  showHeld();
  emit dragged();
  emit changed();
}

void SessionDesk::keepHeld() {
  if (!held_) return;
  const auto onEnded = std::exchange(held_->onEnded_, {});
  endHeld(true);
  if (onEnded) onEnded(HeldEdit::Ended::Kept);
}

void SessionDesk::dropHeld() {
  if (!held_) return;
  const auto onEnded = std::exchange(held_->onEnded_, {});
  endHeld(false);
  if (onEnded) onEnded(HeldEdit::Ended::Dropped);
}

void SessionDesk::setKeyNames(const KeyNames& names) {
  keyNames_ = names;
  messages_.setKeyNames(names);
  emit changed();
}

void SessionDesk::undo() {
  if (held_) return dropHeld();
  const QString whyNot = whyNoUndo_ ? whyNoUndo_() : QString();
  if (!whyNot.isEmpty()) return messages_.say(whyNot);
  if (!history_.undoLabel()) return;
  if (history_.at() == recoveredAt_ && !mayUndoRecovery()) return;
  try {
    requireWritable();
    history_.undo();
    messages_.dropAnswer();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

/// Only where it was asked for twice.
bool SessionDesk::mayUndoRecovery() {
  if (folder_->recovered().empty() || std::exchange(undoesRecovery_, true)) return true;
  messages_.say(tr("The last step brought in a recording that was cut off. Undo once more to take it back."));
  return false;
}

void SessionDesk::goTo(std::size_t done) {
  const QString whyNot = whyNoUndo_ ? whyNoUndo_() : QString();
  if (!whyNot.isEmpty()) return messages_.say(whyNot);
  dropHeld();
  done = std::min(done, history_.steps().size());
  if (done == history_.doneCount()) return;
  for (std::size_t i = done; i < history_.doneCount(); ++i)
    if (history_.steps()[i]->id() == recoveredAt_ && !mayUndoRecovery()) return;
  try {
    requireWritable();
    history_.goTo(done);
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::redo() {
  if (whyNoUndo_ && !whyNoUndo_().isEmpty()) return;
  dropHeld();
  if (!history_.redoLabel()) return;
  try {
    requireWritable();
    history_.redo();
    messages_.dropAnswer();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

}  // namespace yewdrift::app
