// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/keys_dialog.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QVBoxLayout>

namespace yewdrift::app {

KeysDialog::KeysDialog(KeyBindings& keys, QWidget* parent) : QDialog(parent), keys_(keys) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("All keys"));
  resize(600, 580);
  search_ = new QLineEdit;
  search_->setPlaceholderText(tr("Search"));
  search_->setAccessibleName(tr("Search the keys"));
  table_ = new PlainTable({tr("Does"), tr("Key")}, tr("All keys"), 26);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->horizontalHeader()->setSectionResizeMode(Does, QHeaderView::Stretch);
  table_->setColumnWidth(Key, 190);
  told_ = new QLabel(tr("Change a key with a double click or Enter, then press the new one."));
  told_->setWordWrap(true);
  told_->setAccessibleName(tr("What became of a key"));
  change_ = new QPushButton(tr("Change…"));
  none_ = new QPushButton(tr("No key"));
  reset_ = new QPushButton(tr("As it was made"));
  auto* all = new QPushButton(tr("All as they were made"));
  auto* buttons = new QHBoxLayout;
  for (QPushButton* each : {change_, none_, reset_}) buttons->addWidget(each);
  buttons->addStretch(1);
  buttons->addWidget(all);
  auto* column = new QVBoxLayout(this);
  column->addWidget(search_);
  column->addWidget(table_, 1);
  column->addWidget(told_);
  column->addLayout(buttons);
  table_->setRowCount(static_cast<int>(keys.actions().size()));
  for (int row = 0; row < table_->rowCount(); ++row)
    for (const int each : {Does, Key}) table_->setItem(row, each, new QTableWidgetItem);
  connect(search_, &QLineEdit::textChanged, this, &KeysDialog::search);
  connect(table_, &QTableWidget::cellDoubleClicked, this, &KeysDialog::ask);
  connect(table_, &QTableWidget::cellActivated, this, &KeysDialog::ask);
  connect(change_, &QPushButton::clicked, this, &KeysDialog::ask);
  connect(none_, &QPushButton::clicked, this, [this] {
    if (QAction* action = chosen()) keys_.assign(*action, {});
  });
  connect(reset_, &QPushButton::clicked, this, [this] {
    if (QAction* action = chosen()) keys_.reset(*action);
  });
  connect(all, &QPushButton::clicked, &keys, &KeyBindings::resetAll);
  connect(&keys, &KeyBindings::changed, this, &KeysDialog::refresh);
  for (QPushButton* each : {change_, none_, reset_, all}) each->setAutoDefault(false);
  table_->setCurrentCell(0, Key);
  refresh();
}

QAction* KeysDialog::chosen() const {
  return keys_.actions().value(table_->currentRow());
}

void KeysDialog::refresh() {
  for (int row = 0; row < table_->rowCount(); ++row) {
    QAction& action = *keys_.actions()[row];
    table_->item(row, Does)->setText(action.text().remove('&'));
    table_->item(row, Key)->setText(KeyBindings::keysOf(action));
    QFont font = table_->font();
    font.setBold(keys_.isChanged(action));
    table_->item(row, Key)->setFont(font);
    table_->item(row, Key)->setToolTip(keys_.isChanged(action) ? tr("Not the one it was made with.")
                                                               : QString());
  }
  search();
}

void KeysDialog::search() {
  for (int row = 0; row < table_->rowCount(); ++row)
    table_->setRowHidden(row, !(table_->item(row, Does)->text() + table_->item(row, Key)->text())
                                   .contains(search_->text(), Qt::CaseInsensitive));
}

void KeysDialog::ask() {
  const int row = table_->currentRow();
  QAction* action = chosen();
  if (!action || table_->cellWidget(row, Key)) return;
  auto* field = new KeyField;
  table_->setCellWidget(row, Key, field);
  field->setFocus();
  told_->setText(tr("Press the key that is to do: %1. Escape leaves it.").arg(action->text().remove('&')));
  // Not from within what the field is just being told.
  connect(
      field, &KeyField::givenUp, this,
      [this, row] {
        table_->removeCellWidget(row, Key);
        table_->setFocus();
      },
      Qt::QueuedConnection);
  connect(
      field, &KeyField::pressed, this,
      [this, row, action](const QKeySequence& key) {
        table_->removeCellWidget(row, Key);
        table_->setFocus();
        give(*action, key);
      },
      Qt::QueuedConnection);
}

void KeysDialog::give(QAction& action, const QKeySequence& key) {
  const QString name = action.text().remove('&');
  const QString text = key.toString(QKeySequence::NativeText);
  const QAction* loser = keys_.assign(action, key);
  if (!loser) return told_->setText(tr("%1 now does: %2.").arg(text, name));
  const QString left = KeyBindings::keysOf(*loser);
  told_->setText(tr("%1 now does: %2. It did before: %3; that has %4 now.")
                     .arg(text, name, loser->text().remove('&'), left.isEmpty() ? tr("no key") : left));
}

KeyField::KeyField() {
  setReadOnly(true);
  setAccessibleName(tr("The new key"));
  setPlaceholderText(tr("press a key"));
}

bool KeyField::event(QEvent* event) {
  // Tab and whatever is a shortcut elsewhere are keys here like any other.
  if (event->type() == QEvent::ShortcutOverride) {
    event->accept();
    return true;
  }
  if (event->type() != QEvent::KeyPress) return QLineEdit::event(event);
  const auto* press = static_cast<QKeyEvent*>(event);
  switch (press->key()) {
    case Qt::Key_Shift:
    case Qt::Key_Control:
    case Qt::Key_Alt:
    case Qt::Key_AltGr:
    case Qt::Key_Meta:
    case Qt::Key_unknown:
      return true;
    case Qt::Key_Escape:
      emit givenUp();
      return true;
    default:
      break;
  }
  // Digits of the keypad are digits.
  emit pressed(
      QKeySequence(QKeyCombination(press->modifiers() & ~Qt::KeypadModifier, Qt::Key(press->key()))));
  return true;
}

void KeyField::focusOutEvent(QFocusEvent* event) {
  QLineEdit::focusOutEvent(event);
  emit givenUp();
}

}  // namespace yewdrift::app
