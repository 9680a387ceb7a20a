// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <poll.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <cstring>
#include <thread>

#include "support.h"

namespace yewdrift::test {

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

}  // namespace yewdrift::test
