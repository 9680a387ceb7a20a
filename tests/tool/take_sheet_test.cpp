// SPDX-License-Identifier: GPL-3.0-or-later
//
// The take sheet as others read it: HTML through a validator (tidy), PDF through poppler's tools.
#include <cstdio>
#include "tool/tool_tests.h"

#include "core/deliver/take_sheet.h"

namespace {

/// "Voice" with three takes, of which 1 and 2 were picked, and "Drum & Bell" with one.
struct Sheeted {
  /// The takes of "Voice" lie at `at`.
  explicit Sheeted(int at = 0) {
    const auto span = [at](int from, int to) {
      return " --span " + std::to_string(at + from) + "f.." + std::to_string(at + to) + "f";
    };
    tool("new " + s + " --tempo 100 --meter 3/4");
    std::string files;
    for (unsigned i = 1; i <= 3; ++i) files += " " + wave(i);
    tool("add " + s + " --track Voice --at " + std::to_string(at) + "f" + files);
    tool("add " + s + " --track 'Drum & Bell' " + wave(9));
    tool("pick " + s + " --track Voice --lane 1" + span(0, 24000));
    tool("pick " + s + " --track Voice --lane 2" + span(24000, 36000));
  }
  [[nodiscard]] std::string wave(unsigned seed) const {
    const std::string file = (folder / ("take" + std::to_string(seed) + ".wav")).string();
    writeWave(file, {noise(48000, seed, 0.3F)});
    return file;
  }
  [[nodiscard]] std::string out(const std::string& name) const { return (folder / name).string(); }
  [[nodiscard]] std::string html(const std::string& name = "sheet.html") const {
    tool("sheet " + s + " --out " + out(name));
    return content(out(name));
  }
  /// Its text as it lies on the pages.
  [[nodiscard]] std::string pdf(const std::string& name = "sheet.pdf") const {
    tool("sheet " + s + " --out " + out(name));
    return said("pdftotext -layout " + out(name) + " -");
  }
  struct Word {
    int page = 0;
    double left = 0.0, top = 0.0, right = 0.0, bottom = 0.0;  // points from the page's upper left corner
    std::string text;
  };
  [[nodiscard]] std::vector<Word> words(const std::string& name = "sheet.pdf") const {
    std::istringstream in(said("pdftotext -bbox " + out(name) + " -"));
    std::vector<Word> found;
    int page = 0;
    for (std::string line; std::getline(in, line);) {
      if (line.find("<page ") != std::string::npos) ++page;
      Word word;
      word.page = page;
      if (std::sscanf(line.c_str(), " <word xMin=\"%lf\" yMin=\"%lf\" xMax=\"%lf\" yMax=\"%lf\">", &word.left,
                      &word.top, &word.right, &word.bottom) != 4)
        continue;
      const std::size_t from = line.find('>') + 1;
      word.text = line.substr(from, line.find("</word>") - from);
      found.push_back(word);
    }
    return found;
  }
  /// Every word is on the paper, and none lies over another.
  void checkLegible() const {
    const std::vector<Word> all = words();
    CHECK(all.size() > 20);
    for (std::size_t i = 0; i < all.size(); ++i) {
      const Word& a = all[i];
      INFO(a.text << " at " << a.left << ", " << a.top << " on page " << a.page);
      CHECK((a.left > 20.0 && a.right < 575.0 && a.top > 20.0 && a.bottom < 822.0));
      for (std::size_t k = i + 1; k < all.size(); ++k) {
        const Word& b = all[k];
        if (a.page != b.page) continue;
        const bool over = std::min(a.right, b.right) - std::max(a.left, b.left) >
                              3.0 &&  // poppler takes letters from right to left apart
                          std::min(a.bottom, b.bottom) - std::max(a.top, b.top) > 0.5;
        INFO("and " << b.text << " at " << b.left << ", " << b.top);
        CHECK_FALSE(over);
      }
    }
  }
  static std::string said(const std::string& command) {
    const ToolResult result = shell(command);
    INFO(command << "\n" << result.err);
    CHECK(result.status == 0);
    CHECK(result.err.empty());
    return result.out;
  }

  TemporaryFolder folder;
  std::string s = (folder / "s").string();
};

struct Picture {
  int width = 0;
  int height = 0;
  std::string bytes;
  [[nodiscard]] PaperColour at(double x, double y) const {
    const std::size_t i =
        3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x));
    const auto byte = [&](std::size_t k) {
      return static_cast<int>(static_cast<unsigned char>(bytes[i + k]));
    };
    return {byte(0), byte(1), byte(2)};
  }
};

Picture pageOf(const std::string& pdf) {
  std::istringstream in(Sheeted::said("pdftoppm -r 144 -f 1 -l 1 " + pdf));
  std::string kind;
  int most = 0;
  Picture picture;
  in >> kind >> picture.width >> picture.height >> most;
  CHECK(kind == "P6");
  in.get();
  picture.bytes.assign(std::istreambuf_iterator<char>(in), {});
  return picture;
}

bool same(PaperColour a, PaperColour b) {
  return std::abs(a.red - b.red) < 3 && std::abs(a.green - b.green) < 3 && std::abs(a.blue - b.blue) < 3;
}

/// The map of "Voice": take 1 over the first half, take 2 over the next quarter, take 3 over the last.
/// Returns a row of it.
int checkMap(const Picture& page) {
  CHECK(std::abs(page.width - 1191) <= 1);
  const double left = 90.0;
  const double wide = page.width - 180.0;
  int y = 0;
  while (y < page.height && !same(page.at(left + 0.1 * wide, y), paperColour(1))) ++y;
  REQUIRE(y + 4 < page.height);
  y += 4;
  CHECK(same(page.at(left + 0.02 * wide, y), paperColour(1)));
  CHECK(same(page.at(left + 0.45 * wide, y), paperColour(1)));
  CHECK(same(page.at(left + 0.52 * wide, y), paperColour(2)));
  CHECK(same(page.at(left + 0.73 * wide, y), paperColour(2)));
  CHECK(same(page.at(left + 0.77 * wide, y), paperColour(3)));
  CHECK(same(page.at(left + 0.98 * wide, y), paperColour(3)));
  return y;
}

std::size_t times(const std::string& text, const std::string& what) {
  std::size_t count = 0;
  for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += what.size()) ++count;
  return count;
}

}  // namespace

TEST_CASE("tool: the take sheet is a page of its own, and says who was chosen where and why") {
  const Sheeted f;
  tool("lane " + f.s + " --track Voice --lane 2 --rating 4 --note 'near <the> microphone'");
  tool("rate " + f.s + " --track Voice --lane 2 --at 0f --rating 5 --note 'sings'");
  const std::string html = f.html();
  CHECK(html.find("<!DOCTYPE html>") == 0);
  CHECK(html.find("near &lt;the&gt; microphone") != std::string::npos);
  CHECK(html.find("<h2>Drum &amp; Bell</h2>") != std::string::npos);
  CHECK(html.find("\u25CF\u25CF\u25CF\u25CF\u25CB") != std::string::npos);
  CHECK(html.find("<td>2 take2</td><td class=\"note\">by hand, \u25CF\u25CF\u25CF\u25CF\u25CF, sings</td>") !=
        std::string::npos);
  CHECK(html.find("<td>3 take3</td><td class=\"note\">newest take</td>") != std::string::npos);
  CHECK(html.find("<td class=\"number\">50 %</td>") != std::string::npos);
  CHECK(html.find("<svg") != std::string::npos);
  CHECK(html.find("http") == std::string::npos);
  // No error and no warning of the validator.
  const ToolResult judged = shell("tidy -q -e " + f.out("sheet.html"));
  INFO(judged.err);
  CHECK(judged.status == 0);
}

TEST_CASE("tool: the take sheet on A4, with text that is found again and the composite in its colours") {
  const Sheeted f;
  tool("lane " + f.s + " --track Voice --lane 2 --rating 4 --note 'near <the> microphone'");
  const std::string text = f.pdf();
  for (const char* words :
       {"Voice", "Drum & Bell", "near <the> microphone", "1 take1", "by hand", "newest take",
        "\u25CF\u25CF\u25CF\u25CF\u25CB", "50 %", "48000 Hz, 100 bpm in 3/4"})
    CHECK_THAT(text, Catch::Contains(words));
  const std::string info = Sheeted::said("pdfinfo " + f.out("sheet.pdf"));
  CHECK_THAT(info,
             Catch::Matches("[^]*Pages: +1\n[^]*Page size: +595\\.2[0-9]* x 841\\.8[0-9]* pts \\(A4\\)[^]*",
                            Catch::CaseSensitive::Yes));
  CHECK_THAT(info, Catch::Matches("Title: +s\n[^]*"));
  // Its ends at the map's ends.
  CHECK_THAT(text, Catch::Matches("[^]*\\n *1\\|1 {20,}1\\|2\\.66\\n[^]*"));

  const Picture page = pageOf(f.out("sheet.pdf"));
  int y = checkMap(page);
  // What is said of its ends is below it.
  while (same(page.at(90.0 + 0.45 * (page.width - 180.0), y), paperColour(1))) ++y;
  const auto all = f.words();
  const auto end =
      std::find_if(all.begin(), all.end(), [](const auto& word) { return word.text == "1|2.66"; });
  REQUIRE(end != all.end());
  CHECK(end->top * 2.0 >= y);
  // Each piece's number is in its middle.
  for (const auto& [take, middle] : {std::pair{"1", 0.25}, {"2", 0.625}, {"3", 0.875}}) {
    INFO(take);
    const double x = 45.0 + middle * (page.width - 180.0) / 2.0;
    CHECK(std::any_of(all.begin(), all.end(), [&, number = take](const auto& word) {
      return word.text == number && std::abs((word.left + word.right) / 2.0 - x) < 2.0 &&
             word.bottom * 2.0 <= y + 4.0 && word.top * 2.0 > y - 40.0;
    }));
  }
  f.checkLegible();
}

TEST_CASE("tool: a note of pages, in any script, goes on over the next page below the titles again") {
  const Sheeted f;
  std::string note = "\xd7\xa9\xd7\x9c\xd7\x95\xd7\x9d first\n";  // right to left
  for (int i = 0; i < 900; ++i) note += "word" + std::to_string(i) + " ";
  note += "last";
  std::ofstream(f.out("note")) << note;
  tool("lane " + f.s + " --track Voice --lane 1 --note \"$(cat " + f.out("note") + ")\"");
  const std::string text = f.pdf();
  for (int i = 0; i < 900; ++i)
    CHECK(times(text, "word" + std::to_string(i) + " ") + times(text, "word" + std::to_string(i) + "\n") ==
          1);
  CHECK_THAT(text, Catch::Contains("last"));
  CHECK_THAT(text, Catch::Contains("by hand"));
  const std::size_t pages = times(text, "\f");
  CHECK(pages >= 3);
  CHECK(times(text, "Take ") >= pages);  // the titles on each
  for (std::size_t page = 1; page <= pages; ++page)
    CHECK_THAT(text, Catch::Contains("s, page " + std::to_string(page)));
  for (const auto& word : f.words()) {
    INFO(word.text);
    REQUIRE(word.right <= 595.28 - 45.0);  // A4 is 210 mm wide (ISO 216)
  }
  f.checkLegible();
}
