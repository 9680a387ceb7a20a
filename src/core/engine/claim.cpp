// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/engine/claim.h"

#include <algorithm>
#include <cmath>

#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

constexpr float quiet = 0.00316F;      // -50 dB
constexpr double handleSeconds = 4.0;  // of what followed a roll

std::optional<Span> joined(std::optional<Span> a, std::optional<Span> b) {
  if (!a || !b) return a ? a : b;
  return Span{std::min(a->start, b->start), std::max(a->end, b->end)};
}

/// As a recording that was punched by hand where it sounds.
RecordSetup setupOf(const Claim& claim) {
  const InputTape::Segment& segment = claim.segment;
  const auto played = [&](Frames heard) { return heard - segment.begins - segment.roundTrip; };
  RecordSetup setup;
  setup.timeline = segment.timeline;
  setup.roundTrip = segment.roundTrip;
  setup.byHand = true;
  setup.rolled = segment.tape.end - segment.begins;
  setup.capturesFrom = claim.file.start - segment.begins;
  setup.handPunches = {{std::max(Frames{}, played(claim.sound.start)), played(claim.sound.end)}};
  return setup;
}

/// As if it had been played from the playhead on while it rolled.
RecordSetup setupAt(const Claim& claim, Frames playhead) {
  RecordSetup setup;
  setup.byHand = true;
  setup.timeline.start = playhead;
  setup.capturesFrom = claim.file.start - claim.sound.start;
  setup.handPunches = {{Frames{}, claim.sound.length()}};
  return setup;
}

/// What one microphone heard, as a new pool file.
PoolFile writeClaim(const SessionDisk& disk, const Session& session, const Track& track,
                    const Microphone& microphone, const InputTape& tape, Span span) {
  const std::string stem =
      (track.microphones.size() > 1 ? track.name + "-" + microphone.name : track.name) + "-claimed";
  PendingFile file(disk, "audio", stem);
  const auto frames = static_cast<std::size_t>(span.length().count);
  const auto width = static_cast<std::size_t>(microphone.channels);
  std::vector<float> interleaved(frames * width);
  for (std::size_t c = 0; c < width; ++c) {
    const std::vector<float> channel = tape.read(microphone.input + static_cast<int>(c), span);
    for (std::size_t i = 0; i < frames; ++i) interleaved[i * width + c] = channel[i];
  }
  AudioWriter writer(file.take(), microphone.channels, session.rate, session.format);
  writer.write(interleaved.data(), static_cast<std::int64_t>(frames));
  writer.close();
  return {file.keep(), microphone.channels, span.length()};
}

}  // namespace

std::optional<Span> claimedWindow(const std::vector<float>& heard, SampleRate rate) {
  const auto sounds = [](float sample) { return std::abs(sample) >= quiet; };
  const auto first = std::find_if(heard.begin(), heard.end(), sounds);
  if (first == heard.end()) return std::nullopt;
  const auto last = std::find_if(heard.rbegin(), heard.rend(), sounds).base();
  const Frames room = framesFromSeconds(0.1, rate);
  const auto length = static_cast<std::int64_t>(heard.size());
  return Span{std::max(Frames{}, Frames{first - heard.begin()} - room),
              std::min(Frames{length}, Frames{last - heard.begin()} + room)};
}

Frames ringingOf(const std::vector<float>& heard, SampleRate rate) {
  const auto enough = static_cast<std::size_t>(rate.hertz);
  std::size_t rings = 0;
  for (std::size_t i = 0; i < heard.size() && i - rings < enough; ++i)
    if (std::abs(heard[i]) >= quiet) rings = i + 1;
  return {static_cast<std::int64_t>(rings)};
}

std::optional<Claim> findClaim(const InputTape& tape, const std::vector<int>& inputs, SampleRate rate,
                               Frames asked, Frames until) {
  const std::vector<InputTape::Segment> segments = tape.segments();
  for (std::size_t i = segments.size(); i-- > 0;) {
    InputTape::Segment segment = segments[i];
    segment.tape.end = std::min(segment.tape.end, until);
    if (segment.tape.empty() || segment.tape.start >= asked) continue;
    Span searched = segment.tape;
    if (segment.roll == 0 && segment.followsRoll)
      for (const int input : inputs)
        searched.start =
            std::max(searched.start, segment.tape.start + ringingOf(tape.read(input, segment.tape), rate));
    const auto soundIn = [&](Span span) {
      std::optional<Span> sound;
      for (const int input : inputs) sound = joined(sound, claimedWindow(tape.read(input, span), rate));
      return sound ? std::optional(sound->shifted(span.start)) : sound;
    };
    const std::optional<Span> sound = soundIn(searched);
    if (!sound) continue;
    if (segment.roll == 0) return Claim{segment, *sound, segment.tape};
    // The last of what was played to a roll arrives when it has ended.
    const Span file{
        segment.tape.start,
        std::min({until, segment.reaches, segment.tape.end + framesFromSeconds(handleSeconds, rate)})};
    return Claim{segment, *soundIn(file), file};
  }
  return std::nullopt;
}

std::vector<Capture> writeClaims(const SessionDisk& disk, const Session& session, const InputTape& tape,
                                 Span span) {
  std::vector<Capture> captures;
  try {
    for (const auto& track : session.tracks) {
      if (!track->armed) continue;
      captures.push_back({track->id, {}, {}});
      for (const Microphone& microphone : track->microphones)
        captures.back().files.push_back(writeClaim(disk, session, *track, microphone, tape, span));
    }
  } catch (...) {
    removeClaims(disk, captures);
    throw;
  }
  return captures;
}

void removeClaims(const SessionDisk& disk, const std::vector<Capture>& captures) {
  for (const Capture& capture : captures)
    for (const PoolFile& file : capture.files) disk.remove(file.path);
}

Recorded addClaim(Session session, const Claim& claim, const std::vector<Capture>& captures,
                  Frames playhead) {
  RecordSetup setup = claim.segment.roll == 0 ? setupAt(claim, playhead) : setupOf(claim);
  // All of it sounded before the first of it could have been played to the roll.
  if (passWindows(setup, claim.file.length()).empty()) setup = setupAt(claim, playhead);
  return addRecording(std::move(session), setup, captures);
}

}  // namespace yewdrift
