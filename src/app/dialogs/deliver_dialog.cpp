// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dialogs/deliver_dialog.h"

#include <QDesktopServices>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHeaderView>
#include <QLocale>
#include <QStandardPaths>
#include <QUrl>
#include <QVBoxLayout>

#include "app/look/spoken.h"

namespace yewdrift::app {

DeliverDialog::DeliverDialog(SessionDesk& desk, FileDesk& files, const std::vector<TrackId>& chosen,
                             QWidget* parent)
    : QDialog(parent), desk_(desk), files_(files) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Deliver"));
  resize(820, 560);
  pool_.setMaxThreadCount(1);
  auto* column = new QVBoxLayout(this);
  auto* choices = new QGridLayout;
  const std::vector<std::tuple<Deliverable, QString, QString>> all{
      {Deliverable::Mix, tr("The mix"), tr("One finished file: the tracks as they are heard together.")},
      {Deliverable::Stems, tr("Stems"), tr("Every track as the mix hears it; together they are the mix.")},
      {Deliverable::Composites, tr("Composites"), tr("What every track plays, before gain and pan.")},
      {Deliverable::Takes, tr("Takes"), tr("Every take alone.")},
      {Deliverable::Tempo, tr("Tempo map"), tr("Tempo, meter and markers as a Standard MIDI File.")},
      {Deliverable::Markers, tr("Markers"), tr("As text; WAV files carry them as cues too.")},
      {Deliverable::Edits, tr("Edit list"), tr("Which piece came from where, as text and for programs.")},
      {Deliverable::Sheet, tr("Take sheet"), tr("Takes, notes and what was chosen, as a page to print.")}};
  int place = 0;
  for (const auto& [what, name, tip] : all) {
    auto* box = new QCheckBox(name);
    box->setToolTip(tip);
    box->setChecked(what != Deliverable::Takes && what != Deliverable::Mix);
    choices->addWidget(box, place / 4, place % 4);
    ++place;
    what_.emplace_back(what, box);
    connect(box, &QCheckBox::toggled, this, &DeliverDialog::plan);
  }
  column->addLayout(choices);
  container_ = new QComboBox;
  container_->setAccessibleName(tr("Kind of audio file"));
  container_->setToolTip(tr("WAV becomes RF64 by itself where it grows beyond 4 GB."));
  for (const auto& [text, value] :
       {std::pair{tr("WAV"), Container::Wave}, {tr("RF64"), Container::Rf64}, {tr("FLAC"), Container::Flac}})
    container_->addItem(text, static_cast<int>(value));
  depth_ = new QComboBox;
  depth_->setAccessibleName(tr("Depth"));
  depth_->addItem(tr("Depth: as the session"), -1);
  for (const auto& [text, value] : {std::pair{tr("16 bit"), SampleFormat::Pcm16},
                                    {tr("24 bit"), SampleFormat::Pcm24},
                                    {tr("32-bit floating point"), SampleFormat::Float32}})
    depth_->addItem(text, static_cast<int>(value));
  rate_ = new QComboBox;
  rate_->setAccessibleName(tr("Rate"));
  rate_->addItem(tr("Rate: as the session"), 0);
  for (const int hertz : {44100, 48000, 88200, 96000, 192000}) rate_->addItem(tr("%L1 Hz").arg(hertz), hertz);
  dither_ = new QCheckBox(tr("Dither to 16 bit"));
  dither_->setChecked(true);
  dither_->setToolTip(
      tr("Noise of half a step in place of distortion, where there is more in it than 16 bit."));
  tracksButton_ = new QToolButton;
  tracksButton_->setPopupMode(QToolButton::InstantPopup);
  tracksButton_->setToolTip(
      tr("Which tracks go into the mix, and have stems, composites and takes of their own."));
  tracksMenu_ = new QMenu(tracksButton_);
  tracksButton_->setMenu(tracksMenu_);
  if (!chosen.empty())
    for (const auto& track : desk.session().tracks)
      if (std::find(chosen.begin(), chosen.end(), track->id) == chosen.end()) left_.push_back(track->id);
  tail_ = new QDoubleSpinBox;
  tail_->setRange(0.0, 60.0);
  tail_->setDecimals(1);
  tail_->setValue(2.0);
  tail_->setSuffix(tr(" s tail"));
  tail_->setAccessibleName(tr("Tail of the mix"));
  tail_->setToolTip(tr("How long the mix goes on after its last frame."));
  auto* format = new QHBoxLayout;
  for (QWidget* each :
       std::initializer_list<QWidget*>{tracksButton_, container_, depth_, rate_, dither_, tail_})
    format->addWidget(each);
  format->addStretch(1);
  column->addLayout(format);
  folder_ = new QLineEdit(QString::fromStdString(
      (std::filesystem::path(
           QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation).toStdString()) /
       (desk.session().name + " delivery"))
          .string()));
  folder_->setAccessibleName(tr("Folder"));
  auto* browse = new QPushButton(tr("Browse…"));
  auto* where = new QHBoxLayout;
  where->addWidget(faintLabel(tr("To")));
  where->addWidget(folder_, 1);
  where->addWidget(browse);
  column->addLayout(where);
  table_ = new PlainTable({tr("File"), tr("Size")}, tr("What will be written"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->horizontalHeader()->setStretchLastSection(false);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  column->addWidget(table_, 1);
  sum_ = new QLabel;
  sum_->setWordWrap(true);
  sum_->setAccessibleName(tr("What it comes to"));
  deliver_ = new QPushButton(tr("Deliver"));
  open_ = new QPushButton(tr("Open the folder"));
  auto* close = new QPushButton(tr("Close"));
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(sum_, 1);
  for (QPushButton* each : {open_, close, deliver_}) buttons->addWidget(each);
  column->addLayout(buttons);
  for (QComboBox* box : {container_, depth_, rate_})
    connect(box, &QComboBox::activated, this, &DeliverDialog::plan);
  connect(tail_, &QDoubleSpinBox::valueChanged, this, &DeliverDialog::plan);
  connect(browse, &QPushButton::clicked, this, &DeliverDialog::chooseFolder);
  connect(close, &QPushButton::clicked, this, &QDialog::close);
  connect(deliver_, &QPushButton::clicked, this, &DeliverDialog::deliver);
  connect(open_, &QPushButton::clicked, this,
          [this] { QDesktopServices::openUrl(QUrl::fromLocalFile(folder_->text())); });
  connect(&desk, &SessionDesk::changed, this, [this] {
    listTracks();
    plan();
  });
  listTracks();
  plan();
}

/// One entry a track; each can be left out.
void DeliverDialog::listTracks() {
  std::vector<std::pair<TrackId, QString>> now;
  for (const auto& track : desk_.session().tracks)
    now.emplace_back(track->id, QString::fromStdString(track->name));
  const auto isLeft = [this](TrackId track) {
    return std::find(left_.begin(), left_.end(), track) != left_.end();
  };
  if (now != listed_) {
    listed_ = now;
    tracksMenu_->clear();
    for (const auto& [id, name] : listed_) {
      QAction* each = tracksMenu_->addAction(QString(name).replace('&', "&&"));
      each->setCheckable(true);
      each->setChecked(!isLeft(id));
      connect(each, &QAction::toggled, this, [this, id = id](bool on) {
        std::erase(left_, id);
        if (!on) left_.push_back(id);
        listTracks();
        plan();
      });
    }
  }
  const auto count = static_cast<int>(
      std::count_if(listed_.begin(), listed_.end(), [&](const auto& each) { return !isLeft(each.first); }));
  tracksButton_->setText(count == static_cast<int>(listed_.size()) ? tr("All tracks")
                                                                   : tr("%n track(s)", nullptr, count));
}

DeliverDialog::~DeliverDialog() {
  pool_.waitForDone();
}

DeliveryWish DeliverDialog::wish() const {
  DeliveryWish wish;
  for (const auto& [what, box] : what_)
    if (box->isChecked()) wish.what.insert(what);
  wish.container = static_cast<Container>(container_->currentData().toInt());
  if (const int depth = depth_->currentData().toInt(); depth >= 0)
    wish.format = static_cast<SampleFormat>(depth);
  if (const int hertz = rate_->currentData().toInt(); hertz > 0) wish.rate = SampleRate{hertz};
  wish.dither = dither_->isChecked();
  wish.tailSeconds = tail_->value();
  for (const auto& track : desk_.session().tracks)
    if (std::find(left_.begin(), left_.end(), track->id) == left_.end()) wish.tracks.push_back(track->id);
  if (wish.tracks.size() == desk_.session().tracks.size()) wish.tracks.clear();
  // Nothing is chosen: then nothing that sounds is delivered.
  else if (wish.tracks.empty())
    for (const Deliverable audio :
         {Deliverable::Mix, Deliverable::Stems, Deliverable::Takes, Deliverable::Composites})
      wish.what.erase(audio);
  return wish;
}

void DeliverDialog::plan() {
  // While something is dragged it changes with every movement.
  if (desk_.holding()) return;
  const int asked = ++planned_;
  const DeliveryWish wished = wish();
  tail_->setEnabled(wished.what.contains(Deliverable::Mix));
  pool_.clear();
  pool_.start([this, asked, wish = wished, session = desk_.session(), disk = desk_.disk()] {
    Delivery delivery;
    QString problem;
    try {
      delivery = planDelivery(disk, session, wish);
    } catch (const std::exception& e) {
      problem = spoken(e);
    }
    QMetaObject::invokeMethod(this, [this, asked, delivery, problem] {
      if (asked == planned_) tell(delivery, problem);
    });
  });
}

void DeliverDialog::tell(const Delivery& delivery, const QString& problem) {
  table_->setRowCount(static_cast<int>(delivery.files.size()));
  quint64 bytes = 0;
  for (int row = 0; row < table_->rowCount(); ++row) {
    const Delivered& file = delivery.files[static_cast<std::size_t>(row)];
    bytes += file.bytes;
    table_->setItem(row, 0, new QTableWidgetItem(QString::fromStdString(file.name)));
    table_->setItem(row, 1,
                    new QTableWidgetItem(QLocale().formattedDataSize(static_cast<qint64>(file.bytes))));
  }
  deliver_->setEnabled(problem.isEmpty() && !delivery.files.empty());
  sum_->setText(!problem.isEmpty() ? problem
                                   : tr("%n file(s), about %1.", nullptr, table_->rowCount())
                                         .arg(QLocale().formattedDataSize(static_cast<qint64>(bytes))));
}

void DeliverDialog::chooseFolder() {
  const QString chosen = QFileDialog::getExistingDirectory(this, tr("Where to"), folder_->text());
  if (!chosen.isEmpty()) folder_->setText(chosen);
}

void DeliverDialog::deliver() {
  const QString to = folder_->text().trimmed();
  // Nobody knows what a path without a beginning begins at: where the program was started.
  if (!QDir::isAbsolutePath(to)) return sum_->setText(tr("Say where to first: the whole path of a folder."));
  // A fresh desktop may not have the folder that it names for documents.
  const QString documents = QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
  if (QFileInfo(to).absolutePath() == QDir::cleanPath(documents)) QDir().mkpath(documents);
  files_.deliver(wish(), to.toStdString());
}

}  // namespace yewdrift::app
