// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/session/session.h"

namespace yewdrift {

/// Something noted of a take at a place in it.
struct SheetRemark {
  std::string place;  // bar|beat
  int rating = 0;     // 1 to 5; 0: none
  std::string text;
  bool mark = false;  // a spot in the take, else a phrase of it
};

struct SheetTake {
  int number = 0;
  int colour = 0;  // as Lane::colour()
  std::string name;
  bool setAside = false;
  int rating = 0;
  int percent = 0;  // of the composite that it plays
  std::string note;
  std::vector<SheetRemark> remarks;
};

/// A piece of the composite; pauses, where nothing was recorded, are none.
struct SheetPiece {
  Span span;
  std::string from;  // bar|beat
  std::string to;
  int take = 0;  // 0: silence that was chosen
  int colour = 0;
  std::string plays;   // the take and what is heard with it
  std::string chosen;  // by whom, and what was noted of it there
};

struct SheetTrack {
  std::string name;
  std::vector<SheetTake> takes;
  std::vector<SheetPiece> pieces;
};

/// What was taken and what was chosen, to print or to keep: of every track its takes with ratings and notes,
/// and piece by piece where its composite came from and who chose it. All text can be printed.
struct TakeSheet {
  std::string name;
  std::string about;
  std::vector<SheetTrack> tracks;
};

TakeSheet takeSheet(const Session& session);

/// Filled and empty dots; nothing where it was not rated.
std::string ratingDots(int rating);

/// The colour of a take on paper, red, green and blue from 0 to 255; of silence where it is 0.
struct PaperColour {
  int red = 0;
  int green = 0;
  int blue = 0;
};
PaperColour paperColour(int colour);

/// One page that needs nothing beside itself, with the composites drawn (HTML 5).
std::string takeSheetAsHtml(const TakeSheet& sheet);
/// The same on pages of A4, with text that can be searched (PDF). Throws Error where it cannot be drawn.
std::string takeSheetAsPdf(const TakeSheet& sheet);

}  // namespace yewdrift
