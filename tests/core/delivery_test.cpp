// SPDX-License-Identifier: GPL-3.0-or-later
//
// Delivering takes at another pitch: they are made first, or nothing is delivered.
#include "core/deliver/delivery.h"

#include <algorithm>
#include <catch2/catch.hpp>

#include "core/edit/edit_takes.h"
#include "core/error.h"
#include "core/plan/pitched_files.h"
#include "support.h"

using namespace yewdrift;
using namespace yewdrift::test;

TEST_CASE(
    "What is delivered plays takes at the pitch they are given, made before where it is not there yet") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {sine(24000, 440.0, 48000.0)});
  const TrackId id = folder.session().tracks.front()->id;
  LaneChange change;
  change.pitch = Cents{100.0};
  const Session session = changeLane(folder.session(), id, {1}, change);
  const auto wanted = pitchedFilesOf(session);
  REQUIRE(wanted.size() == 1);
  DeliveryWish wish;
  wish.what = {Deliverable::Composites};
  // Cancelled while it is made: nothing is left, neither there nor in the cache.
  int asked = 0;
  CHECK_THROWS_WITH(deliver(folder.disk(), session, wish, temporary / "to",
                            [&](double share) {
                              ++asked;
                              CHECK(share == 0.0);
                              return false;
                            }),
                    Catch::Contains("cancelled"));
  CHECK(asked == 1);
  CHECK_FALSE(PitchedFiles::isMade(folder.disk(), wanted.front()));
  CHECK_FALSE(fs::exists(temporary / "to"));
  std::vector<double> shares;
  const Delivery delivery = deliver(folder.disk(), session, wish, temporary / "to", [&](double share) {
    shares.push_back(share);
    return true;
  });
  REQUIRE(delivery.files.size() == 1);
  CHECK(std::is_sorted(shares.begin(), shares.end()));
  CHECK(shares.back() > 0.5);
  CHECK(PitchedFiles::isMade(folder.disk(), wanted.front()));
  const auto heard = renderTrack(folder, session, "Viola");
  CHECK(readWave(temporary / "to" / delivery.files.front().name) == heard);
  CHECK(heard.front() != sine(24000, 440.0, 48000.0));
}
