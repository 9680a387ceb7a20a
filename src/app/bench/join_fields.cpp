// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/join_fields.h"

#include <QLabel>
#include <QSignalBlocker>
#include <QTimer>

#include "app/look/widgets.h"
#include "core/edit/edit.h"

namespace yewdrift::app {
namespace {

constexpr double longestField = 9'999.9;  // milliseconds

}  // namespace

JoinFields::JoinFields(SessionDesk& desk, InHand& inHand, JoinDesk& joins, QWidget* parent)
    : QWidget(parent), desk_(desk), inHand_(inHand), joins_(joins) {
  grid_ = new QGridLayout(this);
  grid_->setContentsMargins(0, 0, 0, 0);
  grid_->setHorizontalSpacing(6);
  grid_->setVerticalSpacing(3);
  at_ = new QLineEdit;
  at_->setAccessibleName(tr("Place of the join"));
  at_->setToolTip(tr("Where the composite changes takes; type another place to move the boundary there."));
  connect(at_, &QLineEdit::textEdited, this, [this] { typedFor_ = inHand_.join(); });
  connect(at_, &QLineEdit::editingFinished, this, &JoinFields::moveThere);
  before_ = shapeField(tr("Crossfade before the boundary"), 0.0, longestField, tr(" ms"),
                       tr("How long before the boundary the crossfade begins."),
                       [this](JoinShape& shape, double ms) {
                         shape.before = framesFromSeconds(ms / 1000.0, desk_.session().rate);
                       });
  after_ =
      shapeField(tr("Crossfade behind the boundary"), 0.0, longestField, tr(" ms"),
                 tr("How long behind the boundary the crossfade ends."), [this](JoinShape& shape, double ms) {
                   shape.after = framesFromSeconds(ms / 1000.0, desk_.session().rate);
                 });
  bend_ = shapeField(tr("Bend of the curve"), -100.0, 100.0, tr(" %"),
                     tr("Above 0 the incoming take rises early, below 0 late."),
                     [](JoinShape& shape, double percent) { shape.bend = percent / 100.0; });
  bend_->setDecimals(0);
  at_->setMaximumWidth(fontMetrics().averageCharWidth() * 15);
  curve_ = new QComboBox;
  curve_->setAccessibleName(tr("Curve of the crossfade"));
  curve_->setToolTip(
      tr("How the two takes are faded: matched keeps the level whatever they have in common; equal gain and "
         "S suit takes that are alike, equal power takes that are not."));
  for (const auto& [text, value] : {std::pair{tr("Matched"), Curve::Matched},
                                    {tr("Equal power"), Curve::EqualPower},
                                    {tr("Equal gain"), Curve::EqualGain},
                                    {tr("S"), Curve::S}})
    curve_->addItem(text, static_cast<int>(value));
  connect(curve_, &QComboBox::activated, this, &JoinFields::setCurve);
  put(0, 0, tr("At"), at_);
  put(1, 0, tr("Before"), before_);
  put(2, 0, tr("After"), after_);
  put(3, 0, tr("Bend"), bend_);
  put(0, 2, tr("Curve"), curve_);
  put(1, 2, tr("Search"),
      habitField(tr("How far a better place is searched for"), 1.0, JoinHabits::mostWithin, tr(" ms"),
                 tr("How far from where it is, either way, a better place for a join is searched for."),
                 &JoinHabits::within));
  put(2, 2, tr("Slip"),
      habitField(
          tr("How far the search may slip"), 0.0, JoinHabits::mostSlip, tr(" ms"),
          tr("How far the search may slip what plays behind the join, to be in phase; at 0 nothing moves "
             "in time."),
          &JoinHabits::slip));
  put(3, 2, tr("Hear"),
      habitField(tr("How much is heard around a join"), JoinHabits::leastAround, JoinHabits::mostAround,
                 tr(" s"), tr("How much is heard on either side when a join is gone round."),
                 &JoinHabits::around));
}

void JoinFields::put(int row, int column, const QString& label, QWidget* field) {
  grid_->addWidget(faintLabel(label), row, column);
  grid_->addWidget(field, row, column + 1);
}

QDoubleSpinBox* JoinFields::number(const QString& name, double lowest, double highest, const QString& unit,
                                   const QString& tip) {
  auto* field = new QDoubleSpinBox;
  field->setRange(lowest, highest);
  field->setDecimals(1);
  field->setSuffix(unit);
  field->setAccessibleName(name);
  field->setToolTip(tip);
  field->setKeyboardTracking(false);
  field->setMaximumWidth(fontMetrics().averageCharWidth() * 15);
  return field;
}

QDoubleSpinBox* JoinFields::shapeField(const QString& name, double lowest, double highest,
                                       const QString& unit, const QString& tip, const Change& change) {
  QDoubleSpinBox* const field = number(name, lowest, highest, unit, tip);
  auto* edit = new FieldEdit(desk_, field, tr("Set a crossfade"), [this] { refresh(); });
  connect(field, &QDoubleSpinBox::valueChanged, this, [this, edit, change](double value) {
    const Join* const join = inHandJoin();
    if (filling_ || !join) return;
    JoinShape shape = join->shape;
    change(shape, value);
    edit->show([id = inHand_.trackId(), at = join->at, shape](const Session& s) {
      return setJoin(s, id, at, shape);
    });
  });
  return field;
}

QDoubleSpinBox* JoinFields::habitField(const QString& name, double lowest, double highest,
                                       const QString& unit, const QString& tip, double JoinHabits::*habit) {
  QDoubleSpinBox* const field = number(name, lowest, highest, unit, tip);
  field->setValue(joins_.habits().*habit);
  connect(field, &QDoubleSpinBox::valueChanged, this, [this, habit](double value) {
    JoinHabits habits = joins_.habits();
    habits.*habit = value;
    joins_.setHabits(habits);
  });
  return field;
}

const Join* JoinFields::inHandJoin() const {
  const Track* const track = inHand_.track();
  const auto at = inHand_.join();
  return track && at ? inHand_.composite(*track).joinAt(*at) : nullptr;
}

void JoinFields::moveThere() {
  const Join* const join = inHandJoin();
  // What was typed of a join that is no longer in hand is of no other one.
  const bool meant = join && at_->isModified() && typedFor_ == join->at;
  at_->setModified(false);
  if (!meant) return refresh();
  const Frames from = join->at;
  const bool moved =
      desk_.apply(tr("Move a boundary"), [this, from, id = inHand_.trackId()](const Session& s) {
        const auto to = desk_.positionWords().typed(at_->text());
        return to ? moveBoundaryExactly(s, id, from, *to) : s;
      });
  refresh();
  // Another number is typed next, and must not act as keys.
  if (!moved)
    QTimer::singleShot(0, at_, [this] {
      at_->setFocus();
      at_->selectAll();
    });
}

void JoinFields::setCurve(int index) {
  const Join* const join = inHandJoin();
  if (!join) return;
  JoinShape shape = join->shape;
  shape.curve = static_cast<Curve>(curve_->itemData(index).toInt());
  desk_.apply(tr("Set a crossfade"), [id = inHand_.trackId(), at = join->at, shape](const Session& s) {
    return setJoin(s, id, at, shape);
  });
}

void JoinFields::refresh() {
  const Join* const join = inHandJoin();
  for (QWidget* field : std::initializer_list<QWidget*>{at_, before_, after_, bend_, curve_})
    // A field that is typed into stays one: else the next digits would be keys that act.
    field->setEnabled((join && desk_.writable()) || field->hasFocus());
  if (!join) return at_->setText({});
  filling_ = true;
  if (!at_->isModified() || typedFor_ != join->at) at_->setText(desk_.positionWords().inField(join->at));
  const auto show = [](QDoubleSpinBox* field, double value) {
    // Typing is not disturbed, nor is a value replaced by what it is rounded to.
    if (!beingTyped(*field) && std::abs(field->value() - value) >= 0.05) field->setValue(value);
  };
  const auto ms = [this](Frames f) { return secondsFromFrames(f, desk_.session().rate) * 1000.0; };
  show(before_, ms(join->shape.before));
  show(after_, ms(join->shape.after));
  show(bend_, join->shape.bend * 100.0);
  const QSignalBlocker quietly(curve_);
  curve_->setCurrentIndex(curve_->findData(static_cast<int>(join->shape.curve)));
  filling_ = false;
}

}  // namespace yewdrift::app
