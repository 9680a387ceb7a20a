// SPDX-License-Identifier: GPL-3.0-or-later
#include "tool/arguments.h"

#include "core/sentence.h"

namespace yewdrift::tool {
namespace {

/// What stands behind `words` in the message of a parse error, if that is what it begins with.
std::string behind(const std::string& message, const std::string& words) {
  return message.starts_with(words) ? message.substr(words.size()) : std::string();
}

}  // namespace

std::string quoted(const std::string& text) {
  return Sentence("\"%1\"", text).english();
}

namespace detail {

std::string mustLieBetween(const std::string& text, const std::string& lowest, const std::string& highest) {
  return quoted(text) + " does not lie between " + lowest + " and " + highest;
}

std::string plainNumber(double number) {
  return Sentence("%1", Decimal{number, 3}).english();
}

}  // namespace detail

std::string saidOf(const CLI::ParseError& error) {
  const std::string message = error.what();
  // "Could not convert: --rate = quick"
  if (const std::string what = behind(message, "Could not convert: "); !what.empty()) {
    const std::size_t split = what.find(" = ");
    if (split != std::string::npos)
      return quoted(what.substr(split + 3)) + " is no value for " + what.substr(0, split) + " (see --help).";
  }
  if (message.ends_with("disallowed flag override"))
    return "--" + message.substr(0, message.find(' ')) + " takes no value (see --help).";
  return Sentence("%1 (see --help).",
                  message.ends_with('.') ? message.substr(0, message.size() - 1) : message)
      .english();
}

}  // namespace yewdrift::tool
