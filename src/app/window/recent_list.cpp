// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/recent_list.h"

#include <QContextMenuEvent>
#include <QDesktopServices>
#include <QDir>
#include <QLocale>
#include <QMenu>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QUrl>

#include "app/desk/recent_sessions.h"
#include "app/look/spoken.h"
#include "app/look/theme.h"
#include "app/look/widgets.h"

namespace yewdrift::app {
namespace {

constexpr std::size_t columns = 220;
constexpr std::size_t rowsShown = 6;
constexpr int folderRole = Qt::UserRole;
constexpr int openedRole = Qt::UserRole + 1;

QString lengthText(double seconds) {
  const auto whole = static_cast<qint64>(std::lround(seconds));
  const QString ends = QString("%1:%2")
                           .arg(whole / 60 % 60, whole < 3600 ? 1 : 2, 10, QChar('0'))
                           .arg(whole % 60, 2, 10, QChar('0'));
  return whole < 3600 ? ends : QString("%1:%2").arg(whole / 3600).arg(ends);
}

QString nameOf(const RecentList::Seen& seen, const QString& folder) {
  return seen.glimpse.name.empty() ? QDir(folder).dirName() : QString::fromStdString(seen.glimpse.name);
}

QString factsOf(const RecentList::Seen& seen) {
  using State = RecentList::Seen::State;
  switch (seen.state) {
    case State::Looking:
      return RecentList::tr("Being looked at…");
    case State::Missing:
      return RecentList::tr("It is not there now.");
    case State::Unreadable:
      return seen.wrong;
    case State::There:
      break;
  }
  if (seen.glimpse.tracks == 0) return RecentList::tr("Empty");
  return RecentList::tr("%1, %2, %3")
      .arg(lengthText(seen.glimpse.seconds),
           RecentList::tr("%n track(s)", nullptr, static_cast<int>(seen.glimpse.tracks)),
           RecentList::tr("%n take(s)", nullptr, static_cast<int>(seen.glimpse.takes)));
}

QString openedText(const QDateTime& opened) {
  return RecentList::tr("opened %1").arg(QLocale().toString(opened, QLocale::ShortFormat));
}

/// What each track plays, in the colours of the takes it plays.
void drawGlimpse(QPainter& painter, const QRectF& box, const RecentList::Seen& seen) {
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().sunken);
  painter.drawRoundedRect(box, 4, 4);
  if (seen.state == RecentList::Seen::State::Missing || seen.state == RecentList::Seen::State::Unreadable) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().control, 1, Qt::DashLine));
    painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    return;
  }
  const QRectF inside = box.adjusted(6, 4, -6, -4);
  painter.setRenderHint(QPainter::Antialiasing, false);  // a column is a pixel or so
  const auto rows = std::max<std::size_t>(seen.glimpse.rows.size(), 3);
  const double height = inside.height() / static_cast<double>(rows);
  for (std::size_t r = 0; r < seen.glimpse.rows.size(); ++r) {
    const auto& row = seen.glimpse.rows[r];
    const double middle = inside.top() + (static_cast<double>(r) + 0.5) * height;
    const double wide = inside.width() / static_cast<double>(row.size());
    for (std::size_t i = 0; i < row.size(); ++i) {
      if (row[i].colour == 0) continue;
      const double level =
          row[i].level == GlimpseColumn::unmeasured ? 0.3 : std::sqrt(std::min(1.0F, row[i].level));
      const double half = std::max(0.5, 0.46 * height * level);
      const double left = std::floor(inside.left() + static_cast<double>(i) * wide);
      const double right = std::floor(inside.left() + static_cast<double>(i + 1) * wide);
      painter.fillRect(
          QRectF(left, std::round(middle - half), right - left, std::max(1.0, std::round(2 * half))),
          row[i].colour == GlimpseColumn::backing ? theme().control : takeColour(row[i].colour));
    }
  }
}

class SessionDelegate : public QStyledItemDelegate {
 public:
  explicit SessionDelegate(RecentList& list) : QStyledItemDelegate(&list), list_(list) {}

  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex&) const override {
    return {300, 3 * option.fontMetrics.lineSpacing() + 34};
  }

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const RecentList::Seen& seen = list_.seenAt(index.row());
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF card = QRectF(option.rect).adjusted(2, 3, -2, -3);
    const bool selected = option.state.testFlag(QStyle::State_Selected);
    const bool inHand = selected && list_.hasFocus();
    painter->setPen(QPen(inHand     ? theme().inHand
                         : selected ? theme().control
                                    : theme().line,
                         inHand ? 2 : 1));
    painter->setBrush(theme().surface);
    painter->drawRoundedRect(card, 6, 6);
    QRectF picture = card.adjusted(8, 8, -8, -8);
    picture.setWidth(std::clamp(0.34 * card.width(), 110.0, 280.0));
    drawGlimpse(*painter, picture, seen);
    painter->setRenderHint(QPainter::Antialiasing);
    drawText(*painter, card.adjusted(picture.width() + 22, 8, -12, -8), option, index, seen);
    painter->restore();
  }

 private:
  static void drawText(QPainter& painter, const QRectF& box, const QStyleOptionViewItem& option,
                       const QModelIndex& index, const RecentList::Seen& seen) {
    const QString folder = index.data(folderRole).toString();
    QFont strong = option.font;
    strong.setBold(true);
    const double line = box.height() / 3.0;
    const auto write = [&](int row, const QString& text, const QColor& colour, const QFont& font, int flags,
                           Qt::TextElideMode cut) {
      painter.setFont(font);
      painter.setPen(colour);
      const QRectF place(box.left(), box.top() + row * line, box.width(), line);
      painter.drawText(place, flags | Qt::AlignVCenter,
                       QFontMetricsF(font).elidedText(text, cut, place.width()));
    };
    write(0, nameOf(seen, folder), theme().text, strong, Qt::AlignLeft, Qt::ElideRight);
    const QString facts = seen.state == RecentList::Seen::State::There
                              ? factsOf(seen) + "  \u00b7  " + openedText(index.data(openedRole).toDateTime())
                              : factsOf(seen);
    write(1, facts, theme().text, option.font, Qt::AlignLeft, Qt::ElideRight);
    write(2, QDir::toNativeSeparators(folder), theme().faintText, option.font, Qt::AlignLeft,
          Qt::ElideMiddle);
  }

  RecentList& list_;
};

}  // namespace

RecentList::RecentList(QWidget* parent) : QListWidget(parent) {
  setAccessibleName(tr("Recent sessions"));
  setItemDelegate(new SessionDelegate(*this));
  setVerticalScrollMode(ScrollPerPixel);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setResizeMode(Adjust);
  setFrameShape(NoFrame);
  viewport()->setAutoFillBackground(false);
  pool_.setMaxThreadCount(2);
  connect(this, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) { ask(row(item)); });
}

RecentList::~RecentList() {
  *cancelled_ = true;
  pool_.waitForDone();
}

void RecentList::refresh() {
  ++round_;
  clear();
  seen_.clear();
  waiting_ = 0;
  for (const RecentSession& each : recent::sessions()) {
    seen_.emplace_back();
    auto* item = new QListWidgetItem(this);
    item->setData(folderRole, each.folder);
    item->setData(openedRole, each.opened);
    item->setData(Qt::AccessibleTextRole, spokenAt(count() - 1));
    item->setToolTip(QDir::toNativeSeparators(each.folder));
  }
  if (count() > 0) setCurrentRow(0);
  for (int row = 0; row < count(); ++row) look(row);
}

void RecentList::look(int row) {
  ++waiting_;
  pool_.start([this, row, round = round_, folder = folderAt(row), cancelled = cancelled_] {
    if (*cancelled) return;
    Seen seen;
    try {
      if (!QFileInfo::exists(folder)) {
        seen.state = Seen::State::Missing;
      } else {
        seen.glimpse = glimpse(folder.toStdString(), columns, rowsShown, *cancelled);
        seen.state = Seen::State::There;
      }
    } catch (const std::exception& e) {
      seen.state = Seen::State::Unreadable;
      seen.wrong = spoken(e);
    }
    if (*cancelled) return;
    // Who is destroyed waits for this thread first, and then takes no more calls.
    QMetaObject::invokeMethod(this, [this, row, round, seen = std::move(seen)] {
      if (round == round_) show(row, seen);
    });
  });
}

void RecentList::show(int row, Seen seen) {
  seen_[static_cast<std::size_t>(row)] = std::move(seen);
  item(row)->setData(Qt::AccessibleTextRole, spokenAt(row));
  update(indexFromItem(item(row)));
  if (--waiting_ == 0) emit looked();
}

QString RecentList::folderAt(int row) const {
  return item(row)->data(folderRole).toString();
}

QString RecentList::spokenAt(int row) const {
  const Seen& seen = seenAt(row);
  return QStringList{nameOf(seen, folderAt(row)), factsOf(seen),
                     openedText(item(row)->data(openedRole).toDateTime()),
                     QDir::toNativeSeparators(folderAt(row))}
      .join(", ");
}

void RecentList::ask(int row) {
  if (row >= 0 && row < count()) emit openAsked(folderAt(row));
}

void RecentList::forget(int row) {
  if (row < 0 || row >= count()) return;
  const QString folder = folderAt(row);
  recent::forget(folder);
  refresh();
  if (count() > 0) setCurrentRow(std::min(row, count() - 1));
  emit forgotten(folder);
}

void RecentList::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Delete) return forget(currentRow());
  QListWidget::keyPressEvent(event);
}

void RecentList::contextMenuEvent(QContextMenuEvent* event) {
  const int row =
      event->reason() == QContextMenuEvent::Mouse ? this->row(itemAt(event->pos())) : currentRow();
  if (row < 0) return;
  setCurrentRow(row);
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addAction(tr("Open"), this, [this, row] { ask(row); })->setShortcut(Qt::Key_Return);
  menu->addAction(tr("Show its folder"), this,
                  [folder = folderAt(row)] { QDesktopServices::openUrl(QUrl::fromLocalFile(folder)); });
  menu->addSeparator();
  menu->addAction(tr("Take off this list"), this, [this, row] { forget(row); })->setShortcut(Qt::Key_Delete);
  menu->popup(event->reason() == QContextMenuEvent::Mouse ? event->globalPos()
                                                          : mapToGlobal(visualItemRect(item(row)).center()));
}

void RecentList::changeEvent(QEvent* event) {
  QListWidget::changeEvent(event);
  if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange)
    scheduleDelayedItemsLayout();
}

}  // namespace yewdrift::app
