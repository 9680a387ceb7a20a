// SPDX-License-Identifier: GPL-3.0-or-later
//
// Phrases as a person leaves them, and the cells of takes in them.
#include "core/core_tests.h"

namespace {

using Spans = std::vector<Span>;

/// A track of two empty lanes at 120 bpm in 4/4: a bar is 96,000 frames.
Session twoLanes() {
  Session session = addTrack(Session{}, "Voice", microphonesFor(1));
  session = addPoolFile(session, {"audio/x.wav", 1, {2'000'000}});
  for (int i = 0; i < 2; ++i)
    session = addLane(session, TrackId{1}, {{{0}, {2'000'000}, {{0}, {2'000'000}}, {{0, 0}}}});
  return session;
}
constexpr TrackId id{1};
constexpr LaneNumber one{1};
constexpr LaneNumber two{2};

std::vector<Phrase> resolved(const Session& session, const Spans& found, bool grid = false) {
  return resolvePhrases(*session.track(id), found, session.ruler(), grid);
}
Spans spansOf(const std::vector<Phrase>& phrases) {
  Spans spans;
  for (const Phrase& phrase : phrases) spans.push_back(phrase.span);
  return spans;
}
std::vector<bool> setOf(const std::vector<Phrase>& phrases) {
  std::vector<bool> set;
  for (const Phrase& phrase : phrases) set.push_back(phrase.set);
  return set;
}

const Spans three{{{48000}, {96000}}, {{120000}, {200000}}, {{400000}, {500000}}};

}  // namespace

TEST_CASE("Cells reach half into the rests, a second at most, and meet") {
  const auto phrases = resolved(twoLanes(), three);
  REQUIRE(phrases.size() == 3);
  CHECK(phrases[0].cell == Span{{0}, {108000}});  // not before the start
  CHECK(phrases[1].cell == Span{{108000}, {248000}});
  CHECK(phrases[2].cell == Span{{352000}, {548000}});
  CHECK(phraseAt(phrases, {107999}) == &phrases[0]);
  CHECK(phraseAt(phrases, {108000}) == &phrases[1]);
  CHECK(phraseAt(phrases, {290000}) == &phrases[1]);  // the nearer one
  CHECK(phraseAt(phrases, {310000}) == &phrases[2]);
  CHECK(phraseAt(phrases, {299999}) == &phrases[1]);
  CHECK(phraseAt(phrases, {300000}) == &phrases[2]);
  CHECK(phraseAt(phrases, {-5}) == &phrases[0]);
  CHECK(phraseAt(phrases, {9'000'000}) == &phrases[2]);
  CHECK(phraseAt({}, {5}) == nullptr);
}

TEST_CASE("Where nothing rests for eight bars, bars are the phrases, but for short ends") {
  const Span long_{{48000}, {96000 * 12 + 10000}};
  CHECK(spansOf(resolved(twoLanes(), {long_})) == Spans{long_});
  const auto bars = spansOf(resolved(twoLanes(), {long_}, true));
  REQUIRE(bars.size() == 12);
  CHECK(bars[0] == Span{{48000}, {96000}});
  CHECK(bars[1] == Span{{96000}, {192000}});
  CHECK(bars[11] == Span{{96000 * 11}, {96000 * 12 + 10000}});
  const Span nearBar{{95000}, {96000 * 12}};
  CHECK(spansOf(resolved(twoLanes(), {nearBar}, true)).front() == Span{{95000}, {192000}});
  // A quarter of a bar is a phrase of its own, a frame less is not, at either end.
  for (const std::int64_t less : {0, 1}) {
    const Span quarters{{72000 + less}, {96000 * 12 + 24000 - less}};
    const auto found = spansOf(resolved(twoLanes(), {quarters}, true));
    CHECK(found.front() == Span{quarters.start, {less > 0 ? 192000 : 96000}});
    CHECK(found.back() == Span{{96000 * (less > 0 ? 11 : 12)}, quarters.end});
  }
  const Span seven{{0}, {96000 * 8}};
  CHECK(spansOf(resolved(twoLanes(), {seven}, true)) == Spans{seven});
  const Span intoTheNinth{{0}, {96000 * 8 + 1}};
  CHECK(spansOf(resolved(twoLanes(), {intoTheNinth}, true)).size() == 8);
}

TEST_CASE("An edge is added: both halves are the person's, the rest is still found") {
  const Session session = twoLanes();
  const Session cut = addPhraseEdge(session, id, resolved(session, three), {150000});
  const auto phrases = resolved(cut, three);
  CHECK(spansOf(phrases) == Spans{three[0], {{120000}, {150000}}, {{150000}, {200000}}, three[2]});
  CHECK(setOf(phrases) == std::vector<bool>{false, true, true, false});
  CHECK(phrases[1].cell == Span{{108000}, {150000}});
  CHECK(phrases[2].cell == Span{{150000}, {248000}});
  checkInvariants(cut);
  CHECK_THROWS_AS(addPhraseEdge(session, id, resolved(session, three), {110000}), Error);  // in a rest
  CHECK_THROWS_AS(addPhraseEdge(session, id, resolved(session, three), {120000}), Error);  // begins there
  CHECK_THROWS_AS(addPhraseEdge(session, id, {}, {5}), Error);
}

TEST_CASE("An edge is moved, never past a neighbour, and both phrases keep ten milliseconds") {
  const Session session = twoLanes();
  const auto moved = [&](const Session& from, std::int64_t at, std::int64_t to) {
    const Session next = movePhraseEdge(from, id, resolved(from, three), {at}, {to});
    checkInvariants(next);
    return next;
  };
  CHECK(spansOf(resolved(moved(session, 96000, 100000), three)) ==
        Spans{{{48000}, {100000}}, three[1], three[2]});
  CHECK(spansOf(resolved(moved(session, 96000, 300000), three)) ==
        Spans{{{48000}, {120000}}, three[1], three[2]});
  CHECK(spansOf(resolved(moved(session, 96000, 0), three)) == Spans{{{48000}, {48480}}, three[1], three[2]});
  CHECK(spansOf(resolved(moved(session, 121000, 0), three)) ==
        Spans{three[0], {{96000}, {200000}}, three[2]});
  CHECK(spansOf(resolved(moved(session, 121000, 999999), three)) ==
        Spans{three[0], {{199520}, {200000}}, three[2]});
  CHECK(spansOf(resolved(moved(session, 500000, 700000), three)) ==
        Spans{three[0], three[1], {{400000}, {700000}}});
  // Two that meet keep meeting.
  const Session cut = addPhraseEdge(session, id, resolved(session, three), {150000});
  CHECK(spansOf(resolved(moved(cut, 149000, 160000), three)) ==
        Spans{three[0], {{120000}, {160000}}, {{160000}, {200000}}, three[2]});
  CHECK(spansOf(resolved(moved(cut, 149000, 300000), three)) ==
        Spans{three[0], {{120000}, {199520}}, {{199520}, {200000}}, three[2]});
  CHECK_THROWS_AS(movePhraseEdge(session, id, {}, {5}, {6}), Error);
}

TEST_CASE(
    "A cell stays with its phrase when that is moved, and where two become one the nearer to the middle "
    "counts") {
  Session session = twoLanes();
  const auto phrases = resolved(session, three);
  session = changeCell(session, id, one, phrases[0], 2, std::nullopt);
  session = changeCell(session, id, one, phrases[1], 5, std::nullopt);
  session = movePhraseEdge(session, id, phrases, {96000}, {80000});
  CHECK(cellOf(*session.track(id)->lane(one), resolved(session, three)[0])->rating == 2);
  session = removePhraseEdge(session, id, resolved(session, three), {120000});
  const auto merged = resolved(session, three);
  CHECK(cellOf(*session.track(id)->lane(one), merged[0])->rating == 5);
  // Changing it there leaves the other for when they are parted again.
  session = changeCell(session, id, one, merged[0], 1, std::nullopt);
  CHECK(cellOf(*session.track(id)->lane(one), merged[0])->rating == 1);
  CHECK(session.track(id)->lane(one)->cells.size() == 2);
}

TEST_CASE(
    "A phrase is decided where it was picked all through; the take that plays most of it is the chosen one") {
  Session session = twoLanes();
  const Phrase phrase = resolved(session, three)[1];
  const auto chosen = [&] { return playedIn(resolve(*session.track(id), session.rate), phrase); };
  CHECK_FALSE(isDecided(*session.track(id), phrase));
  CHECK(chosen() == two);
  session = pick(session, id, {{120000}, {170000}}, one);
  CHECK_FALSE(isDecided(*session.track(id), phrase));
  CHECK(chosen() == one);
  session = pick(session, id, {{170000}, {199999}}, two);
  CHECK_FALSE(isDecided(*session.track(id), phrase));
  session = pick(session, id, {{199999}, {200000}}, std::nullopt);
  CHECK(isDecided(*session.track(id), phrase));
  CHECK(chosen() == one);
  session = pick(session, id, {{120000}, {160000}}, one);
  session = pick(session, id, {{160000}, {200000}}, two);  // as much of both
  CHECK(chosen() == one);
  session = pick(session, id, phrase.cell, std::nullopt);
  CHECK(isDecided(*session.track(id), phrase));
  CHECK(chosen() == std::nullopt);
  CHECK(playedIn(ResolvedComposite{}, phrase) == std::nullopt);
}

TEST_CASE("A track's phrases are those of its takes that are not set aside, through the first microphone") {
  // File by file, channel by channel: which seconds of ten sound.
  const auto sounding = [](std::initializer_list<int> seconds) {
    Samples samples(480000, 0.0F);
    for (const int second : seconds) std::fill_n(samples.begin() + second * 48000, 48000, 0.25F);
    for (std::size_t i = 0; i < samples.size(); i += 2) samples[i] = -samples[i];
    PeakPyramid peaks;
    peaks.append(samples);
    return peaks;
  };
  const std::vector<std::vector<PeakPyramid>> files{{sounding({1, 2}), sounding({8})},
                                                    {sounding({1, 2, 6}), sounding({8})},
                                                    {sounding({4}), sounding({8})}};
  const FindPeaks find = [&](int file) {
    return file < 3 ? &files[static_cast<std::size_t>(file)] : nullptr;
  };
  Session session = addTrack(Session{}, "Drum", {{"near", 0, 1, {}, {}}, {"room", 1, 1, {}, {}}});
  const TrackId drum = session.tracks.front()->id;
  for (int i = 0; i < 4; ++i)
    session = addFileAsLane(session, drum,
                            {"audio/" + std::to_string(session.pool->size()) + ".wav", 2, {480000}}, {}, {});
  const auto track = [&]() -> const Track& { return *session.track(drum); };
  const auto found = [&] { return findPhrasesIn(track(), session.rate, find); };
  const auto files_ = [&](bool all) {
    std::vector<std::string> names;
    for (const PoolFile& file : filesOfTakes(session, track(), all)) names.push_back(file.path);
    return names;
  };
  using Names = std::vector<std::string>;
  const auto lies = [](Span span, int from, int to) {
    return std::abs(span.start.count - from * 48000) < 2048 && std::abs(span.end.count - to * 48000) < 2048;
  };
  std::vector<Span> now = found();
  REQUIRE(now.size() == 3);
  CHECK(lies(now[0], 1, 3));
  CHECK(lies(now[1], 4, 5));
  CHECK(lies(now[2], 6, 7));
  CHECK(files_(false) == Names{"audio/0.wav", "audio/1.wav", "audio/2.wav", "audio/3.wav"});
  session = setLaneAside(session, drum, {3}, true);
  now = found();
  REQUIRE(now.size() == 2);
  CHECK(lies(now[1], 6, 7));
  CHECK(files_(false) == Names{"audio/0.wav", "audio/1.wav", "audio/3.wav"});
  CHECK(files_(true) == Names{"audio/0.wav", "audio/1.wav", "audio/2.wav", "audio/3.wav"});
  session = setLaneAside(session, drum, {2}, true);
  CHECK(found().size() == 1);
  CHECK(phrasesOf(session, track(), find).size() == 1);
  // Whichever of them it is.
  for (const int lane : {1, 2, 3}) session = setLaneAside(session, drum, {lane}, lane == 1);
  CHECK(found().size() == 3);
  CHECK(files_(false) == Names{"audio/1.wav", "audio/2.wav", "audio/3.wav"});
  // Wherever their windows begin, also within a step of the levels.
  for (const int lane : {2, 3}) session = pullWindow(session, drum, {lane}, {{1001}, {480000}});
  CHECK(found().size() == 3);
}
