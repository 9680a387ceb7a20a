// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QCoreApplication>
#include <QString>
#include <QStringList>
#include <optional>

#include "core/session/session.h"
#include "core/time/position_text.h"

namespace yewdrift::app {

/// "1.5 ms later (72 samples)".
QString slipInWords(Frames slip, SampleRate rate);

/// What a piece's gain, pitch and slip are, each where it is not as played: "+1.5 dB", "-20 cents", "+3.0
/// ms".
QStringList soundInWords(const Piece& piece, SampleRate rate);

/// Positions and spans in words and in fields: in bars and beats where people work with a grid, else by the
/// clock; numbers as they are written here. A value; pure.
class PositionWords {
  Q_DECLARE_TR_FUNCTIONS(PositionWords)

 public:
  explicit PositionWords(Ruler ruler);
  /// Minutes and seconds, also where people see bars: for lengths.
  [[nodiscard]] static PositionWords byClock(Ruler ruler);

  /// To be read: `5|1`, or `0:12.500`.
  [[nodiscard]] QString shown(Frames at) const;
  /// Both ends to be read.
  [[nodiscard]] QString shown(Span span) const;
  /// To be edited: what typed() understands as that very frame. `5|1` or `123456f`; without a grid in
  /// seconds, to the millisecond or, where that does not name the frame, to the microsecond.
  [[nodiscard]] QString inField(Frames at) const;
  /// What was typed into a field; none where it is empty. Throws Error with a sentence where it is no
  /// position.
  [[nodiscard]] std::optional<Frames> typed(const QString& text) const;

 private:
  Ruler ruler_;
};

}  // namespace yewdrift::app
