// SPDX-License-Identifier: GPL-3.0-or-later
//
// What texts and names may be. Well-formed UTF-8: The Unicode Standard 15, table 3-7.
#include "core/core_tests.h"

TEST_CASE("Readable is what table 3-7 of Unicode has, from the first byte of each row to the last") {
  for (const char* good : {"",
                           "\x01",
                           "\x7f",
                           "\xc2\x80",
                           "\xdf\xbf",
                           "\xe0\xa0\x80",
                           "\xe0\xbf\xbf",
                           "\xe1\x80\x80",
                           "\xec\xbf\xbf",
                           "\xed\x80\x80",
                           "\xed\x9f\xbf",
                           "\xee\x80\x80",
                           "\xef\xbf\xbf",
                           "\xf0\x90\x80\x80",
                           "\xf0\xbf\xbf\xbf",
                           "\xf1\x80\x80\x80",
                           "\xf3\xbf\xbf\xbf",
                           "\xf4\x80\x80\x80",
                           "\xf4\x8f\xbf\xbf",
                           "a\xc3\xa9z\xe2\x82\xac!"}) {
    INFO(good);
    CHECK(isReadable(good));
    CHECK(readableText(good) == good);
  }
  // Each a step outside a row, or cut off.
  for (const char* bad : {"\x80",
                          "\xbf",
                          "\xc0\x80",
                          "\xc1\xbf",
                          "\xc2",
                          "\xc2\x7f",
                          "\xc2\xc0",
                          "\xe0\x9f\xbf",
                          "\xe0\xa0",
                          "\xe0\xa0\x7f",
                          "\xe0\xa0\xc0",
                          "\xe1\x7f\x80",
                          "\xe1\x80",
                          "\xe1\x80\xc0",
                          "\xec\xc0\x80",
                          "\xed\xa0\x80",
                          "\xed\x9f\xc0",
                          "\xef\xbf",
                          "\xf0\x8f\xbf\xbf",
                          "\xf0\x90\x80",
                          "\xf0\x90\x7f\x80",
                          "\xf0\x90\x80\xc0",
                          "\xf1\x7f\x80\x80",
                          "\xf3\xbf\xbf",
                          "\xf3\x80\x80\x7f",
                          "\xf4\x90\x80\x80",
                          "\xf4\x8f\xbf\xc0",
                          "\xf4\x8f\x7f\x80",
                          "\xf5\x80\x80\x80",
                          "\xff"}) {
    CAPTURE(std::string(bad).size(), static_cast<int>(static_cast<unsigned char>(bad[0])));
    CHECK_FALSE(isReadable(bad));
    CHECK_FALSE(isReadable(std::string("before ") + bad));
    CHECK(isReadable(readableText(bad)));
    CHECK(readableText(std::string("a") + bad + "z").substr(0, 4) == "a\xef\xbf\xbd");
    CHECK(readableText(std::string("a") + bad + "z").back() == 'z');
  }
  CHECK(isReadable(std::string("\0 is a character", 16)));
}

TEST_CASE(
    "A text has a longest length, and what is made readable keeps within it, ending with a whole character") {
  CHECK(isReadable(std::string(limits::textBytes, 'x')));
  CHECK_FALSE(isReadable(std::string(limits::textBytes + 1, 'x')));
  const std::string cut = readableText(std::string(3 * limits::textBytes, 'x'));
  CHECK(cut.size() <= limits::textBytes);
  CHECK(cut.size() >= limits::textBytes - 4);
  std::string wide;
  while (wide.size() < 2 * limits::textBytes) wide += "\xf0\x9f\x8e\xbb";
  CHECK(isReadable(readableText(wide)));
  CHECK(readableText(wide).size() >= limits::textBytes - 8);
  CHECK(readableText(std::string(limits::textBytes, '\xff')).size() <= limits::textBytes);
}

TEST_CASE("The name of a file stays inside the session's folder, whatever it is made of") {
  for (const char* inside : {"audio/x.wav", "a", "a/b/c", "..a/b", "a../b", "...", "a b/c", ".hidden/x"})
    CHECK_NOTHROW(checkStaysInside(inside));
  for (const char* outside :
       {"", "/", "/etc/passwd", "..", ".", "a/..", "../a", "a/../b", "a/./b", "a//b", "a/", "./a"}) {
    INFO(outside);
    CHECK_THROWS_WITH(checkStaysInside(outside), Catch::Contains("outside its own folder"));
  }
  CHECK_THROWS_AS(checkStaysInside(std::string("a\0b", 3)), Error);
  CHECK_NOTHROW(checkStaysInside(std::string(limits::textBytes, 'a')));
  CHECK_THROWS_AS(checkStaysInside(std::string(limits::textBytes + 1, 'a')), Error);
}
