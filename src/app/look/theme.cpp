// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QPainterPath>
#include <QPalette>
#include <QPointer>
#include <QSettings>
#include <QStyle>
#include <QSvgRenderer>
#include <array>
#include <cmath>

#include "app/look/system_theme.h"

namespace yewdrift::app {
namespace {

Theme& current() {
  static Theme value = lightTheme();
  return value;
}

/// Made before the first palette of ours is set.
SystemTheme& systemTheme() {
  static QPointer<SystemTheme> made;
  if (!made) {
    made = new SystemTheme;
    made->setParent(qApp);
    QObject::connect(made, &SystemTheme::changed, qApp, [] {
      if (savedThemeChoice() == ThemeChoice::System) applyTheme(ThemeChoice::System);
    });
  }
  return *made;
}

QString styleSheet(const Theme& t) {
  QString sheet = QStringLiteral(R"(
    QWidget { color: %text; }
    QMainWindow, QDialog { background: %window; }
    QMenuBar, QMenuBar::item { background: %window; }
    QMenuBar::item { padding: 4px 10px; }
    QMenuBar::item:selected, QMenu::item:selected { background: %inHand; color: %onInHand; }
    QMenu { background: %surface; border: 1px solid %line; }
    QMenu::item { padding: 5px 28px 5px 22px; }
    QMenu::item:disabled { color: %faint; }
    QMenu::separator { height: 1px; background: %line; margin: 4px 8px; }
    QToolTip { background: %surface; color: %text; border: 1px solid %line; padding: 4px; }
    QToolButton, QPushButton { background: %surface; border: 1px solid %control; border-radius: 6px; padding: 4px 9px; }
    QPushButton:default { border-color: %text; font-weight: 600; }
    QToolButton:hover, QPushButton:hover { border-color: %inHand; }
    QToolButton:focus, QPushButton:focus, QComboBox:focus { border: 2px solid %inHand; }
    QToolButton:checked, QPushButton:checked { background: %chosen; color: %onChosen; border-color: %chosen; }
    QToolButton:disabled, QPushButton:disabled { color: %faint; }
    QToolButton[popupMode="1"] { padding-right: 20px; }
    QToolButton[small="true"][popupMode="1"] { padding-right: 18px; }
    QToolButton::menu-button { border: none; width: 15px; }
    QToolButton#arm:checked, QToolButton#record:checked { background: %recording; color: %onRecording; border-color: %recording; }
    QComboBox { background: %surface; border: 1px solid %control; border-radius: 6px; padding: 3px 8px; }
    QComboBox::drop-down { border: none; width: 22px; }
    QComboBox::down-arrow { image: url(:/icons/down.svg); width: 14px; height: 14px; }
    QToolButton[small="true"] { padding: 2px 7px; border-radius: 5px; }
    QComboBox QAbstractItemView { background: %surface; selection-background-color: %inHand; selection-color: %onInHand; }
    QScrollBar { background: %window; border: none; }
    QScrollBar:vertical { width: 12px; }
    QScrollBar:horizontal { height: 12px; }
    QScrollBar::handle { background: %control; border-radius: 5px; min-width: 28px; min-height: 28px; margin: 2px; }
    QScrollBar::handle:hover { background: %faint; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QSlider::groove:horizontal { height: 4px; background: %control; border-radius: 2px; }
    QSlider::handle:horizontal { background: %text; width: 12px; margin: -5px 0; border-radius: 6px; }
    QSlider::handle:horizontal:focus { background: %inHand; }
    QFrame#panel { background: %surface; border: 1px solid %line; border-radius: 8px; }
    QFrame#message { background: transparent; border-radius: 6px; border: 1px solid transparent; }
    QFrame#message[kind="passing"] { background: %surface; border: 1px solid %line; }
    QFrame#message[kind="urgent"] { background: %text; }
    QFrame#message[kind="urgent"] QLabel { color: %window; }
    QProgressBar { background: %sunken; border: 1px solid %control; border-radius: 5px; text-align: center; padding: 1px; }
    QProgressBar::chunk { background: %line; border-radius: 4px; }
    QLabel#faint { color: %faint; }
    QTableWidget:focus { border: 2px solid %inHand; }
    QSlider:focus { border: 1px solid %inHand; border-radius: 4px; }
    QTableWidget { background: %sunken; gridline-color: %line; border: 1px solid %control; border-radius: 4px;
      selection-background-color: %inHand; selection-color: %onInHand; }
    QLineEdit, QSpinBox, QDoubleSpinBox { background: %sunken; border: 1px solid %control; border-radius: 5px; padding: 3px 6px; }
    QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus { border: 2px solid %inHand; padding: 2px 5px; }
    QSpinBox::up-button, QDoubleSpinBox::up-button { subcontrol-position: top right; width: 16px; border: none; }
    QSpinBox::down-button, QDoubleSpinBox::down-button { subcontrol-position: bottom right; width: 16px; border: none; }
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow { image: url(:/icons/up.svg); width: 10px; height: 10px; }
    QSpinBox::down-arrow, QDoubleSpinBox::down-arrow { image: url(:/icons/down.svg); width: 10px; height: 10px; }
    QCheckBox { spacing: 6px; }
    QCheckBox::indicator { width: 15px; height: 15px; border: 1px solid %control; border-radius: 4px; background: %sunken; }
    QCheckBox::indicator:checked { background: %chosen; border-color: %chosen; image: url(:/icons/check.svg); }
    QCheckBox::indicator:focus { border: 2px solid %inHand; }
    QGroupBox { border: 1px solid %line; border-radius: 8px; margin-top: 10px; padding-top: 8px; background: %surface; }
    QGroupBox::title { subcontrol-origin: margin; left: 12px; padding: 0 4px; color: %faint; }
    QTabWidget::pane { border: 1px solid %line; border-radius: 8px; background: %surface; top: -1px; }
    QTabBar::tab { background: transparent; border: 1px solid transparent; padding: 4px 9px; margin-right: 2px; color: %faint; }
    QTabBar::tab:selected { background: %surface; color: %text; border: 1px solid %line; border-bottom-color: %surface;
      border-top-left-radius: 7px; border-top-right-radius: 7px; }
    QTabBar::tab:hover:!selected { color: %text; }
    QTabBar::tab:focus { color: %inHand; }
    QHeaderView::section { background: %window; border: none; padding: 4px; }
    QSplitter::handle { background: %window; }
  )");
  const std::array<std::pair<const char*, QColor>, 13> names{{{"%onInHand", t.onInHand},
                                                              {"%onChosen", t.onChosen},
                                                              {"%onRecording", t.onRecording},
                                                              {"%window", t.window},
                                                              {"%surface", t.surface},
                                                              {"%sunken", t.sunken},
                                                              {"%line", t.line},
                                                              {"%control", t.control},
                                                              {"%text", t.text},
                                                              {"%faint", t.faintText},
                                                              {"%inHand", t.inHand},
                                                              {"%chosen", t.chosen},
                                                              {"%recording", t.recording}}};
  for (const auto& [name, colour] : names) sheet.replace(QLatin1String(name), colour.name());
  return sheet;
}

QPainterPath leaf(int shape) {
  QPainterPath path;
  switch (shape) {
    case 0:  // oval leaf
      path.moveTo(-1, 1);
      path.quadTo(-1, -1, 1, -1);
      path.quadTo(1, 1, -1, 1);
      break;
    case 1:  // berry
      path.addEllipse(QPointF(0, 0), 0.8, 0.8);
      break;
    case 2:  // three lobes
      path.setFillRule(Qt::WindingFill);
      path.addEllipse(QPointF(0, -0.45), 0.52, 0.52);
      path.addEllipse(QPointF(-0.5, 0.4), 0.52, 0.52);
      path.addEllipse(QPointF(0.5, 0.4), 0.52, 0.52);
      break;
    case 3:  // needle
      path.moveTo(0, -1.05);
      path.quadTo(0.62, 0, 0, 1.05);
      path.quadTo(-0.62, 0, 0, -1.05);
      break;
    case 4:  // cone
      path.moveTo(0, -1);
      path.lineTo(0.95, 0.8);
      path.lineTo(-0.95, 0.8);
      path.closeSubpath();
      break;
    case 5:  // chip of bark
      path.addRoundedRect(QRectF(-0.85, -0.6, 1.7, 1.2), 0.25, 0.25);
      break;
    default:  // a pair of needles
      path.setFillRule(Qt::WindingFill);
      path.moveTo(-0.9, -1);
      path.quadTo(0.3, -0.4, 0, 1);
      path.quadTo(-0.8, 0.2, -0.9, -1);
      path.moveTo(0.9, -1);
      path.quadTo(-0.3, -0.4, 0, 1);
      path.quadTo(0.8, 0.2, 0.9, -1);
  }
  return path;
}

}  // namespace

Theme lightTheme() {
  return {false,
          QColor("#efe6d4"),
          QColor("#faf5e9"),
          QColor("#fffdf6"),
          QColor("#cdbd9f"),
          QColor("#8a785d"),
          QColor("#3a281c"),
          QColor("#6f5a48"),
          QColor("#b4530f"),
          QColor("#fffaf0"),
          QColor("#2f6b46"),
          QColor("#f6fff7"),
          QColor("#b3152d"),
          QColor("#fff5f5")};
}

Theme darkTheme() {
  return {true,
          QColor("#1d1511"),
          QColor("#2a1f19"),
          QColor("#15100d"),
          QColor("#51402f"),
          QColor("#86725b"),
          QColor("#f1e4cd"),
          QColor("#b9a48a"),
          QColor("#f0924a"),
          QColor("#241305"),
          QColor("#7fc79a"),
          QColor("#08210f"),
          QColor("#f2596b"),
          QColor("#2b0207")};
}

const Theme& theme() {
  return current();
}

ThemeChoice savedThemeChoice() {
  const QString saved = QSettings().value("theme", "system").toString();
  return saved == "light" ? ThemeChoice::Light : saved == "dark" ? ThemeChoice::Dark : ThemeChoice::System;
}

void applyTheme(ThemeChoice choice) {
  const bool systemDark = systemTheme().dark();
  const bool dark = choice == ThemeChoice::Dark || (choice == ThemeChoice::System && systemDark);
  current() = dark ? darkTheme() : lightTheme();
  const Theme& t = current();
  QPalette palette;
  palette.setColor(QPalette::Window, t.window);
  palette.setColor(QPalette::Base, t.surface);
  palette.setColor(QPalette::Button, t.surface);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
    palette.setColor(role, t.text);
  palette.setColor(QPalette::Highlight, t.inHand);
  palette.setColor(QPalette::HighlightedText, t.onInHand);
  palette.setColor(QPalette::ToolTipBase, t.surface);
  QApplication::setPalette(palette);
  qApp->setStyleSheet(styleSheet(t));
}

QColor takeColour(int laneNumber) {
  // Spaced in lightness as well as in hue, so that they stay apart for readers with colour-blindness.
  static const std::array<QColor, 8> light{QColor("#1f5f8b"), QColor("#c8772c"), QColor("#7a4a86"),
                                           QColor("#6b8f2a"), QColor("#0f7f7a"), QColor("#a8485f"),
                                           QColor("#8a6d1f"), QColor("#4a5a9c")};
  static const std::array<QColor, 8> dark{QColor("#7db7e0"), QColor("#f0b476"), QColor("#cf9fdc"),
                                          QColor("#bfdb7c"), QColor("#6fd1c9"), QColor("#f0a0b2"),
                                          QColor("#e0c36a"), QColor("#a9b6f2")};
  const auto index = static_cast<std::size_t>((std::max(laneNumber, 1) - 1) % 8);
  return theme().dark ? dark[index] : light[index];
}

void drawTakeMark(QPainter& painter, const QRectF& box, int laneNumber) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.translate(box.center());
  painter.scale(box.width() / 2.2, box.height() / 2.2);
  painter.setPen(Qt::NoPen);
  painter.setBrush(takeColour(laneNumber));
  painter.drawPath(leaf((std::max(laneNumber, 1) - 1) % 7));
  painter.restore();
}

QIcon icon(const QString& name, const QColor& colour) {
  QFile file(":/icons/" + name + ".svg");
  if (!file.open(QIODevice::ReadOnly)) return {};
  auto pixmapIn = [svg = file.readAll()](const QColor& ink) {
    QByteArray inked = svg;
    inked.replace("#000000", ink.name().toLatin1());
    QSvgRenderer renderer(inked);
    QPixmap pixmap(64, 64);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    renderer.render(&painter);
    return pixmap;
  };
  QIcon result;
  result.addPixmap(pixmapIn(colour.isValid() ? colour : theme().text), QIcon::Normal, QIcon::Off);
  result.addPixmap(pixmapIn(theme().onChosen), QIcon::Normal, QIcon::On);
  QColor faint = theme().faintText;
  result.addPixmap(pixmapIn(faint), QIcon::Disabled, QIcon::Off);
  return result;
}

void loadFonts() {
  for (const char* file : {"OpenSans-Regular.ttf", "OpenSans-Semibold.ttf", "OpenSans-Bold.ttf"})
    QFontDatabase::addApplicationFont(QString(":/fonts/") + file);
  QFont font("Open Sans");
  font.setPointSizeF(10.0);
  QApplication::setFont(font);
}

}  // namespace yewdrift::app
