// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// What was, what is, what was undone. A step knows the way back and forth: steps made here hold the values,
/// steps read from a session folder rebuild them when they are asked for.
class History {
 public:
  using Way = std::function<Session(const Session&)>;
  struct Step {
    std::int64_t id = 0;  // unique within the session
    std::string label;    // what the step did, as undo names it
    Way back;
    Way forth;
  };

  History() = default;
  explicit History(Session now) : now_(std::move(now)) {}
  History(std::vector<Step> done, Session now, std::vector<Step> undone, std::int64_t stepsMade)
      : done_(std::move(done)), now_(std::move(now)), undone_(std::move(undone)), stepsMade_(stepsMade) {}

  [[nodiscard]] const Session& now() const { return now_; }
  [[nodiscard]] const std::vector<Step>& done() const { return done_; }
  /// The next step to redo is at the back.
  [[nodiscard]] const std::vector<Step>& undone() const { return undone_; }
  [[nodiscard]] std::int64_t stepsMade() const { return stepsMade_; }
  [[nodiscard]] std::optional<std::string> undoLabel() const;
  [[nodiscard]] std::optional<std::string> redoLabel() const;

  /// Makes `next` the present; what was undone is gone. Does nothing where `next` equals the present.
  void commit(std::string label, Session next);
  /// Changes the present without a step, for what is not worth undoing (an arm switch).
  void replacePresent(Session next) { now_ = std::move(next); }
  /// Recording options stay as they are; both throw Error where there is nothing to undo or redo, and return
  /// the label.
  std::string undo();
  std::string redo();

 private:
  void go(const Way& way);

  std::vector<Step> done_;
  Session now_;
  std::vector<Step> undone_;
  std::int64_t stepsMade_ = 0;
};

}  // namespace yewdrift
