// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/performer.h"

#include "engine/engine_tests.h"

#include "core/device/performer_file.h"

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
