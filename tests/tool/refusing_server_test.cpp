// SPDX-License-Identifier: GPL-3.0-or-later
//
// Sound servers that refuse, talk nonsense or never answer: a sentence in good time, and nothing hangs.
#include <poll.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <chrono>
#include <cstring>
#include <thread>

#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

/// Something that listens where a sound server would.
class BadServer {
 public:
  enum class Manner { Closes, TalksNonsense, IsSilent };
  BadServer(const fs::path& path, Manner manner) : manner_(manner), socket_(socket(AF_UNIX, SOCK_STREAM, 0)) {
    fs::create_directories(path.parent_path());
    sockaddr_un address{};
    address.sun_family = AF_UNIX;
    REQUIRE(path.string().size() < sizeof address.sun_path);
    std::strncpy(address.sun_path, path.c_str(), sizeof address.sun_path - 1);
    REQUIRE(bind(socket_, reinterpret_cast<const sockaddr*>(&address), sizeof address) == 0);
    REQUIRE(listen(socket_, 8) == 0);
    thread_ = std::thread([this] { serve(); });
  }
  ~BadServer() {
    running_ = false;
    thread_.join();
    for (const int each : taken_) close(each);
    close(socket_);
  }
  BadServer(const BadServer&) = delete;
  BadServer& operator=(const BadServer&) = delete;
  [[nodiscard]] int calls() const { return calls_; }

 private:
  void serve() {
    while (running_) {
      pollfd waiting{socket_, POLLIN, 0};
      if (poll(&waiting, 1, 50) <= 0) continue;
      const int taken = accept(socket_, nullptr, nullptr);
      if (taken < 0) continue;
      ++calls_;
      if (manner_ == Manner::Closes) {
        close(taken);
        continue;
      }
      const std::string nonsense(4096, '\xff');
      if (manner_ == Manner::TalksNonsense)
        (void)!send(taken, nonsense.data(), nonsense.size(), MSG_NOSIGNAL);
      taken_.push_back(taken);
    }
  }
  Manner manner_;
  int socket_;
  std::atomic<bool> running_{true};
  std::atomic<int> calls_{0};
  std::vector<int> taken_;
  std::thread thread_;
};

}  // namespace

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
