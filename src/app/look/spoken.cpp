// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/spoken.h"

#include <QCoreApplication>
#include <QLocale>

namespace yewdrift::app {
namespace {

QString decimal(Decimal number) {
  QString text = numberLocale().toString(number.value, 'f', number.places);
  const QString point = numberLocale().decimalPoint();
  if (!text.contains(point)) return text;
  while (text.endsWith(numberLocale().zeroDigit())) text.chop(numberLocale().zeroDigit().size());
  if (text.endsWith(point)) text.chop(point.size());
  return text;
}

struct Spoken {
  QString operator()(const std::string& text) const { return QString::fromStdString(text); }
  QString operator()(std::int64_t number) const {
    return numberLocale().toString(static_cast<qlonglong>(number));
  }
  QString operator()(Count count) const { return (*this)(count.n); }
  QString operator()(Decimal number) const { return decimal(number); }
  QString operator()(const Sentence::List& part) const { return spoken(part.front()); }
};

}  // namespace

QLocale numberLocale() {
  QLocale here;
  here.setNumberOptions(here.numberOptions() | QLocale::OmitGroupSeparator);
  return here;
}

QString spoken(const Sentence& sentence) {
  if (sentence.empty()) return {};
  const Count* count = sentence.count();
  // A number behind which no plural rule looks any more.
  constexpr std::int64_t most = 1'000'000'000;
  const QString pattern =
      QLatin1String(sentence.pattern()) == QLatin1String("%1")
          ? QStringLiteral("%1")
          : QCoreApplication::translate(
                "Core", sentence.pattern(), nullptr,
                count ? static_cast<int>(std::min(std::max<std::int64_t>(count->n, 0), most)) : -1);
  QStringList places;
  for (const Sentence::Argument& argument : sentence.arguments())
    if (!std::holds_alternative<Count>(argument)) places << std::visit(Spoken{}, argument);
  QString text;
  for (qsizetype i = 0; i < pattern.size(); ++i) {
    const qsizetype place =
        pattern[i] == '%' && i + 1 < pattern.size() ? pattern[i + 1].unicode() - u'1' : -1;
    if (place >= 0 && place < places.size()) {
      text += places[place];
      ++i;
    } else {
      text += pattern[i];
    }
  }
  return text;
}

QString spoken(const std::vector<Sentence>& sentences) {
  QStringList texts;
  for (const Sentence& sentence : sentences) texts << spoken(sentence);
  return texts.join(' ');
}

QString spoken(const std::exception& error) {
  return spoken(sentenceOf(error));
}

Error refusal(const QString& sentence) {
  return Error(Sentence::verbatim(sentence.toStdString()));
}

}  // namespace yewdrift::app
