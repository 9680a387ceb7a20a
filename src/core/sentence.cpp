// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/sentence.h"

#include <cstdio>
#include <ostream>

namespace yewdrift {
namespace {

constexpr const char* alone = "%1";

constexpr std::size_t longestQuoted = 400;  // bytes
constexpr std::size_t endKept = 100;

/// Where a character begins, at `at` or before (UTF-8).
std::size_t characterStart(std::string_view text, std::size_t at) {
  while (at > 0 && (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U) --at;
  return at;
}

void replaceAll(std::string& text, std::string_view what, std::string_view with) {
  for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += with.size())
    text.replace(at, what.size(), with);
}

std::string englishNumber(Decimal number) {
  char text[64];
  std::snprintf(text, sizeof text, "%.*f", number.places, number.value);
  std::string shown = text;
  if (shown.find('.') == std::string::npos) return shown;
  shown.erase(shown.find_last_not_of('0') + 1);
  if (shown.ends_with('.')) shown.pop_back();
  return shown;
}

struct InEnglish {
  std::string operator()(const std::string& text) const { return text; }
  std::string operator()(std::int64_t number) const { return std::to_string(number); }
  std::string operator()(Count count) const { return std::to_string(count.n); }
  std::string operator()(Decimal number) const { return englishNumber(number); }
  std::string operator()(const Sentence::List& part) const { return part.front().english(); }
};

}  // namespace

std::string englishPlural(std::string_view pattern, std::int64_t n) {
  std::string text(pattern);
  if (text.find("%n") == std::string::npos) return text;
  const bool one = n == 1;
  if (const std::size_t bar = text.find('|'); bar != std::string::npos)
    return one ? text.substr(bar + 1) : text.substr(0, bar);
  replaceAll(text, "(es)", one ? "" : "es");
  replaceAll(text, "(s)", one ? "" : "s");
  return text;
}

Sentence::Argument Sentence::toArgument(std::string_view text) {
  if (text.size() <= longestQuoted) return std::string(text);
  const std::string_view begin = text.substr(0, characterStart(text, longestQuoted - endKept));
  return std::string(begin) + "\u2026" +
         std::string(text.substr(characterStart(text, text.size() - endKept)));
}

Sentence Sentence::verbatim(std::string text) {
  Sentence sentence;
  sentence.pattern_ = alone;
  sentence.arguments_.emplace_back(std::move(text));
  return sentence;
}

Sentence Sentence::listed(const List& items) {
  if (items.empty()) return {};
  Sentence list = items.front();
  for (std::size_t i = 1; i < items.size(); ++i)
    list = i + 1 == items.size() ? Sentence("%1 and %2", list, items[i]) : Sentence("%1, %2", list, items[i]);
  return list;
}

const Count* Sentence::count() const {
  for (const Argument& argument : arguments_)
    if (const auto* count = std::get_if<Count>(&argument)) return count;
  return nullptr;
}

std::string Sentence::english() const {
  std::vector<std::string> places;
  std::string counted;
  for (const Argument& argument : arguments_)
    (std::holds_alternative<Count>(argument) ? counted : places.emplace_back()) =
        std::visit(InEnglish{}, argument);
  const Count* many = count();
  const std::string pattern = many ? englishPlural(pattern_, many->n) : std::string(pattern_);
  std::string text;
  for (std::size_t i = 0; i < pattern.size(); ++i) {
    const char next = pattern[i] == '%' && i + 1 < pattern.size() ? pattern[i + 1] : '\0';
    if (many && next == 'n') {
      text += counted;
      ++i;
    } else if (next >= '1' && next <= '9' && static_cast<std::size_t>(next - '1') < places.size()) {
      text += places[static_cast<std::size_t>(next - '1')];
      ++i;
    } else {
      text += pattern[i];
    }
  }
  return text;
}

std::ostream& operator<<(std::ostream& out, const Sentence& sentence) {
  return out << sentence.english();
}

std::string english(const std::vector<Sentence>& sentences) {
  std::string text;
  for (const Sentence& sentence : sentences) text += (text.empty() ? "" : " ") + sentence.english();
  return text;
}

}  // namespace yewdrift
