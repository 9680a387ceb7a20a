// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/controls.h"

#include <QSettings>

namespace yewdrift::app {

Controls::Controls(std::vector<Bindable> actions, QObject* parent)
    : QObject(parent), actions_(std::move(actions)) {
  const QSettings settings;
  for (const Bindable& each : actions_) {
    ControlMessage control;
    if (controlFromKey(settings.value("controls/" + each.id).toString().toStdString(), control))
      bindings_[each.id] = control;
  }
  if (!bindings_.empty()) listen();
}

Controls::~Controls() = default;

void Controls::listen() {
  if (input_) return;
  input_ = std::make_unique<ControlInput>([this](ControlMessage message) {
    QMetaObject::invokeMethod(this, [this, message] { receive(message); });
  });
}

std::optional<ControlMessage> Controls::binding(const QString& id) const {
  const auto found = bindings_.find(id);
  return found == bindings_.end() ? std::nullopt : std::optional(found->second);
}

void Controls::learn(const QString& id) {
  learning_ = learning_ == id ? QString() : id;
  if (!learning_.isEmpty()) listen();
  emit changed();
}

void Controls::forget(const QString& id) {
  bindings_.erase(id);
  QSettings().remove("controls/" + id);
  emit changed();
}

QStringList Controls::sources() {
  listen();
  QStringList names;
  for (const std::string& name : input_->sources()) names << QString::fromStdString(name);
  return names;
}

void Controls::receive(const ControlMessage& message) {
  if (!message.pressed()) return;
  if (!learning_.isEmpty()) {
    // A control does one thing.
    for (const Bindable& each : actions_)
      if (const auto bound = binding(each.id); bound && bound->sameControl(message)) forget(each.id);
    bindings_[learning_] = message;
    QSettings().setValue("controls/" + learning_, QString::fromStdString(controlKey(message)));
    learning_.clear();
    emit changed();
    return;
  }
  for (const Bindable& each : actions_)
    if (const auto bound = binding(each.id); bound && bound->sameControl(message) && each.action->isEnabled())
      each.action->trigger();
}

}  // namespace yewdrift::app
