// SPDX-License-Identifier: GPL-3.0-or-later
// Any text as a position, a span, a length: a sentence, or one that a session can have.
#include "core/time/musical_length.h"
#include "core/time/position_text.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  static const Ruler ruler{{48000}, TempoMap({{1, 96, {3, 4}}, {9, 80.5, {6, 8}}})};
  const std::string text = fuzz::textOf(data, size);
  const auto sound = [](Frames at) {
    if (at > maximumPosition || at < -maximumPosition) std::abort();
  };
  const auto attempt = [](auto parse) {
    try {
      parse();
    } catch (const Error& e) {
      if (std::string(e.what()).empty()) std::abort();
    }
  };
  attempt([&] { sound(parsePosition(text, ruler)); });
  attempt([&] { sound(parseDuration(text, ruler, Frames{1000})); });
  attempt([&] {
    const Span span = parseSpan(text, ruler);
    sound(span.start);
    sound(span.end);
    if (span.empty()) std::abort();
  });
  attempt([&] { (void)parseMeter(text); });
  attempt([&] { (void)parseMusicalLength(text); });
  return 0;
}
