// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <iosfwd>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

namespace yewdrift {

/// How many of something: stands at %n and chooses between singular and plural.
struct Count {
  std::int64_t n = 0;
  bool operator==(const Count&) const = default;
};

/// A number with at most `places` digits behind the point and no trailing zeros: 2, 1.5.
struct Decimal {
  double value = 0.0;
  int places = 2;
  bool operator==(const Decimal&) const = default;
};

/// What a sentence says in English, with %1, %2... where its arguments go, and %n for a count. Only made from
/// a literal, and only compiles where each place has its argument and each argument its place.
///
/// With %n, singular and plural stand beside each other: "%n take(s)", "%n pass(es)" or, where more than an
/// ending differs, "%n samples were|one sample was".
template <class... Arguments>
class Pattern {
 public:
  // Implicit, so that a literal can be given: Error("A track needs a name.").
  consteval Pattern(const char* text) : text_(text) {
    constexpr int counts = (0 + ... + (std::is_same_v<Arguments, Count> ? 1 : 0));
    constexpr int places = static_cast<int>(sizeof...(Arguments)) - counts;
    static_assert(counts <= 1 && places <= 9, "A sentence counts one thing, and has nine places.");
    bool counted = false;
    unsigned filled = 0;
    for (const char* c = text; *c != '\0'; ++c) {
      if (*c != '%') continue;
      if (c[1] == 'n') counted = true;
      if (c[1] < '1' || c[1] > '9') continue;
      if (c[1] - '0' > places) throw "There is a place without an argument.";
      filled |= 1U << static_cast<unsigned>(c[1] - '1');
    }
    if (filled != (1U << static_cast<unsigned>(places)) - 1U) throw "There is an argument without a place.";
    if (counted != (counts == 1)) throw "A %n goes with a Count.";
  }
  [[nodiscard]] constexpr const char* text() const { return text_; }

 private:
  const char* text_;
};

/// A whole sentence for a person, or a part that means something by itself, such as "2 bars": what it says,
/// and with what. Its English pattern is what a translation is looked up by, so that it can be said in any
/// language, with its words in that language's order; the tool says it in English.
class Sentence {
 public:
  using List = std::vector<Sentence>;
  /// A sentence in a sentence is a list of one.
  using Argument = std::variant<std::string, std::int64_t, Count, Decimal, List>;

  Sentence() = default;
  template <class... Arguments>
  explicit Sentence(Pattern<std::type_identity_t<Arguments>...> pattern, const Arguments&... arguments)
      : pattern_(pattern.text()), arguments_{toArgument(arguments)...} {}

  /// Text that is the same in every language: a name, a position, what a library says.
  static Sentence verbatim(std::string text);
  /// "A, B and C"; nothing of none.
  static Sentence listed(const List& items);

  /// English and a literal, so always there; what a translation is looked up by.
  [[nodiscard]] const char* pattern() const { return pattern_; }
  [[nodiscard]] const std::vector<Argument>& arguments() const { return arguments_; }
  [[nodiscard]] bool empty() const { return *pattern_ == '\0'; }
  /// What %n counts, if it counts.
  [[nodiscard]] const Count* count() const;
  /// As the tool prints it.
  [[nodiscard]] std::string english() const;

  friend bool operator==(const Sentence& a, const Sentence& b) {
    return std::string_view(a.pattern_) == b.pattern_ && a.arguments_ == b.arguments_;
  }

 private:
  /// A text that nobody would read to its end loses its middle: what is quoted may be a thousand times as
  /// long as the sentence.
  static Argument toArgument(std::string_view text);
  static Argument toArgument(const std::string& text) { return toArgument(std::string_view(text)); }
  static Argument toArgument(const char* text) { return toArgument(std::string_view(text)); }
  template <std::integral Number>
  static Argument toArgument(Number number) {
    return static_cast<std::int64_t>(number);
  }
  static Argument toArgument(Count count) { return count; }
  static Argument toArgument(Decimal number) { return number; }
  static Argument toArgument(const Sentence& sentence) { return List{sentence}; }

  const char* pattern_ = "";
  std::vector<Argument> arguments_;
};

/// In English.
std::ostream& operator<<(std::ostream& out, const Sentence& sentence);

/// At the end of a list of them.
template <class... Arguments>
void addSentence(std::vector<Sentence>& list, Pattern<std::type_identity_t<Arguments>...> pattern,
                 const Arguments&... arguments) {
  list.push_back(
      Sentence(pattern, arguments...));  // NOLINT(modernize-use-emplace): a pattern is no constant there
}

/// What several say one after the other, in English.
std::string english(const std::vector<Sentence>& sentences);

/// The singular or the plural of an English pattern with %n in it; the pattern itself where it does not
/// count.
std::string englishPlural(std::string_view pattern, std::int64_t n);

}  // namespace yewdrift
