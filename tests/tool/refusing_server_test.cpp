// SPDX-License-Identifier: GPL-3.0-or-later
//
// Sound servers that refuse, talk nonsense or never answer: a sentence in good time, and nothing hangs.

#include <future>
#include <nlohmann/json.hpp>
#include "tool/tool_tests.h"

#include "device/bad_server.h"

TEST_CASE("A server that refuses, talks nonsense or never answers is said in a sentence, in good time") {
  struct Case {
    const char* driver;
    const char* socket;
    BadServer::Manner manner;
  };
  using Manner = BadServer::Manner;
  const Case cases[] = {{"PipeWire", "pipewire-0", Manner::Closes},
                        {"PipeWire", "pipewire-0", Manner::TalksNonsense},
                        {"PipeWire", "pipewire-0", Manner::IsSilent},
                        {"PulseAudio", "pulse/native", Manner::Closes},
                        {"PulseAudio", "pulse/native", Manner::TalksNonsense},
                        {"PulseAudio", "pulse/native", Manner::IsSilent}};
  struct Answer {
    ToolResult made;
    ToolResult recorded;
    ToolResult shown;
    std::chrono::duration<double> took{};
    int calls = 0;
  };
  std::vector<std::future<Answer>> answers;
  for (const Case& each : cases) {
    // Side by side: most of them is waiting.
    answers.push_back(std::async(std::launch::async, [each] {
      const TemporaryFolder temporary;
      const BadServer server(temporary / each.socket, each.manner);
      const std::string environment =
          "env -u PULSE_SERVER -u DBUS_SESSION_BUS_ADDRESS XDG_RUNTIME_DIR=" + temporary.path().string() +
          " %T ";
      const fs::path session = temporary / "s";
      Answer answer;
      answer.made = shell("%T new " + session.string());
      const auto began = std::chrono::steady_clock::now();
      answer.recorded = shell(environment + "record " + session.string() + " --track V --driver " +
                              each.driver + " --from 0s --to 1s");
      answer.took = std::chrono::steady_clock::now() - began;
      answer.calls = server.calls();
      answer.shown = shell("%T show " + session.string() + " --json");
      return answer;
    }));
  }
  REQUIRE(answers.size() == std::size(cases));
  for (std::size_t i = 0; i < answers.size(); ++i) {
    INFO(cases[i].driver << ", manner " << static_cast<int>(cases[i].manner));
    const Answer answer = answers[i].get();
    CHECK(answer.made.status == 0);
    CHECK(answer.calls > 0);
    CHECK(answer.recorded.status == 1);
    CHECK_THAT(answer.recorded.err, Catch::Contains(std::string("No ") + cases[i].driver +
                                                    " server is running, or it does not answer."));
    CHECK(answer.took.count() < 20.0);
    REQUIRE(answer.shown.status == 0);
    const nlohmann::json session = nlohmann::json::parse(answer.shown.out);
    REQUIRE(session["pool"].is_array());
    CHECK(session["pool"].empty());
  }
}
