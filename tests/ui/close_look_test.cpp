// SPDX-License-Identifier: GPL-3.0-or-later
//
// Takes looked at closely: down to their samples, as high as one wants them.
#include <QSignalSpy>
#include <catch2/catch.hpp>

#include "app/desk/samples_store.h"
#include "app/look/painting.h"
#include "app/look/theme.h"
#include "ui/impatient_rig.h"

using namespace yewdrift;
using namespace yewdrift::test;
using namespace yewdrift::app;

namespace {

/// A session's folder with stereo samples in one file, and who asks for them.
struct StoreRig {
  explicit StoreRig(std::size_t length) : left(noise(length, 1)), right(noise(length, 2)) {
    const fs::path path = temporary / "s";
    store = std::make_unique<SamplesStore>(SessionFolder::create(path, Session{}).disk());
    writeWave(path / "audio/two.wav", {left, right}, 48000, SampleFormat::Float32);
    file = {"audio/two.wav", 2, {static_cast<std::int64_t>(length)}};
  }
  bool settle() {
    return comesTrueInWindow([this] { return !store->busy(); });
  }
  Samples read(int channel, Frames from, std::size_t count) {
    Samples out(count, 9.0F);
    for (bool there = false; !there;) {
      there = store->read(file, channel, from, out);
      REQUIRE(settle());
      if (!there) REQUIRE(++waited < 100);
    }
    return out;
  }
  TemporaryFolder temporary;
  Samples left;
  Samples right;
  PoolFile file;
  std::unique_ptr<SamplesStore> store;
  int waited = 0;
};

/// The colour that `samples` paint there, on white.
QColor painted(const std::vector<float>& samples, double framesPerPixel, QPoint at, double enlarged = 1.0) {
  QImage image(200, 101, QImage::Format_ARGB32_Premultiplied);
  image.fill(Qt::white);
  QPainter painter(&image);
  drawSamples(painter, QRectF(20, 0, 160, 101), TimeScale{{1000}, framesPerPixel}, {1000}, samples,
              QColor(200, 0, 0), enlarged);
  painter.end();
  return image.pixelColor(at);
}

}  // namespace

TEST_CASE("Samples are fetched in the background, and are those of the file, wherever they begin") {
  StoreRig rig(100000);
  Samples out(3000);
  CHECK_FALSE(rig.store->read(rig.file, 0, {32000}, out));
  CHECK(out == Samples(3000, 0.0F));
  QSignalSpy ready(rig.store.get(), &SamplesStore::ready);
  REQUIRE(rig.settle());
  CHECK(ready.count() > 0);
  // Across where one stretch ends and the next begins, of either channel.
  CHECK(rig.store->read(rig.file, 0, {32000}, out));
  CHECK(out == Samples(rig.left.begin() + 32000, rig.left.begin() + 35000));
  CHECK(rig.store->read(rig.file, 1, {32000}, out));
  CHECK(out == Samples(rig.right.begin() + 32000, rig.right.begin() + 35000));
  CHECK(rig.read(1, {0}, 100000) == rig.right);
  // Before the file and behind it there is silence.
  Samples wider(100000 + 700, 0.0F);
  std::copy(rig.left.begin(), rig.left.end(), wider.begin() + 300);
  CHECK(rig.read(0, {-300}, wider.size()) == wider);
  CHECK(rig.read(0, {200000}, 50) == Samples(50, 0.0F));
}

TEST_CASE(
    "Samples of a file that changed are read anew; of one that is gone there are none, until it is back") {
  StoreRig rig(40000);
  CHECK(rig.read(0, {100}, 500) == Samples(rig.left.begin() + 100, rig.left.begin() + 600));
  const fs::path path = rig.temporary / "s" / "audio/two.wav";
  writeWave(path, {rig.right, rig.left}, 48000, SampleFormat::Float32);
  CHECK(rig.read(0, {100}, 500) == Samples(rig.left.begin() + 100, rig.left.begin() + 600));
  rig.store->lookAgain("audio/other.wav");
  CHECK(rig.read(0, {100}, 500) == Samples(rig.left.begin() + 100, rig.left.begin() + 600));
  rig.store->lookAgain(rig.file.path);
  CHECK(rig.read(0, {100}, 500) == Samples(rig.right.begin() + 100, rig.right.begin() + 600));
  // What is under way while the file changes is not taken for what it holds then.
  Samples out(500);
  CHECK_FALSE(rig.store->read(rig.file, 0, {35000}, out));
  writeWave(path, {rig.left, rig.right}, 48000, SampleFormat::Float32);
  rig.store->lookAgain(rig.file.path);
  CHECK(rig.read(0, {35000}, 500) == Samples(rig.left.begin() + 35000, rig.left.begin() + 35500));

  fs::rename(path, rig.temporary / "away.wav");
  rig.store->lookAgain(rig.file.path);
  CHECK_FALSE(rig.store->read(rig.file, 0, {100}, out));
  REQUIRE(rig.settle());
  CHECK_FALSE(rig.store->read(rig.file, 0, {100}, out));
  CHECK_FALSE(rig.store->busy());  // it is not tried again and again
  fs::rename(rig.temporary / "away.wav", path);
  rig.store->lookForMissing();
  CHECK(rig.read(0, {100}, 500) == Samples(rig.left.begin() + 100, rig.left.begin() + 600));
}

TEST_CASE("No more samples are kept than there is room for; what was not asked for the longest goes first") {
  const auto length = static_cast<std::size_t>(SamplesStore::most / 2 + 300000);  // two channels
  StoreRig rig(length);
  const auto samplesAt = [&](std::size_t at) {
    return Samples(rig.left.begin() + static_cast<std::ptrdiff_t>(at),
                   rig.left.begin() + static_cast<std::ptrdiff_t>(at + 1000));
  };
  const auto there = [&](std::int64_t at) {
    Samples out(1000);
    const bool found = rig.store->read(rig.file, 0, {at}, out);
    REQUIRE(rig.settle());
    return found;
  };
  for (std::size_t at = 0; at + 1000 < length; at += 1 << 15) {
    rig.waited = 0;
    REQUIRE(rig.read(0, {static_cast<std::int64_t>(at)}, 1000) == samplesAt(at));
    REQUIRE(there(0));  // it is asked for again and again
  }
  CHECK(rig.store->kept() <= SamplesStore::most);
  CHECK(rig.store->kept() > SamplesStore::most / 10 * 9);
  CHECK(there(0));
  CHECK_FALSE(there(1 << 15));
  CHECK(there(1 << 15));
  rig.waited = 0;
  CHECK(rig.read(0, {1 << 15}, 1000) == samplesAt(1 << 15));
  rig.store->lookAgain(rig.file.path);
  CHECK(rig.store->kept() == 0);
}

TEST_CASE("Files that were missing and are there again show their waves at once") {
  const TemporaryFolder temporary;
  const fs::path path = makeWindowSession(temporary);
  fs::path audio;
  for (const auto& each : fs::directory_iterator(path / "audio")) audio = each.path();
  fs::remove_all(path / "cache");
  fs::rename(audio, temporary / "away");
  ImpatientRig rig(path);
  SessionDesk& desk = rig.studio().desk();
  const PoolFile* file = nullptr;
  for (const PoolFile& each : *desk.session().pool)
    if (fs::path(each.path).filename() == audio.filename()) file = &each;
  REQUIRE(file);
  const auto length = [&]() -> std::int64_t {
    const auto* peaks = desk.peaks().peaks(*file);
    return peaks && !peaks->empty() ? peaks->front().length() : -1;
  };
  REQUIRE(rig.waitFor([&] { return length() == 0; }));
  Samples out(100);
  CHECK_FALSE(desk.samples().read(*file, 0, {1000}, out));
  REQUIRE(rig.waitFor([&] { return !desk.samples().busy(); }));
  fs::rename(temporary / "away", audio);
  CHECK(length() == 0);  // nobody has looked yet
  desk.filesAreBack(1);
  REQUIRE(rig.waitFor([&] { return length() == 480000; }));
  REQUIRE(rig.waitFor([&] { return desk.samples().read(*file, 0, {1000}, out); }));
  const Samples whole = readWave(audio).front();
  CHECK(out == Samples(whole.begin() + 1000, whole.begin() + 1100));
}

TEST_CASE(
    "Close up each sample is a point where it lies, joined to the next by a line; farther out a column") {
  const QColor colour(200, 0, 0);
  // Eight pixels a sample; full scale is from 1 to 99 pixels.
  std::vector<float> samples(20, 0.0F);
  samples[5] = 0.5F;
  samples[6] = -0.5F;
  const int x = 20 + 5 * 8;
  CHECK(painted(samples, 0.125, {x, 26}) == colour);         // 50.5 - 0.5 * 49.5 = 25.75
  CHECK(painted(samples, 0.125, {x + 8, 75}) == colour);     // 75.25
  CHECK(painted(samples, 0.125, {x + 4, 50}).red() >= 200);  // the line half way
  CHECK(painted(samples, 0.125, {x + 4, 50}).green() < 100);
  CHECK(painted(samples, 0.125, {x, 20}) == QColor(Qt::white));
  CHECK(painted(samples, 0.125, {x + 8, 82}) == QColor(Qt::white));
  CHECK(painted(samples, 0.125, {x + 1, 25}) == colour);  // a point is more than the line
  CHECK(painted(samples, 0.125, {x, 2}, 1.0) == QColor(Qt::white));
  CHECK(painted(samples, 0.125, {x, 1}, 4.0) == colour);  // four times as high, and no higher than the box
  // Nothing beside the box, where the line goes on.
  std::vector<float> loud(60, 0.9F);
  CHECK(painted(loud, 0.125, {10, 7}) == QColor(Qt::white));
  CHECK(painted(loud, 0.125, {190, 7}) == QColor(Qt::white));
  // At ten samples a pixel one loud sample is a column from the lowest to the highest.
  std::vector<float> click(1600, 0.0F);
  click[805] = 0.9F;
  const QColor soft = painted(click, 10.0, {20 + 80, 10});
  CHECK(soft != QColor(Qt::white));
  CHECK(painted(click, 10.0, {20 + 78, 10}) == QColor(Qt::white));
  CHECK(painted(click, 10.0, {20 + 80, 2}) == QColor(Qt::white));
  CHECK(painted(click, 10.0, {20 + 80, 80}) == QColor(Qt::white));
  // The last of a column is where the next one begins: so they are joined.
  std::swap(click[805], click[809]);
  CHECK(painted(click, 10.0, {20 + 80, 10}) != QColor(Qt::white));
  CHECK(painted(click, 10.0, {20 + 81, 10}) != QColor(Qt::white));
  CHECK(painted(click, 10.0, {20 + 82, 10}) == QColor(Qt::white));
}

TEST_CASE(
    "Zoomed in, the lanes show samples and not the steps of peaks, and go no closer than eight pixels each") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  LanesView& lanes = rig.lanes();
  lanes.showSpan({{}, {480000}});
  rig.turn();
  lanes.viewport()->grab();
  CHECK(lanes.scale().framesPerPixel > 256.0);
  CHECK(rig.studio().desk().samples().kept() == 0);  // from so far peaks do
  for (int i = 0; i < 60; ++i) rig.press(Qt::Key_Plus, Qt::ControlModifier);
  CHECK(lanes.scale().framesPerPixel == TimeScale::closest);
  lanes.scrollTo({50000});
  const Samples played = rig.samplesOf({1});
  const auto loudestOf = [&] {
    float loudest = 0.0F;
    for (int lane = 1; lane <= 3; ++lane)
      for (const float sample : rig.samplesOf({lane})) loudest = std::max(loudest, std::abs(sample));
    return static_cast<double>(loudest);
  };
  const double scale = 0.96 / loudestOf();
  const auto painted = [&] {
    REQUIRE(rig.waitFor([&] { return !rig.studio().desk().samples().busy(); }));
    return lanes.viewport()->grab().toImage();
  };
  painted();
  const QImage close = painted();
  const auto yOf = [&](float sample, double times) {
    const QRect row = lanes.laneRect(0);
    const double middle = QRectF(row).center().y();
    return middle -
           std::clamp(times * scale * static_cast<double>(sample), -1.0, 1.0) * (row.height() / 2.0 - 4.0);
  };
  int seen = 0;
  for (int frame = 50010; frame < 50090; ++frame) {
    const QPoint at(lanes.xOf({frame}),
                    static_cast<int>(std::lround(yOf(played[static_cast<std::size_t>(frame)], 1.0))));
    bool there = false;
    for (int dy = -3; dy <= 3; ++dy) there = there || close.pixelColor(at + QPoint(0, dy)) == takeColour(1);
    seen += there ? 1 : 0;
  }
  CHECK(seen == 80);
  // A drag of an edge still finds single frames, and the scroll bar goes by pixels.
  CHECK(lanes.geometry().frameAt(lanes.xOf({50033})) == Frames{50033});
  const Frames left = lanes.visibleSpan().start;
  lanes.horizontalScrollBar()->setValue(lanes.horizontalScrollBar()->value() + 80);
  CHECK(lanes.visibleSpan().start == left + Frames{10});
}

TEST_CASE("Waves are drawn higher and lower by keys, all takes alike, and it is told") {
  const TemporaryFolder temporary;
  ImpatientRig rig(makeWindowSession(temporary));
  LanesView& lanes = rig.lanes();
  REQUIRE(rig.waitFor([&] { return !rig.studio().desk().peaks().busy(); }));
  rig.turn();
  const auto heightOf = [&](int lane) {
    const QImage image = lanes.viewport()->grab().toImage();
    const QRect row = lanes.laneRect(lane);
    int pixels = 0;
    for (int y = row.top() + 1; y < row.bottom(); ++y)
      pixels += image.pixelColor(lanes.xOf({240000}), y) == takeColour(lane + 1) ? 1 : 0;
    return pixels;
  };
  const int before = heightOf(0);
  const int other = heightOf(1);
  REQUIRE(before > 4);
  rig.press(Qt::Key_Down, Qt::AltModifier);
  rig.press(Qt::Key_Down, Qt::AltModifier);
  CHECK(lanes.waveScale() == 0.5);
  CHECK(heightOf(0) == Approx(before / 2.0).margin(2.0));
  CHECK(heightOf(1) == Approx(other / 2.0).margin(2.0));
  CHECK(rig.studio().messages().queue().shown()->sentence.contains("0.5 times as high"));
  for (int i = 0; i < 40; ++i) rig.press(Qt::Key_Down, Qt::AltModifier);
  CHECK(lanes.waveScale() == 0.25);
  for (int i = 0; i < 4; ++i) rig.press(Qt::Key_Up, Qt::AltModifier);
  CHECK(lanes.waveScale() == 1.0);
  CHECK(heightOf(0) == before);
  for (int i = 0; i < 40; ++i) rig.press(Qt::Key_Up, Qt::AltModifier);
  CHECK(lanes.waveScale() == 64.0);
  CHECK(heightOf(0) <= lanes.laneRect(0).height());
  CHECK_FALSE(rig.studio().desk().history().undoLabel());
}
