// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the tests of the companion command include.
#pragma once

#include <algorithm>
#include <catch2/catch.hpp>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <map>
#include <random>
#include <regex>
#include <set>
#include <sstream>
#include <thread>

#include "core/edit/edit.h"
#include "support.h"

using namespace yewdrift;        // NOLINT: of tests only
using namespace yewdrift::test;  // NOLINT: of tests only
