// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/access/accessible_views.h"

#include <QAccessibleWidget>
#include <QLabel>
#include <QTextDocumentFragment>

#include "app/access/accessible_lanes.h"
#include "app/bench/join_bench.h"
#include "app/views/level_meter.h"
#include "app/views/song_strip.h"
#include "app/views/transport_bar.h"

namespace yewdrift::app {
namespace {

/// A widget whose value is a text that it can tell at any time.
template <typename View>
class SpokenView : public QAccessibleWidget {
 public:
  SpokenView(View* view, QAccessible::Role role) : QAccessibleWidget(view, role), view_(view) {}
  [[nodiscard]] QString text(QAccessible::Text what) const override {
    if (what == QAccessible::Value || what == QAccessible::Description) return view_->spoken();
    return QAccessibleWidget::text(what);
  }

 private:
  View* view_;
};

/// A label that has a name besides what it shows: "Position in bars and beats", "9|1".
class NamedLabel : public QAccessibleWidget {
 public:
  explicit NamedLabel(QLabel* label) : QAccessibleWidget(label, QAccessible::StaticText), label_(label) {}
  [[nodiscard]] QString text(QAccessible::Text what) const override {
    if (what != QAccessible::Value && what != QAccessible::Description) return QAccessibleWidget::text(what);
    return Qt::mightBeRichText(label_->text()) ? QTextDocumentFragment::fromHtml(label_->text()).toPlainText()
                                               : label_->text();
  }

 private:
  QLabel* label_;
};

class MeterValue : public SpokenView<LevelMeter>, public QAccessibleValueInterface {
 public:
  explicit MeterValue(LevelMeter* meter) : SpokenView(meter, QAccessible::Indicator), meter_(meter) {}
  void* interface_cast(QAccessible::InterfaceType type) override {
    if (type == QAccessible::ValueInterface) return static_cast<QAccessibleValueInterface*>(this);
    return SpokenView::interface_cast(type);
  }
  [[nodiscard]] QVariant currentValue() const override { return meter_->shown(); }
  void setCurrentValue(const QVariant&) override {}
  [[nodiscard]] QVariant maximumValue() const override { return 0.0; }
  [[nodiscard]] QVariant minimumValue() const override { return -60.0; }
  [[nodiscard]] QVariant minimumStepSize() const override { return 0.1; }

 private:
  LevelMeter* meter_;
};

QAccessibleInterface* make(const QString&, QObject* object) {
  if (auto* lanes = qobject_cast<LanesView*>(object)) return new AccessibleLanes(lanes);
  if (auto* meter = qobject_cast<LevelMeter*>(object)) return new MeterValue(meter);
  if (auto* song = qobject_cast<SongStrip*>(object))
    return new SpokenView<SongStrip>(song, QAccessible::Graphic);
  if (auto* state = qobject_cast<RecordState*>(object))
    return new SpokenView<RecordState>(state, QAccessible::StaticText);
  if (auto* picture = qobject_cast<JoinPicture*>(object))
    return new SpokenView<JoinPicture>(picture, QAccessible::Graphic);
  if (auto* label = qobject_cast<QLabel*>(object); label && !label->accessibleName().isEmpty())
    return new NamedLabel(label);
  return nullptr;
}

}  // namespace

void installAccessibility() {
  QAccessible::installFactory(make);
}

}  // namespace yewdrift::app
