// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/edit/recorded_roll.h"
#include "core/session/session.h"

namespace yewdrift {

/// The session as the JSON document of docs/session-format.md, and back. Reading checks every invariant and
/// throws Error with a sentence.
nlohmann::json toJson(const Session& session);
Session sessionFromJson(const nlohmann::json& document);

/// What names a state of the session: two are the same where everything is that undo can change. 16 digits;
/// XXH3 of the compact document without the pool and the recording options.
std::string stateHash(const nlohmann::json& document);

nlohmann::json toJson(const PoolFile& file);
PoolFile poolFileFrom(const nlohmann::json& value);
nlohmann::json toJson(const TempoMap& tempo);
TempoMap tempoFrom(const nlohmann::json& value);
nlohmann::json toJson(const std::vector<Punch>& punches);
std::vector<Punch> punchesFrom(const nlohmann::json& value);

nlohmann::json toJson(const RecordSetup& setup);
RecordSetup recordSetupFromJson(const nlohmann::json& document);

}  // namespace yewdrift
