// SPDX-License-Identifier: GPL-3.0-or-later
//
// What the descriptions of the tool's commands share: commands on a session, and values within limits.
#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <type_traits>

namespace yewdrift::tool {

/// A text for a message: readable, and of a length that a person reads.
std::string quoted(const std::string& text);

namespace detail {
std::string mustLieBetween(const std::string& text, const std::string& lowest, const std::string& highest);
std::string plainNumber(double number);
}  // namespace detail

/// A number from `lowest` to `highest`, both allowed; what is no number is not between them either.
template <class Number>
CLI::Validator between(Number lowest, Number highest) {
  const auto text = [](Number number) {
    if constexpr (std::is_integral_v<Number>)
      return std::to_string(number);
    else
      return detail::plainNumber(number);
  };
  const std::string from = text(lowest);
  const std::string to = text(highest);
  return {[lowest, highest, from, to](std::string& given) {
            Number number{};
            const bool within =
                CLI::detail::lexical_cast(given, number) && number >= lowest && number <= highest;
            return within ? std::string() : detail::mustLieBetween(given, from, to);
          },
          from + " to " + to};
}

/// A command whose first argument is a session's folder, and whose action is given the options.
template <class Options, class Action>
CLI::App* addSessionCommand(CLI::App& app, const char* name, const char* help, Options& options,
                            Action action) {
  CLI::App* made = app.add_subcommand(name, help);
  made->add_option("session", options.session, "The session's folder")->required()->type_name("SESSION");
  made->callback([&options, action] { action(options); });
  return made;
}

/// One on a track of the session, which has to be named.
template <class Options, class Action>
CLI::App* addTrackCommand(CLI::App& app, const char* name, const char* help, Options& options,
                          Action action) {
  CLI::App* made = addSessionCommand(app, name, help, options, action);
  made->add_option("--track", options.track, "The track's name")->required()->type_name("NAME");
  return made;
}

/// What is said where a command line could not be understood.
std::string saidOf(const CLI::ParseError& error);

}  // namespace yewdrift::tool
