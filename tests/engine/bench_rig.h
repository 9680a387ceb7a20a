// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>

#include "core/device/simulated_device.h"
#include "core/edit/edit.h"
#include "core/engine/engine.h"
#include "core/engine/recorder.h"
#include "core/plan/file_sample_source.h"
#include "support.h"

namespace yewdrift::test {

/// A session, an engine served by hand and a simulated interface, run block by block.
struct Rig {
  /// `announced`: the largest block that the device says it will deliver; 0: what it delivers.
  Rig(SessionFolder& sessionFolder, int block, SimulatedInterface interface = {}, int announced = 0)
      : folder(sessionFolder),
        engine(folder.session().rate, announced > 0 ? announced : block, Engine::Service::ByHand),
        meter(folder.disk()),
        compiler(meter),
        device(withBlock(std::move(interface), block), engine) {
    setPlan(folder.session());
  }

  static SimulatedInterface withBlock(SimulatedInterface interface, int block) {
    interface.settings.blockFrames = block;
    return interface;
  }

  void setPlan(const Session& session, Listening options = {}) {
    meter.setFiles(*session.pool);
    if (!options.inHand) options.inHand = session.tracks.front()->id;
    engine.setPlan(folder.disk(), compiler.compile(session, options));
    engine.settle();
  }

  struct Sides {
    Samples left;
    Samples right;
  };

  /// Plays `frames` frames (whole blocks).
  Sides playBoth(std::size_t frames) {
    Sides out;
    while (out.left.size() < frames) {
      engine.service();
      device.runBlock();
      listen(out);
    }
    return out;
  }
  /// The left side of it, where both are the same.
  Samples play(std::size_t frames) { return playBoth(frames).left; }

  /// Runs a recording to its end; `meanwhile` is called before every block, and what sounded is in `heard`.
  Recorder::Result roll(const RecordSetup& setup, const std::vector<TrackId>& tracks,
                        const std::function<void(EngineState)>& meanwhile = {}) {
    Recorder recorder(folder.disk(), folder.session(), setup, tracks);
    heard = {};
    engine.record(setup, recorder.stream());
    engine.settle();
    for (int block = 0; !recorder.stream()->closed() && block < 1'000'000; ++block) {
      if (meanwhile) meanwhile(engine.state());
      device.runBlock();
      engine.service();
      listen(heard);
      for (const EngineEvent& event : engine.takeEvents()) {
        if (event.kind == EngineEvent::Kind::Dropout)
          recorder.dropout(event.position);
        else
          recorder.punched(event.rollFrame, event.kind == EngineEvent::Kind::PunchIn);
      }
    }
    rolled = recorder.setup();
    Recorder::Result result = recorder.finished(folder.session());
    folder.commit("Record", result.session);
    recorder.forgetNote();
    return result;
  }

  Session record(const RecordSetup& setup, const std::vector<TrackId>& tracks) {
    return roll(setup, tracks).session;
  }

  void listen(Sides& to) const {
    const auto& out = device.lastOutput();
    to.left.insert(to.left.end(), out[0].begin(), out[0].end());
    to.right.insert(to.right.end(), out[1].begin(), out[1].end());
  }

  SessionFolder& folder;
  Engine engine;
  FileCorrelationMeter meter;
  Compiler compiler;
  SimulatedDevice device;
  Sides heard;         // in the last roll
  RecordSetup rolled;  // and how it went
};

}  // namespace yewdrift::test
