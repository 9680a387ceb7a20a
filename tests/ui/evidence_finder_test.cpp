// SPDX-License-Identifier: GPL-3.0-or-later
//
// Cells are measured anew when what they are measured from is another, and not otherwise.
#include "app/desk/evidence_finder.h"

#include "ui/ui_tests.h"

#include "core/known_takes.h"

namespace {

/// Two takes of three words, and what is found of them.
struct Finding {
  Finding() {
    takes.add(words);
    takes.add({{1.0, 2.0}, {2.6, 3.5}, {4.0, 5.0}});
    for (FileAnalysis& analysis : takes.analyses)
      for (LevelStep& step : analysis.levels) step.weighted = step.square;
    wanted.phrases = takes.phrases(words);
    wanted.ruler = takes.session.ruler();
    wanted.share = 1.0;
  }
  /// What is found of the middle phrase for the session as it is.
  std::vector<CellMeasures> find() {
    wanted.track = takes.session.tracks.front();
    const int before = asked;
    QSignalSpy found(&finder, &EvidenceFinder::found);
    finder.want(wanted);
    // The phrase that is looked at comes first, then all.
    while (asked > before && found.count() < 2) REQUIRE(found.wait(5000));
    const auto cells = finder.of(wanted.phrases[1]);
    return {cells.begin(), cells.end()};
  }
  /// The session becomes another: whether the cells are measured for that.
  template <typename Change>
  bool measuredAfter(Change change) {
    takes.session = change(takes.session);
    const int before = asked;
    const auto cells = find();
    const PhraseEvidence now =
        evidenceOf(takes.session, takes.track(), wanted.phrases, takes.find(), wanted.divisions)[1];
    REQUIRE(cells.size() == now.takes.size());
    for (std::size_t i = 0; i < cells.size(); ++i)
      CHECK(cells[i] == static_cast<const CellMeasures&>(now.takes[i]));
    return asked > before;
  }

  Takes takes{6.0};
  EvidenceFinder::Wanted wanted;
  int asked = 0;
  EvidenceFinder finder{[this] {
    ++asked;
    EvidenceFinder::KnownFiles known;
    for (std::size_t i = 0; i < takes.analyses.size(); ++i)
      known[static_cast<int>(i)] = std::make_shared<const FileAnalysis>(takes.analyses[i]);
    return known;
  }};
};

}  // namespace

TEST_CASE("Cells are measured anew for whatever changes their measures, and for nothing else") {
  Finding finding;
  const TrackId id = finding.takes.id();
  const auto first = finding.find();
  REQUIRE(first.size() == 2);
  REQUIRE(first[0].loudness);
  CHECK(finding.asked == 1);
  finding.find();
  CHECK(finding.asked == 1);  // it is known

  const auto changed = [&](LaneChange change) {
    return finding.measuredAfter([&](const Session& s) { return changeLane(s, id, {1}, change); });
  };
  CHECK(changed({.gain = Decibels{-6.0}}));
  CHECK(*finding.find()[0].loudness == Approx(*first[0].loudness - 6.0).margin(0.01));
  CHECK(changed({.pitch = Cents{50.0}}));
  CHECK(finding.measuredAfter([&](const Session& s) {
    return setLevel(s, id, LaneNumber{1}, LevelLine{{{0}, {-4.0}}});
  }));
  CHECK(*finding.find()[0].loudness == Approx(*first[0].loudness - 10.0).margin(0.01));
  CHECK(finding.measuredAfter([&](const Session& s) { return nudgeLane(s, id, {1}, seconds(0.3)); }));
  CHECK(finding.measuredAfter([&](const Session& s) {
    return cutLane(s, id, {1}, {seconds(2.7), seconds(3.0)});
  }));
  CHECK(finding.measuredAfter([&](const Session& s) { return setLaneAside(s, id, {2}, true); }));
  CHECK(finding.find().size() == 1);
  CHECK(finding.measuredAfter([&](const Session& s) { return setLaneAside(s, id, {2}, false); }));
  CHECK(finding.measuredAfter([&](const Session& s) { return removeLane(s, id, {2}); }));

  CHECK_FALSE(changed({.name = "Another name"}));
  CHECK_FALSE(changed({.rating = 4}));
  CHECK_FALSE(changed({.muted = true}));
  CHECK_FALSE(finding.measuredAfter([&](const Session& s) {
    return pick(s, id, {{}, seconds(3.0)}, LaneNumber{1});
  }));

  finding.wanted.divisions = 2;
  finding.find();
  const int asked = finding.asked;
  finding.wanted.phrases[0].span.end = seconds(2.2);
  finding.find();
  CHECK(finding.asked == asked + 1);
  finding.wanted.ruler.tempo = TempoMap({{1, 97.0, {3, 4}}});
  finding.find();
  CHECK(finding.asked == asked + 2);
  // While files are analysed it rests between two looks; once all is known it looks at once.
  finding.wanted.share = 0.5;
  finding.find();
  CHECK(finding.asked == asked + 2);
  finding.wanted.share = 1.0;
  finding.find();
  CHECK(finding.asked == asked + 3);
  // Nothing is wanted any more: nothing is known.
  finding.finder.drop();
  CHECK(finding.finder.of(finding.wanted.phrases[1]).empty());
}
