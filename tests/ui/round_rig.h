// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/bench/takes_bench.h"
#include "app/desk/phrase_steps.h"
#include "core/edit/edit_takes.h"
#include "ui/impatient_rig.h"

namespace yewdrift::test {

/// Ten seconds in which three phrases sound: 1 to 2.5 s, 4 to 5.5 s, 7 to 8.5 s.
inline Samples threePhrases(unsigned seed, float level = 0.3F) {
  Samples samples(480000, 0.0F);
  const Samples sound = noise(480000, seed, level);
  for (const std::size_t from : {48000U, 192000U, 336000U})
    std::copy_n(sound.begin() + static_cast<std::ptrdiff_t>(from), 72000,
                samples.begin() + static_cast<std::ptrdiff_t>(from));
  return samples;
}

/// The session of a window, with other takes in it.
inline fs::path makeSessionOf(const TemporaryFolder& temporary, const std::vector<Samples>& takes) {
  fs::path path = makeWindowSession(temporary);
  SessionFolder folder = sessionWithLanes(temporary / "takes", takes);
  fs::remove_all(path / "audio");
  fs::copy(temporary / "takes" / "audio", path / "audio");
  fs::remove_all(path / "cache");
  return path;
}

/// Three takes of three phrases, so loud.
inline fs::path makePhrases(const TemporaryFolder& temporary,
                            std::array<float, 3> levels = {0.3F, 0.3F, 0.3F}) {
  return makeSessionOf(temporary,
                       {threePhrases(1, levels[0]), threePhrases(2, levels[1]), threePhrases(3, levels[2])});
}

struct RoundRig : ImpatientRig {
  explicit RoundRig(const fs::path& path) : ImpatientRig(path) {
    REQUIRE(waitFor([&] { return studio().inHand().phrases().size() == 3; }));
    lanes().showSpan({{}, {480000}});
    turn();
  }
  const std::vector<Phrase>& phrases() { return studio().inHand().phrases(); }
  /// Which phrase is in hand, counted from 1; 0: none.
  long inHand() {
    const Phrase* phrase = studio().inHand().phrase();
    return phrase ? phrase - phrases().data() + 1 : 0;
  }
  std::optional<LaneNumber> heard() { return studio().inHand().heardLane(); }
  std::optional<LaneNumber> played(std::size_t phrase) {
    return playedIn(studio().inHand().composite(track()), phrases().at(phrase));
  }
  int rating(int lane, std::size_t phrase) {
    const CellNote* cell = cellOf(*track().lane({lane}), phrases().at(phrase));
    return cell ? cell->rating : 0;
  }
  Frames playhead() { return studio().transport().state().position; }
  QPoint inPhraseRow(std::size_t phrase) {
    return {lanes().xOf(phrases().at(phrase).span.start + Frames{20000}),
            lanes().phraseRowRect().center().y()};
  }
  void showPage(MainWindow::BenchPage page) {
    window->bench().setCurrentIndex(page);
    turn();
  }
  app::PlainTable& table() { return *named<app::PlainTable>("Takes of the phrase in hand"); }
};

}  // namespace yewdrift::test
