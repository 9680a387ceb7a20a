// SPDX-License-Identifier: GPL-3.0-or-later
#include <cairo-pdf.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <memory>
#include <numeric>

#include "core/deliver/take_sheet.h"
#include "core/error.h"

namespace yewdrift {
namespace {

// Points, 72 to the inch. A4 is 210 mm by 297 mm (ISO 216).
constexpr double pageWidth = 210.0 / 25.4 * 72.0;
constexpr double pageHeight = 297.0 / 25.4 * 72.0;
constexpr double margin = 45.0;
constexpr double textWidth = pageWidth - 2.0 * margin;
constexpr double bottom = pageHeight - margin - 14.0;  // the footer stands below
constexpr double cellGap = 8.0;

struct Release {
  void operator()(cairo_t* it) const { cairo_destroy(it); }
  void operator()(cairo_surface_t* it) const { cairo_surface_destroy(it); }
  void operator()(PangoLayout* it) const { g_object_unref(it); }
  void operator()(PangoLayoutIter* it) const { pango_layout_iter_free(it); }
  void operator()(PangoFontDescription* it) const { pango_font_description_free(it); }
};
using Layout = std::unique_ptr<PangoLayout, Release>;

struct Letters {
  double size = 9.0;  // points
  bool strong = false;
};

struct Column {
  double share = 1.0;  // of the text's width; all come to 1
};

cairo_status_t append(void* to, const unsigned char* bytes, unsigned int count) {
  static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), count);
  return CAIRO_STATUS_SUCCESS;
}

class PdfSheet {
 public:
  explicit PdfSheet(const TakeSheet& sheet) : sheet_(sheet) {
    surface_.reset(cairo_pdf_surface_create_for_stream(append, &bytes_, pageWidth, pageHeight));
    cairo_pdf_surface_set_metadata(surface_.get(), CAIRO_PDF_METADATA_TITLE, sheet.name.c_str());
    cairo_pdf_surface_set_metadata(surface_.get(), CAIRO_PDF_METADATA_CREATOR, "Yewdrift");
    cairo_.reset(cairo_create(surface_.get()));
  }

  std::string drawn() {
    paragraph(sheet_.name, {18.0, true});
    paragraph(sheet_.about, {9.0, false});
    for (const SheetTrack& track : sheet_.tracks) describe(track);
    endPage();
    cairo_surface_finish(surface_.get());
    if (cairo_surface_status(surface_.get()) != CAIRO_STATUS_SUCCESS ||
        cairo_status(cairo_.get()) != CAIRO_STATUS_SUCCESS)
      throw Error("The take sheet could not be drawn as a PDF.");
    return std::move(bytes_);
  }

 private:
  void describe(const SheetTrack& track) {
    y_ += 14.0;
    need(110.0);  // a heading is not left alone at a page's foot
    paragraph(track.name, {13.0, true});
    drawMap(track);
    std::vector<std::vector<std::string>> rows;
    for (const SheetTake& take : track.takes)
      rows.push_back({std::to_string(take.number), take.name + (take.setAside ? " (set aside)" : ""),
                      ratingDots(take.rating), take.percent > 0 ? std::to_string(take.percent) + " %" : "",
                      noted(take)});
    table({"Take", "Name", "Rating", "Chosen", "Note"}, {{.08}, {.27}, {.13}, {.1}, {.42}}, rows);
    if (track.pieces.empty()) return;
    y_ += 6.0;
    rows.clear();
    for (const SheetPiece& piece : track.pieces)
      rows.push_back({piece.from, piece.to, piece.plays, piece.chosen});
    table({"From", "To", "Plays", "Chosen"}, {{.13}, {.13}, {.32}, {.42}}, rows);
  }

  static std::string noted(const SheetTake& take) {
    std::string text = take.note;
    for (const SheetRemark& remark : take.remarks) {
      if (!text.empty()) text += "\n";
      text += remark.place;
      if (remark.mark) text += " mark";
      if (remark.rating > 0) text += " " + ratingDots(remark.rating);
      if (!remark.text.empty()) text += (remark.mark ? ": " : " ") + remark.text;
    }
    return text;
  }

  [[nodiscard]] Layout layoutOf(const std::string& text, Letters letters, double width) const {
    Layout layout(pango_cairo_create_layout(cairo_.get()));
    const std::unique_ptr<PangoFontDescription, Release> font(pango_font_description_new());
    pango_font_description_set_family(font.get(), "Open Sans,DejaVu Sans,Sans");
    pango_font_description_set_weight(font.get(),
                                      letters.strong ? PANGO_WEIGHT_SEMIBOLD : PANGO_WEIGHT_NORMAL);
    pango_font_description_set_absolute_size(font.get(), letters.size * PANGO_SCALE);
    pango_layout_set_font_description(layout.get(), font.get());
    pango_layout_set_width(layout.get(), static_cast<int>(width * PANGO_SCALE));
    pango_layout_set_wrap(layout.get(), PANGO_WRAP_WORD_CHAR);
    pango_layout_set_text(layout.get(), text.data(), static_cast<int>(text.size()));
    return layout;
  }

  void ink(PaperColour colour) const {
    cairo_set_source_rgb(cairo_.get(), colour.red / 255.0, colour.green / 255.0, colour.blue / 255.0);
  }

  /// Draws lines from `next` on at `x`, from the present place down; `next` is then the first that no longer
  /// fitted. Returns how high they were.
  double lines(PangoLayout* layout, double x, int& next) const {
    double height = 0.0;
    const std::unique_ptr<PangoLayoutIter, Release> line(pango_layout_get_iter(layout));
    for (int i = 0; i < next; ++i) pango_layout_iter_next_line(line.get());
    for (const int count = pango_layout_get_line_count(layout); next < count; ++next) {
      PangoRectangle box;  // within the layout: on the right where it reads from there
      pango_layout_iter_get_line_extents(line.get(), nullptr, &box);
      const double tall = static_cast<double>(box.height) / PANGO_SCALE;
      if (y_ + height + tall > bottom) break;
      const int baseline = pango_layout_iter_get_baseline(line.get()) - box.y;
      cairo_move_to(cairo_.get(), x + static_cast<double>(box.x) / PANGO_SCALE,
                    y_ + height + static_cast<double>(baseline) / PANGO_SCALE);
      pango_cairo_show_layout_line(cairo_.get(), pango_layout_iter_get_line_readonly(line.get()));
      height += tall;
      pango_layout_iter_next_line(line.get());
    }
    return height;
  }

  void paragraph(const std::string& text, Letters letters) {
    const Layout layout = layoutOf(text, letters, textWidth);
    const int count = pango_layout_get_line_count(layout.get());
    ink(dark);
    for (int next = 0; next < count;) {
      y_ += lines(layout.get(), margin, next);
      if (next < count) newPage();
    }
    y_ += 3.0;
  }

  void table(const std::vector<std::string>& titles, const std::vector<Column>& columns,
             const std::vector<std::vector<std::string>>& rows) {
    need(50.0);
    row(titles, columns, {9.0, true}, nullptr);
    for (const auto& each : rows) row(each, columns, {9.0, false}, &titles);
  }

  /// A row that does not fit goes on over the next page, below the titles again.
  void row(const std::vector<std::string>& cells, const std::vector<Column>& columns, Letters letters,
           const std::vector<std::string>* titles) {
    std::vector<Layout> layouts;
    for (std::size_t c = 0; c < cells.size(); ++c)
      layouts.push_back(layoutOf(cells[c], letters, columns[c].share * textWidth - cellGap));
    const auto open = [&](double height) {
      return std::any_of(layouts.begin(), layouts.end(), [&](const Layout& layout) {
        int wide = 0;
        int tall = 0;
        pango_layout_get_size(layout.get(), &wide, &tall);
        return static_cast<double>(tall) / PANGO_SCALE > height;
      });
    };
    const auto turn = [&] {
      newPage();
      if (titles) row(*titles, columns, {9.0, true}, nullptr);
    };
    // Whole where a page can hold it.
    if (open(bottom - y_) && !open(bottom - margin - 40.0)) turn();
    std::vector<int> next(layouts.size(), 0);
    for (;;) {
      double height = 0.0;
      double x = margin;
      bool more = false;
      ink(dark);
      for (std::size_t c = 0; c < layouts.size(); ++c) {
        height = std::max(height, lines(layouts[c].get(), x, next[c]));
        more = more || next[c] < pango_layout_get_line_count(layouts[c].get());
        x += columns[c].share * textWidth;
      }
      y_ += height + 2.0;
      rule(letters.strong ? 1.0 : 0.4);
      if (!more || height == 0.0) break;
      turn();
    }
    y_ += 2.0;
  }

  void rule(double thick) {
    ink(ruled);
    cairo_set_line_width(cairo_.get(), thick);
    cairo_move_to(cairo_.get(), margin, y_);
    cairo_line_to(cairo_.get(), margin + textWidth, y_);
    cairo_stroke(cairo_.get());
  }

  void drawMap(const SheetTrack& track) {
    if (track.pieces.empty()) return;
    const Frames from = track.pieces.front().span.start;
    const auto length = static_cast<double>((track.pieces.back().span.end - from).count);
    const auto x = [&](Frames at) {
      return margin + textWidth * static_cast<double>((at - from).count) / length;
    };
    constexpr double tall = 18.0;
    for (const SheetPiece& piece : track.pieces) {
      const double left = x(piece.span.start);
      const double wide = std::max(0.3, x(piece.span.end) - left);
      ink(paperColour(piece.colour));
      cairo_rectangle(cairo_.get(), left, y_, std::max(0.3, wide - 0.7), tall);
      cairo_fill(cairo_.get());
      if (piece.take > 0) number(piece.take, left, wide, tall);
    }
    y_ += tall + 2.0;
    ink(dark);
    int first = 0;
    lines(layoutOf(track.pieces.front().from, {8.0, false}, textWidth).get(), margin, first);
    const Layout end = layoutOf(track.pieces.back().to, {8.0, false}, textWidth);
    pango_layout_set_alignment(end.get(), PANGO_ALIGN_RIGHT);
    first = 0;
    y_ += lines(end.get(), margin, first) + 6.0;
  }

  /// The take's number in the middle of its piece, where there is room for it.
  void number(int take, double left, double wide, double tall) const {
    const Layout layout = layoutOf(std::to_string(take), {9.0, true}, pageWidth);
    int width = 0;
    int height = 0;
    pango_layout_get_size(layout.get(), &width, &height);
    const double needed = static_cast<double>(width) / PANGO_SCALE;
    if (needed + 3.0 > wide) return;
    cairo_set_source_rgb(cairo_.get(), 1.0, 1.0, 1.0);
    cairo_move_to(cairo_.get(), left + (wide - needed) / 2.0,
                  y_ + (tall - static_cast<double>(height) / PANGO_SCALE) / 2.0);
    pango_cairo_show_layout(cairo_.get(), layout.get());
  }

  void need(double height) {
    if (y_ + height > bottom) newPage();
  }

  void newPage() {
    endPage();
    y_ = margin;
  }

  void endPage() {
    const Layout footer =
        layoutOf(sheet_.name + ", page " + std::to_string(++page_), {8.0, false}, textWidth);
    pango_layout_set_height(footer.get(), 0);  // one line
    pango_layout_set_ellipsize(footer.get(), PANGO_ELLIPSIZE_MIDDLE);
    pango_layout_set_alignment(footer.get(), PANGO_ALIGN_RIGHT);
    ink(faint);
    cairo_move_to(cairo_.get(), margin, pageHeight - margin);
    pango_cairo_show_layout(cairo_.get(), footer.get());
    cairo_show_page(cairo_.get());
  }

  static constexpr PaperColour dark{0x2a, 0x20, 0x18};
  static constexpr PaperColour faint{0x5c, 0x4a, 0x3a};
  static constexpr PaperColour ruled{0x8a, 0x75, 0x60};

  const TakeSheet& sheet_;
  std::string bytes_;
  std::unique_ptr<cairo_surface_t, Release> surface_;
  std::unique_ptr<cairo_t, Release> cairo_;
  double y_ = margin;
  int page_ = 0;
};

}  // namespace

std::string takeSheetAsPdf(const TakeSheet& sheet) {
  return PdfSheet(sheet).drawn();
}

}  // namespace yewdrift
