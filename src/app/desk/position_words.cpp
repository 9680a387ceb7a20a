// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/position_words.h"

#include <QLocale>

#include "app/look/spoken.h"
#include "core/error.h"

namespace yewdrift::app {

PositionWords::PositionWords(Ruler ruler) : ruler_(std::move(ruler)) {}

PositionWords PositionWords::byClock(Ruler ruler) {
  ruler.grid = false;
  return PositionWords(std::move(ruler));
}

QString PositionWords::shown(Frames at) const {
  return QString::fromStdString(positionText(at, ruler_));
}

QString PositionWords::shown(Span span) const {
  return tr("%1 to %2").arg(shown(span.start), shown(span.end));
}

QString PositionWords::inField(Frames at) const {
  const auto names = [&](const QString& text) {
    try {
      return typed(text) == at;
    } catch (const Error&) {
      return false;
    }
  };
  const auto seconds = [&](int places) {
    return numberLocale().toString(secondsFromFrames(at, ruler_.rate), 'f', places) + "s";
  };
  // The short form where it is exact.
  const QString brief = ruler_.grid ? QString::fromStdString(barBeatText(at, ruler_)) : seconds(3);
  if (names(brief)) return brief;
  return ruler_.grid ? QString("%1f").arg(at.count) : seconds(6);
}

std::optional<Frames> PositionWords::typed(const QString& text) const {
  const QString plain = text.trimmed();
  if (plain.isEmpty()) return std::nullopt;
  const QString decimal = numberLocale().decimalPoint();
  return parsePosition(QString(plain).replace(decimal, ".").toStdString(), ruler_);
}

QString slipInWords(Frames slip, SampleRate rate) {
  const QString ms = QLocale().toString(std::abs(secondsFromFrames(slip, rate)) * 1000.0, 'f', 2);
  const QString samples = QLocale().toString(std::abs(slip.count));
  if (slip.count == 0) return QCoreApplication::translate("PositionWords", "In its place, as it was played");
  return (slip.count > 0 ? QCoreApplication::translate("PositionWords", "%1 ms later (%2 samples)")
                         : QCoreApplication::translate("PositionWords", "%1 ms earlier (%2 samples)"))
      .arg(ms, samples);
}

QStringList soundInWords(const Piece& piece, SampleRate rate) {
  const auto number = [](double value, int places) {
    return (value > 0.0 ? "+" : "") + QLocale().toString(value, 'f', places);
  };
  QStringList words;
  if (piece.gain.value != 0.0)
    words << QCoreApplication::translate("PositionWords", "%1 dB").arg(number(piece.gain.value, 1));
  if (piece.pitch.value != 0.0)
    words << QCoreApplication::translate("PositionWords", "%1 cents").arg(number(piece.pitch.value, 0));
  if (piece.slip.count != 0)
    words << QCoreApplication::translate("PositionWords", "%1 ms")
                 .arg(number(secondsFromFrames(piece.slip, rate) * 1000.0, 1));
  return words;
}

}  // namespace yewdrift::app
