// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the tests of the engine include.
#pragma once

#include <array>
#include <atomic>
#include <catch2/catch.hpp>
#include <chrono>
#include <cmath>
#include <mutex>
#include <random>
#include <set>
#include <thread>

#include "bench_rig.h"
#include "core/device/control_source.h"
#include "core/edit/plan_recording.h"
#include "core/engine/claim.h"
#include "core/engine/input_tape.h"
#include "core/engine/loop_back.h"
#include "core/error.h"
#include "engine/recording_support.h"
#include "support.h"

using namespace yewdrift;        // NOLINT: of tests only
using namespace yewdrift::test;  // NOLINT: of tests only
