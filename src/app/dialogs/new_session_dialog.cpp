// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/new_session_dialog.h"

#include <QDialogButtonBox>
#include <QDir>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QSettings>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "app/look/spoken.h"

namespace yewdrift::app {

NewSessionDialog::NewSessionDialog(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("New session"));
  setMinimumWidth(520);
  name_ = new QLineEdit(tr("New session"));
  name_->selectAll();
  const QString music = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  place_ = new QLineEdit(QSettings().value("newSession/place", music).toString());
  auto* choose = new QPushButton(tr("Choose…"));
  connect(choose, &QPushButton::clicked, this, [this] {
    const QString chosen =
        QFileDialog::getExistingDirectory(this, tr("Where the session goes"), place_->text());
    if (!chosen.isEmpty()) place_->setText(chosen);
  });
  rate_ = new QComboBox;
  for (const int hertz : {44100, 48000, 88200, 96000, 176400, 192000})
    rate_->addItem(tr("%1 kHz").arg(hertz / 1000.0), hertz);
  rate_->setCurrentIndex(1);
  format_ = new QComboBox;
  format_->addItems({tr("16-bit"), tr("24-bit"), tr("32-bit float")});
  format_->setCurrentIndex(1);
  tempo_ = new QDoubleSpinBox;
  tempo_->setRange(10, 1000);
  tempo_->setValue(120);
  tempo_->setSuffix(tr(" beats a minute"));
  meter_ = new QComboBox;
  meter_->setEditable(true);
  meter_->addItems({"4/4", "3/4", "2/4", "6/8", "5/4", "7/8"});
  advice_ = new QLabel;
  advice_->setWordWrap(true);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
  make_ = buttons->addButton(tr("Make the session"), QDialogButtonBox::AcceptRole);
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);

  auto* form = new QFormLayout;
  form->addRow(tr("Name"), name_);
  auto* where = new QHBoxLayout;
  where->addWidget(place_, 1);
  where->addWidget(choose);
  form->addRow(tr("In the folder"), where);
  place_->setAccessibleName(tr("In the folder"));
  form->addRow(tr("Runs at"), rate_);
  form->addRow(tr("Records"), format_);
  form->addRow(tr("Tempo"), tempo_);
  form->addRow(tr("Meter"), meter_);
  auto* column = new QVBoxLayout(this);
  column->addLayout(form);
  column->addWidget(advice_);
  column->addWidget(buttons);
  for (QLineEdit* field : {name_, place_})
    connect(field, &QLineEdit::textChanged, this, &NewSessionDialog::check);
  connect(meter_, &QComboBox::editTextChanged, this, &NewSessionDialog::check);
  connect(this, &QDialog::accepted, this,
          [this] { QSettings().setValue("newSession/place", place_->text()); });
  check();
}

QString NewSessionDialog::folder() const {
  return QDir(place_->text()).filePath(name_->text().trimmed());
}

Session NewSessionDialog::session() const {
  Session session;
  session.name = name_->text().trimmed().toStdString();
  session.rate = {rate_->currentData().toInt()};
  session.format = static_cast<SampleFormat>(format_->currentIndex());
  session.tempo = TempoMap({{1, tempo_->value(), parseMeter(meter_->currentText().toStdString())}});
  session.recording = optionsForPlayers();
  return session;
}

void NewSessionDialog::check() {
  QString problem;
  const QString name = name_->text().trimmed();
  const QDir folder(this->folder());
  try {
    (void)session();
  } catch (const std::exception& e) {
    problem = spoken(e);
  }
  if (name.isEmpty() || name.contains('/'))
    problem = tr("Give the session a name; its folder is called so too.");
  else if (!QDir::isAbsolutePath(folder.path()))
    problem = tr("Say in which folder it is to lie: its whole path.");
  else if (folder.exists() && !folder.isEmpty())
    problem = tr("There is something in \"%1\" already; choose another name.").arg(folder.path());
  make_->setEnabled(problem.isEmpty());
  advice_->setText(problem.isEmpty()
                       ? tr("Makes the folder \"%1\". Rate and format stay as they are; tempo and meter "
                            "can be changed at any time, also along the song.")
                             .arg(folder.path())
                       : problem);
}

}  // namespace yewdrift::app
