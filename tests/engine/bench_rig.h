// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/plan/file_sample_source.h"
#include "support.h"

namespace yewdrift::test {

/// A session, an engine served by hand and a simulated interface, run block by block.
struct Rig {
  Rig(SessionFolder& sessionFolder, int block, SimulatedInterface interface = {})
      : folder(sessionFolder),
        engine(folder.session().rate, block, Engine::Service::ByHand),
        meter(folder.path()),
        compiler(meter),
        device(withBlock(std::move(interface), block), engine) {
    setPlan(folder.session());
  }

  static SimulatedInterface withBlock(SimulatedInterface interface, int block) {
    interface.settings.blockFrames = block;
    return interface;
  }

  void setPlan(const Session& session, const CompileOptions& options = {}) {
    meter.setFiles(*session.pool);
    engine.setPlan(folder.path(), compiler.compile(session, options), &*session.tracks.front());
    engine.settle();
  }

  /// Plays `frames` frames (whole blocks) and returns the left side.
  Samples play(std::size_t frames) {
    Samples out;
    while (out.size() < frames) {
      engine.service();
      device.runBlock();
      out.insert(out.end(), device.lastOutput()[0].begin(), device.lastOutput()[0].end());
    }
    return out;
  }

  Session record(const RecordSetup& setup, const std::vector<TrackId>& tracks) {
    Recorder recorder(folder, folder.session(), setup, tracks);
    engine.record(setup.timeline, setup.roundTrip, recorder.stream());
    engine.settle();
    for (int block = 0; !recorder.stream()->closed() && block < 1'000'000; ++block) {
      device.runBlock();
      engine.service();
    }
    folder.commit("Record", recorder.finished(folder.session()));
    recorder.forgetNote();
    return folder.session();
  }

  SessionFolder& folder;
  Engine engine;
  FileCorrelationMeter meter;
  Compiler compiler;
  SimulatedDevice device;
};

}  // namespace yewdrift::test
