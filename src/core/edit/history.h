// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>

#include "core/session/session.h"
#include "core/session/shared_sequence.h"

namespace yewdrift {

/// A step of the history. It holds the values before and after it, or, once they are on disk, the way to
/// rebuild them. Shared by every history that it is part of. Any thread.
class HistoryStep {
 public:
  enum class Direction { Back, Forth };
  /// From the session on one side of a step to that on the other; throws Error where it does not fit.
  using Way = std::function<Session(const Session&, Direction)>;
  struct Values {
    Session before;
    Session after;
  };

  HistoryStep(std::int64_t id, std::int64_t parent, std::string label, Session before, Session after);
  HistoryStep(std::int64_t id, std::int64_t parent, std::string label, Way way);

  [[nodiscard]] std::int64_t id() const { return id_; }  // never used again in the session
  /// The step that made what this one was made from; the history's root where there is none.
  [[nodiscard]] std::int64_t parent() const { return parent_; }
  [[nodiscard]] const std::string& label() const { return label_; }  // what it did, as undo names it

  [[nodiscard]] Session go(const Session& from, Direction direction) const;
  /// Null where they are on disk only.
  [[nodiscard]] std::shared_ptr<const Values> values() const;
  /// From now on they are rebuilt when they are asked for.
  void leaveToDisk(Way way) const;

 private:
  std::int64_t id_;
  std::int64_t parent_;
  std::string label_;
  mutable std::mutex mutex_;
  mutable std::shared_ptr<const Values> values_;  // or `way_`
  mutable Way way_;
};

/// What was, what is, what was undone. Copies share their steps.
///
/// Undo changes what people made, not what the session owns or how it works: the pool and the recording
/// options stay as they are.
class History {
 public:
  using Step = std::shared_ptr<const HistoryStep>;
  using Steps = SharedSequence<Step>;

  History() = default;
  explicit History(Session now) : now_(std::move(now)) {}
  /// `done` of the steps lead to `now`, the others from there on. `root` names the state before the first.
  History(std::int64_t root, Steps steps, std::size_t done, Session now, std::int64_t made)
      : root_(root), steps_(std::move(steps)), done_(done), now_(std::move(now)), made_(made) {}

  [[nodiscard]] const Session& now() const { return now_; }
  /// In order of time; those from doneCount() on are undone, the next to redo first.
  [[nodiscard]] const Steps& steps() const { return steps_; }
  [[nodiscard]] std::size_t doneCount() const { return done_; }
  [[nodiscard]] std::int64_t root() const { return root_; }
  /// The step that made the present, or the root.
  [[nodiscard]] std::int64_t at() const { return done_ == 0 ? root_ : steps_[done_ - 1]->id(); }
  /// The last step that can be redone, or the present's.
  [[nodiscard]] std::int64_t tip() const { return steps_.empty() ? root_ : steps_[steps_.size() - 1]->id(); }
  /// The highest number that a step has had.
  [[nodiscard]] std::int64_t made() const { return made_; }
  [[nodiscard]] std::optional<std::string> undoLabel() const;
  [[nodiscard]] std::optional<std::string> redoLabel() const;

  /// Makes `next` the present; what was undone is gone. Does nothing where `next` equals the present.
  void commit(std::string label, Session next);
  /// Changes the present without a step, for what is not worth undoing (an arm switch).
  void replacePresent(Session next) { now_ = std::move(next); }
  /// Both throw Error where there is nothing to undo or redo, and return the label.
  std::string undo();
  std::string redo();
  /// Undoes or redoes until so many steps are done, all of that or, where it throws Error, nothing.
  void goTo(std::size_t done);
  /// Nothing can be undone or redone any more.
  void forget();
  /// A step that was taken back altogether; its number is not used again.
  void takeBack(const History& before);

 private:
  void go(const HistoryStep& step, HistoryStep::Direction direction);

  std::int64_t root_ = 0;
  Steps steps_;
  std::size_t done_ = 0;
  Session now_;
  std::int64_t made_ = 0;
};

}  // namespace yewdrift
