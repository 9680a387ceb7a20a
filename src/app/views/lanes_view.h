// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractScrollArea>
#include <QPixmap>
#include <QTimer>
#include <cmath>

#include "app/desk/in_hand.h"
#include "app/desk/listening_desk.h"
#include "app/desk/phrase_steps.h"
#include "app/desk/recording_desk.h"
#include "app/desk/session_desk.h"
#include "app/desk/transport.h"
#include "app/views/lanes_geometry.h"
#include "app/views/pointer_gesture.h"
#include "app/views/span_gestures.h"
#include "app/views/wheel_steps.h"

namespace yewdrift::app {

/// A lane, piece or join in words, and what lies where.
struct SpokenItem {
  enum class Kind { Lane, Piece, Join };
  QString name;
  QString detail;
  QRect where;  // in the viewport
  bool inHand = false;
  Kind kind = Kind::Lane;
  Span span;
  std::optional<LaneNumber> lane;
};

/// The takes of the track in hand, in lanes, and under them the composite. Gestures are in docs/interface.md.
class LanesView : public QAbstractScrollArea {
  Q_OBJECT
 public:
  explicit LanesView(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     AnalysisDesk& analysis, ListeningDesk& listening, QWidget* parent = nullptr);

  [[nodiscard]] Span visibleSpan() const;
  [[nodiscard]] const TimeScale& scale() const { return scale_; }
  void showSpan(Span span);
  void scrollTo(Frames left);
  /// No further out than all there is with as much room beside it.
  void zoom(double factor);
  /// The takes are folded down to hints of each, and the composite has their room.
  void setFolded(bool folded);
  [[nodiscard]] bool folded() const { return folded_; }
  /// All takes in sight, however low; or as high as is good to look at.
  void setFitsAll(bool fits);
  [[nodiscard]] bool fitsAll() const { return fitsAll_; }
  /// Waves are drawn higher, or lower, than the loudest of them fits: one scale for all takes.
  void scaleWaves(int steps);
  [[nodiscard]] double waveScale() const { return std::pow(2.0, waveSteps_ / 2.0); }
  /// The line that rides the composite's level, or those of its pieces, is shown, to be dragged.
  enum class Rides { Nothing, Composite, Pieces };
  void setRides(Rides what);
  [[nodiscard]] Rides rides() const { return rides_; }
  /// Cells show what was measured of them: where the take lies against the others, how loud it is.
  void setShowsMeasures(bool on);
  /// Where the join at a boundary would be better: a boundary that is dragged is softly drawn there.
  void setGoodPlaces(std::function<std::vector<Frames>(Frames join)> find) {
    findGoodPlaces_ = std::move(find);
  }
  [[nodiscard]] bool showsMeasures() const { return showsMeasures_; }
  /// In numbers, the most telling first.
  [[nodiscard]] static QStringList measuresInWords(const CellMeasures& cell);
  /// Shows that span, and keeps what was shown for showFormer(). Where nothing is kept that does nothing.
  void lookAt(Span span);
  void showFormer();
  /// Goes there as far as it takes for all of it to be seen, and no closer.
  void bringInSight(Span span);
  /// Where things are now, for tests and for accessibility.
  [[nodiscard]] LanesGeometry geometry() const;
  /// The lanes in the order shown: those set aside first, where they are unfolded.
  [[nodiscard]] std::vector<const Lane*> rows() const;
  [[nodiscard]] QRect laneRect(int index) const { return geometry().rowRect(index); }
  [[nodiscard]] QRect compositeRect() const { return geometry().compositeRect(); }
  [[nodiscard]] QRect rulerRect() const { return geometry().rulerRect(); }
  [[nodiscard]] QRect punchRowRect() const { return geometry().punchRowRect(); }
  [[nodiscard]] QRect phraseRowRect() const { return geometry().phraseRowRect(); }
  [[nodiscard]] QRect setAsideRect() const { return geometry().setAsideRect(); }
  [[nodiscard]] int xOf(Frames at) const { return geometry().xOf(at); }
  /// What a screen reader tells of all of it, and of each thing in it.
  [[nodiscard]] QString spoken() const;
  [[nodiscard]] QList<SpokenItem> spokenItems() const;
  /// As if that item had been clicked.
  void actOn(qsizetype index);

 signals:
  void scrolled();
  /// Files were dropped on the takes, at that frame.
  void filesDropped(const QStringList& files, Frames at);
  /// What can be done with what is there.
  void menuAsked(const LanesGeometry::Hit& where, QPoint global);
  /// A phrase was clicked.
  void phraseAsked(const Phrase& phrase);
  /// Why what was tried with the mouse does nothing now.
  void refused(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void changeEvent(QEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragMoveEvent(QDragMoveEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool viewportEvent(QEvent* event) override;
  void scrollContentsBy(int dx, int dy) override;

 private:
  using Part = LanesGeometry::Part;
  using Hit = LanesGeometry::Hit;
  enum class Drag {
    None,
    Pick,
    Select,
    Boundary,
    ClipStart,
    ClipEnd,
    Span,
    Nudge,
    Slip,
    PhraseEdge,
    Level,
    Place,
    EndFade,
    RowHeight
  };

  [[nodiscard]] QRectF timeBox(const QRect& row) const;  // in drawn_
  [[nodiscard]] double leastZoom() const;
  void take(PointerGesture::Step step, QPoint at, Qt::KeyboardModifiers modifiers);
  void beginDrag();
  void goOnDragging(QPoint at, bool free);
  [[nodiscard]] std::vector<Frames> goodPlaces() const;
  bool takeLevel();
  [[nodiscard]] Span draggedOver(Frames now, bool free);
  void dragPick(Frames now, bool free);
  void dragMaterial(Frames now, bool free);
  void dragLevel(QPoint at, Frames now);
  void dragPlace(int y);
  void dragEndFade(Frames now);
  void drawDifferences(QPainter& painter, const QRectF& box);
  void drawPieceLevels(QPainter& painter, const QRect& row, const ResolvedComposite& composite);
  void drawLevelLine(QPainter& painter, const QRect& row, const LevelLine& line);
  void drawHints(QPainter& painter, const Track& track);
  void endDrag();
  void tellOfDrag();
  void dragIsOver(HeldEdit::Ended how);
  void scrollWhileDragging();
  void click(const Hit& where);
  void locate(Frames at);
  void showCursor(QPoint at);
  [[nodiscard]] QString tipFor(const Hit& where) const;
  [[nodiscard]] QString cellTip(const Hit& where) const;
  void moved();
  void contentChanged();
  void inHandChanged();
  void showRow(int index);
  void followHeardRow();
  void updateScrollBars();
  void autoScroll(Frames playhead);
  void updateGrowing();

  void renderLayer();
  void drawHead(QPainter& painter, const QRect& row, const QString& title, const QString& detail,
                int laneNumber, bool heard, int rating = 0);
  void drawBlindLane(QPainter& painter, const QRect& row, const Lane& lane);
  void drawPlayed(QPainter& painter, const QRectF& box, const Track& track, const Lane& lane);
  [[nodiscard]] QString detailOf(const Track& track, const Lane& lane) const;
  void drawLane(QPainter& painter, const QRect& row, const Track& track, const Lane& lane);
  void drawGrowing(QPainter& painter, const QRect& dirty);
  void drawGrowingPass(QPainter& painter, const QRect& row, const GrowingPass& pass, bool first, Span shown);
  void drawComposite(QPainter& painter, const Track& track);
  void drawPiece(QPainter& painter, const QRectF& box, const Track& track, const Piece& piece);
  void drawEndFades(QPainter& painter, const QRectF& box, const Track& track);
  void drawJoins(QPainter& painter, const QRectF& box, const ResolvedComposite& composite);
  void drawSelection(QPainter& painter, const QRectF& box, Span selection);
  void drawUnit(QPainter& painter, const QRectF& box, const Lane& lane);
  void drawClip(QPainter& painter, const QRectF& box, const Clip& clip, Frames slip, Span span,
                const QColor& colour, bool wholeSet);
  void drawEmpty(QPainter& painter);
  void drawRulers(QPainter& painter, const Track& track);
  void drawSetAside(QPainter& painter, const Track& track);
  [[nodiscard]] double enlargement(const Track& track);
  [[nodiscard]] bool looksClose(const Track& track) const;
  bool drawClose(QPainter& painter, const QRectF& box, const PoolFile& file, int channel, Frames origin,
                 Span span, const QColor& colour);
  void drawPunchBands(QPainter& painter, const QRect& area);
  [[nodiscard]] QRectF columnOf(Span span, const QRectF& row) const;
  void drawPhraseRow(QPainter& painter, const Track& track);
  void drawColumns(QPainter& painter, const QRect& area);
  void drawMeasured(QPainter& painter, const QRectF& box, const Lane& lane);
  void drawSemitones(QPainter& painter, const QRectF& box);
  void findPitches();
  [[nodiscard]] Frames framesPerValue() const;
  void drawCells(QPainter& painter, const QRectF& box, const Lane& lane);
  void drawMeasures(QPainter& painter, const QRectF& cell, const CellMeasures& measures);

  SessionDesk& desk_;
  InHand& inHand_;
  Transport& transport_;
  RecordingDesk& recording_;
  AnalysisDesk& analysis_;
  ListeningDesk& listening_;
  TimeScale scale_;
  LanesGeometry drawn_;  // what the paint that is under way goes by
  QPixmap layer_;        // all but what moves by itself: the playhead, the passes that grow
  bool layerStale_ = true;
  double enlarged_ = 1.0;  // of waves
  int waveSteps_ = 0;      // by which waves are higher than fits, two of them twice as high
  bool close_ = false;     // so that samples are seen, not peaks
  std::vector<float> closeSamples_;
  PointerGesture gesture_;
  HeldEdit held_;
  Drag drag_ = Drag::None;
  Hit pressed_;
  bool together_ = false;  // with what is heard
  int pressedRow_ = 0;
  std::optional<Span> selectedBefore_;
  QPoint pointer_;
  bool pointerFree_ = false;
  QTimer edgeScroll_;
  std::function<std::vector<Frames>(Frames join)> findGoodPlaces_;
  WheelSteps wheel_;
  SpanGestures spans_;
  bool showSetAside_ = false;
  double framesPerScroll_ = 1.0;  // a step of the scroll bar
  bool folded_ = false;
  bool fitsAll_ = false;
  int chosenRowHeight_ = 0;
  Rides rides_ = Rides::Nothing;
  bool showsMeasures_ = false;
  /// How high the takes that show their pitch are, pixel by pixel, and the range that all of them share.
  struct ShownPitches {
    std::map<LaneNumber, std::vector<float>> lanes;  // in cents; NaN where there is none
    double low = 0.0;
    double high = 0.0;
  };
  ShownPitches pitches_;
  std::vector<Phrase> draggedPhrases_;  // as they were when an edge was taken hold of
  Frames slipBefore_;                   // of the piece that is slipped
  Span draggedSpan_;                    // that is to be picked, or selected
  std::vector<Frames> edgesBefore_;     // of the composite's pieces, before the drag changed them
  std::vector<Sentence> pickNotices_;   // what there is to say of that pick
  LevelLine draggedLevel_;              // without the point that is dragged
  std::optional<Span> riddenPiece_;     // the level that is dragged is that piece's
  int heightBefore_ = 0;
  struct Look {
    Frames origin;
    double framesPerPixel = 1.0;
    bool operator==(const Look&) const = default;
  };
  std::optional<Look> former_;
  std::optional<Look> looked_;  // where lookAt() has led
  int shownRows_ = 0;
  TrackId shownTrack_{};
  std::optional<LaneNumber> shownHeard_;
  int shownHeardRow_ = -1;
  int shownPlayhead_ = -1;                         // pixel
  std::vector<std::pair<int, int>> shownGrowing_;  // of each pass: its row, and the pixel it reached
};

}  // namespace yewdrift::app
