// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cmath>

namespace yewdrift {

/// Gains of the two sides of a crossfade.
struct FadeGains {
  float out = 1.0F;
  float in = 0.0F;
};

/// Where a curve is after `x` of the fade, if it is bent: below 0 the incoming side rises late, above 0
/// early; 0 and 1 stay where they are. `bend` is -1 to 1: x to the power of 3 to the -bend.
double bentBy(double x, double bend);

/// Linear: out + in = 1.
FadeGains equalGain(double x);
/// A quarter of a sine: out² + in² = 1.
FadeGains equalPower(double x);
/// Half a cosine: out + in = 1, flat at both ends.
FadeGains sCurve(double x);
/// The same, setting in and ending gently: out² + in² = 1, flat at both ends, so that it puts no corner into
/// the wave.
FadeGains smoothPower(double x);
/// The smooth pair scaled so that out² + in² + 2·rho·out·in = 1: the power-complementary condition of
/// Fink, Holters, Zölzer, "Signal-matched power-complementary cross-fading", DAFx 2016. `rho` is the
/// correlation of the two signals, clamped to -0.5..1: opposite signals are boosted by no more than 3 dB.
FadeGains matchedFade(double x, double rho);
/// By how much the gains of a pair with out² + in² = 1 are scaled for that.
inline float matchedScale(float out, float in, float rho) noexcept {
  return 1.0F / std::sqrt(1.0F + 2.0F * std::clamp(rho, -0.5F, 1.0F) * out * in);
}

}  // namespace yewdrift
