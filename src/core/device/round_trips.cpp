// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/device/round_trips.h"

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/error.h"

namespace yewdrift {
namespace {

using nlohmann::json;

std::string keyOf(const DeviceSettings& s) {
  return json::array({s.driver, s.source, s.sink, s.rate.hertz, s.blockFrames}).dump();
}

json readAll(const std::filesystem::path& file) {
  std::ifstream in(file);
  json read = in ? json::parse(in, nullptr, false) : json::object();
  return read.is_object() ? read : json::object();
}

}  // namespace

RoundTrips RoundTrips::ofUser() {
  const char* configured = std::getenv("XDG_CONFIG_HOME");
  const char* home = std::getenv("HOME");
  const std::filesystem::path base = configured && *configured
                                         ? std::filesystem::path(configured)
                                         : std::filesystem::path(home ? home : ".") / ".config";
  return RoundTrips(base / "yewdrift" / "round-trips.json");
}

std::optional<Frames> RoundTrips::find(const DeviceSettings& settings, Frames reported) const {
  const json all = readAll(file_);
  const auto found = all.find(keyOf(settings));
  if (found == all.end()) return std::nullopt;
  const auto measured = found->find("measured");  // nothing in what is no object
  const auto then = found->find("reported");
  if (measured == found->end() || then == found->end() || !measured->is_number_integer() ||
      !then->is_number_integer())
    return std::nullopt;
  constexpr double most = 10'000'000;
  if (std::abs(measured->get<double>()) > most || std::abs(then->get<double>()) > most) return std::nullopt;
  const Frames now = Frames{measured->get<std::int64_t>()} + reported - Frames{then->get<std::int64_t>()};
  return now.count >= 0 && now.count <= most ? std::optional(now) : std::nullopt;
}

void RoundTrips::store(const DeviceSettings& settings, Frames reported, Frames measured) const {
  json all = readAll(file_);
  all[keyOf(settings)] = {{"measured", measured.count}, {"reported", reported.count}};
  std::error_code failed;
  std::filesystem::create_directories(file_.parent_path(), failed);
  const std::filesystem::path whole = file_.string() + ".new";
  std::ofstream out(whole, std::ios::trunc);
  out << all.dump(1) << "\n";
  out.close();
  if (out) std::filesystem::rename(whole, file_, failed);
  if (!out || failed) throw Error("The round trip cannot be stored in \"%1\".", file_.string());
}

}  // namespace yewdrift
