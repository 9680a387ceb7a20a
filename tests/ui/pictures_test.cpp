// SPDX-License-Identifier: GPL-3.0-or-later
//
// The picture of takes and composite: what changes is painted where it lies in time and in its row, all else
// stays to the pixel, and what is taken back is painted as it was.
#include <QImage>
#include "ui/ui_tests.h"

#include "ui/round_rig.h"

namespace {

struct Painted : RoundRig {
  explicit Painted(const fs::path& path) : RoundRig(path) {
    window->resize(1280, 900);
    REQUIRE(waitFor([&] { return !studio().desk().peaks().busy() && !studio().jobs().busy(); }));
    rows = lanes().geometry();
  }
  QImage shot() {
    wait(64);
    return view()->grab().toImage();
  }
  /// From one frame to another, so many pixels more on either side, in those rows.
  [[nodiscard]] QRect columns(Span span, int more, const QRect& in) const {
    const int left = std::max(rows.xOf(span.start) - more, rows.headWidth);
    return {QPoint(left, in.top()), QPoint(rows.xOf(span.end) + more, in.bottom())};
  }
  [[nodiscard]] QRect head(const QRect& row) const {
    return {row.topLeft(), QSize(rows.headWidth, row.height())};
  }
  /// What `change` paints anew lies in `parts`, and reaches their edges to some pixels; or lies in `words`.
  /// `back` brings the picture that was.
  void paints(const std::string& what, const std::vector<QRect>& parts, const std::vector<QRect>& words,
              const std::function<void()>& change, const std::function<void()>& back) {
    constexpr int nearly = 7;
    INFO(what);
    const QImage before = shot();
    change();
    const QImage after = shot();
    QRegion found;
    for (int y = 0; y < before.height(); ++y)
      for (int x = 0, end = 0; x < before.width(); x = end + 1) {
        for (end = x; end < before.width() && before.pixel(end, y) != after.pixel(end, y);) ++end;
        if (end > x) found |= QRect(x, y, end - x, 1);
      }
    for (const QRect& part : parts) {
      const QRect seen = part & view()->rect();
      const QRect here = (found & seen).boundingRect();
      CAPTURE(seen.left(), seen.right(), seen.top(), seen.bottom());
      CAPTURE(here.left(), here.right(), here.top(), here.bottom());
      CHECK(here.adjusted(-nearly, -nearly, nearly, nearly).contains(seen));
    }
    for (const QRect& each : words) CHECK(found.intersects(each));
    for (const auto* each : {&parts, &words})
      for (const QRect& allowed : *each) found -= allowed;
    const QRect beyond = found.boundingRect();
    CAPTURE(beyond.left(), beyond.right(), beyond.top(), beyond.bottom());
    CHECK(found.isEmpty());
    back();
    CHECK(shot() == before);
  }
  void edits(const std::string& what, const std::vector<QRect>& parts, const std::vector<QRect>& words,
             const SessionDesk::Edit& edit) {
    paints(
        what, parts, words, [&] { REQUIRE(studio().desk().apply("Edit", edit)); },
        [&] { studio().desk().undo(); });
  }
  LanesGeometry rows;
};

}  // namespace

TEST_CASE("What changes is painted where it lies in time and in its row, and all else stays to the pixel") {
  const TemporaryFolder temporary;
  Painted rig(makePhrases(temporary));
  InHand& hand = rig.studio().inHand();
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Begin", [&](const Session& s) {
    return addMarker(setTrackSwitch(s, id, TrackSwitch::Arm, false), {}, "Start");
  }));
  rig.wait(64);
  const LanesGeometry& rows = rig.rows = rig.lanes().geometry();
  const Phrase second = rig.phrases()[1];
  const QRect lane = rows.rowRect(1);
  const QRect composite = rows.compositeRect();
  const QRect wave = rows.compositeWaveRect();
  const QRect all(rows.phraseRowRect().topLeft(), composite.bottomRight());
  const QRect decided = rig.head(rows.phraseRowRect());
  const Span everywhere{{-100000}, {600000}};
  const QRect names(composite.topLeft(), wave.topRight());  // of pieces

  rig.edits("a name", {}, {rig.head(lane)},
            [&](const Session& s) { return changeLane(s, id, {2}, {.name = "Warm"}); });
  rig.edits("a rating", {}, {rig.head(lane)},
            [&](const Session& s) { return changeLane(s, id, {2}, {.rating = 4}); });
  rig.edits("a marker", {}, {rig.columns({{240000}, {240000}}, 60, rows.rulerRect() | rows.punchRowRect())},
            [&](const Session& s) { return addMarker(s, {240000}, "Bell"); });
  rig.edits("the loop's end", {rig.columns({{192000}, {288000}}, 8, rows.rulerRect())}, {},
            [&](const Session& s) {
              return setLoop(s, Span{{96000}, {288000}});
            });
  rig.edits("a punch", {rig.columns({{240000}, {288000}}, 3, rows.punchRowRect())},
            {rig.columns({{240000}, {240000}}, 1, all), rig.columns({{288000}, {288000}}, 1, all)},
            [&](const Session& s) {
              return addPunch(s, {{240000}, {288000}});
            });
  rig.edits("a level", {rig.columns(everywhere, 0, lane)}, {},
            [&](const Session& s) { return changeLane(s, id, {2}, {.picture = LanePicture::Level}); });
  rig.edits("the end of a take", {rig.columns({{430000}, {480000}}, 3, QRect(lane.center(), QSize(1, 1)))},
            {rig.head(lane)}, [&](const Session& s) {
              return pullWindow(s, id, {2}, {{}, {430000}});
            });
  rig.edits("a pick", {rig.columns(second.span, 8, wave)},
            {decided, rig.head(composite), rig.columns(second.span, 8, all), names},
            [&](const Session& s) { return pick(s, id, second.span, LaneNumber{1}); });
  rig.edits("a fade", {rig.columns({{}, {60000}}, 8, composite)}, {}, [&](const Session& s) {
    return setEndFade(s, id, CompositeEnd::Start, {{60000}, {}});
  });
  rig.paints(
      "a selection", {rig.columns({{100000}, {200000}}, 3, composite)}, {},
      [&] {
        hand.select(Span{{100000}, {200000}});
      },
      [&] { hand.select(std::nullopt); });
  rig.paints(
      "a phrase in hand", {rig.columns(second.cell, 3, all)}, {}, [&] { hand.takePhrase(second); },
      [&] { hand.letGoOfUnit(); });
  rig.paints(
      "a take heard", {}, {rig.head(lane), rig.head(composite)}, [&] { hand.hear(LaneNumber{2}); },
      [&] { hand.hear(std::nullopt); });
}

TEST_CASE("Shown so many pixels farther on, everything in time is so many pixels farther left") {
  const TemporaryFolder temporary;
  Painted rig(makePhrases(temporary));
  const TrackId id = rig.track().id;
  REQUIRE(rig.studio().desk().apply("Everything", [&](Session s) {
    s = changeLane(s, id, {1}, {.picture = LanePicture::Level});
    s = changeLane(s, id, {2}, {.picture = LanePicture::Pitch});
    s = changeLane(s, id, {3}, {.picture = LanePicture::Onsets});
    s = setLevel(s, id, LaneNumber{1}, {{{150000}, {-6.0}}, {{400000}, {3.0}}});
    for (int at = 260000; at < 470000; at += 30000)
      s = pick(s, id, {{at}, {at + 20000}}, LaneNumber{at / 10000 % 2 + 1});
    s = addMarker(addPunch(addPunch(s, {{280000}, {300000}}), {{360000}, {400000}}), {320000}, "Bell");
    return setEndFade(s, id, CompositeEnd::End, {{60000}, {}});
  }));
  rig.lanes().setRides(LanesView::Rides::Composite);
  rig.studio().inHand().takePhrase(rig.phrases()[2]);
  REQUIRE(rig.waitFor([&] { return !rig.studio().jobs().busy(); }));
  // A whole number of frames a pixel, so that every pixel shows the same frames as before.
  const int wide = rig.view()->width() - rig.rows.headWidth;
  rig.lanes().showSpan({{}, {std::int64_t{500} * wide}});
  const double scale = rig.lanes().scale().framesPerPixel;
  REQUIRE(scale == 530.0);
  const Frames from = rig.lanes().scale().origin;
  const QImage before = rig.shot();
  constexpr int pixels = 40;
  rig.lanes().scrollTo(from + Frames{std::int64_t{pixels} * 530});
  const QImage after = rig.shot();
  // Words, and the dotted lines of 0 dB, begin at the left edge of what is seen.
  const int left = rig.rows.headWidth + 200;
  const LanesGeometry& rows = rig.rows = rig.lanes().geometry();
  const auto dotted = [&](int y) {
    return std::abs(y - LanesGeometry::levelY(rows.rowRect(0), {})) < 2.0 ||
           std::abs(y - LanesGeometry::levelY(rows.compositeWaveRect(), {})) < 2.0;
  };
  QRect differing;
  for (int y = 4; y < before.height() - 4; ++y)
    for (int x = left; x + pixels < before.width() - 4; ++x)
      if (!dotted(y) && before.pixel(x + pixels, y) != after.pixel(x, y)) differing |= QRect(x, y, 1, 1);
  CAPTURE(differing.left(), differing.right(), differing.top(), differing.bottom());
  CHECK(differing.isEmpty());
}
