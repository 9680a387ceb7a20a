// SPDX-License-Identifier: GPL-3.0-or-later
//
// What lanes show over their waves, as it is painted.
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include "app/look/theme.h"
#include "ui/round_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

namespace {

/// Takes of one tone each; the third is half as loud.
fs::path makeTones(const TemporaryFolder& temporary) {
  const Samples a = sine(480000, 440.0, 48000.0, 0.2F);
  const Samples b = sine(480000, 440.0 * std::pow(2.0, 1.0 / 12.0), 48000.0, 0.2F);
  return makeSessionOf(temporary, {a, b, sine(480000, 440.0, 48000.0, 0.1F)});
}

struct MeasuredRig : ImpatientRig {
  explicit MeasuredRig(const fs::path& path) : ImpatientRig(path) {
    lanes().showSpan({{}, {480000}});
    turn();
  }
  /// Until it is painted: what is shown of a lane is measured in the background once it is to be seen.
  void show(int lane, LanePicture picture) {
    REQUIRE(studio().desk().apply("Show", [=, id = track().id](const Session& s) {
      return changeLane(s, id, LaneNumber{lane}, LaneChange{.picture = picture});
    }));
    REQUIRE(waitFor([&] { return !line(lane).empty(); }));
    turn();
  }
  /// Where the line of a lane is painted in the middle of what is shown: above the middle of its row, in
  /// pixels.
  std::vector<double> line(int lane) {
    const QImage image = view()->grab().toImage();
    const QRect row = lanes().laneRect(lane - 1);
    std::vector<double> found;
    for (int y = row.top() + 1; y < row.bottom(); ++y)
      if (image.pixelColor(lanes().xOf({240000}), y) == theme().text)
        found.push_back(QRectF(row).center().y() - (y + 0.5));
    return found;
  }
  double lineAbove(int lane) {
    const std::vector<double> found = line(lane);
    REQUIRE(!found.empty());
    REQUIRE(found.size() <= 3);
    return std::accumulate(found.begin(), found.end(), 0.0) / static_cast<double>(found.size());
  }
  /// Pixels from the bottom of what is painted of a row to its top.
  double height() { return lanes().laneRect(0).height() - 12.0; }
};

}  // namespace

TEST_CASE("Takes that show their pitch share one range, so a semitone is as far in each of them") {
  const TemporaryFolder temporary;
  MeasuredRig rig(makeTones(temporary));
  rig.show(1, LanePicture::Pitch);
  // Alone it runs in the middle, with a semitone above and one below.
  CHECK(std::abs(rig.lineAbove(1)) <= 1.0);
  rig.show(2, LanePicture::Pitch);
  CHECK(rig.lineAbove(1) == Approx(-rig.height() / 6.0).margin(1.0));
  CHECK(rig.lineAbove(2) == Approx(rig.height() / 6.0).margin(1.0));
  // Shifted by a semitone it is as high as the other one.
  REQUIRE(rig.studio().desk().apply("Shift", [id = rig.track().id](const Session& s) {
    return changeLane(s, id, LaneNumber{1}, LaneChange{.pitch = Cents{100.0}});
  }));
  rig.turn();
  CHECK(std::abs(rig.lineAbove(1)) <= 1.0);
  CHECK(std::abs(rig.lineAbove(2)) <= 1.0);
}

TEST_CASE("Levels are shown over the upper 60 dB, with the line that rides them") {
  const TemporaryFolder temporary;
  MeasuredRig rig(makeTones(temporary));
  rig.show(1, LanePicture::Level);
  rig.show(3, LanePicture::Level);
  // A sine whose peak is at 0.2: its mean square is at -17 dB; half as loud 6 dB below.
  const auto at = [&](double decibels) { return rig.height() * ((decibels + 60.0) / 60.0 - 0.5); };
  const double level = 20.0 * std::log10(0.2) - 3.01;
  CHECK(rig.lineAbove(1) == Approx(at(level)).margin(1.0));
  CHECK(rig.lineAbove(3) == Approx(at(level - 6.02)).margin(1.0));
  REQUIRE(rig.studio().desk().apply("Ride", [id = rig.track().id](const Session& s) {
    return setLevel(s, id, LaneNumber{1}, LevelLine{{{0}, {-12.0}}});
  }));
  rig.turn();
  CHECK(rig.lineAbove(1) == Approx(at(level - 12.0)).margin(1.0));
}
