// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <optional>
#include <string>
#include <vector>

#include "app/desk/in_hand.h"

namespace yewdrift::app {

/// Another composite of the track in hand, heard and shown in place of the one in use, without a step of the
/// history. What changes the track brings back the one in use. Interface thread.
class OtherComposite : public QObject {
  Q_OBJECT
 public:
  OtherComposite(SessionDesk& desk, InHand& inHand);

  /// Its name; none: the one in use is heard.
  [[nodiscard]] std::optional<std::string> heard() const;
  void hear(std::optional<std::string> name);
  /// The one compared last, else the first that is kept; and back. False where there is none.
  bool toggle();
  /// The session as it is heard.
  [[nodiscard]] Session heardIn(const Session& session);
  /// Its pieces and joins; null where the one in use is heard.
  [[nodiscard]] const ResolvedComposite* shown() const { return view_ ? &view_->composite : nullptr; }
  /// Where it plays something else than the one in use.
  [[nodiscard]] std::vector<Span> differences() const {
    return view_ ? view_->differences : std::vector<Span>{};
  }

 signals:
  void changed();

 private:
  void follow();

  struct View {
    Shared<Track> from;   // as it is on the desk
    Shared<Track> track;  // with that composite in use
    std::string name;
    ResolvedComposite composite;
    std::vector<Span> differences;
  };
  SessionDesk& desk_;
  InHand& inHand_;
  std::optional<View> view_;
  std::string last_;
};

}  // namespace yewdrift::app
