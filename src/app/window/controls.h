// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QObject>
#include <map>
#include <memory>
#include <optional>

#include "core/device/control_input.h"

namespace yewdrift::app {

/// Foot switches and MIDI controls bound to actions; the bindings are kept with the user's settings. Listens
/// from the moment one is bound or learned.
class Controls : public QObject {
  Q_OBJECT
 public:
  struct Bindable {
    QString id;  // how it is stored
    QAction* action = nullptr;
  };
  Controls(std::vector<Bindable> actions, QObject* parent = nullptr);
  ~Controls() override;

  [[nodiscard]] const std::vector<Bindable>& bindable() const { return actions_; }
  [[nodiscard]] std::optional<ControlMessage> binding(const QString& id) const;
  /// The next control that is pressed is bound to it; again, or with an empty id: no longer.
  void learn(const QString& id);
  [[nodiscard]] const QString& learning() const { return learning_; }
  void forget(const QString& id);
  /// What it listens to; starts listening.
  QStringList sources();
  /// As the MIDI system calls it, on the interface thread.
  void receive(const ControlMessage& message);

 signals:
  void changed();

 private:
  void listen();

  std::vector<Bindable> actions_;
  std::map<QString, ControlMessage> bindings_;
  QString learning_;
  std::unique_ptr<ControlInput> input_;
};

}  // namespace yewdrift::app
