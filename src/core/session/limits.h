// SPDX-License-Identifier: GPL-3.0-or-later
//
// What a session may hold. Whatever comes in, from a document, a step of the history, the note of a recording
// or a command line, is held against this one table (checkInvariants).
#pragma once

#include <cstddef>
#include <string>

#include "core/session/level.h"
#include "core/time/frames.h"

namespace yewdrift::limits {

inline constexpr int lowestImportRate = 4'000;
inline constexpr int highestImportRate = 768'000;
inline constexpr int fileChannels = 256;
inline constexpr int inputs = 4'096;

inline constexpr Decibels lowestGain{-200.0};
inline constexpr Decibels highestGain{60.0};

inline constexpr Cents widestPitch{2'400.0};  // two octaves, up or down
inline constexpr int highestRating = 5;
inline constexpr int palettes = 8;
inline constexpr double longestRest = 60.0;    // seconds
inline constexpr double widestLead = 1'000.0;  // bars that a loop is widened by, either side

inline constexpr std::size_t tracks = 2'000;
inline constexpr std::size_t microphones = 256;  // of a track
inline constexpr std::size_t lanes = 20'000;     // of a track
inline constexpr std::size_t clips = 200'000;    // of a lane
inline constexpr std::size_t pieces = 1'000'000;
inline constexpr std::size_t composites = 1'000;
inline constexpr std::size_t markers = 100'000;
inline constexpr std::size_t phrases = 100'000;
inline constexpr std::size_t cells = 100'000;        // of a lane
inline constexpr std::size_t levelPoints = 100'000;  // of a line
inline constexpr std::size_t punches = 10'000;
inline constexpr std::size_t tempoChanges = 10'000;
inline constexpr std::size_t files = 500'000;
inline constexpr std::size_t textBytes = 10'000;

}  // namespace yewdrift::limits

namespace yewdrift {

/// Throws Error where a relative name could lead out of the session's folder.
void checkStaysInside(const std::string& name);

/// The text with everything in it that is not UTF-8 replaced, and no longer than texts may be: for names that
/// come from elsewhere.
std::string readableText(const std::string& text);
bool isReadable(const std::string& text);

}  // namespace yewdrift
