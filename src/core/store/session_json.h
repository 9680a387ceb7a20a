// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/edit/recorded_roll.h"
#include "core/session/session.h"

namespace yewdrift {

/// The session as the JSON document of docs/session-format.md, and back. Reading checks every invariant and
/// throws Error with a sentence.
nlohmann::json toJson(const Session& session);
Session sessionFromJson(const nlohmann::json& document);

nlohmann::json toJson(const RecordSetup& setup);
RecordSetup recordSetupFromJson(const nlohmann::json& document);

const char* nameOf(Curve curve);
Curve curveNamed(const std::string& name);
const char* nameOf(SampleFormat format);
SampleFormat sampleFormatNamed(const std::string& name);
const char* nameOf(PassResult result);
PassResult passResultNamed(const std::string& name);
const char* nameOf(TrackKind kind);
const char* nameOf(Monitoring monitoring);
Monitoring monitoringNamed(const std::string& name);

}  // namespace yewdrift
