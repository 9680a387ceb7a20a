// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/session/session.h"

namespace yewdrift {

/// Tempo, meter and markers of a session as a Standard MIDI File of format 0 with 960 ticks a quarter note
/// (Standard MIDI Files 1.0, MIDI Manufacturers Association 1996). Tempi are rounded to a microsecond a
/// quarter note, markers to a tick; what lies before bar 1 is left out.
std::string tempoAsMidi(const Session& session);

}  // namespace yewdrift
