// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>

namespace yewdrift {

/// What can be measured of a join from the samples of both takes.
struct JoinMeasure {
  double step = 0.0;             // difference of the two signals at the boundary, of full scale 1
  double levelDifference = 0.0;  // decibels, incoming over outgoing
  double correlation = 0.0;      // -1..1, over the stretch given
};

/// `outgoing` and `incoming` cover the same stretch; the boundary is before sample `cut`.
JoinMeasure measureJoin(std::span<const float> outgoing, std::span<const float> incoming, std::size_t cut);

}  // namespace yewdrift
