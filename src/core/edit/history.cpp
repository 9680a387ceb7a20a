// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/history.h"

#include "core/error.h"

namespace yewdrift {

std::optional<std::string> History::undoLabel() const {
  return done_.empty() ? std::nullopt : std::optional(done_.back().label);
}

std::optional<std::string> History::redoLabel() const {
  return undone_.empty() ? std::nullopt : std::optional(undone_.back().label);
}

void History::commit(std::string label, Session next) {
  if (next == now_) return;
  done_.push_back({++stepsMade_, std::move(label), [before = now_](const Session&) { return before; },
                   [next](const Session&) { return next; }});
  now_ = std::move(next);
  undone_.clear();
}

void History::go(const Way& way) {
  const RecordingOptions options = now_.recording;
  now_ = way(now_);
  now_.recording = options;
}

std::string History::undo() {
  if (done_.empty()) throw Error("There is nothing to undo.");
  go(done_.back().back);
  undone_.push_back(std::move(done_.back()));
  done_.pop_back();
  return undone_.back().label;
}

std::string History::redo() {
  if (undone_.empty()) throw Error("There is nothing to redo.");
  go(undone_.back().forth);
  done_.push_back(std::move(undone_.back()));
  undone_.pop_back();
  return done_.back().label;
}

}  // namespace yewdrift
