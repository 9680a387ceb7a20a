// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/recording_options.h"

#include "core/error.h"

namespace yewdrift {
namespace {

void checkRange(double value, double least, double most, const char* what) {
  if (value >= least && value <= most) return;
  char text[160];
  std::snprintf(text, sizeof text, "%s lies between %g and %g, not at %g.", what, least, most, value);
  throw Error(text);
}

}  // namespace

void checkRecordingOptions(const RecordingOptions& options) {
  checkRange(options.preRoll.amount, 0, 1000, "A pre-roll");
  checkRange(options.postRoll.amount, 0, 1000, "A post-roll");
  checkRange(options.countInBars, 0, 16, "A count-in");
  checkRange(options.passes, 0, 100'000, "The number of passes");
  checkRange(options.backUpSeconds, 0, 60, "The way back to pick up from");
  checkRange(options.leadSeconds, 0, 60, "What plays before it records");
  checkRange(options.airBars, 0.25, 64, "The air around a loop");
  checkRange(options.click.level.value, -60, 6, "The level of the click");
  checkRange(options.divisions, 2, 16, "The division of a beat");
}

}  // namespace yewdrift
