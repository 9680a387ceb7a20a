// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/session_desk.h"

#include "core/edit/edit.h"
#include "core/error.h"

namespace yewdrift::app {

SessionDesk::SessionDesk(const std::filesystem::path& path, Messages& messages)
    : messages_(messages),
      path_(std::filesystem::absolute(path)),
      folder_(std::make_unique<SessionFolder>(SessionFolder::open(path, SessionFolder::Access::Write))),
      history_(folder_->history()),
      notices_(folder_->notices()),
      peaks_(path_) {
  saver_ = std::make_unique<Saver>(*folder_, [this](const std::string& sentence) {
    QMetaObject::invokeMethod(this, [this, sentence] { messages_.say(QString::fromStdString(sentence)); });
  });
}

bool SessionDesk::apply(const QString& label, const Edit& edit) {
  try {
    Session next = edit(session());
    history_.commit(label.toStdString(), std::move(next));
    persist();
    return true;
  } catch (const std::exception& e) {
    messages_.say(e);
    return false;
  }
}

void SessionDesk::persist() {
  emit committed();
  saver_->save(history_);
  emit changed();
}

void SessionDesk::setOptions(const RecordingOptions& options) {
  if (options == session().recording) return;
  try {
    history_.replacePresent(setRecordingOptions(session(), options));
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::preview(const Edit& edit) {
  if (!beforePreview_) beforePreview_ = session();
  try {
    history_.replacePresent(edit(*beforePreview_));
  } catch (const std::exception&) {
    history_.replacePresent(*beforePreview_);  // nothing there to drag to
  }
  emit changed();
}

void SessionDesk::finishPreview(const QString& label) {
  if (!beforePreview_) return;
  Session next = session();
  history_.replacePresent(*beforePreview_);
  beforePreview_.reset();
  apply(label, [&next](const Session&) { return next; });
}

void SessionDesk::cancelPreview() {
  if (!beforePreview_) return;
  history_.replacePresent(*beforePreview_);
  beforePreview_.reset();
  emit changed();
}

void SessionDesk::undo() {
  const QString whyNot = whyNoUndo_ ? whyNoUndo_() : QString();
  if (!whyNot.isEmpty()) return messages_.say(whyNot);
  if (!history_.undoLabel()) return;
  try {
    history_.undo();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

void SessionDesk::redo() {
  if ((whyNoUndo_ && !whyNoUndo_().isEmpty()) || !history_.redoLabel()) return;
  try {
    history_.redo();
    persist();
  } catch (const std::exception& e) {
    messages_.say(e);
  }
}

}  // namespace yewdrift::app
