// SPDX-License-Identifier: GPL-3.0-or-later
// Any text as the note of a recording that was cut off: what it brings in is sound, and nothing comes in
// twice.
#include "core/store/recording_note.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  const fuzz::fs::path path = fuzz::scratch();
  fuzz::fs::create_directories(path / "audio");
  for (const char* name : {"new.wav", "other.wav"}) {
    AudioWriter writer(path / "audio" / name, 1, {48000}, SampleFormat::Pcm16);
    const std::vector<float> signal(30000, 0.25F);
    writer.write(signal.data(), 30000);
    writer.finish();
  }
  fuzz::put(path / "recording-001.json", fuzz::textOf(data, size));
  const SessionDisk disk(path);
  const Recovery first = recoverRecording(disk, "recording-001.json", fuzz::someSession());
  checkInvariants(first.session);
  if (recoverRecording(disk, "recording-001.json", first.session).changed) std::abort();
  return 0;
}
