// SPDX-License-Identifier: GPL-3.0-or-later
//
// Take sheets of any kind as they were when they were looked at: every word where poppler finds it on the
// paper, every ruled line, and every letter of the HTML. See recorded_numbers.h.
#include <fstream>
#include <random>
#include <sstream>

#include "core/deliver/take_sheet.h"
#include "core/recorded_numbers.h"

using namespace yewdrift;
using namespace yewdrift::test;

namespace {

TakeSheet sheetByChance(unsigned seed) {
  std::mt19937 random(seed);
  const auto below = [&random](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
  const auto words = [&](int most) {
    std::string text;
    for (int i = below(most + 1); i > 0; --i) {
      text += std::string(static_cast<std::size_t>(1 + below(9)), static_cast<char>('a' + below(26)));
      text += below(14) == 0 ? "\n" : " ";
    }
    return text;
  };
  TakeSheet sheet{"Sheet " + words(seed % 5 == 0 ? 40 : 3), words(30), {}};
  for (int t = 1 + below(4); t > 0; --t) {
    SheetTrack track{words(3), {}, {}};
    const bool wordy = below(3) == 0;
    for (int n = 1; n <= below(14); ++n) {
      SheetTake take{n, 1 + below(8), words(4), below(4) == 0, below(6), below(3) * 40, {}, {}};
      take.note = words(wordy ? 400 : 12);
      for (int r = below(3); r > 0; --r) take.remarks.push_back({"3|1", below(6), words(8), below(2) == 0});
      track.takes.push_back(take);
    }
    Frames from{below(100) * 480};
    for (int n = below(seed % 3 == 0 ? 90 : 9); n > 0; --n) {
      const Span span{from, from + Frames{480 * (1 + below(300))}};
      const int take = below(12);
      track.pieces.push_back({span, "1|1", "12|2.50", take, take, words(4), words(wordy ? 60 : 6)});
      from = span.end + Frames{below(3) == 0 ? 48000 : 0};
    }
    sheet.tracks.push_back(track);
  }
  return sheet;
}

std::string said(const std::string& command) {
  const ToolResult result = shell(command);
  INFO(command << "\n" << result.err);
  CHECK(result.status == 0);
  return result.out;
}

/// Words and the places they are at, to a tenth of a point.
void addWords(Numbers& numbers, const std::string& name, const std::string& file) {
  std::istringstream in(said("pdftotext -bbox " + file + " -"));
  Digest all;
  int count = 0;
  for (std::string line; std::getline(in, line);) {
    double left = 0.0, top = 0.0, right = 0.0, bottom = 0.0;
    if (std::sscanf(line.c_str(), " <word xMin=\"%lf\" yMin=\"%lf\" xMax=\"%lf\" yMax=\"%lf\">", &left, &top,
                    &right, &bottom) != 4)
      continue;
    for (const double place : {left, top, right, bottom})
      all.add(static_cast<std::int64_t>(std::llround(place * 10.0)));
    all.add(line.substr(line.find('>')));
    ++count;
  }
  numbers[name + " words"] = count;
  numbers[name + " places"] = all.folded();
}

/// What is inked at the left, in the middle and at the right of every line of dots.
void addLines(Numbers& numbers, const std::string& name, const std::string& file) {
  std::istringstream in(said("pdftoppm -gray -r 100 " + file));
  Digest inked;
  int pages = 0;
  for (std::string kind; in >> kind; ++pages) {
    int width = 0, height = 0, most = 0;
    in >> width >> height >> most;
    in.get();
    REQUIRE(kind == "P5");
    std::string row(static_cast<std::size_t>(width), ' ');
    for (int y = 0; y < height; ++y) {
      in.read(row.data(), width);
      for (const double x : {0.078, 0.2, 0.37, 0.5, 0.77, 0.92, 0.926})
        inked.add(static_cast<std::int64_t>(
            static_cast<unsigned char>(row[static_cast<std::size_t>(x * width)]) < 235));
    }
  }
  numbers[name + " pages"] = pages;
  numbers[name + " lines"] = inked.folded();
}

}  // namespace

TEST_CASE("Take sheets lie on paper, and are written, as they were when they were looked at") {
  const TemporaryFolder temporary;
  Numbers now;
  for (unsigned scene = 1; scene <= 24; scene += nextScene()) {
    const TakeSheet sheet = sheetByChance(scene);
    const std::string name = "sheet " + std::to_string(scene);
    const std::string file = (temporary / "sheet.pdf").string();
    std::ofstream(file, std::ios::binary) << takeSheetAsPdf(sheet);
    addWords(now, name, file);
    addLines(now, name, file);
    Digest html;
    html.add(takeSheetAsHtml(sheet));
    now[name + " html"] = html.folded();
  }
  checkRecorded("sheets", now);
}
