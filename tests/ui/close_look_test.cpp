// SPDX-License-Identifier: GPL-3.0-or-later
//
// Takes looked at closely: down to their samples, as high as one wants them.
#include "ui/ui_tests.h"

#include "app/desk/samples_store.h"
#include "app/look/painting.h"
#include "ui/impatient_rig.h"

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
