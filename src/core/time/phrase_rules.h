// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace yewdrift {

/// What counts as a rest, and as a phrase.
struct PhraseRules {
  double shortestRest = 0.25;   ///< seconds; what is shorter is a breath inside a phrase
  double shortestPhrase = 0.1;  ///< seconds; what sounds shorter is a noise
  bool operator==(const PhraseRules&) const = default;
};

}  // namespace yewdrift
