// SPDX-License-Identifier: GPL-3.0-or-later
//
// Tracks and their parts as JSON: what session.json and the steps of the history are made of. What reads
// throws Error with a sentence.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/session/session.h"

namespace yewdrift {

nlohmann::json toJson(const Clip& clip);
nlohmann::json toJson(const Lane& lane);
nlohmann::json toJson(const Piece& piece);
nlohmann::json toJson(const JoinSetting& join);
nlohmann::json toJson(const Track& track);
nlohmann::json toJson(const Marker& marker);

Clip clipFrom(const nlohmann::json& value);
Lane laneFrom(const nlohmann::json& value);
Piece pieceFrom(const nlohmann::json& value);
JoinSetting joinFrom(const nlohmann::json& value);
Track trackFrom(const nlohmann::json& value);
Marker markerFrom(const nlohmann::json& value);

/// A lane but for its clips.
nlohmann::json laneHead(const Lane& lane);
Lane laneFromHead(const nlohmann::json& value);
nlohmann::json levelJson(const LevelLine& line);
LevelLine levelLineFrom(const nlohmann::json& value);
/// How a composite begins and ends.
nlohmann::json endFadesJson(const Composite& composite);
void readEndFades(Composite& composite, const nlohmann::json& value);
nlohmann::json keptCompositesJson(const Track& track);
std::vector<KeptComposite> keptCompositesFrom(const nlohmann::json& value);
/// A track but for its lanes and its composites.
nlohmann::json trackHead(const Track& track);
Track trackFromHead(const nlohmann::json& value);

}  // namespace yewdrift
