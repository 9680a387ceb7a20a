// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/session_desk.h"

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::app {

SessionDesk::SessionDesk(const std::filesystem::path& path, Messages& messages)
    : messages_(messages),
      path_(std::filesystem::absolute(path)),
      folder_(std::make_unique<SessionFolder>(SessionFolder::open(path, SessionFolder::Access::WriteOrRead))),
      history_(folder_->history()),
      recoveredAt_(history_.at()),
      notices_(folder_->notices()),
      peaks_(folder_->disk()) {
  if (!folder_->writable()) return;
  saver_ = std::make_unique<Saver>(*folder_, [this](const std::string& sentence) {
    QMetaObject::invokeMethod(this, [this, sentence] { messages_.say(QString::fromStdString(sentence)); });
  });
}

bool SessionDesk::apply(const QString& label, const Edit& edit) {
  try {
    requireWritable();
    Session next = edit(present());
    checkInvariants(next);
    const QString whyNot = whyNoEdit_ ? whyNoEdit_(present(), next) : QString();
    if (!whyNot.isEmpty()) throw Error(whyNot.toStdString());
    history_.commit(label.toStdString(), std::move(next));
    persist();
    return true;
  } catch (const std::exception& e) {
    messages_.say(e);
    return false;
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
  showDrag();
  emit committed();
  saver_->save(history_);
  emit changed();
}

void SessionDesk::setOptions(const RecordingOptions& options) {
  if (options == session().recording) return;
  try {
    requireWritable();
    history_.replacePresent(setRecordingOptions(present(), options));
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::showDrag() {
  shown_.reset();
  if (!drag_) return;
  try {
    Session shown = drag_(present());
    checkInvariants(shown);
    shown_ = std::move(shown);
  } catch (const std::exception&) {
    return;  // nothing there to drag to
  }
}

void SessionDesk::preview(const Edit& drag) {
  drag_ = drag;
  showDrag();
  emit dragged();
  emit changed();
}

void SessionDesk::finishPreview(const QString& label) {
  if (!drag_) return;
  const std::optional<Session> shown = shown_;
  drag_ = nullptr;
  // Nothing is told in between: what is in hand has moved with the drag.
  if (shown && apply(label, [&shown](const Session&) { return *shown; })) return;
  showDrag();
  emit dragged();
  emit changed();
}

void SessionDesk::cancelPreview() {
  if (!drag_) return;
  drag_ = nullptr;
  showDrag();
  emit dragged();
  emit changed();
}

void SessionDesk::undo() {
  const QString whyNot = whyNoUndo_ ? whyNoUndo_() : QString();
  if (!whyNot.isEmpty()) return messages_.say(whyNot);
  cancelPreview();
  if (!history_.undoLabel()) return;
  if (!folder_->recovered().empty() && history_.at() == recoveredAt_ && !std::exchange(undoesRecovery_, true))
    return messages_.say(
        tr("The last step brought in a recording that was cut off. Undo once more to take it back."));
  try {
    requireWritable();
    history_.undo();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::redo() {
  if (whyNoUndo_ && !whyNoUndo_().isEmpty()) return;
  cancelPreview();
  if (!history_.redoLabel()) return;
  try {
    requireWritable();
    history_.redo();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

}  // namespace yewdrift::app
