# SPDX-License-Identifier: GPL-3.0-or-later
"""Plants many small faults in one build: each is asleep until YEWDRIFT_FAULT names its number.

planted(text, first) gives the source with faults in it and what they are; HEADER is what it includes. What cannot be
planted so (it spans lines, or has to be known when it is compiled) is left out. A fault that makes no sense for its
types ends the program with status 77.
"""
import re

HEADER = r"""
#pragma once
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <initializer_list>
#include <string>
#include <type_traits>
#include <unistd.h>
#include <utility>
namespace planted {
inline const int awake = [] { const char* text = std::getenv("YEWDRIFT_FAULT"); return text ? std::atoi(text) : 0; }();
inline unsigned char reached[400000];
struct Tell {  // which were reached, as a file of its own in the folder that is named
  ~Tell() {
    const char* folder = std::getenv("YEWDRIFT_REACHED");
    if (!folder) return;
    std::FILE* out = std::fopen((std::string(folder) + "/" + std::to_string(getpid())).c_str(), "wb");
    if (out) std::fwrite(reached, 1, sizeof reached, out), std::fclose(out);
  }
};
inline Tell tell;
constexpr bool is(int number) {
  if (std::is_constant_evaluated()) return false;
  reached[number] = 1;
  return number == awake;
}
[[noreturn]] inline void senseless() { _exit(77); }
template <typename A, typename Op> struct Left { A a; int number; };
#define PLANTED(NAME, OP, OTHER) \
  struct NAME { int number; }; \
  template <typename A> constexpr Left<A, NAME> operator OP(A a, NAME fault) { return {std::move(a), fault.number}; } \
  template <typename A, typename B> constexpr auto operator OP(Left<A, NAME> left, B b) { \
    if (is(left.number)) { \
      if constexpr (requires { { left.a OTHER b } -> std::convertible_to<decltype(left.a OP b)>; }) \
        return static_cast<std::decay_t<decltype(left.a OP b)>>(left.a OTHER b); \
      else senseless(); \
    } \
    return static_cast<std::decay_t<decltype(left.a OP b)>>(left.a OP b); \
  }
PLANTED(Lt, <, <=) PLANTED(Le, <=, <) PLANTED(Gt, >, >=) PLANTED(Ge, >=, >) PLANTED(Eq, ==, !=) PLANTED(Ne, !=, ==)
PLANTED(Plus, +, -) PLANTED(Minus, -, +) PLANTED(Times, *, /)
template <bool least> struct Extreme {
  int number;
  template <typename T> constexpr const T& operator()(const T& a, const T& b) const {
    return least != is(number) ? std::min(a, b) : std::max(a, b); }
  template <typename T> constexpr T operator()(std::initializer_list<T> all) const {
    return least != is(number) ? std::min(all) : std::max(all); }
  template <typename T, typename C> constexpr const T& operator()(const T& a, const T& b, C c) const {
    return least != is(number) ? std::min(a, b, c) : std::max(a, b, c); }
};
template <typename T> constexpr T negated(int number, T value) {
  if (is(number)) {
    if constexpr (requires { T(value - value - value); }) return T(value - value - value);
    else senseless();
  }
  return value;
}
}  // namespace planted
"""

BINARY = {" < ": ("Lt", " <= "), " <= ": ("Le", " < "), " > ": ("Gt", " >= "), " >= ": ("Ge", " > "),
          " == ": ("Eq", " != "), " != ": ("Ne", " == "), " + ": ("Plus", " - "), " - ": ("Minus", " + "),
          " * ": ("Times", " / ")}
PLAIN = ("//", "#", "template", "throw", "static_assert", "constexpr")  # lines that begin so are left alone
OTHERS = re.compile(r"std::min\(|std::max\(|\b(?:true|false);|\bif \((?!\w+ = )([^()]+)\) |(?<![\w.])\d+\.0F\b|"
                    r"\bcontinue;| \+= ")
SIGN = re.compile(" (?:" + "|".join(re.escape(each.strip()) for each in sorted(BINARY, key=len, reverse=True)) + ") ")


def closed(text, at):
    """Where an expression that goes on from `at` ends: before an unmatched bracket or a semicolon; -1 if not here."""
    depth = 0
    for i in range(at, len(text)):
        if text[i] in "([{":
            depth += 1
        elif text[i] in ")]}":
            depth -= 1
            if depth < 0:
                return i
        elif text[i] in ";," and depth == 0:
            return i
    return -1


def opened(text, at):
    depth = 0
    for i in range(at - 1, -1, -1):
        if text[i] in ")]}":
            depth += 1
        elif text[i] in "([{":
            depth -= 1
            if depth < 0:
                return i + 1
        elif depth == 0 and (text[i] in ";," or text[i:i + 3] in (" = ", " ? ", " : ")):
            return i + (3 if text[i] == " " else 1)
        elif depth == 0 and text[i:i + 7] == "return " and (i == 0 or not text[i - 1].isalnum()):
            return i + 7
    return -1


def conditions(line):
    """Spans of the outermost conditions of && and || that lie in this line as a whole."""
    spans = []
    for match in re.finditer(r" (?:&&|\|\|) ", line):
        if any(start <= match.start() < end for start, end in spans):
            continue
        start, end = opened(line, match.start()), closed(line, match.end())
        question = line.find(" ? ", match.end(), end if end > 0 else None)
        if question > 0 and line.count("(", match.end(), question) == line.count(")", match.end(), question):
            end = question
        inside = line[start:end] if start >= 0 and end >= 0 else ""
        if not inside.strip() or "[" in inside and "{" in inside or re.match(r"\s*(?:for|while|if|else)\b", inside):
            continue
        spans.append((start, end))
    return spans


class Line:
    def __init__(self, number, text, first):
        self.number, self.text, self.next, self.found = number, text, first, []

    def fault(self, start, end, new):
        self.found.append({"fault": self.next, "op": self.text[start:end], "line": self.number + 1,
                           "was": self.text.strip(),
                           "now": (self.text[:start] + new + self.text[end:]).strip()})
        self.next += 1
        return self.next - 1

    def planted(self):
        edits = []  # (start, end, new)
        for match in SIGN.finditer(self.text):
            old = match.group()
            name, new = BINARY[old]
            number = self.fault(*match.span(), new)
            edits.append((match.start(), match.end(), f"{old}planted::{name}{{{number}}}{old}"))
        for match in OTHERS.finditer(self.text):
            old, (start, end) = match.group(), match.span()
            if old in ("std::min(", "std::max("):
                new = "std::max(" if old == "std::min(" else "std::min("
                least = "true" if old == "std::min(" else "false"
                edits.append((start, end, f"planted::Extreme<{least}>{{{self.fault(start, end, new)}}}("))
            elif old.endswith("continue;"):
                number = self.fault(start, end, "break;")
                edits.append((start, end, f"{{ if (planted::is({number})) break; continue; }}"))
            elif old in ("true;", "false;"):
                new = "false;" if old == "true;" else "true;"
                edits.append((start, end, f"(planted::is({self.fault(start, end, new)}) != {old[:-1]});"))
            elif old == " += ":
                stop = closed(self.text, end)
                if stop > 0:
                    number = self.fault(start, end, " -= ")
                    edits += [(end, end, f"planted::negated({number}, "), (stop, stop, ")")]
            elif old.endswith(".0F"):
                number = self.fault(start, end, old.replace(".0F", ".5F"))
                new = old.replace(".0F", ".5F")
                edits.append((start, end, f"(planted::is({number}) ? {new} : {old})"))
            elif " = " not in old:
                number = self.fault(start, end, f"if (!({match.group(1)})) ")
                edits += [(start + 4, start + 4, f"planted::is({number}) != static_cast<bool>("),
                          (end - 2, end - 2, ")")]
        for start, end in conditions(self.text):
            raw = self.text[start:end]
            before = ""
            for match in re.finditer(r" (?:&&|\|\|) ", raw):
                new = " || " if "&&" in match.group() else " && "
                number = self.fault(start + match.start(), start + match.end(), new)
                changed = raw[:match.start()] + new + raw[match.end():]
                before += f"planted::is({number}) ? static_cast<bool>({changed}) : "
            edits += [(start, start, "(" + before + "static_cast<bool>("), (end, end, "))")]
        text = self.text
        order = sorted(range(len(edits)), key=lambda i: (edits[i][0], edits[i][1], i))
        for i in reversed(order):
            start, end, new = edits[i]
            text = text[:start] + new + text[end:]
        return text


def planted(text, first, without=()):
    """(source with faults, the faults), numbered from `first`; lines in `without` are left as they are."""
    found, lines = [], []
    for number, line in enumerate(text.split("\n")):
        stripped = line.strip()
        plain = stripped.startswith(PLAIN) or '"' in stripped or "operator" in stripped
        if not stripped or plain or number + 1 in without:
            lines.append(line)
            continue
        each = Line(number, line, first)
        lines.append(each.planted())
        first = each.next
        found += each.found
    return "\n".join(lines), found
