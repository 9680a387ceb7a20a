// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/performer.h"

#include "engine/engine_tests.h"

#include "core/device/performer_file.h"

namespace {

/// What is heard at input 0 when the transport runs through these stretches, one block each.
Samples hear(Performer& performer, const std::vector<std::vector<PlayedStretch>>& blocks, int frames) {
  Samples all;
  for (const auto& block : blocks) {
    Samples input(static_cast<std::size_t>(frames), 0.0F);
    float* inputs[] = {input.data()};
    performer.perform(block, frames, inputs, 1);
    all.insert(all.end(), input.begin(), input.end());
  }
  return all;
}

Performance of(const Samples& samples) {
  return {{samples}};
}

}  // namespace

TEST_CASE("A player comes in where the performance belongs, in the middle of a block") {
  const Samples song = noise(50, 1);
  Performer performer({{0, {130}, {of(song)}, false, {}}});
  const Samples heard =
      hear(performer, {{{0, 100, {100}, true, true}}, {{0, 100, {200}, false, false}}}, 100);
  for (std::size_t i = 0; i < 200; ++i) CHECK(heard[i] == (i >= 30 && i < 80 ? song[i - 30] : 0.0F));
}

TEST_CASE("A pass rings on into the next, or dies away where it is told to") {
  const Samples longer(100, 0.25F);
  const std::vector<std::vector<PlayedStretch>> rounds{{{0, 40, {0}, true, true}},
                                                       {{0, 40, {0}, true, false}}};
  Performer ringing({{0, {}, {of(longer)}, false, {}}});
  CHECK(hear(ringing, rounds, 40)[60] == 0.5F);
  Performer dying({{0, {}, {of(longer)}, false, Frames{10}}});
  const Samples heard = hear(dying, rounds, 40);
  CHECK(heard[41] < 0.5F);
  CHECK(heard[41] > 0.25F);
  CHECK(heard[60] == 0.25F);
}

TEST_CASE("A roll that starts in the middle is played from the middle; a new roll ends the old one") {
  const Samples song = noise(100, 2);
  Performer performer({{0, {1000}, {of(song)}, true, {}}});
  const Samples heard = hear(performer, {{{0, 20, {1030}, true, true}}, {{0, 20, {5000}, true, true}}}, 20);
  CHECK(heard[0] == song[30]);
  CHECK(heard[20] == 0.0F);
}

TEST_CASE("Players are read from a session's folder; what is not there is nobody") {
  const TemporaryFolder temporary;
  CHECK(readPerformerFile(SessionDisk(temporary.path()), {48000}).empty());
  fs::create_directories(temporary / "performer");
  writeWave(temporary / "performer/a.wav", {noise(100, 1), noise(100, 2)});
  writePerformerFile(SessionDisk(temporary.path()), {{3, {480}, {"a.wav"}}});
  const auto parts = readPerformerFile(SessionDisk(temporary.path()), {48000});
  REQUIRE(parts.size() == 1);
  CHECK(parts[0].firstInput == 3);
  CHECK(parts[0].at == Frames{480});
  CHECK(parts[0].startOver);
  CHECK(parts[0].ringAfterJump == Frames{24000});
  CHECK(parts[0].performances[0].channels[1] == noise(100, 2));
  CHECK_THROWS_AS(readPerformance(openAnywhere(temporary / "performer/a.wav"), {44100}), Error);
  CHECK(readPerformerFile(SessionDisk(temporary.path()), {44100}).empty());
  // Whatever its file says, a session that somebody sent reads nothing outside its own folder.
  writeWave(temporary / "secret.wav", {noise(100, 7)});
  for (const std::string& outside : {std::string("../secret.wav"), (temporary / "secret.wav").string(),
                                     std::string("../performer/../secret.wav")}) {
    writePerformerFile(SessionDisk(temporary.path()), {{0, {}, {outside}}});
    CHECK(readPerformerFile(SessionDisk(temporary.path()), {48000}).empty());
  }
}
