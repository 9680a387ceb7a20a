// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <optional>

#include "app/desk/analysis_desk.h"
#include "app/desk/blind_order.h"
#include "app/desk/other_composite.h"
#include "core/analysis/level_matching.h"
#include "core/plan/playback_plan.h"

namespace yewdrift::app {

/// How a person wants to compare takes; remembered from session to session.
struct ListeningOptions {
  enum class Others { Full, Dimmed, Silent };
  Others others = Others::Full;
  double dimmedBy = 12.0;  // dB
  bool matched = false;    // all takes equally loud
  bool around = false;     // with the composite before and behind what is compared
  double aroundSeconds = 2.0;
  bool operator==(const ListeningOptions&) const = default;
};

/// How takes are listened to: beside what else, how loud, with what around them, with or without knowing
/// which is which; one after the other by itself.
class ListeningDesk : public QObject {
  Q_OBJECT
 public:
  ListeningDesk(SessionDesk& desk, InHand& inHand, AnalysisDesk& analysis);

  [[nodiscard]] const ListeningOptions& options() const { return options_; }
  void setOptions(const ListeningOptions& options);
  /// Full, dimmed, silent, full.
  void stepOthers();

  /// Composites of the track are compared with each other.
  OtherComposite& other() { return other_; }
  [[nodiscard]] const OtherComposite& other() const { return other_; }
  /// What takes are compared over: the piece, punch or phrase in hand, else the selection, else the loop.
  [[nodiscard]] std::optional<Span> compared() const;
  /// Takes are heard as if they were picked, with the composite around them: by choice, and always for a
  /// piece or a punch.
  [[nodiscard]] bool hearsAround() const;
  /// That span with what is to be heard around it.
  [[nodiscard]] Span withAround(Span span) const;
  /// What the plan is made from.
  [[nodiscard]] Listening present() const;

  /// All takes are equally loud: by choice, or as one listens blind.
  [[nodiscard]] bool matches() const { return options_.matched || hidesNames(); }
  /// By how much a take, or the composite, is turned for that, as it is told; none where it is as it is, and
  /// while names are hidden: who knows which take is the soft one would know it by that.
  [[nodiscard]] std::optional<Decibels> trimOf(std::optional<LaneNumber> lane) const;
  /// Some of them are not measured yet.
  [[nodiscard]] bool measuring() const { return matches() && !matching_.measured; }

  /// Which take is which is not shown until one is chosen.
  [[nodiscard]] bool blind() const { return blind_; }
  void setBlind(bool on);
  [[nodiscard]] bool hidesNames() const { return blind_ && order_ && !revealed_; }
  /// One was chosen: shows which they were, until another phrase is in hand.
  void reveal();
  /// How a take is called now: its number and name, or a letter; once it is shown, both.
  [[nodiscard]] QString nameOf(const Lane& lane) const;

  /// Each time round another take, by itself.
  [[nodiscard]] bool takeAfterTake() const { return takeAfterTake_; }
  void setTakeAfterTake(bool on);

 signals:
  void changed();

 private:
  void follow();
  void shuffle();
  void match();

  SessionDesk& desk_;
  InHand& inHand_;
  AnalysisDesk& analysis_;
  OtherComposite other_;
  ListeningOptions options_;
  LevelMatching matching_;
  LevelMatcher matcher_;
  /// What that was made from.
  struct MatchedFor {
    Shared<Track> track;
    Span span;
    bool compositeStays = false;
    double share = 0.0;
  };
  std::optional<MatchedFor> matchedFor_;
  bool blind_ = false;
  bool revealed_ = false;
  std::optional<BlindOrder> order_;
  TrackId orderTrack_;
  std::optional<Frames> orderPhrase_;
  std::mt19937 chance_{std::random_device{}()};
  bool takeAfterTake_ = false;
};

}  // namespace yewdrift::app
