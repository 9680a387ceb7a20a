// SPDX-License-Identifier: GPL-3.0-or-later
//
// The drivers, each on a private server of its own, in short; the long tests are entries of their own. What
// runs beside the server are the tests of tests/device.
#include "tool/tool_tests.h"

namespace {

void passes(const std::string& line) {
  const ToolResult result = shell(line);
  INFO(result.out << result.err);
  CHECK(result.status == 0);
  CHECK_THAT(result.out, Catch::Contains("All tests passed"));
}

}  // namespace

TEST_CASE("Through JACK takes lie where they were played, and a foot switch is heard") {
  passes(YEWDRIFT_TEST_SCRIPTS "/with_jack.sh " YEWDRIFT_JACK_TESTS);
}

TEST_CASE("Through PipeWire's JACK a pair is opened, converted to, and lost with its server") {
  passes("YEWDRIFT_TEST_DRIVER=JACK " YEWDRIFT_TEST_SCRIPTS
         "/with_sound_server.sh pipewire pw-jack " YEWDRIFT_SOUND_SERVER_TESTS
         " 'An open pair*,Where the server ends*'");
}

TEST_CASE("Through PipeWire passes lie where the backing was played") {
  passes("YEWDRIFT_TEST_DRIVER=PipeWire " YEWDRIFT_TEST_SCRIPTS
         "/with_sound_server.sh pipewire " YEWDRIFT_SOUND_SERVER_TESTS " '[brief]'");
}

TEST_CASE("Through PulseAudio passes lie where the backing was played") {
  passes("YEWDRIFT_TEST_DRIVER=PulseAudio " YEWDRIFT_TEST_SCRIPTS
         "/with_sound_server.sh pulseaudio " YEWDRIFT_SOUND_SERVER_TESTS " '[brief]'");
}
