// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stdexcept>

#include "core/sentence.h"

namespace yewdrift {

/// Something that could not be done, said in one sentence that a user can read. what() says it in English.
class Error : public std::runtime_error {
 public:
  explicit Error(Sentence sentence)
      : std::runtime_error(sentence.english()), sentence_(std::move(sentence)) {}
  template <class... Arguments>
  explicit Error(Pattern<std::type_identity_t<Arguments>...> pattern, const Arguments&... arguments)
      : Error(Sentence(pattern, arguments...)) {}

  [[nodiscard]] const Sentence& sentence() const { return sentence_; }

 private:
  Sentence sentence_;
};

/// What went wrong, as a sentence: an Error's own, and what any other exception says of itself.
inline Sentence sentenceOf(const std::exception& error) {
  const auto* ours = dynamic_cast<const Error*>(&error);
  return ours ? ours->sentence() : Sentence::verbatim(error.what());
}

}  // namespace yewdrift
