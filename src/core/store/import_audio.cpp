// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/store/import_audio.h"

#include <soxr.h>

#include <vector>

#include "core/error.h"
#include "core/store/audio_file.h"

namespace yewdrift {
namespace {

namespace fs = std::filesystem;
constexpr std::int64_t blockFrames = 16384;

struct ResamplerDeleter {
  void operator()(soxr* resampler) const { soxr_delete(resampler); }
};
using Resampler = std::unique_ptr<soxr, ResamplerDeleter>;

void decode(AudioReader& reader, AudioWriter& writer) {
  std::vector<float> block(static_cast<std::size_t>(blockFrames * reader.info().channels));
  for (Frames at; at < reader.info().length; at += Frames{blockFrames}) {
    const std::int64_t n = std::min(blockFrames, (reader.info().length - at).count);
    reader.readAt(at, n, block.data());
    writer.write(block.data(), n);
  }
}

void resample(AudioReader& reader, AudioWriter& writer, SampleRate rate) {
  const auto channels = static_cast<std::size_t>(reader.info().channels);
  const soxr_quality_spec_t quality = soxr_quality_spec(SOXR_VHQ, SOXR_ROLLOFF_NONE);
  soxr_error_t error = nullptr;
  const Resampler resampler(soxr_create(reader.info().rate.hertz, rate.hertz, static_cast<unsigned>(channels),
                                        &error, nullptr, &quality, nullptr));
  if (error) throw Error(std::string("The file could not be brought to the session's rate: ") + error + ".");
  const double ratio = static_cast<double>(rate.hertz) / reader.info().rate.hertz;
  std::vector<float> in(static_cast<std::size_t>(blockFrames) * channels);
  std::vector<float> out((static_cast<std::size_t>(blockFrames * ratio) + 64) * channels);
  Frames at;
  for (bool finished = false; !finished;) {
    const std::int64_t n = std::min(blockFrames, (reader.info().length - at).count);
    if (n > 0) reader.readAt(at, n, in.data());
    at += Frames{n};
    std::size_t used = 0;
    std::size_t fed = 0;
    do {
      std::size_t consumed = 0;
      std::size_t made = 0;
      // No input left means: give out what is still inside.
      error = soxr_process(resampler.get(), n > 0 ? in.data() + fed * channels : nullptr,
                           n > 0 ? static_cast<std::size_t>(n) - fed : 0, &consumed, out.data(),
                           out.size() / channels, &made);
      if (error)
        throw Error(std::string("The file could not be brought to the session's rate: ") + error + ".");
      writer.write(out.data(), static_cast<std::int64_t>(made));
      fed += consumed;
      used = made;
      finished = n == 0 && made == 0;
    } while (n > 0 ? fed < static_cast<std::size_t>(n) : used > 0);
  }
}

}  // namespace

PoolFile importAudio(const SessionFolder& folder, SampleRate rate, const fs::path& file) {
  AudioReader reader(file);
  if (reader.info().length.count == 0)
    throw Error("The audio file \"" + file.filename().string() + "\" holds no sound.");
  const std::string name = folder.newAudioName(file.stem().string());
  const fs::path target = folder.pathInside(name);
  try {
    if (reader.info().wave && reader.info().format && reader.info().rate == rate) {
      fs::copy_file(file, target);
      syncToDisk(target);  // before the session says that it has it
      return {name, reader.info().channels, reader.info().length};
    }
    AudioWriter writer(target, reader.info().channels, rate, SampleFormat::Float32);
    if (reader.info().rate == rate)
      decode(reader, writer);
    else
      resample(reader, writer, rate);
    writer.close();
    return {name, reader.info().channels, writer.written()};
  } catch (const fs::filesystem_error& e) {
    std::error_code ignored;
    fs::remove(target, ignored);
    throw Error("\"" + file.filename().string() +
                "\" could not be copied into the session: " + e.code().message() + ".");
  } catch (...) {
    std::error_code ignored;
    fs::remove(target, ignored);
    throw;
  }
}

}  // namespace yewdrift
