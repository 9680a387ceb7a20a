// SPDX-License-Identifier: GPL-3.0-or-later
//
// Sound servers that refuse, talk nonsense or never answer: a sentence in good time, and nothing hangs.

#include <catch2/catch.hpp>
#include <chrono>
#include <nlohmann/json.hpp>

#include "device/bad_server.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE("A server that refuses, talks nonsense or never answers is said in a sentence, in good time") {
  struct Case {
    const char* driver;
    const char* socket;
    BadServer::Manner manner;
  };
  using Manner = BadServer::Manner;
  for (const Case& each : {Case{"PipeWire", "pipewire-0", Manner::Closes},
                           {"PipeWire", "pipewire-0", Manner::TalksNonsense},
                           {"PipeWire", "pipewire-0", Manner::IsSilent},
                           {"PulseAudio", "pulse/native", Manner::Closes},
                           {"PulseAudio", "pulse/native", Manner::TalksNonsense},
                           {"PulseAudio", "pulse/native", Manner::IsSilent}}) {
    INFO(each.driver << ", manner " << static_cast<int>(each.manner));
    const TemporaryFolder temporary;
    const BadServer server(temporary / each.socket, each.manner);
    const std::string environment =
        "env -u PULSE_SERVER -u DBUS_SESSION_BUS_ADDRESS XDG_RUNTIME_DIR=" + temporary.path().string() +
        " %T ";
    const fs::path session = temporary / "s";
    tool("new " + session.string());
    const auto began = std::chrono::steady_clock::now();
    const ToolResult result = shell(environment + "record " + session.string() + " --track V --driver " +
                                    each.driver + " --from 0s --to 1s");
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - began;
    CHECK(server.calls() > 0);
    CHECK(result.status == 1);
    CHECK_THAT(result.err, Catch::Contains(std::string("No ") + each.driver +
                                           " server is running, or it does not answer."));
    CHECK(took.count() < 20.0);
    CHECK(show(session)["pool"].empty());
  }
}
