// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/fade_curve.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yewdrift {

double bentBy(double x, double bend) {
  return bend == 0.0 ? x : std::pow(x, std::pow(3.0, -bend));
}

FadeGains equalGain(double x) {
  return {static_cast<float>(1.0 - x), static_cast<float>(x)};
}

FadeGains equalPower(double x) {
  const double angle = x * std::numbers::pi / 2.0;
  return {static_cast<float>(std::cos(angle)), static_cast<float>(std::sin(angle))};
}

FadeGains sCurve(double x) {
  const double in = 0.5 - 0.5 * std::cos(x * std::numbers::pi);
  return {static_cast<float>(1.0 - in), static_cast<float>(in)};
}

FadeGains smoothPower(double x) {
  // The slope rises over a quarter, stays, and falls over a quarter.
  constexpr double slope = 4.0 / 3.0;
  const double half = std::min(x, 1.0 - x);
  const double way = half < 0.25 ? 2.0 * slope * half * half : slope * (half - 0.125);
  return equalPower(x < 0.5 ? way : 1.0 - way);
}

FadeGains matchedFade(double x, double rho) {
  const FadeGains pair = smoothPower(x);
  const float scale = matchedScale(pair.out, pair.in, static_cast<float>(rho));
  return {pair.out * scale, pair.in * scale};
}

}  // namespace yewdrift
