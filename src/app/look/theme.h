// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QIcon>
#include <QPainter>
#include <QString>

namespace yewdrift::app {

/// The colours of one theme. Contrast of text on its surfaces is at least 4.5:1 (WCAG 2.2); a test checks it.
struct Theme {
  bool dark = false;
  QColor window;   // behind everything
  QColor surface;  // panels
  QColor sunken;   // where material lies
  QColor line;     // between things; nothing depends on it
  QColor control;  // what can be taken hold of, and meters: 3:1 on all three grounds
  QColor text;
  QColor faintText;
  QColor inHand;    // heartwood orange
  QColor onInHand;  // text on it
  QColor chosen;    // needle green
  QColor onChosen;
  QColor recording;  // aril red
  QColor onRecording;
};

Theme lightTheme();
Theme darkTheme();

enum class ThemeChoice { System, Light, Dark };
/// The theme in force; changed by applyTheme().
const Theme& theme();
/// Sets palette, style sheet and font of the application.
void applyTheme(ThemeChoice choice);
ThemeChoice savedThemeChoice();

/// What a take is shown in: colour and mark repeat after 8 and 7 takes, so that 56 are told apart.
QColor takeColour(int laneNumber);
/// The take's leaf mark, filled with its colour, within `box`.
void drawTakeMark(QPainter& painter, const QRectF& box, int laneNumber);

/// One of resources/icons in the theme's text colour (or `colour`).
QIcon icon(const QString& name, const QColor& colour = {});
/// Makes the embedded typeface and the plural forms known; once, before any window.
void loadFonts();

}  // namespace yewdrift::app
