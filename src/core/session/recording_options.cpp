// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/session/recording_options.h"

#include "core/error.h"

namespace yewdrift {
namespace {

void checkRange(double value, double least, double most, Pattern<Decimal, Decimal, Decimal> pattern) {
  if (!(value >= least && value <= most))
    throw Error(pattern, Decimal{least}, Decimal{most}, Decimal{value, 3});
}

}  // namespace

RecordingOptions optionsForPlayers() {
  RecordingOptions options;
  options.fillPreRoll = true;
  options.postRoll = {2.0, LengthUnit::Bars};
  return options;
}

void checkRecordingOptions(const RecordingOptions& options) {
  checkRange(options.preRoll.amount, 0, 1000, "A pre-roll lies between %1 and %2, not at %3.");
  checkRange(options.postRoll.amount, 0, 1000, "A post-roll lies between %1 and %2, not at %3.");
  checkRange(options.countInBars, 0, 16, "A count-in lies between %1 and %2, not at %3.");
  checkRange(options.passes, 0, 100'000, "The number of passes lies between %1 and %2, not at %3.");
  checkRange(options.backUpSeconds, 0, 60, "The way back to pick up from lies between %1 and %2, not at %3.");
  checkRange(options.leadSeconds, 0, 60, "What plays before it records lies between %1 and %2, not at %3.");
  checkRange(options.airBars, 0.25, 64, "The air around a loop lies between %1 and %2, not at %3.");
  checkRange(options.click.level.value, -60, 6, "The level of the click lies between %1 and %2, not at %3.");
  checkRange(options.divisions, 2, 16, "The division of a beat lies between %1 and %2, not at %3.");
}

}  // namespace yewdrift
