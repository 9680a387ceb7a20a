// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/desk/recent_sessions.h"
#include "app/dialogs/deliver_dialog.h"
#include "app/dialogs/device_dialog.h"
#include "app/dialogs/files_dialog.h"
#include "app/dialogs/flatten_dialog.h"
#include "app/dialogs/keys_dialog.h"
#include "app/dialogs/line_up_dialog.h"
#include "app/dialogs/new_session_dialog.h"
#include "app/window/start_page.h"
#include "ui/impatient_rig.h"

namespace yewdrift::test {

/// Every window besides the main one, open over its session; the start page knows that session and one that
/// is gone.
class EveryDialog {
 public:
  explicit EveryDialog(ImpatientRig& rig) {
    using namespace yewdrift::app;
    MainWindow* const window = rig.window.get();
    Studio& studio = rig.studio();
    rig.press(Qt::Key_D, Qt::ControlModifier);
    opened_.push_back(window->findChild<DeviceDialog*>());
    QApplication::setActiveWindow(window);
    rig.lanes().setFocus();
    rig.press(Qt::Key_F1);
    opened_.push_back(window->findChild<KeysDialog*>());
    for (const QWidget* each : opened_) REQUIRE(each);
    own<NewSessionDialog>(window);
    own<FlattenDialog>(studio.desk(), studio.inHand(), studio.files(), window);
    own<DeliverDialog>(studio.desk(), studio.files(), std::vector<TrackId>{}, window);
    own<FilesDialog>(studio.desk(), studio.files(), studio.transport(), window);
    own<SpreadDialog>(studio.desk(), studio.inHand(), window);
    own<FadesDialog>(studio.desk(), studio.inHand(), studio.messages(), window);
    own<LineUpDialog>(studio.desk(), studio.inHand(), studio.lineUp(), LaneNumber{1}, window);
    recent::opened(QString::fromStdString(studio.desk().folderPath().string()));
    recent::opened("/nowhere/a session that was moved to another disk long ago, with quite a long name");
    auto start = std::make_unique<StartPage>();
    start->complain("The session \"x\" cannot be opened: it is no session folder.");
    owned_.push_back(std::move(start));
    for (const auto& each : owned_) each->show();
    rig.turn();
    // What looks at files and takes does so in the background.
    CHECK(comesTrueInWindow([&studio] { return !studio.jobs().busy(); }, 10000));
    rig.turn();
  }
  ~EveryDialog() {
    for (QWidget* each : opened_) each->close();
  }
  EveryDialog(const EveryDialog&) = delete;
  EveryDialog& operator=(const EveryDialog&) = delete;

  [[nodiscard]] std::vector<QWidget*> all() const {
    std::vector<QWidget*> windows = opened_;
    for (const auto& each : owned_) windows.push_back(each.get());
    return windows;
  }

 private:
  template <typename Dialog, typename... Arguments>
  void own(Arguments&&... arguments) {
    owned_.push_back(std::make_unique<Dialog>(std::forward<Arguments>(arguments)...));
  }
  std::vector<QWidget*> opened_;  // by the window, which owns them
  std::vector<std::unique_ptr<QWidget>> owned_;
};

}  // namespace yewdrift::test
