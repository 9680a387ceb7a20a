// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/fade_curve.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yewdrift {

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

FadeGains matchedFade(double x, double rho) {
  const double angle = x * std::numbers::pi / 2.0;
  const double out = std::cos(angle);
  const double in = std::sin(angle);
  const double scale = 1.0 / std::sqrt(1.0 + 2.0 * std::clamp(rho, 0.0, 1.0) * out * in);
  return {static_cast<float>(out * scale), static_cast<float>(in * scale)};
}

}  // namespace yewdrift
