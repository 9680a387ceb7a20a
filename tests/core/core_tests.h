// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the tests of the core include.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <catch2/catch.hpp>
#include <cmath>
#include <cstring>
#include <fstream>
#include <limits>
#include <map>
#include <numbers>
#include <random>
#include <regex>
#include <set>
#include <sstream>
#include <thread>

#include "core/analysis/analysis_jobs.h"
#include "core/analysis/evidence.h"
#include "core/analysis/track_phrases.h"
#include "core/device/audio_driver.h"
#include "core/edit/describe_recording.h"
#include "core/edit/edit.h"
#include "core/edit/edit_composites.h"
#include "core/edit/edit_gather.h"
#include "core/edit/edit_pieces.h"
#include "core/edit/edit_takes.h"
#include "core/edit/history.h"
#include "core/edit/plan_recording.h"
#include "core/error.h"
#include "core/joins/pick_over.h"
#include "core/plan/file_sample_source.h"
#include "core/plan/flatten.h"
#include "core/plan/join_close_up.h"
#include "core/plan/pitched_files.h"
#include "core/plan/playback_plan.h"
#include "core/plan/renderer.h"
#include "core/plan/verbatim.h"
#include "core/session/limits.h"
#include "core/session/resolved_composite.h"
#include "core/signal/correlation.h"
#include "core/signal/fade_curve.h"
#include "core/signal/pitch_track.h"
#include "core/store/audio_file.h"
#include "core/store/file_uses.h"
#include "core/store/import_audio.h"
#include "core/store/json_values.h"
#include "core/store/output_file.h"
#include "core/store/peaks_cache.h"
#include "core/store/recording_note.h"
#include "core/store/session_delta.h"
#include "core/store/session_disk.h"
#include "core/store/session_json.h"
#include "support.h"

using namespace yewdrift;        // NOLINT: of tests only
using namespace yewdrift::test;  // NOLINT: of tests only
