// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/standard_midi_file.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace yewdrift {
namespace {

constexpr int ticksPerQuarter = 960;

struct Event {
  std::int64_t tick = 0;
  std::string bytes;
};

std::string bigEndian(std::uint32_t value, int bytes) {
  std::string text;
  for (int shift = 8 * (bytes - 1); shift >= 0; shift -= 8)
    text += static_cast<char>((value >> shift) & 0xFFU);
  return text;
}

/// Seven bits a byte, the last one without its highest bit.
std::string variableLength(std::uint32_t value) {
  std::string text(1, static_cast<char>(value & 0x7FU));
  while ((value >>= 7U) > 0) text.insert(text.begin(), static_cast<char>((value & 0x7FU) | 0x80U));
  return text;
}

std::string meta(int type, const std::string& data) {
  return std::string("\xFF") + static_cast<char>(type) +
         variableLength(static_cast<std::uint32_t>(data.size())) + data;
}

/// Where a bar begins.
std::int64_t tickOfBar(const TempoMap& tempo, int bar) {
  std::int64_t tick = 0;
  const auto& changes = tempo.changes();
  for (std::size_t i = 0; i < changes.size() && changes[i].bar < bar; ++i) {
    const int until = i + 1 < changes.size() ? std::min(bar, changes[i + 1].bar) : bar;
    tick += static_cast<std::int64_t>(until - changes[i].bar) * changes[i].meter.beats * 4 * ticksPerQuarter /
            changes[i].meter.unit;
  }
  return tick;
}

std::string meterEvent(Meter meter) {
  int power = 0;
  while ((1 << power) < meter.unit) ++power;
  // A click a beat: 24 MIDI clocks a quarter; 8 notated 32nds a quarter.
  return meta(0x58, {static_cast<char>(meter.beats), static_cast<char>(power),
                     static_cast<char>(std::max(1, 96 / meter.unit)), 8});
}

}  // namespace

std::string tempoAsMidi(const Session& session) {
  std::vector<Event> events{{0, meta(0x03, session.name)}};
  for (const TempoChange& change : session.tempo.changes()) {
    const std::int64_t tick = tickOfBar(session.tempo, change.bar);
    const double quarters = change.beatsPerMinute * 4.0 / change.meter.unit;
    // Three bytes hold no slower tempo than 3.6 quarters a minute.
    const auto microseconds =
        static_cast<std::uint32_t>(std::clamp(std::round(60e6 / quarters), 1.0, 16'777'215.0));
    events.push_back({tick, meta(0x51, bigEndian(microseconds, 3))});
    events.push_back({tick, meterEvent(change.meter)});
  }
  for (const Marker& marker : session.markers) {
    if (marker.at.count < 0) continue;
    const MusicalPosition at = session.tempo.positionOf(marker.at, session.rate);
    const int unit = session.tempo.changeAt(at.bar).meter.unit;
    const auto within = std::llround((at.beat - 1.0) * 4 * ticksPerQuarter / unit);
    events.push_back({tickOfBar(session.tempo, at.bar) + within, meta(0x06, marker.name)});
  }
  std::ranges::stable_sort(events, {}, &Event::tick);
  std::string track;
  std::int64_t now = 0;
  for (const Event& event : events) {
    track += variableLength(static_cast<std::uint32_t>(event.tick - now)) + event.bytes;
    now = event.tick;
  }
  track += variableLength(0) + meta(0x2F, {});
  return "MThd" + bigEndian(6, 4) + bigEndian(0, 2) + bigEndian(1, 2) + bigEndian(ticksPerQuarter, 2) +
         "MTrk" + bigEndian(static_cast<std::uint32_t>(track.size()), 4) + track;
}

}  // namespace yewdrift
