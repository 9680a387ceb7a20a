// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/look/widgets.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QLocale>
#include <QPainter>
#include <QToolButton>

#include "app/look/flow_layout.h"

namespace yewdrift::app {

PlainTable::PlainTable(const QStringList& columns, const QString& name, int rowHeight)
    : QTableWidget(0, static_cast<int>(columns.size())) {
  setHorizontalHeaderLabels(columns);
  setAccessibleName(name);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(std::max(rowHeight, fontMetrics().height() + 6));
  horizontalHeader()->setStretchLastSection(true);
  horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  setSelectionBehavior(QAbstractItemView::SelectRows);
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                  QAbstractItemView::AnyKeyPressed);
  setTabKeyNavigation(false);
  setMinimumHeight(56);
}

void PlainTable::keyPressEvent(QKeyEvent* event) {
  if (!typing() && (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace))
    return emit removalAsked();
  QTableWidget::keyPressEvent(event);
}

void PlainTable::closeEditor(QWidget* editor, QAbstractItemDelegate::EndEditHint hint) {
  QTableWidget::closeEditor(editor, hint);
  if (!typing()) emit settled();
}

QToolButton* actionButton(QAction* action) {
  auto* button = new QToolButton;
  button->setDefaultAction(action);
  const auto name = [button, action] {
    const QString plain = action->text().remove('&');
    if (button->accessibleName() != plain) button->setAccessibleName(plain);
  };
  name();
  QObject::connect(action, &QAction::changed, button, name);
  return button;
}

QLabel* faintLabel(const QString& text) {
  auto* label = new QLabel(text);
  label->setObjectName("faint");
  return label;
}

QLayout* buttonRow(const QList<QAction*>& actions) {
  auto* row = new FlowLayout(6, 4);
  for (QAction* action : actions) {
    auto* button = actionButton(action);
    button->setMinimumHeight(30);
    row->addWidget(button);
  }
  return row;
}

QWidget* group(std::initializer_list<QWidget*> parts) {
  auto* made = new QWidget;
  auto* row = new QHBoxLayout(made);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  for (QWidget* part : parts) row->addWidget(part);
  return made;
}

QScrollArea* scrolled(QWidget* page) {
  auto* area = new QScrollArea;
  area->setWidget(page);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  area->setFocusPolicy(Qt::NoFocus);
  area->viewport()->setAutoFillBackground(false);
  page->setAutoFillBackground(false);
  return area;
}

std::optional<double> typedNumber(const QString& text) {
  bool good = false;
  double number = QLocale().toDouble(text.trimmed(), &good);
  if (!good) number = QLocale::c().toDouble(text.trimmed(), &good);
  return good ? std::optional(number) : std::nullopt;
}

bool beingTyped(const QAbstractSpinBox& field) {
  const auto* line = field.findChild<QLineEdit*>();
  return line && line->isModified() && field.hasFocus();
}

QStringList localFiles(const QMimeData& data) {
  QStringList files;
  for (const QUrl& url : data.urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  return files;
}

QFont scaledFont(double factor, QFont::Weight weight) {
  QFont font = QApplication::font();
  font.setPointSizeF(font.pointSizeF() * factor);
  font.setWeight(weight);
  return font;
}

QSize ElidedLabel::minimumSizeHint() const {
  return {std::min(QLabel::minimumSizeHint().width(), fontMetrics().averageCharWidth() * 6),
          QLabel::minimumSizeHint().height()};
}

void ElidedLabel::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(palette().color(foregroundRole()));
  const QString shown = fontMetrics().elidedText(text(), Qt::ElideRight, width());
  if (const QString tip = shown == text() ? QString() : text(); toolTip() != tip) setToolTip(tip);
  painter.drawText(rect(), static_cast<int>(alignment() | Qt::AlignVCenter), shown);
}

}  // namespace yewdrift::app
