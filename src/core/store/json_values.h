// SPDX-License-Identifier: GPL-3.0-or-later
//
// Values in documents that anybody may have written. All throw Error with a sentence where one is not what it
// should be.
#pragma once

#include <cstdint>
#include <initializer_list>
#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/sentence.h"
#include "core/session/unknown.h"
#include "core/time/frames.h"

namespace yewdrift {

/// A document, or a part of one. `what` is what a sentence calls it. Nested deeper than any of ours is
/// refused before it is parsed.
nlohmann::json parsedJson(const std::string& text, const Sentence& what);

/// A whole number of 64 bits, of 32 bits.
std::int64_t wholeNumber(const nlohmann::json& value);
int smallNumber(const nlohmann::json& value);
/// Finite.
double realNumber(const nlohmann::json& value);
bool truth(const nlohmann::json& value);
std::string text(const nlohmann::json& value);
/// No further than positions go.
Frames frames(const nlohmann::json& value);
/// `[start, end]`.
Span spanFrom(const nlohmann::json& value);
nlohmann::json spanJson(Span span);
/// What has to be there.
const nlohmann::json& member(const nlohmann::json& object, const char* key);
const nlohmann::json& element(const nlohmann::json& array, std::size_t index);
/// An array, which is returned.
const nlohmann::json& list(const nlohmann::json& value);

/// The members of an object that are not among those known.
Unknown unknownIn(const nlohmann::json& object, std::initializer_list<const char*> known);
/// Puts them back.
void addUnknown(nlohmann::json& object, const Unknown& unknown);

}  // namespace yewdrift
