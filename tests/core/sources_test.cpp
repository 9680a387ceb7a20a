// SPDX-License-Identifier: GPL-3.0-or-later
//
// Where samples and correlations come from, and what is said where they are not at hand.
#include "core/core_tests.h"

namespace {

struct Files {
  Files() {
    for (unsigned i = 0; i < 3; ++i) {
      signals.push_back(noise(20000, i + 1));
      write(i, signals[i]);
      pool.push_back({"audio/f" + std::to_string(i) + ".wav", 1, {20000}});
    }
  }
  void write(std::size_t i, const Samples& signal) const {
    writeWave(folder.path() / "audio" / ("f" + std::to_string(i) + ".wav"), {signal}, 48000,
              SampleFormat::Float32);
  }
  [[nodiscard]] float expected(std::size_t a, std::int64_t aOrigin, std::size_t b, std::int64_t bOrigin,
                               Span over) const {
    const auto part = [&](std::size_t i, std::int64_t origin) {
      return Samples(signals[i].begin() + over.start.count - origin,
                     signals[i].begin() + over.end.count - origin);
    };
    CorrelationSums sums;
    sums.add(part(a, aOrigin), part(b, bOrigin));
    return static_cast<float>(sums.correlation());
  }
  static std::vector<ChannelSource> of(int file) { return {{file, 0}}; }
  struct MadeFolder : TemporaryFolder {
    MadeFolder() { fs::create_directories(path() / "audio"); }
    [[nodiscard]] SessionDisk disk() const { return SessionDisk(path()); }
  };
  MadeFolder folder;
  std::vector<Samples> signals;
  std::vector<PoolFile> pool;
};

/// Samples of one, all there but for one file.
struct Partly : SampleSource {
  bool read(int file, int, Frames, int count, float* out) noexcept override {
    std::fill_n(out, count, file == missing ? 0.0F : 1.0F);
    return file != missing;
  }
  int missing = -1;
};

}  // namespace

TEST_CASE("Files are read as they are, from anywhere to anywhere; what is not there is silent and said so") {
  const Files files;
  writeWave(files.folder.path() / "audio" / "f1.wav", {files.signals[1], files.signals[2]}, 48000,
            SampleFormat::Float32);
  FileSampleSource source(files.folder.disk(),
                          {files.pool[0], {"audio/f1.wav", 2, {20000}}, {"audio/none.wav", 1, {20000}}});
  Samples out(9000);
  for (const std::int64_t at : {0, 5000, 4999, 11000, 0, 8191, 8192}) {
    REQUIRE(source.read(0, 0, {at}, 9000, out.data()));
    CHECK(std::equal(out.begin(), out.end(), files.signals[0].begin() + at));
    REQUIRE(source.read(1, 1, {at}, 9000, out.data()));
    CHECK(std::equal(out.begin(), out.end(), files.signals[2].begin() + at));
    REQUIRE(source.read(1, 0, {at}, 9000, out.data()));
    CHECK(std::equal(out.begin(), out.end(), files.signals[1].begin() + at));
  }
  REQUIRE(source.read(0, 0, {-100}, 300, out.data()));
  CHECK(out[99] == 0.0F);
  CHECK(out[100] == files.signals[0][0]);
  for (const auto& [file, channel] : {std::pair{0, 1}, {1, 2}, {2, 0}, {9, 0}}) {
    std::fill(out.begin(), out.end(), 7.0F);
    CHECK_FALSE(source.read(file, channel, {}, 9000, out.data()));
    CHECK((out == Samples(9000, 0.0F)));
  }
}

TEST_CASE(
    "A correlation is that of what lies over the span, wherever the two takes lie; other files, other "
    "answers") {
  Files files;
  FileCorrelationMeter meter(files.folder.disk());
  meter.setFiles(files.pool);
  const auto check = [&](int a, std::int64_t aOrigin, int b, std::int64_t bOrigin, Span over) {
    CHECK(meter.correlation(Files::of(a), {aOrigin}, Files::of(b), {bOrigin}, over) ==
          Approx(files.expected(static_cast<std::size_t>(a), aOrigin, static_cast<std::size_t>(b), bOrigin,
                                over))
              .margin(1e-6));
  };
  // Neighbours whose places differ by as much as their origins, and whatever else could be mistaken for
  // another.
  for (const std::int64_t shift : {0, 1, 50, -50})
    for (const std::int64_t other : {0, 50, -50, 700})
      for (const std::int64_t size : {100, 150}) {
        check(0, 1000 + shift, 1, 2000 + other, {{5000 + shift}, {5000 + shift + size}});
        check(1, 1000 + shift, 0, 2000 + other, {{5000 + shift}, {5000 + shift + size}});
        check(0, 1000 + shift, 2, 2000 + other, {{5000}, {5000 + size}});
      }
  // Other files stand in the pool.
  std::swap(files.pool[0], files.pool[2]);
  meter.setFiles(files.pool);
  std::swap(files.signals[0], files.signals[2]);
  check(0, 1000, 1, 2000, {{5000}, {5100}});
  check(2, 1000, 1, 2000, {{5000}, {5100}});
  CHECK(meter.correlation({}, {}, Files::of(0), {}, {{0}, {100}}) == 0.0F);
  CHECK(meter.correlation(Files::of(0), {}, {}, {}, {{0}, {100}}) == 0.0F);
  CHECK(meter.correlation(Files::of(0), {}, Files::of(1), {}, {{100}, {100}}) == 0.0F);
}

TEST_CASE("A crossfade of minutes is judged by its middle ten seconds") {
  Files files;
  // Alike in their middle 480,000 frames of a million, mirrored around it.
  const Samples one = noise(1'000'000, 7);
  Samples other(one.size());
  std::transform(one.begin(), one.end(), other.begin(), [](float x) { return -x; });
  std::copy(one.begin() + 260'000, one.begin() + 740'000, other.begin() + 260'000);
  files.write(0, one);
  files.write(1, other);
  files.pool[0].length = files.pool[1].length = Frames{1'000'000};
  FileCorrelationMeter meter(files.folder.disk());
  meter.setFiles(files.pool);
  const auto over = [&](Span span) { return meter.correlation(Files::of(0), {}, Files::of(1), {}, span); };
  CHECK(over({{}, {1'000'000}}) == Approx(1.0F));
  // No longer than that, it is all of it.
  CHECK(over({{20'000}, {500'000}}) == Approx(0.0F).margin(0.01F));
  CHECK(over({{500'000}, {980'000}}) == Approx(0.0F).margin(0.01F));
}

TEST_CASE("Where one sample of many is not at hand, the renderer says so, whichever it is") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(1));
  const TrackId id = session.tracks.front()->id;
  for (int i = 0; i < 3; ++i) {
    session = addPoolFile(session, {"audio/" + std::to_string(i) + ".wav", 1, {1000}});
    session = addLane(session, id, {{{i * 1000}, {1000}, {{i * 1000}, {i * 1000 + 1000}}, {{i, 0}}}});
  }
  const TemporaryFolder nowhere;
  FileCorrelationMeter meter{SessionDisk(nowhere.path())};
  const auto plan = Compiler(meter).compile(session, {});
  Renderer renderer(4096);
  for (const int missing : {-1, 0, 1, 2}) {
    INFO("missing " << missing);
    Partly source;
    source.missing = missing;
    Samples left(3000);
    Samples right(3000);
    float* pointer = left.data();
    CHECK(renderer.renderTrack(*plan->tracks.front(), {}, 3000, source, &pointer) == (missing < 0));
    CHECK(left[1500] == (missing == 1 ? 0.0F : 1.0F));
    CHECK(renderer.renderMix(*plan, {}, 3000, source, left.data(), right.data(), nullptr) == (missing < 0));
    // Of what is not asked for nobody waits.
    CHECK(renderer.renderTrack(*plan->tracks.front(), {}, 900, source, &pointer) == (missing != 0));
  }
}

TEST_CASE("Two composites are the same where every sample of them is, however the files are numbered") {
  Session session = addTrack(Session{}, "Viola", microphonesFor(2));
  const TrackId id = session.tracks.front()->id;
  session = addPoolFile(session, {"audio/a.wav", 2, {5000}});
  session = addPoolFile(session, {"audio/b.wav", 2, {5000}});
  session = addLane(session, id, {{{0}, {5000}, {{100}, {4000}}, {{0, 0}, {0, 1}}}});
  session = addLane(session, id, {{{0}, {5000}, {{100}, {4000}}, {{1, 0}, {1, 1}}}});
  session = addLane(session, id, {{{9000}, {500}, {{9000}, {9500}}, {{1, 0}, {1, 1}}}});
  session = setLaneAside(session, id, {3}, true);
  session = pick(session, id, {{500}, {1500}}, LaneNumber{1});
  session = overdub(session, id, {{700}, {900}}, LaneNumber{2});
  const auto changed = [&](auto change) {
    Session other = session;
    change(other, other.tracks.front().edit());
    return sameComposite(session, other, id) || sameComposite(other, session, id);
  };
  CHECK(sameComposite(session, session, id));
  // What plays nowhere, and what is said elsewhere, is no part of it.
  CHECK(changed([](Session&, Track& t) { t.lanes[2].edit().clips[0].window = {{9100}, {9200}}; }));
  CHECK(changed([](Session& s, Track& t) { s.name = t.name = "Other"; }));
  CHECK(changed([](Session& s, Track& t) {
    // The same files, in another order.
    std::swap(s.pool.edit()[0], s.pool.edit()[1]);
    for (auto& lane : t.lanes)
      for (Clip& clip : lane.edit().clips)
        for (ChannelSource& source : clip.channels) source.file = 1 - source.file;
  }));
  CHECK_FALSE(changed([](Session& s, Track&) { s.pool.edit()[0].path = "audio/c.wav"; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[0].edit().clips[0].channels[1].channel = 0; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[0].edit().clips[0].channels[0].file = 1; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[0].edit().clips[0].origin = {1}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[0].edit().clips[0].sourceLength = {4999}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[0].edit().clips[0].window.start = {101}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[1].edit().clips[0].window.end = {3999}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.lanes[1].edit().clips.clear(); }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.composite.picks = {}; }));
  CHECK_FALSE(changed([&](Session& s, Track&) { s = setJoin(s, id, {500}, {{10}, {10}, Curve::S}); }));
  CHECK_FALSE(changed([&](Session& s, Track&) { s = pick(s, id, {{700}, {900}}, LaneNumber{1}); }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.composite.level = {{{10}, {-1.0}}}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.composite.fadeIn.length = {10}; }));
  CHECK_FALSE(changed([](Session&, Track& t) { t.composite.fadeOut.length = {10}; }));
  for (const std::size_t lane : {0U, 1U}) {  // heard alone, and together with it
    CHECK_FALSE(changed([=](Session&, Track& t) { t.lanes[lane].edit().gain = {-1.0}; }));
    CHECK_FALSE(changed([=](Session&, Track& t) { t.lanes[lane].edit().pitch = {10.0}; }));
    CHECK_FALSE(changed([=](Session&, Track& t) { t.lanes[lane].edit().muted = true; }));
    CHECK_FALSE(changed([=](Session&, Track& t) { t.lanes[lane].edit().level = {{{10}, {-1.0}}}; }));
    CHECK(changed([=](Session&, Track& t) { t.lanes[lane].edit().note = "other"; }));
  }
  CHECK_FALSE(changed([&](Session&, Track& t) { t.id = {99}; }));
  CHECK_FALSE(changed([&](Session&, Track& t) { t.microphones.pop_back(); }));
}
