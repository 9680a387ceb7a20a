// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractSpinBox>
#include <QAction>
#include <QLabel>
#include <QLayout>
#include <QMimeData>
#include <QScrollArea>
#include <QTableWidget>
#include <QToolButton>
#include <optional>

namespace yewdrift::app {

/// A table of rows to select, without row numbers; the last column takes the room that is left. Tab leaves
/// it; Delete asks for the removal of what is selected. While a cell is being typed into nothing in it is to
/// be changed: settled() says when that is over.
class PlainTable : public QTableWidget {
  Q_OBJECT
 public:
  PlainTable(const QStringList& columns, const QString& name, int rowHeight = 24);
  [[nodiscard]] bool typing() const { return state() == EditingState; }

 signals:
  void removalAsked();
  void settled();

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void closeEditor(QWidget* editor, QAbstractItemDelegate::EndEditHint hint) override;
};

/// A button that is called as the action is, also when that changes.
QToolButton* actionButton(QAction* action);
QLabel* faintLabel(const QString& text);
/// A button for every action, side by side, in as many lines as they need.
QLayout* buttonRow(const QList<QAction*>& actions);
/// Parts that stay together when others are moved to the next line.
QWidget* group(std::initializer_list<QWidget*> parts);
/// A page that can be scrolled where there is no room for all of it.
QScrollArea* scrolled(QWidget* page);
/// A number as it is written here, or with a point, as it is written everywhere.
std::optional<double> typedNumber(const QString& text);
/// Somebody has typed into it and not confirmed it yet.
bool beingTyped(const QAbstractSpinBox& field);
/// What was dragged here from a file manager, and lies on this computer.
QStringList localFiles(const QMimeData& data);
/// The application's font, so many times as large.
QFont scaledFont(double factor, QFont::Weight weight = QFont::Normal);

/// A line of text that is shortened where there is no room for all of it; a tool tip then has the rest.
class ElidedLabel : public QLabel {
  Q_OBJECT
 public:
  using QLabel::QLabel;
  [[nodiscard]] QSize minimumSizeHint() const override;

 protected:
  void paintEvent(QPaintEvent* event) override;
};

}  // namespace yewdrift::app
