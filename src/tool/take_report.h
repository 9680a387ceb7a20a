// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/analysis/evidence.h"
#include "core/signal/line_up.h"

namespace yewdrift::tool {

nlohmann::json phrasesReport(const std::vector<Phrase>& phrases);
std::string phrasesText(const std::vector<Phrase>& phrases, const Ruler& ruler);

nlohmann::json evidenceReport(const std::vector<PhraseEvidence>& phrases);
std::string evidenceText(const std::vector<PhraseEvidence>& phrases, const Ruler& ruler);

nlohmann::json lineUpReport(const LineUp& found);
std::string lineUpText(LaneNumber take, LaneNumber reference, const LineUp& found, SampleRate rate);

}  // namespace yewdrift::tool
