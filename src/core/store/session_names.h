// SPDX-License-Identifier: GPL-3.0-or-later
//
// What things are called in documents and on the command line. The functions that read a name throw Error
// where there is no such thing.
#pragma once

#include <string>

#include "core/session/session.h"

namespace yewdrift {

const char* nameOf(Curve curve);
Curve curveNamed(const std::string& name);
const char* nameOf(SampleFormat format);
SampleFormat sampleFormatNamed(const std::string& name);
const char* nameOf(PassResult result);
PassResult passResultNamed(const std::string& name);
const char* nameOf(TrackKind kind);
TrackKind trackKindNamed(const std::string& name);
const char* nameOf(PoolKind kind);
PoolKind poolKindNamed(const std::string& name);
const char* nameOf(Monitoring monitoring);
Monitoring monitoringNamed(const std::string& name);
const char* nameOf(LengthUnit unit);
LengthUnit lengthUnitNamed(const std::string& name);
const char* nameOf(Snap snap);
Snap snapNamed(const std::string& name);
const char* nameOf(Cue cue);
Cue cueNamed(const std::string& name);
const char* nameOf(LanePicture picture);
LanePicture lanePictureNamed(const std::string& name);
const char* nameOf(MarkerKind kind);
MarkerKind markerKindNamed(const std::string& name);

}  // namespace yewdrift
