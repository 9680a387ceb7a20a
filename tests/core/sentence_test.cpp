// SPDX-License-Identifier: GPL-3.0-or-later
#include <stdexcept>
#include "core/core_tests.h"

TEST_CASE("A sentence says its pattern in English with each argument in its place, in any order") {
  CHECK(Sentence().english().empty());
  CHECK(Sentence().empty());
  CHECK(Sentence("A track needs a name.").english() == "A track needs a name.");
  const std::string name = "Viola";
  CHECK(Sentence("Lane %2 of \"%1\" is empty.", name, 7).english() == "Lane 7 of \"Viola\" is empty.");
  CHECK(Sentence("%1 of %1, and %2", 3, "b").english() == "3 of 3, and b");
  CHECK(Sentence("%1", std::int64_t{-9'000'000'000'000'000}).english() == "-9000000000000000");
  std::ostringstream out;
  out << Sentence("bar %1", 12);
  CHECK(out.str() == "bar 12");
}

TEST_CASE("What a person has named is said as it is, even where it looks like a place") {
  CHECK(Sentence("\"%1\" is not %2.", "100 %2 %n %1", "%1").english() == "\"100 %2 %n %1\" is not %1.");
  CHECK(Sentence::verbatim("%1 of %n").english() == "%1 of %n");
  CHECK(Sentence("%1 is 5 % more, 10%", "This").english() == "This is 5 % more, 10%");
}

TEST_CASE("A count chooses between singular and plural, and stands where the pattern has it") {
  const auto takes = [](std::int64_t n) { return Sentence("%n take(s) of %1", "Drum", Count{n}).english(); };
  CHECK(takes(0) == "0 takes of Drum");
  CHECK(takes(1) == "1 take of Drum");
  CHECK(takes(2) == "2 takes of Drum");
  CHECK(takes(1'000'001) == "1000001 takes of Drum");
  const auto passes = [](std::int64_t n) { return Sentence("%n pass(es)", Count{n}).english(); };
  CHECK(passes(1) == "1 pass");
  CHECK(passes(3) == "3 passes");
  const auto samples = [](std::int64_t n) {
    return Sentence("In %1 %n samples were wrong.|In %1 one sample was wrong.", "a.wav", Count{n}).english();
  };
  CHECK(samples(1) == "In a.wav one sample was wrong.");
  CHECK(samples(12) == "In a.wav 12 samples were wrong.");
  CHECK(englishPlural("5|1 or (s)", 1) == "5|1 or (s)");  // it counts nothing
  REQUIRE(Sentence("%n take(s)", Count{4}).count());
  CHECK(Sentence("%n take(s)", Count{4}).count()->n == 4);
  CHECK_FALSE(Sentence("%1 takes", 4).count());
}

TEST_CASE("Numbers with a point are said without zeros behind it, and rounded") {
  const auto said = [](double value, int places) { return Sentence("%1", Decimal{value, places}).english(); };
  CHECK(said(2.0, 2) == "2");
  CHECK(said(1.5, 2) == "1.5");
  CHECK(said(14.583, 1) == "14.6");
  CHECK(said(100.0, 0) == "100");
  CHECK(said(-0.25, 3) == "-0.25");
  CHECK(said(1000.0, 1) == "1000");
}

TEST_CASE("Sentences hold sentences: a part, or a list") {
  const Sentence reason("\"%1\" holds nothing.", "a.wav");
  CHECK(Sentence("It could not be brought in: %1", reason).english() ==
        "It could not be brought in: \"a.wav\" holds nothing.");
  const auto listed = [](std::initializer_list<const char*> names) {
    Sentence::List items;
    for (const char* name : names) items.push_back(Sentence::verbatim(name));
    return Sentence("Records %1.", Sentence::listed(items)).english();
  };
  CHECK(Sentence::listed({}).empty());
  CHECK(listed({"Viola"}) == "Records Viola.");
  CHECK(listed({"Viola", "Drum"}) == "Records Viola and Drum.");
  CHECK(listed({"Viola", "Drum", "Voice"}) == "Records Viola, Drum and Voice.");
  CHECK(listed({"A", "B", "C", "D"}) == "Records A, B, C and D.");
  CHECK(english({Sentence("One."), Sentence("%1.", 2)}) == "One. 2.");
  CHECK(english({}).empty());
}

TEST_CASE("Two sentences are the same where pattern and arguments are") {
  CHECK(Sentence("bar %1", 3) == Sentence("bar %1", 3));
  CHECK_FALSE(Sentence("bar %1", 3) == Sentence("bar %1", 4));
  CHECK_FALSE(Sentence("bar %1", 3) == Sentence("beat %1", 3));
  CHECK_FALSE(Sentence("bar %1", 3) == Sentence("bar %1", "3"));
}

TEST_CASE("An error keeps its sentence, and says it in English") {
  try {
    throw Error("There is no tempo change at bar %1.", 17);
  } catch (const std::exception& e) {
    CHECK(std::string(e.what()) == "There is no tempo change at bar 17.");
    CHECK(sentenceOf(e) == Sentence("There is no tempo change at bar %1.", 17));
  }
  CHECK(sentenceOf(std::runtime_error("from %1 elsewhere")) == Sentence::verbatim("from %1 elsewhere"));
}
