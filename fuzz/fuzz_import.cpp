// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes as an audio file: a sentence, or a file of the pool that is as long as it says; nothing else is
// left.
#include "core/store/import_audio.h"
#include "fuzz_support.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace yewdrift;
  const fuzz::fs::path path = fuzz::scratch();
  fuzz::fs::create_directories(path / "audio");
  fuzz::put(path / "in", fuzz::textOf(data, size));
  // What a format may unpack to is bounded by its size and not by its claims; for the fuzzer, by less.
  int blocks = 0;
  try {
    const Imported made =
        importAudio(SessionDisk(path), {48000}, path / "in", [&](double) { return ++blocks < 200; });
    if (probeAudioFile(path / made.file.path).length != made.file.length) std::abort();
  } catch (const Error&) {
    if (!fuzz::fs::is_empty(path / "audio")) std::abort();
  }
  return 0;
}
