// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/edit/history.h"

#include "core/error.h"

namespace yewdrift {

HistoryStep::HistoryStep(std::int64_t id, std::int64_t parent, std::string label, Session before,
                         Session after)
    : id_(id),
      parent_(parent),
      label_(std::move(label)),
      values_(std::make_shared<const Values>(Values{std::move(before), std::move(after)})) {}

HistoryStep::HistoryStep(std::int64_t id, std::int64_t parent, std::string label, Way way)
    : id_(id), parent_(parent), label_(std::move(label)), way_(std::move(way)) {}

std::shared_ptr<const HistoryStep::Values> HistoryStep::values() const {
  const std::lock_guard guard(mutex_);
  return values_;
}

void HistoryStep::leaveToDisk(Way way) const {
  const std::lock_guard guard(mutex_);
  way_ = std::move(way);
  values_.reset();
}

Session HistoryStep::go(const Session& from, Direction direction) const {
  if (const auto known = values()) return direction == Direction::Back ? known->before : known->after;
  Way way;
  {
    const std::lock_guard guard(mutex_);
    way = way_;
  }
  return way(from, direction);
}

std::optional<std::string> History::undoLabel() const {
  return done_ == 0 ? std::nullopt : std::optional(steps_[done_ - 1]->label());
}

std::optional<std::string> History::redoLabel() const {
  return done_ == steps_.size() ? std::nullopt : std::optional(steps_[done_]->label());
}

void History::commit(std::string label, Session next) {
  if (next == now_) return;
  const std::int64_t parent = at();
  steps_ = steps_.replaced(
      done_, steps_.size(),
      {std::make_shared<const HistoryStep>(++made_, parent, std::move(label), std::move(now_), next)});
  ++done_;
  now_ = std::move(next);
}

void History::go(const HistoryStep& step, HistoryStep::Direction direction) {
  Session there = step.go(now_, direction);
  there.recording = now_.recording;
  there.pool = now_.pool;
  now_ = std::move(there);
}

std::string History::undo() {
  if (done_ == 0) throw Error("There is nothing to undo.");
  const Step step = steps_[done_ - 1];
  go(*step, HistoryStep::Direction::Back);
  --done_;
  return step->label();
}

std::string History::redo() {
  if (done_ == steps_.size()) throw Error("There is nothing to redo.");
  const Step step = steps_[done_];
  go(*step, HistoryStep::Direction::Forth);
  ++done_;
  return step->label();
}

void History::goTo(std::size_t done) {
  if (done > steps_.size())
    throw Error("The history has %1 steps.", static_cast<std::int64_t>(steps_.size()));
  History moved = *this;
  while (moved.done_ > done) moved.undo();
  while (moved.done_ < done) moved.redo();
  *this = std::move(moved);
}

void History::forget() {
  root_ = ++made_;
  steps_ = {};
  done_ = 0;
}

void History::takeBack(const History& before) {
  const std::int64_t made = made_;
  *this = before;
  made_ = std::max(made_, made);
}

}  // namespace yewdrift
