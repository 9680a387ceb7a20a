// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/views/lanes_view.h"

#include <QEvent>
#include <QScrollBar>

#include "app/look/painting.h"

namespace yewdrift::app {

LanesView::LanesView(SessionDesk& desk, InHand& inHand, Transport& transport, RecordingDesk& recording,
                     AnalysisDesk& analysis, ListeningDesk& listening, QWidget* parent)
    : QAbstractScrollArea(parent),
      desk_(desk),
      inHand_(inHand),
      transport_(transport),
      recording_(recording),
      analysis_(analysis),
      listening_(listening),
      held_(desk),
      spans_(desk, inHand, recording) {
  setAccessibleName(tr("Takes and composite"));
  setFrameShape(QFrame::NoFrame);
  setFocusPolicy(Qt::StrongFocus);
  viewport()->setMouseTracking(true);
  setAcceptDrops(true);
  setMinimumHeight(220);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
  connect(&desk, &SessionDesk::changed, this, &LanesView::contentChanged);
  connect(&inHand, &InHand::changed, this, &LanesView::inHandChanged);
  connect(&transport, &Transport::changed, this, &LanesView::contentChanged);
  connect(&analysis, &AnalysisDesk::changed, this, [this] {
    const Track* track = inHand_.track();
    if (track && (showsMeasures_ || AnalysisDesk::isShown(*track))) contentChanged();
  });
  connect(&listening, &ListeningDesk::changed, this, &LanesView::contentChanged);
  connect(&desk.peaks(), &PeaksStore::ready, this, &LanesView::contentChanged);
  connect(&desk.samples(), &SamplesStore::ready, this, &LanesView::contentChanged);
  connect(&transport, &Transport::moved, this, &LanesView::moved);
  edgeScroll_.setInterval(30);
  connect(&edgeScroll_, &QTimer::timeout, this, &LanesView::scrollWhileDragging);
}

// -- geometry

std::vector<const Lane*> LanesView::rows() const {
  std::vector<const Lane*> shown;
  const Track* track = inHand_.track();
  if (!track) return shown;
  if (showSetAside_)
    for (const auto& lane : track->lanes)
      if (lane->setAside) shown.push_back(&*lane);
  for (const LaneNumber lane : inHand_.takes()) shown.push_back(track->lane(lane));
  return shown;
}

LanesGeometry LanesView::geometry() const {
  LanesGeometry now;
  now.markers = !desk_.session().markers.empty();
  now.fitTo(fontMetrics().height(), fontMetrics().averageCharWidth());
  now.size = viewport()->size();
  now.scale = scale_;
  now.scrolled = verticalScrollBar()->value();
  const Track* track = inHand_.track();
  if (!track) return now;
  now.lanes = rows();
  now.folded = folded_;
  now.fitsAll = fitsAll_;
  now.chosenRowHeight = chosenRowHeight_;
  if (rides_ == Rides::Composite) now.compositeLevel = &track->composite.level;
  if (rides_ == Rides::Pieces) now.riddenPieces = &inHand_.composite(*track);
  if (const auto& pieces = inHand_.composite(*track).pieces; !pieces.empty())
    now.endFades = {{pieces.front().span.start, pieces.back().span.end},
                    track->composite.fadeIn.length,
                    track->composite.fadeOut.length};
  for (const Phrase& phrase : inHand_.phrases()) now.phrases.push_back(phrase.span);
  now.setAside =
      std::any_of(track->lanes.begin(), track->lanes.end(), [](const auto& lane) { return lane->setAside; });
  int lastNumber = 0;
  for (const GrowingPass& pass : recording_.growing())
    if (pass.track == track->id && std::exchange(lastNumber, pass.number.value) != pass.number.value)
      ++now.growingRows;
  for (const Join& join : inHand_.composite(*track).joins) now.boundaries.push_back(join.at);
  return now;
}

Span LanesView::visibleSpan() const {
  return {scale_.at(0), scale_.at(std::max(1, viewport()->width() - geometry().headWidth))};
}

double LanesView::leastZoom() const {
  const double width = std::max(100, viewport()->width() - geometry().headWidth);
  const Span all = materialOf(desk_.session());
  const Frames least = framesFromSeconds(60.0, desk_.session().rate);
  return std::clamp(2.0 * static_cast<double>(std::max(all.end, least).count) / width, 2.0, 4.0e6);
}

void LanesView::showSpan(Span span) {
  const double width = std::max(100, viewport()->width() - geometry().headWidth);
  const double margin = static_cast<double>(span.length().count) * 0.03;
  scale_.framesPerPixel =
      std::clamp((static_cast<double>(span.length().count) + 2 * margin) / width, TimeScale::closest, 4.0e6);
  scrollTo(span.start - Frames{static_cast<std::int64_t>(margin)});
}

void LanesView::lookAt(Span span) {
  if (span.empty()) return;
  const Look now{scale_.origin, scale_.framesPerPixel};
  showSpan(span);
  // From one look to the next, what one wants back is what was there before the first.
  if (!former_ || looked_ != now) former_ = now;
  looked_ = Look{scale_.origin, scale_.framesPerPixel};
}

void LanesView::bringInSight(Span span) {
  const Span shown = visibleSpan();
  if (span.start >= shown.start && span.end <= shown.end) return;
  if (span.length() > shown.length()) return lookAt(span);
  const Look now{scale_.origin, scale_.framesPerPixel};
  if (!former_ || looked_ != now) former_ = now;
  scrollTo(span.start - Frames{(shown.length() - span.length()).count / 4});
  looked_ = Look{scale_.origin, scale_.framesPerPixel};
}

void LanesView::showFormer() {
  if (!former_) return emit refused(tr("The view did not go anywhere by itself."));
  scale_.framesPerPixel = former_->framesPerPixel;
  scrollTo(std::exchange(former_, {})->origin);
}

void LanesView::setFolded(bool folded) {
  folded_ = folded;
  contentChanged();
}

void LanesView::setFitsAll(bool fits) {
  fitsAll_ = fits;
  chosenRowHeight_ = 0;
  contentChanged();
}

void LanesView::setShowsMeasures(bool on) {
  showsMeasures_ = on;
  analysis_.setWanted(this, on ? AnalysisDesk::Want::Cells : AnalysisDesk::Want::Nothing);
  contentChanged();
}

void LanesView::scaleWaves(int steps) {
  waveSteps_ = std::clamp(waveSteps_ + steps, -4, 12);
  contentChanged();
}

void LanesView::setRides(Rides what) {
  rides_ = what;
  contentChanged();
}

void LanesView::scrollTo(Frames left) {
  scale_.origin = std::max(left, Frames{-static_cast<std::int64_t>(20 * scale_.framesPerPixel)});
  updateScrollBars();
  contentChanged();
  emit scrolled();
}

void LanesView::zoom(double factor) {
  const double middle = (viewport()->width() - geometry().headWidth) / 2.0;
  const double playhead = scale_.x(transport_.state().position);
  const bool inSight = playhead > 0 && playhead < 2 * middle;
  scale_ = scale_.zoomed(factor, inSight ? playhead : middle, leastZoom());
  scrollTo(scale_.origin);
}

void LanesView::updateScrollBars() {
  const QSignalBlocker quietly(horizontalScrollBar());
  const LanesGeometry now = geometry();
  const Span all = materialOf(desk_.session());
  // A pixel each, as long as a scroll bar can count them.
  constexpr double mostUnits = 1.0e9;
  const double last = static_cast<double>(std::max(all.end, scale_.origin).count);
  framesPerScroll_ = std::max(scale_.framesPerPixel, last / mostUnits);
  const auto unit = [this](Frames f) {
    return static_cast<int>(static_cast<double>(f.count) / framesPerScroll_);
  };
  const double pixel = scale_.framesPerPixel / framesPerScroll_;
  const int width = std::max(1, viewport()->width() - now.headWidth);
  const int page = std::max(1, static_cast<int>(width * pixel));
  horizontalScrollBar()->setPageStep(page);
  horizontalScrollBar()->setSingleStep(std::max(1, static_cast<int>(40 * pixel)));
  horizontalScrollBar()->setRange(-20, std::max({unit(all.end) + 60 - page, unit(scale_.origin), -20}));
  horizontalScrollBar()->setValue(unit(scale_.origin));
  verticalScrollBar()->setPageStep(std::max(now.lanesArea().height(), 1));
  verticalScrollBar()->setSingleStep(now.rowHeight() / 2);
  verticalScrollBar()->setRange(0, now.hiddenHeight());
}

void LanesView::scrollContentsBy(int dx, int) {
  if (dx != 0) scale_.origin = Frames{std::llround(horizontalScrollBar()->value() * framesPerScroll_)};
  layerStale_ = true;
  viewport()->update();
  emit scrolled();
}

void LanesView::showRow(int index) {
  const LanesGeometry now = geometry();
  const QRect area = now.lanesArea();
  const QRect row = now.rowRect(index);
  int by = 0;
  if (row.bottom() > area.bottom()) by = row.bottom() - area.bottom();
  if (row.top() - by < area.top()) by = row.top() - area.top();
  verticalScrollBar()->setValue(verticalScrollBar()->value() + by);
}

// -- what changes

void LanesView::contentChanged() {
  layerStale_ = true;
  // How far it goes depends on the material, on the rows and on what lies beside them.
  updateScrollBars();
  const int now = geometry().rowCount();
  const bool more = now > shownRows_;
  const bool another = std::exchange(shownTrack_, inHand_.trackId()) != inHand_.trackId();
  shownRows_ = now;
  // The newest take lies lowest, next to the composite.
  if (more || another) showRow(now - 1);
  followHeardRow();
  viewport()->update();
}

/// The take that is heard stays in sight where it gets another place among the others.
void LanesView::followHeardRow() {
  const std::vector<const Lane*> shown = rows();
  const auto heard = std::find_if(shown.begin(), shown.end(),
                                  [this](const Lane* lane) { return lane->number == inHand_.heardLane(); });
  const int row = heard == shown.end() ? -1 : static_cast<int>(heard - shown.begin());
  const bool another = std::exchange(shownHeard_, inHand_.heardLane()) != inHand_.heardLane();
  const bool elsewhere = std::exchange(shownHeardRow_, row) != row;
  if ((elsewhere || another) && row >= 0) showRow(row);
}

void LanesView::inHandChanged() {
  contentChanged();
}

void LanesView::moved() {
  const EngineState transport = transport_.state();
  // A file that is heard by itself has a time of its own.
  if (transport.rolling && gesture_.idle() && transport_.heardFile().empty()) autoScroll(transport.position);
  updateGrowing();
  // Of the playhead only where it was and where it is.
  const LanesGeometry now = geometry();
  const int x = now.xOf(transport.position);
  if (x == shownPlayhead_) return;
  for (const int at : {shownPlayhead_, x})
    if (at >= now.headWidth - 8) viewport()->update(at - 8, 0, 17, viewport()->height());
  // What pressing record would do follows the playhead.
  if (!recording_.armedTracks().empty() && !recording_.recording()) viewport()->update(now.punchRowRect());
}

void LanesView::updateGrowing() {
  const Track* track = inHand_.track();
  std::vector<std::pair<int, int>> reached;
  const LanesGeometry now = geometry();
  int row = static_cast<int>(now.lanes.size()) - 1;
  int number = 0;
  for (const GrowingPass& pass : recording_.growing()) {
    if (!track || pass.track != track->id) continue;
    if (std::exchange(number, pass.number.value) != pass.number.value) ++row;
    reached.emplace_back(row, now.xOf(pass.pass.window.end));
  }
  if (reached.size() != shownGrowing_.size()) {
    shownGrowing_ = std::move(reached);
    return contentChanged();
  }
  for (std::size_t i = 0; i < reached.size(); ++i) {
    const int from = std::min(shownGrowing_[i].second, reached[i].second) - 2;
    const int to = std::max(shownGrowing_[i].second, reached[i].second) + 2;
    if (reached[i] == shownGrowing_[i]) continue;
    const QRect whole = now.rowRect(reached[i].first).intersected(now.lanesArea());
    viewport()->update(QRect(std::max(from, now.headWidth), whole.top(), to - from + 1, whole.height()));
  }
  shownGrowing_ = std::move(reached);
}

void LanesView::autoScroll(Frames playhead) {
  const Span visible = visibleSpan();
  if (!visible.contains(playhead)) scrollTo(playhead - Frames{visible.length().count / 20});
}

void LanesView::resizeEvent(QResizeEvent* event) {
  QAbstractScrollArea::resizeEvent(event);
  // What was next to the composite stays there, however much room there is.
  const bool newestShown = verticalScrollBar()->value() == verticalScrollBar()->maximum();
  contentChanged();
  if (newestShown) verticalScrollBar()->setValue(verticalScrollBar()->maximum());
  emit scrolled();
}

void LanesView::focusInEvent(QFocusEvent* event) {
  QAbstractScrollArea::focusInEvent(event);
  viewport()->update();
}

void LanesView::focusOutEvent(QFocusEvent* event) {
  QAbstractScrollArea::focusOutEvent(event);
  viewport()->update();
}

void LanesView::changeEvent(QEvent* event) {
  QAbstractScrollArea::changeEvent(event);
  if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange ||
      event->type() == QEvent::PaletteChange)
    contentChanged();
}

}  // namespace yewdrift::app
