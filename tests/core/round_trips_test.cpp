// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

#include "core/device/round_trips.h"

TEST_CASE("A measured round trip is kept for its pair, rate and block, and follows the device's own figure") {
  const TemporaryFolder temporary;
  const RoundTrips trips(temporary / "deeper" / "trips.json");
  DeviceSettings pair{"PipeWire", "microphone", "speakers", {48000}, 256, 2, 2, {}};
  CHECK_FALSE(trips.find(pair, {100}));
  trips.store(pair, {100}, {356});
  CHECK(trips.find(pair, {100}) == Frames{356});
  CHECK(trips.find(pair, {130}) == Frames{386});
  auto other = [&](auto change) {
    DeviceSettings changed = pair;
    change(changed);
    return trips.find(changed, {100});
  };
  CHECK_FALSE(other([](DeviceSettings& s) { s.driver = "JACK"; }));
  CHECK_FALSE(other([](DeviceSettings& s) { s.source = "line"; }));
  CHECK_FALSE(other([](DeviceSettings& s) { s.sink = "line"; }));
  CHECK_FALSE(other([](DeviceSettings& s) { s.rate = {44100}; }));
  CHECK_FALSE(other([](DeviceSettings& s) { s.blockFrames = 512; }));
}

TEST_CASE("A damaged file of round trips counts as empty and is replaced") {
  const TemporaryFolder temporary;
  const RoundTrips trips(temporary / "trips.json");
  const DeviceSettings pair{"JACK", "a", "b", {48000}, 64, 2, 2, {}};
  std::ofstream(temporary / "trips.json") << "{ half a ";
  CHECK_FALSE(trips.find(pair, {}));
  trips.store(pair, {}, {128});
  CHECK(trips.find(pair, {}) == Frames{128});
}

TEST_CASE("An entry of the file of round trips that is no round trip counts as none") {
  const TemporaryFolder temporary;
  const RoundTrips trips(temporary / "trips.json");
  const DeviceSettings pair{"JACK", "a", "b", {48000}, 64, 2, 2, {}};
  const auto findIn = [&](const std::string& entry) {
    std::ofstream(temporary / "trips.json") << R"({"[\"JACK\",\"a\",\"b\",48000,64]": )" << entry << "}";
    return trips.find(pair, {100});
  };
  REQUIRE(findIn(R"({"measured": 300, "reported": 60})") == Frames{340});
  for (const char* entry :
       {"null", "5", "\"300\"", "[300, 60]", "{}", R"({"measured": 300})", R"({"reported": 60})",
        R"({"measured": 300.5, "reported": 60})", R"({"measured": 300, "reported": "60"})",
        R"({"measured": 10000001, "reported": 60})", R"({"measured": 300, "reported": 10000001})",
        R"({"measured": 18446744073709551615, "reported": 60})", R"({"measured": 300, "reported": 401})",
        R"({"measured": 10000000, "reported": 99})"}) {
    INFO(entry);
    CHECK_FALSE(findIn(entry));
  }
  CHECK(findIn(R"({"measured": 300, "reported": 400})") == Frames{0});
  CHECK(findIn(R"({"measured": 10000000, "reported": 100})") == Frames{10000000});
  CHECK(findIn(R"({"measured": 100, "reported": 10000000})") == std::nullopt);
}
