// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QRect>
#include <optional>
#include <vector>

#include "app/views/time_scale.h"
#include "core/session/resolved_composite.h"

namespace yewdrift::app {

/// Where things lie in the view of takes and composite, and what lies under a place of it. From top to
/// bottom: the ruler with the loop, the rows of punches and of phrases, the line of passes set aside, the
/// takes, the composite; on the left their heads. Plain values: made from what is shown now.
struct LanesGeometry {
  static constexpr int mostRowHeight = 120;     // by itself; a person may choose up to three times as much
  static constexpr int smallestRowHeight = 12;  // where all takes are to be in sight
  static constexpr int leastHintWidth = 22;     // of a folded take
  static constexpr int mostHintWidth = 64;
  static constexpr int leastHintHeight = 14;
  static constexpr int grabPixels = 5;  // an edge is taken hold of from so far on either side

  /// What text needs room for, in the font that is used.
  bool markers = false;  // the ruler names some
  int headWidth = 148;
  int rulerHeight = 24;
  int punchRowHeight = 18;
  int phraseRowHeight = 18;
  int setAsideHeight = 22;
  int leastRowHeight = 36;
  int pieceNameHeight = 20;  // on top of the composite: what its pieces are called
  /// The same for a font whose lines are so high and whose letters so wide, in pixels.
  void fitTo(int lineHeight, int letterWidth);

  QSize size;                      // of what is seen
  TimeScale scale;                 // its pixel 0 is at headWidth
  std::vector<const Lane*> lanes;  // in the order shown
  int growingRows = 0;             // below them: passes that are being recorded
  int scrolled = 0;                // pixels that the takes are moved up by
  bool setAside = false;           // there is a line of passes set aside
  std::vector<Frames> boundaries;  // of the composite's joins
  std::vector<Span> phrases;       // in order of time
  bool folded = false;             // the takes are hints in one line, and the composite has their room
  bool fitsAll = false;            // rows are as low as it takes for all to be in sight
  int chosenRowHeight = 0;         // 0: none was chosen
  const LevelLine* compositeLevel = nullptr;        // where it is shown, to be dragged
  const ResolvedComposite* riddenPieces = nullptr;  // where their own lines are

  [[nodiscard]] int rowCount() const { return folded ? 0 : static_cast<int>(lanes.size()) + growingRows; }
  [[nodiscard]] QRect rulerRect() const;
  [[nodiscard]] QRect punchRowRect() const;
  [[nodiscard]] QRect phraseRowRect() const;
  [[nodiscard]] QRect setAsideRect() const;  // of no height where nothing is
  [[nodiscard]] QRect compositeRect() const;
  /// Its waves, and what rides their level: under the names of its pieces.
  [[nodiscard]] QRect compositeWaveRect() const;
  /// What is between the line of passes set aside and the composite.
  [[nodiscard]] QRect lanesArea() const;
  [[nodiscard]] int rowHeight() const;
  /// Of the takes and of what grows; also outside lanesArea(), where it is scrolled away.
  [[nodiscard]] QRect rowRect(int index) const;
  /// How the composite in use begins and ends: from where to where it plays, and the lengths of its fades.
  struct EndFades {
    Span composite;
    Frames in;
    Frames out;
    /// Where their grips hang.
    [[nodiscard]] Frames inEnds() const { return composite.start + std::min(in, composite.length()); }
    [[nodiscard]] Frames outBegins() const { return composite.end - std::min(out, composite.length()); }
  };
  std::optional<EndFades> endFades;
  static constexpr int fadeGripHeight = 14;  // pixels from the top of the composite

  /// The place a take gets that is dragged to `y`, counted from 1, without those that are set aside.
  [[nodiscard]] int placeAt(int y) const;
  /// Of a folded take: what is left of it to be seen and clicked.
  [[nodiscard]] QRect hintRect(int index) const;
  /// Of levels in a row, and of what they mean there: +12 dB on top, -48 dB at the bottom.
  static constexpr double highestLevel = 12.0;
  static constexpr double lowestLevel = -48.0;
  [[nodiscard]] static double levelY(const QRect& row, Decibels level);
  [[nodiscard]] static Decibels levelAt(const QRect& row, double y);
  /// Pixels of all takes that have no room.
  [[nodiscard]] int hiddenHeight() const;
  [[nodiscard]] int xOf(Frames at) const {
    constexpr double farOut = 1.0e6;  // out of sight, and no number too large for a pixel
    return headWidth + static_cast<int>(std::lround(std::clamp(scale.x(at), -farOut, farOut)));
  }
  [[nodiscard]] Frames frameAt(double x) const { return std::max(Frames{}, scale.at(x - headWidth)); }
  [[nodiscard]] Frames reach() const {
    return {static_cast<std::int64_t>(grabPixels * scale.framesPerPixel)};
  }

  enum class Part {
    Nothing,
    Ruler,
    PunchRow,
    PhraseRow,
    SetAside,
    TakeCount,  // folds the takes, or opens them
    PhraseEdge,
    Hint,
    LaneName,
    RowEdge,  // under a lane's head: its height
    Lane,
    LevelLine,  // of `lane`, else of the composite
    ClipStart,
    ClipEnd,
    CompositeName,
    Composite,
    FadeIn,  // of the composite itself: where it has come in, and where it begins to go out
    FadeOut,
    Boundary
  };
  struct Hit {
    Part part = Part::Nothing;
    std::optional<LaneNumber> lane;
    Frames at;
    Frames boundary;
    Span window;                       // of the clip whose edge it is
    std::optional<Frames> point = {};  // of a level line, where one was taken hold of
  };
  /// Of what is in reach the nearest. Edges of clips are taken hold of in the lower third of a take, so that
  /// picking may begin right at them.
  [[nodiscard]] Hit hit(QPoint at) const;

 private:
  void hitLane(Hit& found, const Lane& lane, const QRect& row, QPoint at) const;
  void hitPhraseRow(Hit& found, QPoint at) const;
  void hitComposite(Hit& found, QPoint at) const;
  bool hitLevel(Hit& found, const LevelLine& line, const QRect& row, QPoint at) const;
};

}  // namespace yewdrift::app
